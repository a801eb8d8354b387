/* Runs on disk: alignment, marks, and what is left after every way of ending. */
#include "support.h"

#include <errno.h>
#include <glib/gstdio.h>
#include <signal.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include "pintle/host/run/logger.h"
#include "pintle/host/draw/draw.h"
#include "pintle/host/past/history.h"

static struct pintle_history *load(const char *folder, const char *name)
{
    struct pintle_problem problem = { 0 };
    struct pintle_history *history = pintle_history_load(folder, NULL, name, &problem);
    EXPECT(history != NULL, "run %s: %s", name, problem.text);
    return history;
}

static const struct pintle_column *column(const struct pintle_history *history, const char *name)
{
    for (unsigned i = 0; i < history->columns; i++) {
        if (strcmp(history->column[i].name, name) == 0) {
            return &history->column[i];
        }
    }
    EXPECT(0, "no column %s", name);
    return &history->column[0];
}

/* The sea sensor is out from 15:20:30 to 17:05:30: marked from 15:21 to 17:05, and nothing else
 * is: the first reading after power-up is spent before the first record. */
static void a_simulated_day(void)
{
    char *folder = scratch_make();
    struct said said = tool(folder, "log --demo --for 1d --quiet");
    EXPECT(said.status == 0, "log: %s", said.err);
    EXPECT(strstr(said.err, "run 0001: 1440 records in sloop-runs/0001, 105 with suspect readings"),
           "%s", said.err);
    EXPECT(strstr(said.err, "2026-06-12T15:21:00Z: sensor 'sea' fails: nothing answered"), "%s",
           said.err);
    EXPECT(strstr(said.err, "2026-06-12T17:06:00Z: sensor 'sea' is back"), "%s", said.err);
    char *runs = g_build_filename(folder, "sloop-runs", NULL);
    struct pintle_history *day = load(runs, "1");
    CU_ASSERT_PTR_NOT_NULL_FATAL(day);
    CU_ASSERT_EQUAL(day->rows, 1440);
    CU_ASSERT_EQUAL(day->columns, 29);
    const struct pintle_column *sea = column(day, "sea.temperature");
    const struct pintle_column *baro = column(day, "baro.pressure");
    unsigned wrong = 0;
    for (unsigned i = 0; i < day->rows; i++) {
        double minute = (day->time[i] - 1781222400) / 60;
        bool out = minute >= 15 * 60 + 21 && minute <= 17 * 60 + 5;
        wrong += minute != i + 1;
        wrong += sea->suspect[i] != out || isnan(sea->value[i]) != out;
        wrong += baro->suspect[i];
        for (unsigned c = 0; c < day->columns; c++) {
            const struct pintle_column *other = &day->column[c];
            bool may = other == sea || strncmp(other->name, "baro.", 5) == 0;
            wrong += !may && (other->suspect[i] || isnan(other->value[i]));
        }
    }
    EXPECT(wrong == 0, "%u cells are not as they must be", wrong);
    pintle_history_free(day);
    g_free(runs);
    said_free(&said);
    scratch_remove(folder);
}

/* Whatever is printed while logging is the same data. */
static void what_log_prints(void)
{
    char *folder = scratch_make();
    struct said csv = tool(folder, "log --demo --for 5min --format csv");
    char *file = file_text(folder, "sloop-runs/0001/readings.csv");
    EXPECT(strcmp(csv.out, file) == 0, "csv is the file: %s", csv.out);
    struct said text = tool(folder, "log --demo --for 30s --every 10s");
    EXPECT(strstr(text.out, "     1  2026-06-12T00:00:10Z"), "text: %s", text.out);
    EXPECT(strstr(text.out, "     3  2026-06-12T00:00:30Z"), "text: %s", text.out);
    struct said senml = tool(folder, "log --demo --for 2min --format senml | wc -l");
    EXPECT(atoi(senml.out) == 2, "senml: a pack per record: %s", senml.out);
    char *about = file_text(folder, "sloop-runs/0002/run.json");
    EXPECT(strstr(about, "\"every_s\": 10.0") && strstr(about, "\"records\": 3"), "%s", about);
    char *rig = file_text(folder, "sloop-runs/0002/rig");
    char *demo = file_text(SOURCE, "demo/sloop.rig");
    CU_ASSERT_STRING_EQUAL(rig, demo);
    g_free(rig);
    g_free(demo);
    g_free(about);
    g_free(file);
    said_free(&csv);
    said_free(&text);
    said_free(&senml);
    scratch_remove(folder);
}

/* The tool in the background, logging simulated days as fast as it can. */
static pid_t start_log(const char *folder, const char *length)
{
    pid_t child = fork();
    if (child == 0) {
        if (chdir(folder) != 0 || !freopen("/dev/null", "w", stderr)) {
            _exit(9);
        }
        execl(TOOL, "pintle", "log", "--demo", "--quiet", "--for", length, (char *)NULL);
        _exit(9);
    }
    return child;
}

/* Records are numbered from 1 without a gap, and every one but perhaps the last is whole. */
static unsigned check_records(const char *path, int number)
{
    char *text = NULL;
    char *file = g_build_filename(path, "readings.csv", NULL);
    EXPECT(g_file_get_contents(file, &text, NULL, NULL), "kill %d: %s is there", number, file);
    char **lines = g_strsplit(text ? text : "", "\r\n", -1);
    unsigned last = 0;
    EXPECT(g_str_has_prefix(lines[0] ? lines[0] : "", "record,time,"), "kill %d: header", number);
    for (unsigned i = 1; lines[0] && lines[i] && lines[i + 1]; i++) {
        unsigned record = (unsigned)atoi(lines[i]);
        bool whole = strrchr(lines[i], ',') != NULL && record == last + 1;
        if (!whole) {
            EXPECT(0, "kill %d: line %u is '%s'", number, i + 1, lines[i]);
        }
        last = record;
    }
    g_strfreev(lines);
    g_free(text);
    g_free(file);
    return last;
}

/* One sum over all the files of the numbered run folders. */
/* Of their whole lines: the next run cuts off the torn one at the end of a killed run. */
static char *sum_of_runs(const char *folder)
{
    GChecksum *sum = g_checksum_new(G_CHECKSUM_SHA256);
    for (unsigned run = 1;; run++) {
        char *path = g_strdup_printf("%s/sloop-runs/%04u", folder, run);
        GDir *dir = g_dir_open(path, 0, NULL);
        GList *names = NULL;
        const char *name = NULL;
        while (dir && (name = g_dir_read_name(dir)) != NULL) {
            names = g_list_insert_sorted(names, g_strdup(name), (GCompareFunc)strcmp);
        }
        for (GList *at = names; at; at = at->next) {
            char *text = file_text(path, at->data);
            const char *end = strrchr(text, '\n');
            g_checksum_update(sum, (const guchar *)text, end ? end - text + 1 : 0);
            g_free(text);
        }
        g_list_free_full(names, g_free);
        g_free(path);
        if (!dir) {
            break;
        }
        g_dir_close(dir);
    }
    char *hex = g_strdup(g_checksum_get_string(sum));
    g_checksum_free(sum);
    return hex;
}

/* Wait until a run's readings have grown to so many bytes, however slow the machine is. */
static void wait_for_readings(const char *folder, unsigned run, goffset bytes)
{
    char *path = g_strdup_printf("%s/sloop-runs/%04u/readings.csv", folder, run);
    GStatBuf status = { 0 };
    for (int i = 0; i < 100000; i++) {
        if (g_stat(path, &status) == 0 && status.st_size >= bytes) {
            break;
        }
        g_usleep(200);
    }
    g_free(path);
}

/* Killed with no warning at a hundred moments between the start and some hundred records: every
 * fourth time while it starts, else once it has come so far. */
static void killed_a_hundred_times(void)
{
    char *folder = scratch_quick(); /* what a kill leaves, whatever it lies on */
    unsigned logged = 0;
    unsigned runs = 0;
    srand(17);
    for (int i = 0; i < 100 / (int)one_in(); i++) {
        char *before = runs ? sum_of_runs(folder) : NULL;
        pid_t child = start_log(folder, "300d");
        if (i % 4 == 0) {
            g_usleep((gulong)(rand() % 60000));
        } else {
            wait_for_readings(folder, runs + 1, rand() % 30000);
        }
        kill(child, SIGKILL);
        waitpid(child, NULL, 0);
        char *path = g_strdup_printf("%s/sloop-runs/%04u", folder, runs + 1);
        bool made = g_file_test(path, G_FILE_TEST_IS_DIR);
        if (made) {
            logged += check_records(path, i);
        }
        if (before) {
            char *hide = g_build_filename(folder, "aside", NULL);
            EXPECT(!made || rename(path, hide) == 0, "kill %d", i);
            char *after = sum_of_runs(folder);
            EXPECT(g_strcmp0(before, after) == 0, "kill %d: an earlier run changed", i);
            EXPECT(!made || rename(hide, path) == 0, "kill %d", i);
            g_free(after);
            g_free(hide);
        }
        runs += made;
        g_free(before);
        g_free(path);
    }
    EXPECT(runs >= 50 / one_in(), "%u came far enough to make a run", runs);
    EXPECT(logged > runs, "%u records in all", logged);
    struct said said = tool(folder, "log --demo --for 2min --quiet");
    EXPECT(said.status == 0, "a run after all that: %s", said.err);
    said_free(&said);
    scratch_remove(folder);
}

/* Asked to stop, a run ends whole and says so. */
static void stopped_by_a_signal(void)
{
    static const int signals[] = { SIGINT, SIGTERM, SIGHUP };
    for (size_t i = 0; i < COUNT(signals); i++) {
        char *folder = scratch_make();
        int status = -1;
        pid_t child = start_log(folder, "3000d");
        char *about = NULL;
        for (int tries = 0; tries < 500 && !g_strrstr(about ? about : "", "format"); tries++) {
            g_free(about);
            g_usleep(10000);
            about = file_text(folder, "sloop-runs/0001/run.json");
        }
        g_free(about);
        g_usleep(20000);
        kill(child, signals[i]);
        waitpid(child, &status, 0);
        about = file_text(folder, "sloop-runs/0001/run.json");
        EXPECT(WIFEXITED(status) && WEXITSTATUS(status) <= 1, "signal %d: status %x", signals[i],
               (unsigned)status);
        EXPECT(strstr(about, "\"ended\": \"interrupted\"") != NULL, "signal %d: %s", signals[i],
               about);
        g_free(about);
        char *path = g_strdup_printf("%s/sloop-runs/0001", folder);
        EXPECT(check_records(path, (int)i) > 0, "signal %d: records", signals[i]);
        g_free(path);
        scratch_remove(folder);
    }
}

/* The disk gives out in the middle: a file size limit stands in for it, everywhere. */
static void the_disk_gives_out(void)
{
    char *folder = scratch_make();
    char *line = g_strdup_printf("cd %s && trap '' XFSZ && ulimit -f 40 && %s log --demo --quiet",
                                 folder, TOOL);
    char *argv[] = { (char *)(uintptr_t) "sh", (char *)(uintptr_t) "-c", line, NULL };
    char *err = NULL;
    int status = 0;
    g_spawn_sync(NULL, argv, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL, NULL, &err, &status, NULL);
    EXPECT(WIFEXITED(status) && WEXITSTATUS(status) == 3, "status %x", (unsigned)status);
    EXPECT(strstr(err, "cannot write sloop-runs/0001: File too large") != NULL, "%s", err);
    char *path = g_build_filename(folder, "sloop-runs/0001", NULL);
    EXPECT(check_records(path, 0) > 50, "what was logged before is there");
    struct pintle_history *history = load(folder, path);
    EXPECT(history && history->rows > 50, "and can be read");
    pintle_history_free(history);
    g_free(path);
    g_free(err);
    g_free(line);
    scratch_remove(folder);
}

/* A really full file system, where this user may mount one; said aloud where not. */
static void a_full_file_system(void)
{
    struct said said;
    if (in_little_room(NULL, "48k",
                       "cd /mnt && $TOOL log --demo --quiet; status=$?; "
                       "tail -c 300 sloop-runs/0001/readings.csv; exit $status",
                       &said)) {
        EXPECT(said.status == 3, "status %d: %s", said.status, said.err);
        EXPECT(strstr(said.err, "No space left on device; make room or name another folder"), "%s",
               said.err);
        EXPECT(strstr(said.out, "2026-06-12T") != NULL, "records before: %s", said.out);
    }
    said_free(&said);
}

/* Slots that pass while a round lasts are counted as missed, in the record and in the end. */
static void missed_slots(void)
{
    char *folder = scratch_make();
    struct said said = tool(folder, "log --demo --for 1s --every 10ms --quiet");
    char *text = file_text(folder, "sloop-runs/0001/readings.csv");
    EXPECT(said.status == 0, "%s", said.err);
    EXPECT(strstr(said.err, "slots were missed") != NULL, "%s", said.err);
    EXPECT(strstr(text, "missed=") != NULL, "%s", text);
    g_free(text);
    said_free(&said);
    file_write(folder, "x.rig",
               "board { world = \"w\" }\nbus main { }\n"
               "sensor a { part = \"TMP102\" address = 0x48 set = { \"mode=one-shot\" } }\n");
    file_write(folder, "w", "chip c { part = \"TMP102\" address = 0x48 }\n");
    said = tool(folder, "log --rig x.rig --for 1s --every 10ms --quiet");
    EXPECT(strstr(said.err, "slots were missed") && strstr(said.err, ", 0 with suspect readings"),
           "what was measured is good: %s", said.err);
    said_free(&said);
    scratch_remove(folder);
}

/* Real time: two records at whole seconds of the simulated clock take two seconds of ours. */
static void real_time(void)
{
    char *folder = scratch_make();
    gint64 begun = g_get_monotonic_time();
    struct said said = tool(folder, "log --demo --for 2s --every 1s --real-time --format csv");
    double took = (double)(g_get_monotonic_time() - begun) / 1e6;
    EXPECT(said.status == 0, "%s", said.err);
    EXPECT(strstr(said.out, "\r\n2,2026-06-12T00:00:02Z,") != NULL, "%s", said.out);
    EXPECT(took > 1.7, "two seconds took %g s", took);
    said_free(&said);
    scratch_remove(folder);
}

/* A clock that is moved while a run lasts, or was never set: it ends when it should, with a record
 * for each slot of the time that went by, and says what happened. */
static void clocks_that_step(void)
{
    static const struct {
        const char *name;
        const char *world; /* its clock */
        unsigned records;  /* of ten minutes, one a minute */
        const char *last;  /* begins the last one */
        const char *marked;
        const char *said;
        const char *about;
    } rows[] = {
        { "as it should be", "", 10, "10,2026-06-12T00:10:00Z,", ",good", "", "\"records\": 10" },
        { "an hour on", "clock-steps = { \"150s +1h\" }", 10, "10,2026-06-12T01:10:00Z,",
          "clock-step=3600000ms", "the clock was moved 1 time while", "\"by_s\": 3600.0" },
        { "years on", "clock-steps = { \"150s +2600d\" }", 10, "10,2033-07-25T00:10:00Z,",
          "clock-step=224640000000ms", "moved 1 time", "\"before_record\": 3" },
        { "an hour back", "clock-steps = { \"150s -1h\" }", 10, "10,2026-06-11T23:10:00Z,",
          "clock-step=-3600000ms", "moved 1 time", "\"by_s\": -3600.0" },
        { "there and back", "clock-steps = { \"150s +1d\", \"330s -1d\" }", 10,
          "10,2026-06-12T00:10:00Z,", "clock-step=-86400000ms", "moved 2 times",
          "\"by_s\": -86400.0" },
        { "half a minute on", "clock-steps = { \"150s +30s\" }", 10, "10,2026-06-12T00:11:00Z,",
          "clock-step=30000ms", "moved 1 time", "\"by_s\": 30.0" },
        { "a few milliseconds", "clock-steps = { \"150s -5ms\" }", 10, "10,2026-06-12T00:10:00Z,",
          ",good", "", "\"records\": 10" },
        { "never set", "clock-set = false", 10, "10,1970-01-01T00:10:00Z,", "clock=never-set",
          "the clock was never set when the run began", "\"clock\": \"never set when it began\"" },
    };
    char *folder = scratch_make();
    file_write(folder, "c.rig",
               "board { world = \"c\" }\nbus main { }\n"
               "sensor watch { part = \"DS1307\" address = 0x68 }\nlog { folder = \"runs\" }\n");
    file_write(folder, "c", "chip c { part = \"DS1307\" address = 0x68 }\n");
    expect_said(folder, "log --rig c.rig --for 3min", 2, "measures anything that can be logged");
    expect_said(folder, "calibrate --rig c.rig watch.time 20=21", 2, "measures nothing");
    file_write(folder, "x.rig",
               "board { world = \"w\" }\nbus main { }\n"
               "sensor a { part = \"TMP102\" address = 0x48 }\nlog { folder = \"runs\" }\n");
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *world =
            g_strdup_printf("%s\nchip c { part = \"TMP102\" address = 0x48 }\n", rows[i].world);
        file_write(folder, "w", world);
        struct said said = tool(folder, "log --rig x.rig --for 10min --quiet");
        char *csv = g_strdup_printf("runs/%04zu/readings.csv", i + 1);
        char *json = g_strdup_printf("runs/%04zu/run.json", i + 1);
        char *text = file_text(folder, csv);
        char *about = file_text(folder, json);
        char **lines = g_strsplit(text, "\r\n", -1);
        unsigned length = g_strv_length(lines);
        unsigned records = length > 2 ? length - 2 : 0;
        EXPECT(said.status == 0, "%s: %s", rows[i].name, said.err);
        EXPECT(records == rows[i].records, "%s: %u records: %s", rows[i].name, records, text);
        EXPECT(records < 100 && g_str_has_prefix(lines[records], rows[i].last), "%s: %s",
               rows[i].name, lines[records]);
        EXPECT(strstr(text, rows[i].marked) && !strstr(text, "missed"), "%s: %s", rows[i].name,
               text);
        EXPECT(*rows[i].said ? strstr(said.err, rows[i].said) != NULL : !strstr(said.err, "clock"),
               "%s: %s", rows[i].name, said.err);
        EXPECT(strstr(about, rows[i].about) != NULL, "%s: %s", rows[i].name, about);
        g_strfreev(lines);
        g_free(about);
        g_free(text);
        g_free(json);
        g_free(csv);
        said_free(&said);
        g_free(world);
    }
    struct said said = tool(folder, "runs --rig x.rig");
    char **lines = g_strsplit(said.out, "\n", -1);
    for (size_t i = 0; i < COUNT(rows) && lines[0] && lines[i + 1]; i++) {
        unsigned records = 0;
        unsigned suspect = 1;
        const char *lasted = strstr(lines[i + 1], "10 min");
        EXPECT(lasted && sscanf(strstr(lasted, "done"), "done %u %u", &records, &suspect) == 2
                   && records == 10 && suspect == 0,
               "%s: %s", rows[i].name, lines[i + 1]);
    }
    g_strfreev(lines);
    said_free(&said);
    /* What happened is told in the order in which it happened, not in that of the clock. */
    file_write(folder, "w",
               "clock-steps = { \"150s -1h\" }\n"
               "chip c { part = \"TMP102\" address = 0x48 }\n"
               "fault c { kind = \"unplugged\" from = \"50s\" to = \"80s\" }\n"
               "fault c { kind = \"frozen\" from = \"8min\" }\n");
    expect_said(folder, "log --rig x.rig --for 10min --quiet", 0, "10 records in");
    said = tool(folder, "summary --rig x.rig last");
    const char *gone = strstr(said.out, "a gave no data");
    const char *moved = strstr(said.out, "the clock was");
    EXPECT(gone && moved && gone < moved, "%s", said.out);
    said_free(&said);
    scratch_remove(folder);
}

/* A run that ended in the middle of a record: the next one to begin cuts what there is of it. One
 * that is being written is left alone. */
static void a_torn_line(void)
{
    char *folder = scratch_make();
    expect_said(folder, "log --demo --for 3min --quiet", 0, "3 records in");
    char *whole = file_text(folder, "sloop-runs/0001/readings.csv");
    char *torn = g_strconcat(whole, "4,2026-06-12T00:03:00Z,14.4", NULL);
    file_write(folder, "sloop-runs/0001/readings.csv", torn);
    expect_said(folder, "summary --demo 1", 0, "3 records");
    expect_said(folder, "log --demo --for 1min --quiet", 0, "1 record in");
    char *after = file_text(folder, "sloop-runs/0001/readings.csv");
    CU_ASSERT_STRING_EQUAL(after, whole);
    g_free(after);
    g_free(torn);
    g_free(whole);
    scratch_remove(folder);
}

/* A rig far beyond what a small board has: 80 chips with their buses down make records of more than
 * 8 KiB, which are logged, read back and drawn. */
static void a_large_rig(void)
{
    char *folder = scratch_make();
    GString *rig = g_string_new("board { world = \"w\" }\nlog { folder = \"runs\" }\n");
    for (int b = 0; b < 6; b++) {
        g_string_append_printf(rig, "bus a-very-long-name-for-bus-%d { }\n", b);
        for (int i = 0; i < 8; i++) {
            g_string_append_printf(rig,
                                   "sensor thermometer-number-%d-of-this-long-name-%d { part = "
                                   "\"MCP9808\" bus = \"a-very-long-name-for-bus-%d\" address = "
                                   "0x%x }\n",
                                   i, b, b, 0x18 + i);
        }
    }
    g_string_append(rig, "bus spi { kind = \"spi\" }\n");
    for (int i = 0; i < 32; i++) {
        g_string_append_printf(rig,
                               "sensor converter-of-the-forward-panel-row-two-%d { part = "
                               "\"MCP3008\" bus = \"spi\" select = \"a-long-name-of-a-pin-%d\" }\n",
                               i, i);
    }
    file_write(folder, "x.rig", rig->str);
    file_write(folder, "w", "trouble spi { kind = \"off\" }\n");
    struct said said = tool(folder, "log --rig x.rig --for 3min --quiet");
    EXPECT(said.status == 1 && strstr(said.err, "80 sensors failed to the end"), "%s", said.err);
    char *runs = g_build_filename(folder, "runs", NULL);
    struct pintle_history *run = load(runs, "1");
    CU_ASSERT_PTR_NOT_NULL_FATAL(run);
    EXPECT(run->rows == 3 && run->columns == 48 + 256, "%u rows, %u columns", run->rows,
           run->columns);
    for (unsigned i = 0; i < run->columns; i++) {
        EXPECT(run->column[i].suspect[2] && isnan(run->column[i].value[2]), "%s is marked",
               run->column[i].name);
    }
    char *text = file_text(folder, "runs/0001/readings.csv");
    EXPECT(strlen(text) > 30000, "%zu bytes", strlen(text));
    expect_said(folder, "scan --rig x.rig --format csv", 1,
                "a-very-long-name-for-bus-5,0x1f,missing,MCP9808,thermometer-number-7-of-this-long-"
                "name-5,");
    expect_said(folder, "wiring --rig x.rig", 1, "there is no pull-up");
    expect_said(folder, "read --rig x.rig --format csv converter-of-the-forward-panel-row-two-31",
                1, "bus");
    g_free(text);
    pintle_history_free(run);
    g_free(runs);
    g_string_free(rig, TRUE);
    said_free(&said);
    scratch_remove(folder);
}

/* Two that begin at once get folders of their own, and a run that cannot begin leaves nothing. */
static void beginning_a_run(void)
{
    char *folder = scratch_make();
    pid_t children[8];
    for (size_t i = 0; i < COUNT(children); i++) {
        children[i] = start_log(folder, "2min");
    }
    for (size_t i = 0; i < COUNT(children); i++) {
        int status = -1;
        waitpid(children[i], &status, 0);
        EXPECT(WIFEXITED(status) && WEXITSTATUS(status) == 0, "child %zu: %x", i, (unsigned)status);
        char *path = g_strdup_printf("%s/sloop-runs/%04zu", folder, i + 1);
        EXPECT(check_records(path, (int)i) == 2, "run %zu", i + 1);
        g_free(path);
    }
    char *line = g_strdup_printf("sh -c 'cd %s && trap \"\" XFSZ && ulimit -f 0 && %s log --demo "
                                 "--into other --quiet; echo $?; ls -A other'",
                                 folder, TOOL);
    char *out = NULL;
    char *err = NULL;
    g_spawn_command_line_sync(line, &out, &err, NULL, NULL);
    EXPECT(strcmp(out, "3\n") == 0, "status and what is left: %s", out);
    EXPECT(strstr(err, "cannot write other") != NULL, "%s", err);
    g_free(out);
    g_free(err);
    g_free(line);
    scratch_remove(folder);
}

/* What was noted of a program by tests/witness: its lines. */
static char **witness(const char *folder, const char *arguments)
{
    char *line = g_strdup_printf("sh -c 'cd %s && ASAN_OPTIONS=verify_asan_link_order=0 "
                                 "LD_PRELOAD=%s WITNESS=%s/noted %s %s'",
                                 folder, WITNESS, folder, TOOL, arguments);
    g_spawn_command_line_sync(line, NULL, NULL, NULL, NULL);
    char *text = file_text(folder, "noted");
    char **lines = g_strsplit(text, "\n", -1);
    g_free(text);
    g_free(line);
    return lines;
}

static int find_line(char **lines, int from, const char *verb, const char *end)
{
    for (int i = from; lines[i]; i++) {
        if (g_str_has_prefix(lines[i], verb) && g_str_has_suffix(lines[i], end)) {
            return i;
        }
    }
    return -1;
}

/* Each record is on the disk before the next one is begun; the folders are, too. */
static void records_are_put_on_the_disk(void)
{
    char *folder = scratch_make();
    char **lines = witness(folder, "log --demo --for 5min --quiet");
    unsigned records = 0;
    int moved = find_line(lines, 0, "rename", "sloop-runs/0001");
    EXPECT(moved > 0, "the folder gets its number");
    EXPECT(find_line(lines, 0, "sync", "run.json") >= 0 || find_line(lines, 0, "sync", ".beg") >= 0
               || moved > 3,
           "what is in it was synced before");
    int folders = find_line(lines, moved, "sync", "/sloop-runs");
    EXPECT(folders > moved, "its folder is synced behind that");
    char *base = g_path_get_basename(folder);
    EXPECT(find_line(lines, moved, "sync", base) > moved, "and the one that that is in");
    for (int i = moved; i >= 0 && lines[i]; i++) {
        if (g_str_has_prefix(lines[i], "write") && g_str_has_suffix(lines[i], "/readings.csv")) {
            records++;
            EXPECT(lines[i + 1] && g_str_has_prefix(lines[i + 1], "sync")
                       && g_str_has_suffix(lines[i + 1], "/readings.csv"),
                   "record %u: then came %s", records, lines[i + 1]);
        }
    }
    EXPECT(records == 5, "%u records were written", records);
    g_free(base);
    g_strfreev(lines);
    scratch_remove(folder);
}

/* A calibration file is written beside its name, put on the disk, and then moved there. */
static void calibrations_are_replaced_whole(void)
{
    char *folder = scratch_make();
    char **lines = witness(folder, "calibrate --demo --yes baro.temperature 13.5=12.9 22.0=21.4");
    int moved = find_line(lines, 0, "rename", "/sloop.calibration.json");
    EXPECT(moved > 0, "it is moved to its name");
    EXPECT(moved > 0 && g_str_has_prefix(lines[moved - 1], "sync"), "and was synced before: %s",
           moved > 0 ? lines[moved - 1] : "");
    EXPECT(find_line(lines, 0, "write", "/sloop.calibration.json") < 0, "never written in place");
    g_strfreev(lines);
    scratch_remove(folder);
}

/* What is printed must arrive: a full device is told, by every command, and ends a run whole. */
static void what_cannot_be_printed(void)
{
    static const char *const commands[] = {
        "--help",
        "--version",
        "parts",
        "parts TMP102",
        "scan --demo",
        "wiring --demo",
        "read --demo",
        "regs --demo sea",
        "convert TMP102 1910",
        "explain",
        "trace --demo -- read sea",
        "log --demo --for 5min",
        "log --demo --for 5min --format csv",
        "log --demo --for 5min --format senml",
        "calibrate --demo --yes baro.temperature 13.5=12.9",
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(commands); i++) {
        char *line = g_strdup_printf("%s > /dev/full", commands[i]);
        struct said said = tool(folder, line);
        EXPECT(said.status == 3, "%s: status %d", commands[i], said.status);
        EXPECT(strstr(said.err, "cannot write to standard output: No space left on device"),
               "%s: %s", commands[i], said.err);
        said_free(&said);
        g_free(line);
    }
    struct said gone = tool(folder, "log --demo --for 100d --format csv | head -n 3");
    EXPECT(strstr(gone.err, "cannot write to standard output: Broken pipe"), "%s", gone.err);
    char *about = file_text(folder, "sloop-runs/0002/run.json");
    EXPECT(strstr(about, "\"ended\": \"failed\"") != NULL, "%s", about);
    g_free(about);
    said_free(&gone);
    scratch_remove(folder);
}

#define HEADER "record,time,a.temperature/Cel,quality\r\n"

/* Files that something has happened to. */
static void damaged_files(void)
{
    static const struct {
        const char *name;
        const char *text;
        int rows; /* -1: refused */
        const char *answer;
    } rows[] = {
        { "whole", HEADER "1,2026-06-12T00:00:00Z,5.5,good\r\n", 1, "" },
        { "cut in the last record", HEADER "1,2026-06-12T00:00:00Z,5.5,good\r\n2,2026-06", 1, "" },
        { "cut in the header", "record,ti", -1, "no record yet" },
        { "no record", HEADER, -1, "no record yet" },
        { "empty", "", -1, "no record yet" },
        { "something else", "ahoy\r\n", -1, "readings.csv:1: this is no line of a run" },
        { "a hole", HEADER "1,2026-06-12T00:00:00Z,5.5,good\r\n\r\n", -1, "readings.csv:3" },
        { "too few fields", HEADER "1,2026-06-12T00:00:00Z,good\r\n", -1, "readings.csv:2" },
        { "a column with no name",
          "record,time,/Cel,quality\r\n1,2026-06-12T00:00:00Z,5.5,good\r\n", -1, "readings.csv:1" },
        { "a column twice",
          "record,time,a.t/Cel,a.t/Cel,quality\r\n1,2026-06-12T00:00:00Z,5.5,6.5,good\r\n", -1,
          "readings.csv:1" },
        { "a column that a terminal would obey",
          "record,time,a\033[2J.t/Cel,quality\r\n1,2026-06-12T00:00:00Z,5.5,good\r\n", -1,
          "readings.csv:1" },
        { "another sensor's remark",
          "record,time,cabin.t/Cel,my-cabin.t/Cel,quality\r\n"
          "1,2026-06-12T00:00:00Z,5.5,5.5,my-cabin.t=jump\r\n",
          1, "" },
        { "a word", HEADER "1,2026-06-12T00:00:00Z,5.5x,good\r\n", -1, "readings.csv:2" },
        { "beyond all numbers", HEADER "1,2026-06-12T00:00:00Z,1e999,good\r\n", -1, "csv:2" },
        { "no decimal", HEADER "1,2026-06-12T00:00:00Z,0x14,good\r\n", -1, "csv:2" },
        { "a blank in front", HEADER "1,2026-06-12T00:00:00Z, 999,good\r\n", -1, "csv:2" },
        { "letters after it", HEADER "1,2026-06-12T00:00:00Z,77abc,good\r\n", -1, "csv:2" },
        { "infinite", HEADER "1,2026-06-12T00:00:00Z,inf,good\r\n", -1, "csv:2" },
        { "more than a float", HEADER "1,2026-06-12T00:00:00Z,1e308,good\r\n", -1, "csv:2" },
        { "an exponent", HEADER "1,2026-06-12T00:00:00Z,-1.5e-3,good\r\n", 1, "" },
        { "a record below 0", HEADER "-1,2026-06-12T00:00:00Z,5.5,good\r\n", -1, "csv:2" },
        { "a record 0", HEADER "0,2026-06-12T00:00:00Z,5.5,good\r\n", -1, "number of a record" },
        { "a record with an exponent", HEADER "1e3,2026-06-12T00:00:00Z,5.5,good\r\n", -1,
          "csv:2" },
        { "a record twice",
          HEADER "1,2026-06-12T00:00:00Z,5.5,good\r\n1,2026-06-12T00:01:00Z,5.5,good\r\n", -1,
          "csv:3: this line has the number of a record before it" },
        { "a year back",
          HEADER "1,2026-06-12T00:00:00Z,5.5,good\r\n2,2025-06-12T00:01:00Z,5.5,good\r\n", -1,
          "csv:3: this line is earlier than the record before it" },
        { "a clock that was moved back",
          HEADER "1,2026-06-12T00:00:00Z,5.5,good\r\n"
                 "2,2026-06-11T00:01:00Z,5.5,clock-step=-86400000ms\r\n",
          2, "" },
        { "nothing said of it", HEADER "1,2026-06-12T00:00:00Z,5.5,\r\n", -1, "readings.csv:2" },
        { "no value", HEADER "1,2026-06-12T00:00:00Z,,good\r\n", 1, "" },
        { "no time", HEADER "1,noon,5.5,good\r\n", -1, "readings.csv:2" },
        { "other line ends",
          "record,time,a.temperature/Cel,quality\n1,2026-06-12T00:00:00Z,5.5,good\n", 1, "" },
        { "quotes",
          HEADER "1,2026-06-12T00:00:00Z,5.5,\"a.temperature=jump, and \"\"more\"\"\"\r\n", 1, "" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_problem problem = { 0 };
        file_write(folder, "readings.csv", rows[i].text);
        struct pintle_history *history = pintle_history_load(".", NULL, folder, &problem);
        int found = history ? (int)history->rows : -1;
        EXPECT(found == rows[i].rows, "%s: %d rows", rows[i].name, found);
        EXPECT(says(problem.text, rows[i].answer), "%s: %s", rows[i].name, problem.text);
        pintle_history_free(history);
    }
    scratch_remove(folder);
}

/* What is said of a value and not understood, by a later version or after damage, is no reason to
 * call it good. */
static void not_understood(void)
{
    static const struct {
        const char *quality;
        const char *channel; /* how it is shown */
    } rows[] = {
        { "good", "5.50         -         1       0" },
        { "a.temperature=warming", "5.50         -         1       0" },
        { "missed=3", "5.50         -         1       0" },
        { "clock=never-set", "5.50         -         1       0" },
        { "a.temperature=jump", "-         -         0       1" },
        { "a.temperaturf=warming", "-         -         0       1" },
        { "a.temperature=wobbly", "-         -         0       1" },
        { "a.temperature=", "-         -         0       1" },
        { "a.temperature", "-         -         0       1" },
        { "GOOD", "-         -         0       1" },
        { "wobbly", "-         -         0       1" },
        { "good; good", "-         -         0       1" },
        { "missed=-5", "-         -         0       1" },
        { "missed=99999999999", "-         -         0       1" },
        { "clock-step=1e30ms", "-         -         0       1" },
        { "clock-step=5", "-         -         0       1" },
        { "clock-step=ms", "-         -         0       1" },
        { "clock=set", "-         -         0       1" },
        { "=jump", "-         -         0       1" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *text = g_strdup_printf(HEADER "1,2026-06-12T00:00:00Z,5.5,%s\r\n", rows[i].quality);
        file_write(folder, "readings.csv", text);
        struct said said = tool(folder, "summary .");
        EXPECT(said.status == 0 && strstr(said.out, rows[i].channel), "'%s': %s", rows[i].quality,
               said.out);
        said_free(&said);
        g_free(text);
    }
    scratch_remove(folder);
}

/* Random damage to a real file: read or refused, never worse. */
static void damaged_at_random(void)
{
    char *folder = scratch_make();
    struct said said = tool(folder, "log --demo --for 20min --quiet");
    char *text = file_text(folder, "sloop-runs/0001/readings.csv");
    size_t length = strlen(text);
    srand(23);
    for (int i = 0; i < 2000; i++) {
        struct pintle_problem problem = { 0 };
        char *copy = g_strdup(text);
        for (int k = rand() % 4; k >= 0; k--) {
            copy[(size_t)rand() % length] = ",\"\n\rx;9"[rand() % 7];
        }
        file_write(folder, "readings.csv", copy);
        struct pintle_history *history = pintle_history_load(".", NULL, folder, &problem);
        if (!history && problem.text[0] == '\0') {
            EXPECT(0, "no answer");
        }
        pintle_history_free(history);
        g_free(copy);
    }
    g_free(text);
    said_free(&said);
    scratch_remove(folder);
}

/* What a command was given is not overwritten, whatever name it is called by. */
static void not_over_its_inputs(void)
{
    static const struct {
        const char *arguments;
        const char *file;
    } rows[] = {
        { "export --rig s.rig 1 --write s.rig", "s.rig" },
        { "export --rig s.rig 1 --write ./link.rig", "s.rig" },
        { "export --rig s.rig 1 --write sloop.world", "sloop.world" },
        { "report --rig s.rig 1 --write s.rig", "s.rig" },
        { "report --rig s.rig 1 --write ../$(basename $PWD)/sloop.world", "sloop.world" },
        { "trace --rig s.rig --vcd s.rig -- read sea", "s.rig" },
        { "trace --rig s.rig --vcd sloop.world -- read sea", "sloop.world" },
    };
    char *folder = scratch_make();
    char *rig = file_text(SOURCE "/demo", "sloop.rig");
    char *world = file_text(SOURCE "/demo", "sloop.world");
    file_write(folder, "s.rig", rig);
    file_write(folder, "sloop.world", world);
    char *link = g_build_filename(folder, "link.rig", NULL);
    CU_ASSERT_EQUAL(symlink("s.rig", link), 0);
    expect_said(folder, "log --rig s.rig --for 2min --every 1min --quiet", 0, "2 records in");
    for (size_t i = 0; i < COUNT(rows); i++) {
        expect_said(folder, rows[i].arguments, 2, "is one of this command's own inputs");
        char *now = file_text(folder, rows[i].file);
        EXPECT(strcmp(now, rows[i].file[1] == '.' ? rig : world) == 0, "%s: it is another now",
               rows[i].arguments);
        g_free(now);
    }
    expect_said(folder, "export --rig s.rig 1 --write e.csv", 0, "2 records in e.csv");
    expect_said(folder, "export --rig s.rig 1 --write e.csv", 0, "2 records in e.csv");
    g_free(link);
    g_free(world);
    g_free(rig);
    scratch_remove(folder);
}

/* On a full disk nothing new comes, and what was there stays: no half of a file, under any name. */
static void on_a_full_disk(void)
{
    static const char *const commands[] = {
        "export --demo 1 --write /mnt/out.csv",
        "export --demo 1 --format senml --write /mnt/out.csv",
        "report --demo 1 --write /mnt/out.csv",
        "plot --demo 1 --png /mnt/out.png",
        "plot --demo 1 --svg /mnt/out.svg",
        "wiring --demo --draw /mnt/out.png",
        "trace --demo --vcd /mnt/out.vcd -- read sea",
    };
    char *folder = scratch_make();
    expect_said(folder, "log --demo --for 30min --quiet", 0, "records in");
    for (size_t i = 0; i < COUNT(commands); i++) {
        struct said said;
        char *script = g_strdup_printf("for f in csv png svg vcd; do echo old >/mnt/out.$f; done; "
                                       "dd if=/dev/zero of=/mnt/rest bs=1k count=8 2>/dev/null; "
                                       "$TOOL %s; echo status $?; cat /mnt/out.* | head -c 99 | tr "
                                       "-cd \"[:print:]\\n\"; ls /mnt",
                                       commands[i]);
        bool tried = in_little_room(folder, "28k", script, &said);
        EXPECT(!tried
                   || strstr(said.out, "status 3\nold\nold\nold\nold\nout.csv\nout.png\n"
                                       "out.svg\nout.vcd\nrest\n"),
               "%s: %s%s", commands[i], said.out, said.err);
        EXPECT(!tried || strstr(said.err, "cannot write /mnt/out."), "%s: %s", commands[i],
               said.err);
        said_free(&said);
        g_free(script);
    }
    scratch_remove(folder);
}

/* Plots: the size asked for, what was chosen, and one that has nothing good to show. */
static void plots(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *said;
    } rows[] = {
        { "plot --demo 1", 0, "sloop-runs/0001/plot.png" },
        { "plot --demo 1 --channels sea,engine --png a.png", 0, "a.png" },
        { "plot --demo 1 --channels pressure --svg b.svg", 0, "b.svg" },
        { "plot sloop-runs/0001 --channels cabin.humidity --png c.png", 0, "c.png" },
        { "plot --demo 1 --unit degF --unit inHg --png u.png", 0, "u.png" },
        { "plot --demo 1 --unit ohm", 2, "is measured in 'ohm'" },
        { "plot --demo 1 --unit furlong", 2, "there is no unit 'furlong'" },
        { "plot --demo 1 --channels rudder", 2, "has no channel 'rudder'" },
        { "plot --demo 1 --png d.jpg", 2, "ends in .png or .svg" },
        { "plot --demo 1 --png no/d.png", 3, "cannot write no/d.png" },
        { "plot --demo 2", 0, "sloop-runs/0002/plot.png" },
    };
    char *folder = scratch_make();
    struct said day = tool(folder, "log --demo --for 1d --quiet && true");
    struct said gone = tool(folder, "log --demo --at 16h --for 5min --quiet");
    for (size_t i = 0; i < COUNT(rows); i++) {
        expect_said(folder, rows[i].arguments, rows[i].status, rows[i].said);
    }
    char *png = NULL;
    gsize size = 0;
    char *path = g_build_filename(folder, "a.png", NULL);
    EXPECT(g_file_get_contents(path, &png, &size, NULL) && size > 5000, "a.png has %zu bytes",
           size);
    static const uint8_t wide[8] = { 0, 0, 0x05, 0x00, 0, 0, 0x03, 0x20 }; /* 1280 x 800 */
    EXPECT(size > 24 && memcmp(png + 16, wide, 8) == 0, "1280x800");
    char *svg = file_text(folder, "b.svg");
    EXPECT(strstr(svg, "<svg") != NULL, "b.svg is one");
    g_free(svg);
    g_free(png);
    g_free(path);
    said_free(&day);
    said_free(&gone);
    scratch_remove(folder);
}

/* While one of them is collected time goes on, down on the wires: none is left behind. */
static void three_on_one_bus(void)
{
    char *folder = scratch_make();
    file_write(folder, "x.rig",
               "board { port = \"sim\" depth = \"wires\" world = \"w\" }\nbus cabin { }\n"
               "sensor t { part = \"TMP102\" address = 0x48 }\n"
               "sensor h { part = \"SHT31\" address = 0x44 }\n"
               "sensor m { part = \"MPU6050\" address = 0x68 }\n");
    file_write(folder, "w",
               "chip t { part = \"TMP102\" address = 0x48 }\n"
               "chip h { part = \"SHT31\" address = 0x44 }\n"
               "chip m { part = \"MPU6050\" address = 0x68 }\n");
    expect_said(folder, "log --rig x.rig --every 1s --for 5s --into o --quiet", 0,
                "5 records in o/0001, 0 with suspect readings");
    scratch_remove(folder);
}

/* What a log says before it begins, and how many places it writes. */
static void as_it_begins(void)
{
    static const struct {
        const char *sensor, *arguments, *said;
    } rows[] = {
        { "part = \"BME280\" address = 0x76 set = { \"filter=16\" }", "--every 1min --for 3min",
          "its filter shows three quarters of a step only after 22 readings, 22 min at this" },
        { "part = \"BME280\" address = 0x76 set = { \"filter=16\" }", "--every 1s --for 3s", "" },
        { "part = \"BME280\" address = 0x76", "--every 1h --for 3h", "" },
        { "part = \"VEML7700\" address = 0x10", "--every 100ms --for 300ms",
          "a new value may take it 220 ms, and it does not say which are new" },
        { "part = \"VEML7700\" address = 0x10", "--every 1s --for 3s", "" },
        { "part = \"TMP102\" address = 0x48 set = { \"rate=1Hz\" }", "--every 500ms --for 3s",
          "a new value may take it 1 s" },
        { "part = \"TMP102\" address = 0x48 set = { \"rate=1Hz\", \"mode=one-shot\" }",
          "--every 500ms --for 3s", "" },
        { "part = \"MPU6050\" address = 0x68", "--every 1ms --for 3ms", "" }, /* it says so */
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        char *place = strstr(rows[i].sensor, "address");
        char *rig = g_strdup_printf("board { world = \"w\" }\nbus b { data = \"D\" clock = \"C\" "
                                    "pull-up = 2200 speed = 400000 }\nsensor s { %s }\n",
                                    rows[i].sensor);
        char *world = g_strdup_printf("chip s { %.*s %.*s }\n", (int)(place - rows[i].sensor),
                                      rows[i].sensor, 14, place);
        char *line = g_strdup_printf("log --rig r.rig --quiet --into runs %s", rows[i].arguments);
        file_write(folder, "r.rig", rig);
        file_write(folder, "w", world);
        struct said said = tool(folder, line);
        EXPECT(said.status == 0 && strstr(said.err, rows[i].said), "%s %s: %s", rows[i].sensor,
               rows[i].arguments, said.err);
        EXPECT(rows[i].said[0] || !strstr(said.err, "sensor 's'"), "%s %s: %s", rows[i].sensor,
               rows[i].arguments, said.err);
        said_free(&said);
        g_free(line);
        g_free(world);
        g_free(rig);
    }
    file_write(folder, "r.rig",
               "board { world = \"w\" }\nbus b { data = \"D\" clock = \"C\" pull-up = 2200 }\n"
               "sensor s { part = \"INA219\" address = 0x40 set = { \"shunt=10\", "
               "\"shunt-range=40mV\" } }\n");
    file_write(folder, "w",
               "quantity small { level = 0.001234 }\nchip s { part = \"INA219\" address = 0x40 "
               "feels = { \"current=small\" } errors = { \"current=0\" } }\n");
    struct said said = tool(folder, "log --rig r.rig --quiet --into one --for 1min --every 1min; "
                                    "cut -d, -f4 one/0001/readings.csv | tail -n 1");
    const char *point = strchr(said.out, '.');
    EXPECT(point && strspn(point + 1, "0123456789") == 6, "a microampere is a count: %s", said.out);
    said_free(&said);
    scratch_remove(folder);
}

void add_log_suite(void)
{
    SUITE("log", { "three on one bus", three_on_one_bus }, { "as it begins", as_it_begins },
          { "a simulated day", a_simulated_day }, { "what log prints", what_log_prints },
          { "killed a hundred times", killed_a_hundred_times },
          { "stopped by a signal", stopped_by_a_signal },
          { "the disk gives out", the_disk_gives_out },
          { "a full file system", a_full_file_system }, { "missed slots", missed_slots },
          { "a torn line", a_torn_line }, { "real time", real_time },
          { "clocks that step", clocks_that_step }, { "a large rig", a_large_rig },
          { "beginning a run", beginning_a_run },
          { "records are put on the disk", records_are_put_on_the_disk },
          { "calibrations are replaced whole", calibrations_are_replaced_whole },
          { "what cannot be printed", what_cannot_be_printed }, { "damaged files", damaged_files },
          { "not understood", not_understood }, { "damaged at random", damaged_at_random },
          { "plots", plots }, { "not over its inputs", not_over_its_inputs },
          { "on a full disk", on_a_full_disk });
}
