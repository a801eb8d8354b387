/* What is kept of calibrations: the history, handing it on, a second channel, somebody else's log;
 * and `compare`. */
#include <fcntl.h>
#include <sys/file.h>
#include <sys/wait.h>
#include <unistd.h>

#include "support.h"

#include "pintle/host/adjust/compare.h"
#include "pintle/host/adjust/series.h"
#include "pintle/host/keep/calibration.h"

/* Three hygrometers of one kind on two buses: one where the air is, one that its board warms by a
 * fifth, and the board itself. The air keeps at 20 degC, the board goes from 20 to 50. */
static const char rig_text[] =
    "board { world = \"w\" }\n"
    "bus a { kind = \"i2c\" data = \"D\" clock = \"C\" pull-up = 4700 }\n"
    "bus b { kind = \"i2c\" data = \"E\" clock = \"F\" pull-up = 4700 }\n"
    "sensor air { part = \"SHT31\" address = 0x44 bus = \"a\" }\n"
    "sensor warm { part = \"SHT31\" address = 0x45 bus = \"a\" }\n"
    "sensor board { part = \"SHT31\" address = 0x44 bus = \"b\" }\n"
    "log { every = \"10 s\" folder = \"runs\" }\n";
static const char world_text[] =
    "began = \"2026-06-12T00:00:00Z\"\nseed = 3\n"
    "quantity air { level = 20 }\n"
    "quantity board { points = { \"0h 20\", \"1h 50\", \"2h 30\", \"3h 45\" } }\n"
    "quantity warmed { points = { \"0h 20\", \"1h 25\", \"2h 21.6667\", \"3h 24.1667\" } }\n"
    "quantity damp { level = 50 }\n"
    "chip air { part = \"SHT31\" address = 0x44 bus = \"a\" errors = { \"temperature=0\" }\n"
    "  feels = { \"temperature=air\", \"humidity=damp\" } }\n"
    "chip warm { part = \"SHT31\" address = 0x45 bus = \"a\" errors = { \"temperature=0\" }\n"
    "  feels = { \"temperature=warmed\", \"humidity=damp\" } }\n"
    "chip board { part = \"SHT31\" address = 0x44 bus = \"b\" errors = { \"temperature=0\" }\n"
    "  feels = { \"temperature=board\", \"humidity=damp\" } }\n";

static char *set_up(void)
{
    char *folder = scratch_make();
    file_write(folder, "r.rig", rig_text);
    file_write(folder, "w", world_text);
    return folder;
}

struct step {
    const char *command;
    int status;
    const char *said;
};

static void steps(const char *folder, const struct step *rows, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        expect_said(folder, rows[i].command, rows[i].status, rows[i].said);
    }
}

/* The number behind a word of what is said; NaN: it isn't there. */
static double figure(const char *said, const char *word)
{
    const char *at = strstr(said, word);
    return at ? g_ascii_strtod(at + strlen(word), NULL) : (double)NAN;
}

/* One that is replaced is never lost: it can be looked at and taken into use again. */
static void history(void)
{
    static const struct step rows[] = {
        { "corrections --rig r.rig", 0, "nothing was calibrated yet" },
        { "calibrate --rig r.rig air.temperature 10=11 20=21 30=31.2 --note 'in the galley' --yes",
          0, "as number 1" },
        { "calibrate --rig r.rig air.temperature 10=12 20=22 30=32 40=42.1 --yes", 0,
          "as number 2" },
        { "calibrate --rig r.rig air.temperature 15=16 --yes", 2,
          "it takes the place of one from 4 samples, and is from 1" },
        { "corrections --rig r.rig air", 0, "in use" },
        { "corrections --rig r.rig --show 1", 0, "not in use" },
        { "corrections --rig r.rig --show 1", 0, "in the galley" },
        { "corrections --rig r.rig --show 2", 0, "replaced     number 1" },
        { "corrections --rig r.rig --use 1", 0, "number 1 is in use" },
        { "corrections --rig r.rig --show 2", 0, "not in use" },
        { "read --rig r.rig air", 0, "good, corrected" },
        { "corrections --rig r.rig --stop 1", 0, "number 1 is out of use" },
        { "corrections --rig r.rig --use 3", 2, "there is no correction number 3" },
        { "corrections --rig r.rig --show 3", 2, "there is no correction number 3" },
        { "corrections --rig r.rig --use 1 --stop 2", 2, "one thing to do with it" },
        { "corrections --rig r.rig --export", 2, "no correction is in use" },
        { "corrections --rig r.rig air --constants", 2,
          "no correction is in use for sensor 'air'" },
        { "corrections --rig r.rig --constants", 2, "constants are of one sensor; name it" },
        { "corrections --rig r.rig nobody", 2, "no sensor 'nobody'" },
        { "corrections --rig r.rig --import no.json", 3, "cannot read 'no.json'" },
        { "corrections --rig r.rig air --save-to board", 2, "no memory of single bytes" },
        { "corrections --demo --save-to logbook", 2, "name the sensor" },
        { "corrections --demo cabin --save-to logbook", 2, "no correction is in use for sensor" },
        { "corrections --demo cabin --load-from logbook", 1, "has no correction at byte 0" },
        { "corrections --demo cabin --load-from logbook --from 4096", 2, "does not fit" },
        { "corrections --demo cabin --load-from logbook --room 7", 2, "--room is 32 to 4096" },
        { "corrections --demo cabin --load-from logbook --from 5", 2, "multiples of the page" },
    };
    char *folder = set_up();
    steps(folder, rows, COUNT(rows));
    scratch_remove(folder);
}

/* Several programs keep one at the same moment: each is there afterwards. While somebody holds on
 * to the file for too long, nothing is kept, and it is said. */
static void at_the_same_time(void)
{
    char *folder = set_up();
    GPid pid[6];
    for (size_t i = 0; i < COUNT(pid); i++) {
        char *line = g_strdup_printf(
            "%s calibrate --rig r.rig air.temperature 10=11 20=21 30=31.2 --yes", TOOL);
        char **argv = g_strsplit(line, " ", -1);
        CU_ASSERT_TRUE_FATAL(g_spawn_async(folder, argv, NULL,
                                           G_SPAWN_DO_NOT_REAP_CHILD | G_SPAWN_STDOUT_TO_DEV_NULL
                                               | G_SPAWN_STDERR_TO_DEV_NULL,
                                           NULL, NULL, &pid[i], NULL));
        g_strfreev(argv);
        g_free(line);
    }
    unsigned kept = 0;
    for (size_t i = 0; i < COUNT(pid); i++) {
        int status = 0;
        CU_ASSERT_EQUAL(waitpid(pid[i], &status, 0), pid[i]);
        kept += status == 0;
    }
    char *text = file_text(folder, "r.calibration.json");
    unsigned there = 0;
    for (const char *at = text; at && (at = strstr(at, "\"number\"")); at++) {
        there++;
    }
    EXPECT(kept == COUNT(pid) && there == kept, "%u say kept, %u are there", kept, there);
    int held = open(folder, O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    CU_ASSERT_EQUAL(flock(held, LOCK_EX), 0);
    expect_said(folder, "calibrate --rig r.rig air.temperature 10=11 20=21 30=31 --yes", 3,
                "another program has been changing files");
    close(held);
    g_free(text);
    scratch_remove(folder);
}

/* Handed on as JSON it comes back as it was; to a rig without that sensor it doesn't; as C it
 * compiles and says the same. */
static void handed_on(void)
{
    static const struct step rows[] = {
        { "calibrate --rig r.rig air.temperature 10=11 20=21 30=31.2 --yes", 0, "as number 1" },
        { "corrections --rig r.rig air --export > out.json", 0, "" },
        { "corrections --rig r.rig --import out.json", 0, "1 corrections are taken over" },
        { "corrections --rig r.rig --show 2", 0, "replaced     number 1" },
        { "corrections --demo --import out.json", 2, "which the rig doesn't have" },
        { "corrections --rig r.rig --import r.rig", 2, "this is no calibration file" },
        { "corrections --rig r.rig --import newer.json", 2, "take a newer program" },
        { "corrections --rig r.rig --import bad.json", 2, "are none that can be used" },
        { "corrections --rig r.rig --import empty.json", 2, "there is no correction in it" },
        { "corrections --rig r.rig air --constants > out.h", 0, "" },
    };
    char *folder = set_up();
    file_write(folder, "newer.json", "{\"format\": \"pintle calibration 9\", \"corrections\": []}");
    file_write(folder, "empty.json", "{\"format\": \"pintle calibration 2\", \"corrections\": []}");
    file_write(
        folder, "bad.json",
        "{\"format\": \"pintle calibration 2\", \"corrections\": [{\"sensor\": \"air\", \"part\": "
        "\"SHT31\", \"bus\": \"a\", \"address\": 68, \"channel\": \"temperature\", \"is\": "
        "\"table\", \"numbers\": [1, 2, 1, 3]}]}");
    steps(folder, rows, COUNT(rows));
    file_write(folder, "use.c",
               "#include <stdio.h>\n#include \"out.h\"\n"
               "int main(void) { struct pintle_reading r = { 20, 0, 0 };\n"
               "pintle_correct(air_stages, 1, &r, 1); printf(\"%.4f\", (double)r.value);\n"
               "return pintle_correct_is_valid(air_stages) ? 0 : 1; }\n");
    char *line =
        g_strdup_printf("sh -c 'cd %s && cc -std=c11 -Wall -Wextra -Werror -I. -I%s/include "
                        "-I%s/src -o use use.c %s/src/values/correct/correct.c && ./use'",
                        folder, SOURCE, SOURCE, SOURCE);
    char *out = NULL;
    char *err = NULL;
    int status = 0;
    g_spawn_command_line_sync(line, &out, &err, &status, NULL);
    EXPECT(status == 0, "constants: %s", err);
    EXPECT_NEAR(g_ascii_strtod(out, NULL), 21.0667, 1e-3, "20 degC by the constants");
    g_free(out);
    g_free(err);
    g_free(line);
    scratch_remove(folder);
}

/* The board warms it by a fifth: found live, from a run, and then taken out of every reading;
 * beyond what was tried, and without the board's channel, it is marked. */
static void second_channels(void)
{
    char *folder = set_up();
    struct said said = tool(folder, "log --rig r.rig --for 3h --quiet && " /* a run of it */
                                    "true");
    EXPECT(said.status == 0, "%s", said.err);
    said_free(&said);
    said = tool(folder, "calibrate --rig r.rig warm.temperature --method heat --second "
                        "board.temperature --against air.temperature --run 1 --yes");
    EXPECT(said.status == 0 && strstr(said.out, "Better than this correction"), "%s%s", said.out,
           said.err);
    EXPECT_NEAR(figure(said.out, "share          "), 0.2, 0.002, "the share of the board's heat");
    said_free(&said);
    said = tool(folder, "read --rig r.rig --at 1h -f csv warm | grep temperature | cut -d, -f3");
    EXPECT_NEAR(g_ascii_strtod(said.out, NULL), 20, 0.15, "20 degC beside a board of 50");
    said_free(&said);
    said =
        tool(folder, "calibrate --rig r.rig warm.temperature --second board.temperature --for 1h "
                     "--every 20s --yes");
    EXPECT(said.status == 0 && strstr(said.out, "thermal"), "%s%s", said.out, said.err);
    EXPECT_NEAR(figure(said.out, "offset per     "), 0, 0.003, "nothing is left of it");
    said_free(&said);
    static const struct step rows[] = {
        { "corrections --rig r.rig --show 1", 0, "heat by board.temperature" },
        { "calibrate --rig r.rig warm.temperature --method heat --second board.temperature", 2,
          "needs a reference that stands away" },
        { "calibrate --rig r.rig warm.temperature --method thermal 1=2", 2,
          "needs the channel that does it" },
        { "calibrate --rig r.rig warm.temperature --method line --second board.temperature", 2,
          "has no second channel" },
        { "calibrate --rig r.rig warm.temperature --against warm.temperature", 2,
          "proves nothing" },
        { "calibrate --rig r.rig warm.temperature --against air.humidity", 2,
          "not of one quantity" },
        { "calibrate --rig r.rig warm.temperature --run 1", 2, "a run has no reference by itself" },
        { "calibrate --rig r.rig warm.temperature --run 9 --against air.temperature", 2,
          "there is no run '9'" },
        { "calibrate --rig r.rig warm.temperature 1=2 2=3 --robust", 2, "six pairs or more" },
        { "calibrate --rig r.rig warm.temperature 1=2 --robust -m offset", 2, "not of offset" },
        { "calibrate --rig r.rig warm.temperature 10=10.1 12=12.1 14=14.1 16=16.1 18=18.1 20=20.1 "
          "22=39 --robust </dev/null",
          1, "in degC, without 1 outlier\non average            -0.1000" },
        { "calibrate --rig r.rig warm.temperature 1=2 2=3 -m polynomial", 2,
          "too few measurements" },
        { "calibrate --rig r.rig warm.temperature 1=2 2=3 --order 4", 2, "--order is 1, 2 or 3" },
        { "calibrate --rig r.rig warm.temperature 1=2 2=3 --span wide", 2,
          "--span takes two values" },
        { "calibrate --rig r.rig warm.temperature --second warm.temperature", 2, "proves nothing" },
        { "calibrate --demo sea.temperature --against motion.accel", 2, "is three channels" },
        { "calibrate --demo motion.accel --against motion.accel-x", 2, "proves nothing" },
        { "calibrate --demo motion.mag --log x.csv", 2, "takes no reference" },
        { "calibrate --demo motion.accel --watch --run 1", 2, "--watch is live" },
        { "calibrate --rig r.rig warm.temperature --second board.temperature --span 1..2", 2,
          "leave --span away" },
        { "calibrate --rig r.rig warm.temperature --plot off.gif", 2, "ends in .png or .svg" },
        { "calibrate --rig r.rig air.temperature 1=2 9=10 --plot no/off.png --yes", 0,
          "the correction is none the worse" },
        { "calibrate --rig r.rig warm.temperature 1=2 2=3 --reference -1", 2,
          "standard uncertainty in degC, more than 0" },
        { "calibrate --rig r.rig warm.temperature 1=2 2=3 --samples 1", 2,
          "--samples is 2 or more" },
        { "calibrate --rig r.rig warm.temperature -m six-positions", 2, "is of three axes" },
        { "calibrate --rig r.rig warm.temperature -m rest", 2, "is of a gyroscope" },
        { "calibrate --rig r.rig warm.temperature -m orientations", 2, "is of an accelerometer" },
    };
    steps(folder, rows, COUNT(rows));
    file_write(folder, "w", ""); /* nothing answers any more */
    scratch_remove(folder);
}

/* A file that somebody has changed so that a channel corrects itself, or two of a chip each other.
 */
static void rings(void)
{
    static const char *const seconds[][2] = { { "temperature", "temperature" },
                                              { "temperature", "humidity" } };
    char *folder = set_up();
    for (unsigned i = 0; i < 2; i++) {
        GString *text = g_string_new("{\"format\": \"pintle calibration 2\", \"corrections\": [");
        for (unsigned k = 0; k < 2; k++) {
            g_string_append_printf(
                text,
                "%s{\"sensor\": \"air\", \"part\": \"SHT31\", \"bus\": \"a\", \"address\": 68, "
                "\"in_use\": true, \"channel\": \"%s\", \"is\": \"heat\", \"numbers\": [0.1], "
                "\"second\": \"air.%s\"}",
                k ? ", " : "", seconds[i][k], seconds[i][i ? !k : k]);
        }
        g_string_append(text, "]}");
        file_write(folder, "r.calibration.json", text->str);
        struct said said = tool(folder, "read --rig r.rig air --uncertainty");
        EXPECT(said.status == 0 && strstr(said.err, "its second channel is corrected by, or is"),
               "%s: status %d: %s", text->str, said.status, said.err);
        said_free(&said);
        g_string_free(text, TRUE);
    }
    scratch_remove(folder);
}

/* What a second channel that fails, or goes beyond, does to a reading. */
static void marked(void)
{
    char *folder = set_up();
    char *world = g_strconcat(
        world_text, "fault board { kind = \"unplugged\" from = \"50min\" to = \"9h\" }\n", NULL);
    struct said said = tool(folder, "calibrate --rig r.rig warm.temperature --method heat --second "
                                    "board.temperature --against air.temperature --for 10min "
                                    "--every 20s --at 20min --yes");
    EXPECT(said.status == 0, "%s%s", said.out, said.err);
    said_free(&said);
    expect_said(folder, "read --rig r.rig --at 1min warm", 0, "span, corrected"); /* it is cold */
    expect_said(folder, "read --rig r.rig --at 25min warm", 0, "good, corrected");
    file_write(folder, "w", world);
    expect_said(folder, "read --rig r.rig --at 55min warm", 0, "span");
    expect_said(folder,
                "calibrate --rig r.rig air.temperature 0=0.1 10=10.1 20=20.2 --span 5..15 --yes", 0,
                "holds          from 5.000 to 15.000 degC");
    expect_said(folder, "read --rig r.rig air", 0, "span, corrected");
    g_free(world);
    scratch_remove(folder);
}

/* A chip that says its serial number: another specimen in its place gets nothing of its
 * corrections. */
static void another_specimen(void)
{
    static const char *const seeds[] = { "seed = 1\n", "seed = 2\n" };
    char *folder = scratch_make();
    const char *world = "quantity q { level = 20 }\n"
                        "chip s { part = \"SHT40\" address = 0x44 bus = \"b\" feels = { "
                        "\"temperature=q\", \"humidity=q\" } errors = { \"temperature=0\" } }\n";
    char *texts[2] = { g_strconcat(seeds[0], world, NULL), g_strconcat(seeds[1], world, NULL) };
    file_write(folder, "r.rig",
               "board { world = \"w\" }\n"
               "bus b { kind = \"i2c\" data = \"D\" clock = \"C\" pull-up = 4700 }\n"
               "sensor s { part = \"SHT40\" address = 0x44 }\n");
    file_write(folder, "w", texts[0]);
    expect_said(folder, "calibrate --rig r.rig s.temperature 10=11 20=21 30=31 --yes", 0,
                "number 1");
    expect_said(folder, "corrections --rig r.rig --show 1", 0, "serial");
    expect_said(folder, "read --rig r.rig", 0, "good, corrected");
    file_write(folder, "w", texts[1]);
    struct said said = tool(folder, "read --rig r.rig");
    EXPECT(said.status == 0 && strstr(said.out, "   span") && !strstr(said.out, "corrected"),
           "another specimen: %s", said.out);
    said_free(&said);
    /* It is gone for a while, and the same one comes back. */
    char *gone =
        g_strconcat(texts[0], "fault s { kind = \"unplugged\" from = \"5s\" to = \"9s\" }\n", NULL);
    file_write(folder, "w", gone);
    said = tool(folder, "log --rig r.rig --for 15s --every 1s -q --into runs; "
                        "awk -F, '$3 - $4 > 0.5 { n++ } END { print n }' runs/0001/readings.csv");
    EXPECT(said.status == 0 && atoi(said.out) >= 8, "corrected before and after: %s", said.out);
    said_free(&said);
    g_free(gone);
    g_free(texts[0]);
    g_free(texts[1]);
    scratch_remove(folder);
}

/* Somebody else's log, whose clock is 40 s ahead and whose lines come every 25 s. */
static void somebodys_log(void)
{
    char *folder = set_up();
    GString *log = g_string_new("time,degF\n");
    /* The board's curve is followed by a reference that says 1.5 degC more, in degF. */
    struct said said =
        tool(folder, "log --rig r.rig --for 3h --quiet && cut -d, -f2,7 runs/0001/readings.csv");
    said_free(&said);
    char *text = file_text(folder, "runs/0001/readings.csv");
    char **lines = g_strsplit(text, "\r\n", -1);
    for (unsigned i = 1; lines[i] && lines[i][0]; i += 3) {
        char **cells = g_strsplit(lines[i], ",", -1);
        g_string_append_printf(log, "%u,%.3f\n", 1781222400u + 10 * i + 40,
                               (g_ascii_strtod(cells[6], NULL) + 1.5) * 1.8 + 32);
        g_strfreev(cells);
    }
    file_write(folder, "ref.csv", log->str);
    said = tool(folder, "calibrate --rig r.rig board.temperature --run 1 --log ref.csv --lag find "
                        "--unit degF --yes");
    EXPECT(said.status == 0, "%s%s", said.out, said.err);
    EXPECT_NEAR(figure(said.err, "ahead by "), 40, 2, "its clock");
    EXPECT_NEAR(figure(said.out, "gain           "), 1, 2e-3, "gain");
    said_free(&said);
    static const struct step rows[] = {
        { "corrections --rig r.rig --show 1", 0, "line" },
        { "calibrate --rig r.rig board.temperature --run 1 --log none.csv", 3,
          "no CSV file of times" },
        { "calibrate --rig r.rig board.temperature --run 1 --log words.csv", 2,
          "words.csv:2: 'noon,20' is no time and value" },
        { "calibrate --rig r.rig board.temperature --run 1 --log back.csv", 2,
          "its time is not after the one before" },
        { "calibrate --rig r.rig board.temperature --run 1 --log old.csv", 2, "no time in common" },
        { "calibrate --rig r.rig board.temperature --run 1 --log ref.csv --lag soon", 2,
          "--lag takes seconds" },
        { "calibrate --rig r.rig board.temperature --run 1 --log old.csv --lag find", 2,
          "no lag within 600 s" },
    };
    file_write(folder, "words.csv", "time,value\nnoon,20\n");
    file_write(folder, "back.csv", "time,value\n10,20\n10,21\n");
    file_write(folder, "old.csv", "2020-01-01T00:00:00Z,20\n2020-01-01 01:00:00,21\n");
    steps(folder, rows, COUNT(rows));
    g_strfreev(lines);
    g_free(text);
    g_string_free(log, TRUE);
    scratch_remove(folder);
}

/* --- beside each other --- */

/* On average they agree, and now and then they don't. */
static void apart_at_times(void)
{
    static const struct {
        unsigned beyond;
        double by;
        bool agree;
    } rows[] = { { 0, 0, true }, { 5, 2.5, true }, { 6, 2.5, false }, { 1, 12, false } };
    for (size_t r = 0; r < COUNT(rows); r++) {
        double time[100];
        double value[200];
        const double mays[2] = { 1, 1 };
        const struct pintle_compared c = {
            .channels = 2, .count = 100, .time = time, .value = value
        };
        struct pintle_apart apart;
        for (unsigned i = 0; i < 100; i++) {
            time[i] = i;
            value[2 * i] = 20 + (i < rows[r].beyond ? rows[r].by : 0);
            value[2 * i + 1] = 20;
        }
        pintle_compared_pair(&c, 0, 1, mays, &apart);
        EXPECT(apart.agree == rows[r].agree && apart.beyond == rows[r].beyond,
               "%u rounds apart by %g: %u", rows[r].beyond, rows[r].by, apart.beyond);
        EXPECT_NEAR(apart.most, rows[r].by, 1e-6, "the furthest");
    }
}

static void compared(void)
{
    static const struct step rows[] = {
        { "compare --rig r.rig air.temperature warm.temperature board.temperature --at 1h", 1,
          "air.temperature - board.temperature" },
        { "compare --rig r.rig air.temperature warm.temperature --at 1h", 1, "a third would" },
        { "compare --rig r.rig air.humidity", 0, "agree" }, /* with all like it */
        { "compare --rig r.rig air.temperature board.temperature --within 0.02", 1, "apart" },
        { "compare --rig r.rig air.temperature warm.temperature --within 50", 0, "agree" },
        { "compare --rig r.rig air.temperature warm.temperature --within 0", 2,
          "--within takes a number of degC above 0" },
        { "compare --rig r.rig air.temperature warm.temperature --within 1K", 2,
          "--within takes a number of degC above 0, as in 0.5, not '1K'" },
        { "compare --rig r.rig --against air.temperature warm.temperature board.temperature", 0,
          "warm.temperature - air.temperature" },
        { "compare --rig r.rig air.temperature --figure 68degF", 0, "agrees" },
        { "compare --rig r.rig air.temperature --figure 25", 1, "apart" },
        { "compare --rig r.rig air.temperature board.temperature --figure 20 --within 9", 0,
          "    9.0000   agrees" },
        { "compare --demo baro.pressure --figure 1018.9hPa --figure-height 0m --height 0m", 0,
          "agrees" },
        { "compare --demo baro.pressure --figure 1030hPa --height 100m", 1,
          "the figure is 1017.8" },
        { "compare --demo baro.temperature --figure 20 --height 100m", 2,
          "heights matter to pressures" },
        { "compare --rig r.rig air.temperature air.humidity", 2, "not of one quantity" },
        { "compare --rig r.rig air.temperature air.temperature", 2, "is named twice" },
        { "calibrate --demo motion.mag --for 20s </dev/null", 2, "too few samples" },
        { "calibrate --demo logbook.bytes 1=2", 2, "sensor 'logbook' measures nothing" },
        { "compare --rig r.rig", 2, "name the channels" },
        { "compare --rig r.rig air.temperature --figure warm", 2, "'warm' is no figure" },
        { "compare --rig r.rig air.temperature warm.temperature --for ever", 2, "--for takes" },
        { "compare --demo motion.accel motion.rate", 2, "three channels" },
        { "compare --demo clock.temperature", 2, "no second part like that" },
        { "compare --demo sea.temperature engine.temperature --at 16h", 1,
          "no round in which all" },
    };
    char *folder = set_up();
    steps(folder, rows, COUNT(rows));
    struct said said = tool(folder, "log --rig r.rig --for 1h --quiet --into runs; ");
    said_free(&said);
    expect_said(
        folder,
        "compare --rig r.rig --run 1 --against air.temperature board.temperature --plot d.svg", 1,
        "d.svg");
    char *picture = file_text(folder, "d.svg");
    EXPECT(strstr(picture, "<svg") != NULL, "a plot");
    g_free(picture);
    scratch_remove(folder);
    /* ISO 2533, 2.2 and 2.5, in double precision: 101325 Pa x (1 - 0.0065 x 500 / 288.15)^5.25588.
     */
    EXPECT_NEAR(pintle_compared_at_height(101325, 0, 500), 95460.84, 0.1, "500 m up");
    EXPECT_NEAR(pintle_compared_at_height(95460.84, 500, 0), 101325, 0.1, "and back");
}

/* The odd one out of three that are compared; of two, or where all differ, nobody is. */
static void the_odd_one(void)
{
    static const struct {
        const char *name;
        unsigned channels;
        double values[4];
        int odd;
    } rows[] = {
        { "the second", 3, { 20, 25, 20.2 }, 1 },
        { "the last of four", 4, { 20, 20.3, 19.9, 15 }, 3 },
        { "all agree", 3, { 20, 20.5, 20.2 }, -1 },
        { "each for itself", 3, { 20, 25, 30 }, -1 },
        { "two and two", 4, { 20, 20, 25, 25 }, -1 },
        { "two", 2, { 20, 25 }, -1 },
    };
    const double mays[4] = { 0.5, 0.5, 0.5, 0.5 };
    for (size_t i = 0; i < COUNT(rows); i++) {
        double values[12];
        double times[3] = { 0, 60, 120 };
        for (unsigned k = 0; k < 3 * rows[i].channels; k++) {
            values[k] = rows[i].values[k % rows[i].channels];
        }
        const struct pintle_compared c = { rows[i].channels, 3, times, values, 0 };
        int odd = pintle_compared_odd(&c, mays);
        EXPECT(odd == rows[i].odd, "%s: %d", rows[i].name, odd);
    }
}

void add_corrections_suite(void)
{
    SUITE("corrections", { "history", history }, { "apart at times", apart_at_times },
          { "at the same time", at_the_same_time }, { "handed on", handed_on },
          { "second channels", second_channels }, { "rings", rings }, { "marked", marked },
          { "another specimen", another_specimen }, { "somebody's log", somebodys_log },
          { "compared", compared }, { "the odd one", the_odd_one });
}
