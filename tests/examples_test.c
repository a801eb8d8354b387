/* The examples are built and run, and say what their pages promise. */
#include "support.h"

static void run_example(const char *name, const char *const *promised)
{
    char *folder = scratch_make();
    char *line = g_strdup_printf("%s/%s", EXAMPLES, name);
    char *argv[] = { line, NULL };
    char *out = NULL;
    int status = -1;
    EXPECT(g_spawn_sync(folder, argv, NULL, G_SPAWN_DEFAULT, NULL, NULL, &out, NULL, &status, NULL),
           "%s runs", name);
    EXPECT(status == 0, "%s: status %d", name, status);
    for (; *promised; promised++) {
        EXPECT(out && strstr(out, *promised) != NULL, "%s: no '%s' in %s", name, *promised, out);
    }
    g_free(out);
    g_free(line);
    scratch_remove(folder);
}

static void first_reading(void)
{
    static const char *const promised[] = { " degC from raw ",
                                            "time,temperature Cel,temperature quality\r\n",
                                            "2026-06-12T00:00:00Z,", ",good\r\n", NULL };
    run_example("first_reading", promised);
}

static void water_tank(void)
{
    static const char *const promised[] = { "ten in the morning", "the sun is on port",
                                            "starboard (0x49)  nothing answered",
                                            "pushed home again", NULL };
    run_example("water_tank", promised);
}

static void probes_on_a_line(void)
{
    static const char *const promised[] = { "found: 3 of 3", "a plug came off: 2 of 3",
                                            "..22  nothing answered", "pushed home again: 3 of 3",
                                            NULL };
    run_example("probes_on_a_line", promised);
}

static void heel_and_trim(void)
{
    static const char *const promised[] = { "heel     12.", "trim     1.", "battery  12.", NULL };
    run_example("heel_and_trim", promised);
}

static void level_the_sloop(void)
{
    static const char *const promised[] = { "bias       0.35 -0.25 0.40 m/s2",
                                            "as it came heel 10.", "corrected  heel 12.",
                                            "trim  2.", NULL };
    run_example("level_the_sloop", promised);
}

static void two_thermometers(void)
{
    static const char *const promised[] = { "offset -0.198 degC", "offset +0.250 degC",
                                            "they differ by +0.4", "by +0.01", NULL };
    run_example("two_thermometers", promised);
}

static void calibrate_on_chip(void)
{
    static const char *const promised[] = { "a new memory: bad-crc", "gain 1.00",
                                            "cut off: no-answer",    "from the memory: ok",
                                            "corrected 19.9",        NULL };
    run_example("calibrate_on_chip", promised);
}

static void swing_the_compass(void)
{
    static const char *const promised[] = { "bias 12.0 -21.0 9.0 uT", "she heads  40:", "135.",
                                            NULL };
    run_example("swing_the_compass", promised);
}

static void light_meter(void)
{
    static const char *const promised[] = { "lx  good  moonlight", "lx  good  office",
                                            "lx  good  sun           =====", NULL };
    run_example("light_meter", promised);
}

static void motion_burst(void)
{
    static const char *const promised[] = { "its memory lasts 73 ms",
                                            "0 lost in 0 gaps, hardest 4.", "in 1 gap, hardest 4.",
                                            " g at 1.200 s", NULL };
    run_example("motion_burst", promised);
}

static void altitude(void)
{
    static const char *const promised[] = { " 60 s    1009.6 hPa      14.0 m up", "30.2 m",
                                            "m up on average", NULL };
    run_example("altitude", promised);
}

static void from_datasheet(void)
{
    static const char *const promised[] = { "described  raw 20", "as a part  raw 20",
                                            "they say the same", NULL };
    run_example("from_datasheet", promised);
}

static void night_watch(void)
{
    static const char *const promised[] = { "night-watch/0001: 26 records",
                                            "first record at 20:10",
                                            "last  record at 00:20",
                                            "night-watch/0002: 28 records",
                                            "first record at 01:30",
                                            "last  record at 06:00",
                                            NULL };
    run_example("night_watch", promised);
}

static void sea_and_air(void)
{
    static const char *const promised[] = { "air ",
                                            "rising",
                                            "falling",
                                            "cabin follows air by 1.5 h",
                                            "bilge follows air by 5.0 h",
                                            "bilge follows cabin by 3.5 h",
                                            "sea does not follow air",
                                            NULL };
    run_example("sea_and_air", promised);
}

static void winter_report(void)
{
    static const char *const promised[] = { "the run ended; the next began 2 h", "sea gave no data",
                                            "left out)", "marked", NULL };
    run_example("winter_report", promised);
}

static void port_check(void)
{
    static const char *const promised[] = { "the simulation, by transfers",
                                            "a master on two pins, over simulated lines",
                                            "holds        each segment begins with a START",
                                            "0 failed", NULL };
    run_example("port_check", promised);
}

static void what_is_wrong(void)
{
    static const char *const promised[] = {
        "cabin: no pull-ups\n  cabin broken: data does not rise again",
        "far too weak\n  cabin broken: the lines rise too slowly",
        "swapped\n  cabin, baro missing: no answer, and nothing else on this bus",
        "VDDIO\n  cabin, baro missing: no answer; a BME280 answers at 0x77 instead",
        "strand between data and clock\n  aft broken: data and clock touch",
        "data shorted to ground\n  aft broken: data stays low",
        "what answers at 0x48 on bus 'cabin' could be the TMP102",
        "a clock board where engine belongs\n  aft, engine wrong:",
        "nothing any more\n  0 amiss",
        NULL
    };
    run_example("what_is_wrong", promised);
}

/* The README's 'make examples', rigs and all: it goes on to the last. */
static void all(void)
{
    char *line = g_strdup_printf(SOURCE "/tools/examples '%s/..'", EXAMPLES);
    char *out = NULL;
    int status = -1;
    EXPECT(g_spawn_command_line_sync(line, &out, NULL, &status, NULL) && status == 0, "%s: %d: %s",
           line, status, out ? out : "");
    EXPECT(out && strstr(out, "Nothing speaks against switching on")
               && strstr(out, "display/companionway.rig"),
           "%s", out ? out : "");
    g_free(out);
    g_free(line);
}

void add_examples_suite(void)
{
    SUITE("examples", { "first_reading", first_reading }, { "water_tank", water_tank },
          { "probes_on_a_line", probes_on_a_line }, { "heel_and_trim", heel_and_trim },
          { "night_watch", night_watch }, { "what_is_wrong", what_is_wrong },
          { "port_check", port_check }, { "light_meter", light_meter },
          { "level_the_sloop", level_the_sloop }, { "two_thermometers", two_thermometers },
          { "calibrate_on_chip", calibrate_on_chip }, { "swing_the_compass", swing_the_compass },
          { "motion_burst", motion_burst }, { "altitude", altitude },
          { "from_datasheet", from_datasheet }, { "sea_and_air", sea_and_air },
          { "winter_report", winter_report }, { "all", all });
}
