/* Guided calibration as a person meets it, at a terminal, with the mistakes that people make; from
 * a script; and from a run with nobody there. What the simulated hand does is written down as
 * positions: for so many seconds, which way up. */
#include "terminal.h"

#include "pintle/host/adjust/guide.h"

#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#define G 9.80665

struct position {
    double seconds;
    double xyz[3];
};

#define X_UP                                                                                       \
    {                                                                                              \
        G, 0, 0                                                                                    \
    }
#define X_DOWN                                                                                     \
    {                                                                                              \
        -G, 0, 0                                                                                   \
    }
#define Y_UP                                                                                       \
    {                                                                                              \
        0, G, 0                                                                                    \
    }
#define Y_DOWN                                                                                     \
    {                                                                                              \
        0, -G, 0                                                                                   \
    }
#define Z_UP                                                                                       \
    {                                                                                              \
        0, 0, G                                                                                    \
    }
#define Z_DOWN                                                                                     \
    {                                                                                              \
        0, 0, -G                                                                                   \
    }
#define TILTED                                                                                     \
    {                                                                                              \
        5, 5, 6.7                                                                                  \
    }

static const struct position all_six[] = { { 10, X_UP },   { 10, X_DOWN }, { 10, Y_UP },
                                           { 10, Y_DOWN }, { 10, Z_UP },   { 30, Z_DOWN } };

static void put_axis(GString *world, const struct position *of, size_t count, unsigned axis)
{
    double at = 0;
    g_string_append_printf(world, "quantity axis-%c { points = { ", "xyz"[axis]);
    for (size_t i = 0; i < count; i++) {
        g_string_append_printf(world, "%s\"%gs %g\", \"%gs %g\"", i ? ", " : "", at,
                               of[i].xyz[axis], at + of[i].seconds, of[i].xyz[axis]);
        at += of[i].seconds + 2; /* turned */
    }
    g_string_append(world, " } }\n");
}

/* A folder with a rig whose inertial unit lies so, with errors that are known. */
static char *lay(const struct position *of, size_t count, const char *more)
{
    char *folder = scratch_make();
    GString *world = g_string_new("began = \"2026-06-12T00:00:00Z\"\nseed = 4\n");
    for (unsigned axis = 0; axis < 3; axis++) {
        put_axis(world, of, count, axis);
    }
    g_string_append(world,
                    "quantity none { level = 0 }\nquantity air { level = 20 }\n"
                    "chip motion { part = \"MPU6050\" bus = \"b\" address = 0x68\n"
                    "  feels = { \"accel-x=axis-x\", \"accel-y=axis-y\", \"accel-z=axis-z\",\n"
                    "    \"rate-x=none\", \"rate-y=none\", \"rate-z=none\", \"temperature=air\" }\n"
                    "  errors = { \"accel-x=0.3\", \"accel-y=-0.2\", \"accel-z=0.15\",\n"
                    "    \"rate-x=0.02\", \"rate-y=-0.01\" } }\n");
    g_string_append(world, more);
    file_write(folder, "w", world->str);
    file_write(folder, "r.rig",
               "board { world = \"w\" }\n"
               "bus b { kind = \"i2c\" speed = 400000 data = \"D\" clock = \"C\" pull-up = 4700 }\n"
               "sensor motion { part = \"MPU6050\" bus = \"b\" address = 0x68 }\n");
    g_string_free(world, TRUE);
    return folder;
}

static bool kept(const char *folder)
{
    char *path = g_build_filename(folder, "r.calibration.json", NULL);
    bool is = g_file_test(path, G_FILE_TEST_EXISTS);
    g_free(path);
    return is;
}

static void led_through(void)
{
    struct terminal t;
    char *folder = lay(all_six, COUNT(all_six), "");
    sit_down(&t, folder, "calibrate --rig r.rig motion.accel --plot p.svg");
    expect_on(&t, "Still to take, in any order: x up, x down, y up, y down, z up, z down.");
    expect_on(&t, "measured 1 of 50"); /* the line that a terminal shows meanwhile */
    expect_on(&t, "6 of 6.");
    expect_on(&t, "bias            +0.03");
    expect_on(&t, "Keep it in ./r.calibration.json? [y/N]");
    type(&t, "y\n");
    CU_ASSERT_EQUAL(stand_up(&t), 0);
    CU_ASSERT_TRUE(kept(folder));
    expect_said(folder, "calibrate --rig r.rig motion.accel --watch --for 100ms", 0, "   -x");
    expect_said(folder, "corrections --rig r.rig", 0, "six-positions");
    char *picture = file_text(folder, "p.svg");
    EXPECT(strstr(picture, "<svg") != NULL, "the plot");
    g_free(picture);
    g_string_free(t.said, TRUE);
    scratch_remove(folder);
}

/* What goes wrong on the way is said in a sentence each, and nothing is lost by it. */
static void mistakes(void)
{
    static const struct {
        const char *name;
        struct position of[9];
        const char *said[3];
        const char *fault;
    } rows[] = {
        { "moved in the middle of a position",
          { { 2, X_UP },
            { 10, X_DOWN },
            { 10, X_UP },
            { 10, Y_UP },
            { 10, Y_DOWN },
            { 10, Z_UP },
            { 30, Z_DOWN } },
          { "It was moved; this position begins anew.", "6 of 6." },
          "" },
        { "the same face twice",
          { { 10, X_UP },
            { 10, X_DOWN },
            { 10, X_UP },
            { 10, Y_UP },
            { 10, Y_DOWN },
            { 10, Z_UP },
            { 30, Z_DOWN } },
          { "x up was taken already; turn another way up, or type 'again x up'", "6 of 6." },
          "" },
        { "in another order",
          { { 10, Z_DOWN },
            { 10, Y_UP },
            { 10, X_DOWN },
            { 10, Z_UP },
            { 10, X_UP },
            { 30, Y_DOWN } },
          { "Taken: z down", "Still to take, in any order: y down.", "6 of 6." },
          "" },
        { "leaning against something",
          { { 10, X_UP },
            { 10, TILTED },
            { 10, X_DOWN },
            { 10, Y_UP },
            { 10, Y_DOWN },
            { 10, Z_UP },
            { 30, Z_DOWN } },
          { "No axis points up or down (0.5", "within 15 degrees.", "6 of 6." },
          "" },
        { "swung about",
          { { 10, X_UP },
            { 10, { 0, 0, 14 } },
            { 10, X_DOWN },
            { 10, Y_UP },
            { 10, Y_DOWN },
            { 10, Z_UP },
            { 30, Z_DOWN } },
          { "feels 1.4", "Where you trust it, type which axis points where", "6 of 6." },
          "" },
        { "its plug comes loose, and is pushed home",
          { { 10, X_UP },
            { 10, X_DOWN },
            { 10, Y_UP },
            { 10, Y_DOWN },
            { 10, Z_UP },
            { 30, Z_DOWN } },
          { "sensor 'motion': nothing answered", "It answers again; go on.", "6 of 6." },
          "fault motion { kind = \"unplugged\" from = \"14s\" to = \"16s\" }\n" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct terminal t;
        size_t count = 0;
        while (count < COUNT(rows[i].of) && rows[i].of[count].seconds > 0) {
            count++;
        }
        char *folder = lay(rows[i].of, count, rows[i].fault);
        sit_down(&t, folder, "calibrate --rig r.rig motion.accel");
        for (unsigned k = 0; k < 3 && rows[i].said[k]; k++) {
            EXPECT(wait_for(&t, rows[i].said[k]), "%s: no '%s' in %s", rows[i].name,
                   rows[i].said[k], t.said->str);
        }
        EXPECT(wait_for(&t, "[y/N]"), "%s: asked in the end", rows[i].name);
        EXPECT(strstr(t.said->str, "bias            +0.03") != NULL,
               "%s: the outcome is as it should be: %s", rows[i].name, t.said->str);
        type(&t, "n\n");
        EXPECT(stand_up(&t) == 1 && !kept(folder), "%s: a no is a no", rows[i].name);
        g_string_free(t.said, TRUE);
        scratch_remove(folder);
    }
}

/* It goes no further, by whoever's hand: a sentence, nothing changed; and what was taken waits. */
static void broken_off(void)
{
    static const struct {
        const char *name;
        const char *after; /* that was said */
        const char *typed;
        const char *said;
        int status;
        const char *fault;
    } rows[] = {
        { "Ctrl-C", "2 of 6.", "\x03", "stopped; no correction was changed", 3, "" },
        { "quit", "2 of 6.", "quit\n",
          "positions wait beside the rig, and the same command goes on", 3, "" },
        { "too early done", "2 of 6.", "done\n",
          "too few positions: y up, y down, z up, z down are", 2, "" },
        { "unplugged for good", "2 of 6.", "", "sensor 'motion': nothing answered", 1,
          "fault motion { kind = \"unplugged\" from = \"24s\" to = \"9000s\" }\n" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct terminal t;
        struct position of[] = { { 10, X_UP }, { 10, X_DOWN }, { 600, Z_UP } };
        /* Where somebody types, the third position never comes still. */
        of[2].xyz[0] = rows[i].fault[0] ? 0 : 5;
        of[2].xyz[1] = rows[i].fault[0] ? 0 : 5;
        char *folder = lay(of, 3, rows[i].fault);
        sit_down(&t, folder, "calibrate --rig r.rig motion.accel --for 1h");
        EXPECT(wait_for(&t, rows[i].after), "%s: %s", rows[i].name, t.said->str);
        type(&t, rows[i].typed);
        int status = stand_up(&t);
        EXPECT(status == rows[i].status && strstr(t.said->str, rows[i].said), "%s: status %d: %s",
               rows[i].name, status, t.said->str);
        EXPECT(!kept(folder), "%s: nothing is kept", rows[i].name);
        char *progress = file_text(folder, "r.motion.accel.calibrating.json");
        EXPECT(strstr(progress, "\"x up\"") && strstr(progress, "\"x down\""),
               "%s: what was taken waits: %s", rows[i].name, progress);
        g_free(progress);
        g_string_free(t.said, TRUE);
        scratch_remove(folder);
    }
}

/* The same command goes on where it was broken off; back and again take a position once more. */
static void gone_on(void)
{
    const struct position half[] = { { 10, X_UP }, { 10, X_DOWN }, { 10, Y_UP } };
    const struct position other[] = { { 10, Y_DOWN }, { 10, Z_UP }, { 30, Z_DOWN } };
    char *folder = lay(half, COUNT(half), "");
    char *next = lay(other, COUNT(other), "");
    struct terminal t;
    expect_said(folder, "calibrate --rig r.rig motion.accel --for 60s --yes </dev/null", 2,
                "too few positions: y down, z up, z down are missing; the same command goes on");
    char *world = file_text(next, "w");
    file_write(folder, "w", world);
    sit_down(&t, folder, "calibrate --rig r.rig motion.accel --yes");
    expect_on(&t, "3 positions are there from before; --afresh takes all anew.");
    expect_on(&t, "6 of 6.");
    CU_ASSERT_EQUAL(stand_up(&t), 0);
    CU_ASSERT_TRUE(kept(folder));
    g_string_free(t.said, TRUE);
    expect_said(folder, "calibrate --rig r.rig motion.accel --for 30s --yes </dev/null", 2,
                "too few positions: x up, x down, y up"); /* it was used up */

    char *again = lay(all_six, COUNT(all_six), "");
    file_write(again, "answer", "y\n"); /* before it is asked */
    expect_said(again, "calibrate --rig r.rig motion.accel < answer", 0, "kept in");
    file_write(again, "lines", "tilt\nback\nagain x up\nquit\n");
    struct said said = tool(again, "calibrate --rig r.rig motion.accel < lines");
    EXPECT(said.status == 3 && strstr(said.err, "Type 'again'")
               && strstr(said.err, "That one was not taken yet."),
           "status %d: %s", said.status, said.err);
    said_free(&said);
    g_free(world);
    scratch_remove(folder);
    scratch_remove(next);
    scratch_remove(again);
}

/* No room for the file: what was taken is kept by nobody then, and it is said in time. */
static void disk_full(void)
{
    char *folder = lay(all_six, COUNT(all_six), "");
    struct said said;
    if (in_little_room(folder, "8k",
                       "cp w r.rig /mnt 2>/dev/null; cd /mnt && cat /dev/zero > filler 2>/dev/null;"
                       "$TOOL calibrate --rig r.rig motion.accel --yes </dev/null",
                       &said)) {
        EXPECT(said.status == 3 && strstr(said.err, "No space left on device"), "status %d: %s",
               said.status, said.err);
        EXPECT(strstr(said.err, "go on, but don't leave before the end"), "in time: %s", said.err);
        EXPECT(strstr(said.out, "bias            +0.03"), "the outcome is there to be typed: %s",
               said.out);
    }
    said_free(&said);
    scratch_remove(folder);
}

/* A gyroscope at rest, and one that isn't. */
static void at_rest(void)
{
    char *folder = lay(all_six, COUNT(all_six), "");
    struct said said = tool(folder, "calibrate --rig r.rig motion.rate --yes </dev/null");
    EXPECT(said.status == 0 && strstr(said.out, "offset         -1.1") /* 0.02 rad/s */,
           "status %d: %s%s", said.status, said.out, said.err);
    said_free(&said);
    /* Of a run the stretch in which nobody moved it; a boat's has none. */
    said = tool(folder, "log --rig r.rig --for 30s --every 50ms -q --into runs");
    said_free(&said);
    expect_said(folder, "calibrate --rig r.rig motion.rate --run 1 --yes", 0, "rest");
    scratch_remove(folder);
    folder = scratch_make();
    said = tool(folder, "log --demo --for 2min --every 1s -q");
    said_free(&said);
    expect_said(folder, "calibrate --demo motion.rate --run 1 --samples 60 --yes", 2,
                "of 60 without being disturbed");
    scratch_remove(folder);
    expect_said(NULL, "calibrate --demo motion.rate --for 20s --yes </dev/null", 2,
                "Lay the gyroscope down and don't touch it");
}

/* A magnetometer turned through all directions in a field of 48 uT: a spiral from pole to pole. */
static void turned_freely(void)
{
    char *folder = scratch_make();
    GString *world = g_string_new("began = \"2026-06-12T00:00:00Z\"\nseed = 4\n");
    for (unsigned axis = 0; axis < 3; axis++) {
        g_string_append_printf(world, "quantity field-%c { points = { ", "xyz"[axis]);
        for (unsigned i = 0; i <= 240; i++) {
            double height = 1 - i / 120.0;
            double flat = sqrt(1 - height * height);
            const double u[3] = { flat * cos(i * 0.4), flat * sin(i * 0.4), height };
            g_string_append_printf(world, "%s\"%gs %.4g\"", i ? ", " : "", i * 0.25,
                                   48e-6 * u[axis]);
        }
        g_string_append(world, " } }\n");
    }
    g_string_append(world,
                    "quantity none { level = 0 }\nquantity g { level = 9.8 }\n"
                    "chip m { part = \"ICM20948\" bus = \"b\" select = \"S\" feels = { "
                    "\"mag-x=field-x\", \"mag-y=field-y\", \"mag-z=field-z\", \"accel-z=g\" } "
                    "errors = { \"mag-x=12e-6\", \"mag-y=-21e-6\", \"mag-z=9e-6\" } }\n");
    file_write(folder, "w", world->str);
    file_write(folder, "r.rig",
               "board { world = \"w\" }\n"
               "bus b { kind = \"spi\" data = \"O\" data-in = \"I\" clock = \"C\" }\n"
               "sensor m { part = \"ICM20948\" bus = \"b\" select = \"S\" }\n");
    struct said said =
        tool(folder, "calibrate --rig r.rig m.mag --field 48uT --every 100ms --samples "
                     "500 --yes </dev/null");
    const char *bias = strstr(said.out, "bias");
    double found[3] = { 0, 0, 0 };
    EXPECT(said.status == 0 && bias
               && sscanf(bias, "bias %lf %lf %lf", found, found + 1, found + 2) == 3,
           "status %d: %s%s", said.status, said.out, said.err);
    EXPECT(fabs(found[0] - 12) < 0.5 && fabs(found[1] + 21) < 0.5 && fabs(found[2] - 9) < 0.5,
           "bias %g %g %g uT", found[0], found[1], found[2]);
    said_free(&said);
    expect_said(folder,
                "calibrate --rig r.rig m.mag --field 4.8uT --every 100ms --samples 500 --yes "
                "</dev/null",
                2, "or the field's strength");
    g_string_free(world, TRUE);
    scratch_remove(folder);
}

/* From a run that was logged meanwhile, with nobody there: the same as live, within its noise. */
static void from_a_run(void)
{
    char *folder = lay(all_six, COUNT(all_six), "");
    struct said logged = tool(folder, "log --rig r.rig --every 50ms --for 90s --quiet --into runs");
    EXPECT(logged.status == 0, "%s", logged.err);
    said_free(&logged);
    expect_said(folder, "calibrate --rig r.rig motion.accel --run 1 --yes", 0,
                "bias            +0.03");
    expect_said(folder, "calibrate --rig r.rig motion.accel-z --run 1 -m orientations </dev/null",
                1, "was fitted behind what is there now");
    scratch_remove(folder);
}

/* An axis that is off by about one g: it feels no gravity, and lies still. Somebody says how. */
static void far_off(void)
{
    static const struct position one[] = { { 6000, X_UP } };
    struct terminal t;
    char *folder = lay(one, 1, "");
    char *world = file_text(folder, "w");
    GString *off = g_string_new(world);
    CU_ASSERT_EQUAL(g_string_replace(off, "accel-z=0.15", "accel-z=9.5", 1), 1);
    file_write(folder, "w", off->str);
    sit_down(&t, folder, "calibrate --rig r.rig motion.accel --for 3h");
    expect_on(&t, "It lies still, feels 1.4");
    expect_on(&t, "Where you trust it, type which axis points where, as in 'x up'.");
    type(&t, "x up\n");
    expect_on(&t, "Measured as x up, as you say. Keep your hands off.");
    expect_on(&t, "Taken: x up, 1.0");
    type(&t, "x up\n");
    expect_on(&t, "x up was taken already; type 'again x up' first.");
    type(&t, "y down\n"); /* but it was not turned */
    expect_on(&t, "No need to say so:");
    type(&t, "quit\n");
    CU_ASSERT_EQUAL(stand_up(&t), 3);
    g_string_free(off, TRUE);
    g_string_free(t.said, TRUE);
    g_free(world);
    scratch_remove(folder);
}

/* The same sensor's six positions, as whoever wants them taken says. */
static void told_positions(void)
{
    struct pintle_positions p = { .wanted = 0x3f,
                                  .samples = 20,
                                  .settle = 5,
                                  .gravity = (float)G,
                                  .still = { .axes = 3, .limit = 0.5f } };
    struct pintle_calibration c;
    struct pintle_problem problem = { 0 };
    enum pintle_position is = PINTLE_POSITION_TURNING;
    pintle_positions_begin(&p);
    for (int face = 0; face < PINTLE_FACES; face++) {
        float xyz[3] = { 0.3f, -0.2f, 9.5f };
        xyz[face / 2] += face % 2 ? -(float)G : (float)G;
        xyz[(face / 2 + 1) % 3] += face % 2 ? 0.004f : -0.002f; /* not quite level */
        const float turned[3] = { 3, 3, 3 };
        (void)pintle_positions_add(&p, turned, true);
        CU_ASSERT_FALSE(pintle_positions_tell(&p, face)); /* it moves */
        for (int i = 0; i < 40; i++) {
            is = pintle_positions_add(&p, xyz, true);
            if (is == PINTLE_POSITION_NOT_GRAVITY || is == PINTLE_POSITION_TILTED) {
                CU_ASSERT_TRUE(pintle_positions_tell(&p, face));
            }
        }
        EXPECT(p.taken >> face & 1, "%s", pintle_face_word(face));
    }
    CU_ASSERT_EQUAL(p.taken, 0x3f);
    CU_ASSERT_TRUE(pintle_positions_solve(&p, &c, &problem));
    static const float biases[3] = { 0.3f, -0.2f, 9.5f };
    for (unsigned i = 0; i < 3; i++) {
        EXPECT_NEAR((double)c.numbers[i], (double)biases[i], 1e-3, "bias");
        EXPECT_NEAR((double)c.numbers[3 + 4 * i], 1, 1e-3, "scale");
    }
    /* A bias is the mean of six; a share of scale or between axes a difference of two, over 2 g. */
    EXPECT(c.residual > 1e-4, "%g", c.residual);
    for (unsigned i = 0; i < 12; i++) {
        double divided = i < 3 ? sqrt(6) : sqrt(2) * G;
        EXPECT_NEAR(c.deviation[i] * divided / c.residual, 1, 1e-3, "standard deviation");
    }
}

/* Points: each settles first; what was typed can be taken back. */
static void points(void)
{
    struct terminal t;
    char *folder = scratch_make();
    sit_down(&t, folder, "calibrate --demo cabin.temperature --settle 20s");
    expect_on(&t, "Put sensor and reference side by side");
    expect_on(&t, "reference? ");
    type(&t, "15.0\n");
    expect_on(&t, "scatter");
    type(&t, "back\nwarm\n");
    expect_on(&t, "The last pair is forgotten.");
    expect_on(&t, "That is no number; nothing was taken.");
    type(&t, "15.1\nwait 6h\n12.9\ndone\n");
    expect_on(&t, "method         line");
    type(&t, "n\n");
    CU_ASSERT_EQUAL(stand_up(&t), 1);
    EXPECT(!strstr(t.said->str, "15.000       "), "the first is gone: %s", t.said->str);
    g_string_free(t.said, TRUE);

    sit_down(&t, folder, "calibrate --demo cabin.temperature --settle 20s");
    expect_on(&t, "reference? ");
    type(&t, "15.0\nquit\n");
    CU_ASSERT_EQUAL(stand_up(&t), 3);
    EXPECT(strstr(t.said->str, "the pairs so far, to go on with: 15."), "%s", t.said->str);
    g_string_free(t.said, TRUE);
    scratch_remove(folder);
    expect_said(NULL, "calibrate --demo icebox.temperature --settle 20min </dev/null", 2,
                "It does not settle");
}

void add_guided_suite(void)
{
    SUITE("guided", { "led through", led_through }, { "mistakes", mistakes },
          { "far off", far_off }, { "told positions", told_positions },
          { "broken off", broken_off }, { "gone on", gone_on }, { "a full disk", disk_full },
          { "at rest", at_rest }, { "turned freely", turned_freely }, { "from a run", from_a_run },
          { "points", points });
}
