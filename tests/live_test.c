/* 'pintle live' as somebody sees it at a terminal: a screen is made of its bytes and looked at. And
 * what it computes: settling, tendencies, dots. */
#include "terminal.h"

#include <glib/gstdio.h>
#include <signal.h>

#include "pintle/host/watch/dots.h"

#define SMALL 24, 80, "LC_ALL=C.UTF-8 TERM=vt100"
#define PLAIN 24, 80, "LC_ALL=C NO_COLOR=1 TERM=vt100"

static void end_with(struct terminal *t, const char *keys)
{
    type(t, keys);
    int status = stand_up(t);
    EXPECT(status == 0, "status %d behind '%s'", status, keys);
    g_string_free(t->said, TRUE);
}

/* Every view, by its key. */
static void views(void)
{
    static const struct {
        const char *key;
        const char *shown[4];
    } rows[] = {
        { "o", { "cabin.temperature", "least", "greatest", "ago" } },
        { "c", { "what it does", "changed", "battery.house", "cabin.humidity" } },
        { "d", { "difference", "cabin.temperature", "baro.temperature", "ago" } },
        { "b", { "deck.illuminance", "moonlight", "bilge.distance", "battery.house" } },
        { "a", { "boat.heel", "boat.trim", "boat.heading 2", "???" } },
        { "w", { "baro.pressure", "half an hour", "cabin.humidity", "w weather" } },
        { "t", { "lately", "cabin.temperature", "%RH", "1018." } },
    };
    static const char *const kinds[] = { "LC_ALL=C.UTF-8 TERM=xterm",
                                         "LC_ALL=C NO_COLOR=1 TERM=vt100" };
    for (size_t k = 0; k < COUNT(kinds); k++) {
        struct terminal t;
        char *folder = scratch_make();
        sit_down_at(&t, folder, "live --demo --pace 8", 24, 80, kinds[k]);
        expect_line(&t, "sloop  2026-06-12 00:00:0");
        for (size_t i = 0; i < COUNT(rows); i++) {
            type(&t, rows[i].key);
            for (size_t s = 0; s < COUNT(rows[i].shown); s++) {
                bool dots = strcmp(rows[i].shown[s], "???") == 0;
                expect_line(&t, dots && k == 1 ? ":" : rows[i].shown[s]);
            }
        }
        EXPECT(k == 0 || !strstr(t.said->str, "\033[31m"), "no colours where nobody wants them");
        end_with(&t, "q");
        scratch_remove(folder);
    }
}

/* Choosing, zooming, holding, the pace; a key that does nothing says so. */
static void keys(void)
{
    struct terminal t;
    char *folder = scratch_make();
    sit_down_at(&t, folder, "live --demo --pace 4", SMALL);
    expect_line(&t, "> cabin.temperature");
    type(&t, "\033OB"); /* down */
    expect_line(&t, "> cabin.humidity");
    type(&t, "m");
    expect_line(&t, ">*cabin.humidity");
    type(&t, "jjjj");
    expect_line(&t, "> clock.temperature");
    type(&t, "k");
    expect_line(&t, "> baro.humidity");
    type(&t, "m");
    type(&t, "d"); /* the two that are marked */
    expect_line(&t, "difference");
    EXPECT(on_screen(&t, "baro.humidity") && on_screen(&t, "cabin.humidity"), "the marked pair");
    type(&t, "tjjjjjjjjjjjjjjjjjjjjjjjjj"); /* lines further down come into sight */
    expect_line(&t, "well.water");
    type(&t, "o");
    expect_line(&t, "well.water");
    expect_line(&t, "ago");
    type(&t, "+");
    expect_line(&t, "x8");
    type(&t, "-");
    expect_line(&t, "x4");
    type(&t, " ");
    expect_line(&t, "HELD");
    type(&t, " ");
    expect_gone(&t, "HELD");
    type(&t, "y");
    expect_line(&t, "no such key; q quits");
    end_with(&t, "q");
    scratch_remove(folder);
}

/* Hundredths of a degree within seconds: the graph's scale is as fine as that. */
static void fine_graph(void)
{
    struct terminal t;
    char *folder = scratch_make();
    sit_down_at(&t, folder, "live --demo cabin.temperature --view one --pace 4", SMALL);
    expect_line(&t, "10 s ago");
    double high = 0;
    double low = 0;
    for (unsigned r = 5; r < 22; r++) {
        double value = strtod(t.cell[r], NULL);
        char *end = strchr(t.cell[r], '-');
        if (end && value > 10) {
            high = high == 0 ? value : high;
            low = value;
        }
    }
    EXPECT(high > low && high - low < 0.2, "from %g to %g", low, high);
    end_with(&t, "q");
    scratch_remove(folder);
}

static void resized(void)
{
    struct terminal t;
    char *folder = scratch_make();
    sit_down_at(&t, folder, "live --demo --pace 4", SMALL);
    expect_line(&t, "q quit");
    EXPECT(!on_screen(&t, "well.water"), "24 lines are too few for all");
    resize(&t, 50, 150);
    expect_line(&t, "well.water");
    resize(&t, 6, 30);
    expect_line(&t, "40 x 8 at least");
    resize(&t, 24, 80);
    expect_line(&t, "q quit");
    end_with(&t, "q");
    scratch_remove(folder);
}

/* A plug is pulled and pushed home: said, the others go on, and it comes back. */
static void unplugged(void)
{
    struct terminal t;
    char *folder = scratch_make();
    sit_down_at(&t, folder, "live --demo --at 15h20m25s --pace 8 sea cabin", SMALL);
    expect_line(&t, "sea.temperature        14.");
    expect_line(&t, "1 sensor is silent");
    expect_line(&t, "bus");
    EXPECT(on_screen(&t, "sea.temperature              - degC"), "no number where there is none");
    type(&t, "+++++++");
    type(&t, "w");
    expect_gone(&t, "1 sensor is silent");
    type(&t, "t");
    expect_line(&t, "sea.temperature        14.");
    end_with(&t, "q");
    scratch_remove(folder);
}

/* Rounds shown, records stored; a note goes into the run. */
static void logging(void)
{
    struct terminal t;
    char *folder = scratch_make();
    sit_down_at(&t, folder,
                "live --demo --pace 64 --log --store-every 2min --database l.db --title dusk",
                PLAIN);
    expect_line(&t, "run 1: 2 records");
    type(&t, "nhatch clx\177osed");
    expect_line(&t, "note: hatch closed_");
    type(&t, "\n");
    expect_line(&t, "noted: hatch closed");
    type(&t, "n never\033");
    expect_gone(&t, "note:");
    type(&t, "q");
    int status = stand_up(&t);
    EXPECT(status == 0 && strstr(t.said->str, "run 0001: "), "status %d", status);
    g_string_free(t.said, TRUE);
    expect_said(folder, "runs --demo", 0, "dusk");
    expect_said(folder, "summary --demo", 0, "note: hatch closed");
    expect_said(folder, "summary --in l.db", 0, "note: hatch closed");
    char *text = file_text(folder, "sloop-runs/0001/readings.csv");
    EXPECT(strstr(text, "1,2026-06-12T00:02:00Z") && strstr(text, "2,2026-06-12T00:04:00Z"), "%s",
           text);
    char *notes = file_text(folder, "sloop-runs/0001/notes.csv");
    EXPECT(!strstr(notes, "never"), "an escape takes it back: %s", notes);
    sit_down_at(&t, folder, "live --demo --pace 600 --log --for 10min", PLAIN);
    status = stand_up(&t);
    EXPECT(status == 0 && strstr(t.said->str, "10 records"), "it ends by itself: %d", status);
    g_string_free(t.said, TRUE);
    g_free(notes);
    g_free(text);
    scratch_remove(folder);
}

/* The picture is held, the log is not: its records go on, and none is missing. A signal ends it as
 * one, as it does in 'log'. */
static void held(void)
{
    struct terminal t;
    char *folder = scratch_make();
    sit_down_at(&t, folder, "live --demo cabin --pace 256 --log --store-every 2min", SMALL);
    expect_line(&t, "run 1: 2 records");
    type(&t, " ");
    expect_line(&t, "HELD");
    char head[SCREEN_COLUMNS + 1];
    g_strlcpy(head, strstr(t.cell[0], "2026"), 20); /* the time */
    char row[SCREEN_COLUMNS + 1];
    g_strlcpy(row, t.cell[2], sizeof row);
    EXPECT(strstr(row, "cabin.temperature") != NULL, "%s", row);
    expect_line(&t, "run 1: 9 records");
    EXPECT(strstr(t.cell[0], head) && on_screen(&t, "HELD"), "%s: %s", head, t.cell[0]);
    EXPECT(strcmp(row, t.cell[2]) == 0, "%s, not %s", t.cell[2], row);
    type(&t, "nheld\n");
    expect_line(&t, "noted: held");
    type(&t, " ");
    expect_gone(&t, "HELD");
    expect_gone(&t, head);
    kill(t.child, SIGTERM);
    int status = stand_up(&t);
    EXPECT(status == 0 && strstr(t.said->str, "stopped by a signal"), "%d", status);
    EXPECT(!strstr(t.said->str, "missed"), "a slot for each record");
    g_string_free(t.said, TRUE);
    char *text = file_text(folder, "sloop-runs/0001/run.json");
    EXPECT(strstr(text, "\"interrupted\""), "%s", text);
    g_free(text);
    text = file_text(folder, "sloop-runs/0001/notes.csv");
    EXPECT(strstr(text, "held") && !strstr(text, head), "the note's time is its own: %s", text);
    g_free(text);
    scratch_remove(folder);
}

/* A run as it was, faster; to its end, where it stays to be looked at. */
static void played_back(void)
{
    struct terminal t;
    char *folder = scratch_make();
    expect_said(folder,
                "log --demo --for 6h --quiet --title \"a morning, whose title is longer than the "
                "line that it stands in, and makes room\"",
                0, "360 records");
    sit_down_at(&t, folder, "live --demo --play 1 --pace 40000 --view weather", PLAIN);
    expect_line(&t, "run 1: a morning, whose");
    expect_line(&t, "THE END");
    expect_line(&t, "2026-06-12 06:00:00");
    expect_line(&t, "falling slowly"); /* 1018.29 to 1017.65 hPa, docs of the world */
    type(&t, "nseen again\n");
    expect_line(&t, "noted: seen again");
    end_with(&t, "q");
    expect_said(folder, "summary --demo 1", 0, "2026-06-12 06:00:00  note: seen again");
    expect_said(folder, "log --demo --for 1h --quiet && mv sloop-runs/0002 \"$(printf 'b\\351')\"",
                0, "60 records");
    sit_down_at(&t, folder, "live --demo --play ./b* --pace 40000", PLAIN);
    expect_line(&t, "run ./b");
    expect_line(&t, "THE END");
    end_with(&t, "q");
    scratch_remove(folder);
}

static void mistakes(void)
{
    static const struct {
        const char *arguments;
        int status;
        const char *said;
    } rows[] = {
        { "live --demo", 2, "draws on a terminal" },
        { "live --demo rudder", 2, "no channel 'rudder' in sloop" },
        { "live --demo --view horizon", 2, "--view is one of table" },
        { "live --demo --threshold deck.illuminance", 2, "--threshold takes" },
        { "live --demo --threshold deck.illuminance=5m", 2, "illuminance" },
        { "live --demo --play 4", 2, "no run" },
        { "live --demo --play 1 --log", 2, "are for a rig" },
        { "live --demo --play 1 --for 1h", 2, "are for a rig" },
        { "live --demo --last 6h", 2, "--play plays it" },
        { "live --demo --into x", 2, "--log asks for it" },
        { "live --demo --pace -1", 2, "above 0" },
        { "live --demo --every soon", 2, "duration" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        expect_said(folder, rows[i].arguments, rows[i].status, rows[i].said);
    }
    struct terminal t;
    sit_down_at(&t, folder, "live --demo", 24, 80, "TERM=oilskin");
    expect_on(&t, "nobody here knows a terminal 'oilskin'");
    CU_ASSERT_EQUAL(stand_up(&t), 2);
    g_string_free(t.said, TRUE);
    sit_down_at(&t, folder, "live --demo --log --into /dev/null/x", SMALL);
    expect_on(&t, "cannot write /dev/null/x");
    CU_ASSERT_EQUAL(stand_up(&t), 3);
    g_string_free(t.said, TRUE);
    scratch_remove(folder);
}

/* --- what it computes --- */

static void add(struct pintle_trail *t, double time, double value, bool good)
{
    struct pintle_cell cell = { .value = value, .least = value, .greatest = value, .good = good };
    cell.suspect = !good;
    pintle_trail_add(t, time, &cell);
}

/* Exponentials of known ends, with noise; ramps; what only wavers. */
static void settling(void)
{
    static const struct {
        const char *name;
        double start, end, tau, noise, slope;
        enum pintle_settle_kind kind;
    } rows[] = {
        { "cools down", 25, 20, 60, 0.01, 0, PINTLE_SETTLE_SOON },
        { "warms up", 10, 22, 100, 0.01, 0, PINTLE_SETTLE_SOON },
        { "is there", 20, 20, 60, 0.02, 0, PINTLE_SETTLE_STEADY },
        { "goes on and on", 20, 20, 60, 0.01, 0.02, PINTLE_SETTLE_MOVING },
        { "grows", 20, 20.5, -80, 0.01, 0, PINTLE_SETTLE_MOVING },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_trail t;
        srand(11);
        pintle_trail_init(&t, PINTLE_QUANTITY_TEMPERATURE, 256);
        double value = 0;
        for (int s = 0; s <= 120; s++) {
            value = rows[i].end + (rows[i].start - rows[i].end) * exp(-s / rows[i].tau)
                    + rows[i].slope * s;
            add(&t, s, value + rows[i].noise * (rand() % 201 - 100) / 100.0, true);
        }
        struct pintle_settle settle = pintle_trail_settle(&t, 120, 0.05);
        EXPECT(settle.kind == rows[i].kind, "%s: %d", rows[i].name, (int)settle.kind);
        if (rows[i].kind == PINTLE_SETTLE_SOON) {
            double left = rows[i].end - value;
            double seconds = rows[i].tau * log(fabs(left) / 0.05);
            EXPECT(fabs(settle.by - left) < 0.1 * fabs(left), "%s: by %g, not %g", rows[i].name,
                   settle.by, left);
            EXPECT(fabs(settle.seconds - seconds) < 0.15 * seconds, "%s: in %g s, not %g",
                   rows[i].name, settle.seconds, seconds);
        }
        pintle_trail_free(&t);
    }
    struct pintle_trail t;
    pintle_trail_init(&t, PINTLE_QUANTITY_TEMPERATURE, 64);
    for (int s = 0; s < 60; s++) {
        add(&t, s, 20 + s, s < 8); /* the rest is suspect */
    }
    CU_ASSERT_EQUAL(pintle_trail_settle(&t, 60, 0.1).kind, PINTLE_SETTLE_UNKNOWN);
    CU_ASSERT_EQUAL(t.suspect, 52);
    EXPECT_NEAR(t.greatest, 27, 1e-12, "suspect ones are in no figure");
    pintle_trail_free(&t);
}

/* The terms of sea area forecasts: slowly up to 1.5 hPa in three hours, quickly from 3.6, very
 * rapidly beyond 6.0. */
static void tendencies(void)
{
    static const struct {
        double pa; /* in three hours */
        const char *words;
    } rows[] = { { 4, "steady" },
                 { -4, "steady" },
                 { 10, "rising slowly" },
                 { 150, "rising slowly" },
                 { 160, "rising" },
                 { 350, "rising" },
                 { 360, "rising quickly" },
                 { 600, "rising quickly" },
                 { 610, "rising very rapidly" },
                 { -150, "falling slowly" },
                 { -170, "falling" },
                 { -400, "falling quickly" },
                 { -900, "falling very rapidly" } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_trail t;
        pintle_trail_init(&t, PINTLE_QUANTITY_PRESSURE, 16);
        for (int minute = -120; minute <= 180; minute++) { /* what was before doesn't matter */
            add(&t, 60.0 * minute, 101000 + (minute < 0 ? 700 : rows[i].pa * minute / 180), true);
            add(&t, 60.0 * minute + 5, 50000, false);
        }
        struct pintle_tendency tendency = pintle_trail_tendency(&t);
        EXPECT(tendency.known && strcmp(tendency.words, rows[i].words) == 0, "%g Pa: %s",
               rows[i].pa, tendency.known ? tendency.words : "unknown");
        EXPECT_NEAR(tendency.over_s, 10800, 60, "three hours");
        EXPECT_NEAR(tendency.change, rows[i].pa, 12, "its change");
        pintle_trail_free(&t);
    }
    struct pintle_trail t;
    pintle_trail_init(&t, PINTLE_QUANTITY_HUMIDITY, 16);
    for (int minute = 0; minute <= 20; minute++) {
        add(&t, 60.0 * minute, 50 + minute, true);
    }
    CU_ASSERT_FALSE(pintle_trail_tendency(&t).known);
    for (int minute = 21; minute <= 60; minute++) {
        add(&t, 60.0 * minute, 50 + minute / 4.0, true);
    }
    CU_ASSERT_STRING_EQUAL(pintle_trail_tendency(&t).words, "rising quickly");
    for (int minute = 61; minute <= 90; minute++) { /* the sensor is gone: nothing is known */
        add(&t, 60.0 * minute, 0, false);
    }
    CU_ASSERT_FALSE(pintle_trail_tendency(&t).known);
    pintle_trail_free(&t);
}

/* North is no step: the scale of a heading is as wide as she swings, and what is shown is a
 * heading. */
static void across_north(void)
{
    struct pintle_trail t;
    double low = 0;
    double high = 0;
    pintle_trail_init(&t, PINTLE_QUANTITY_ANGLE, 1024);
    for (int s = 0; s <= 120; s++) { /* from 350 to 10, one turn later */
        double heading = 350 + s / 6.0;
        add(&t, s, heading >= 360 ? heading - 360 : heading, true);
        for (int k = 1; k < 4; k++) { /* what walks round is suspect, and turns nothing */
            add(&t, s + 0.2 * k, 110 * k, false);
        }
    }
    CU_ASSERT_TRUE(pintle_trail_ends(&t, 0, 0, &low, &high));
    EXPECT_NEAR(high - low, 20, 1e-9, "the swing");
    EXPECT_NEAR(pintle_trail_shown(&t, t.least), 350, 1e-9, "the least");
    EXPECT_NEAR(pintle_trail_shown(&t, t.greatest), 10, 1e-9, "the greatest");
    struct pintle_settle settle = pintle_trail_settle(&t, 120, 0.1);
    EXPECT(settle.kind == PINTLE_SETTLE_MOVING && fabs(settle.by - 1 / 6.0) < 0.01,
           "%d, %g a second", (int)settle.kind, settle.by);
    pintle_trail_free(&t);
    pintle_trail_init(&t, PINTLE_QUANTITY_ANGLE, 256); /* a heel stays around 0 */
    for (int s = 0; s <= 20; s++) {
        add(&t, s, s - 10, true);
    }
    EXPECT_NEAR(pintle_trail_shown(&t, t.least), -10, 1e-9, "heel");
    pintle_trail_free(&t);
}

/* A gap stays open; what is outside is left out; text with and without Braille. */
static void dots(void)
{
    struct pintle_trail t;
    struct pintle_dots d;
    pintle_trail_init(&t, PINTLE_QUANTITY_TEMPERATURE, 8);
    pintle_dots_init(&d, 4, 1);
    add(&t, 0, 0, true);
    add(&t, 1, 0, true);
    add(&t, 2, 9, false);
    add(&t, 7, 3, true);
    pintle_dots_trail(&d, &t, 0, 0, 3, 2);
    static const uint8_t wanted[4] = { 0xc0, 0, 0, 0x08 };
    CU_ASSERT_EQUAL(memcmp(d.cell, wanted, 4), 0);
    pintle_dots_set(&d, -1, 0);
    pintle_dots_set(&d, 8, 0);
    pintle_dots_line(&d, 0, -50, NAN, 3);
    CU_ASSERT_EQUAL(memcmp(d.cell, wanted, 4), 0);
    char text[4];
    pintle_dots_text(0xc0, true, text);
    CU_ASSERT_STRING_EQUAL(text, "⣀");
    pintle_dots_text(0xc0, false, text);
    CU_ASSERT_STRING_EQUAL(text, ".");
    pintle_dots_text(0, true, text);
    CU_ASSERT_STRING_EQUAL(text, " ");
    pintle_dots_free(&d);
    pintle_trail_free(&t);
}

/* Heeled to starboard the mast leans to the right, seen from astern; with the bow up it leans aft.
 */
static void hull(void)
{
    for (int astern = 0; astern < 2; astern++) {
        struct pintle_dots d;
        pintle_dots_init(&d, 20, 10);
        pintle_dots_hull(&d, 30, astern);
        unsigned left = 0;
        unsigned right = 0;
        for (unsigned i = 0; i < 20 * 3; i++) { /* the upper rows have nothing but the mast */
            left += d.cell[i] && i % 20 < 9;
            right += d.cell[i] && i % 20 > 10;
        }
        EXPECT(astern ? right > 0 && left == 0 : left > 0 && right == 0, "%u left, %u right", left,
               right);
        pintle_dots_free(&d);
    }
}

void add_live_suite(void)
{
    SUITE("live", { "views", views }, { "keys", keys }, { "fine graph", fine_graph },
          { "resized", resized }, { "unplugged", unplugged }, { "logging", logging },
          { "held", held }, { "played back", played_back }, { "mistakes", mistakes },
          { "settling", settling }, { "tendencies", tendencies }, { "across north", across_north },
          { "dots", dots }, { "hull", hull });
}
