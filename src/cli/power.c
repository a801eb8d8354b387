#include <math.h>
#include <stdio.h>

#include "cli/cli.h"
#include "pintle/host/check/power.h"

struct power_options {
    struct rig_options rig;
    char *every;
    double battery_mah;
    double board_ma;
    int64_t every_us;
};

static bool print_sensor(const struct pintle_rig_sensor *sensor, int64_t every_us, double *sum_ua)
{
    struct pintle_power power;
    if (sensor->made) {
        return true;
    }
    pintle_power_of(sensor, every_us, &power);
    const char *part = sensor->sheet->part->name;
    if (!power.known) {
        printf("%-10s %-10s %35s\n", sensor->name, part, "nobody says what it takes");
        return false;
    }
    char *busy = isinf(power.busy_us) ? g_strdup("always")
                                      : g_strdup_printf("%.4g ms", power.busy_us / 1000);
    char *ua[] = { cli_figure(power.working_ua), cli_figure(power.resting_ua),
                   cli_figure(power.average_ua) };
    printf("%-10s %-10s %11s %11s %12s %11s%s\n", sensor->name, part, ua[0], ua[1], busy, ua[2],
           isinf(power.busy_us) && sensor->sheet->part->rest
               ? "   rest = true would save most of it"
               : "");
    *sum_ua += power.average_ua;
    g_free(ua[0]);
    g_free(ua[1]);
    g_free(ua[2]);
    g_free(busy);
    return true;
}

static void print_life(const struct power_options *options, double sum_ua)
{
    double all_ma = sum_ua / 1000 + options->board_ma;
    char *sum = cli_figure(sum_ua);
    printf("\n%s uA for the chips", sum);
    g_free(sum);
    if (options->board_ma > 0) {
        printf(", %.4g mA with the board", all_ma);
    }
    printf("\n");
    if (options->battery_mah > 0) {
        double hours = options->battery_mah / all_ma;
        printf("a battery of %.0f mAh lasts %.0f days%s\n", options->battery_mah, hours / 24,
               options->board_ma > 0 ? "" : ", if the board took nothing: say --board MA");
    }
    printf("\nTypical figures of the datasheets; pull-ups, lamps and regulators take more.\n");
}

static bool understood(struct power_options *options, const struct pintle_rig *rig,
                       struct pintle_problem *problem)
{
    options->every_us = rig->every_us;
    if (options->every
        && (!pintle_duration_parse(options->every, &options->every_us)
            || options->every_us < 1000)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--every takes a duration of at least 1 ms, not '%s'",
                                  options->every);
    }
    return (options->battery_mah >= 0 && options->board_ma >= 0)
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "--battery and --board take milliampere hours and milliamperes, "
                                 "from 0 up");
}

static int run(int argc, char **argv)
{
    struct power_options options = { 0 };
    const GOptionEntry entries[] = { RIG_OPTIONS(options.rig),
                                     { "every", 0, 0, G_OPTION_ARG_STRING, &options.every,
                                       "between two measurements (the rig's interval)",
                                       "DURATION" },
                                     { "battery", 0, 0, G_OPTION_ARG_DOUBLE, &options.battery_mah,
                                       "how long does it last?", "MAH" },
                                     { "board", 0, 0, G_OPTION_ARG_DOUBLE, &options.board_ma,
                                       "what the rest takes on average", "MA" },
                                     { 0 } };
    struct pintle_problem problem = { 0 };
    double sum_ua = 0;
    bool all = true;
    if (!cli_options(&command_power, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc > 1) {
        return cli_misuse("power: '%s' is one word too many; it is about the whole rig", argv[1]);
    }
    struct pintle_rig *rig = cli_rig(&options.rig, &problem);
    if (!rig || !understood(&options, rig, &problem)) {
        pintle_rig_free(rig);
        return cli_fail(&problem);
    }
    printf("%s%-10s %-10s %11s %11s %12s %11s%s\n", cli_bold(), "sensor", "part", "works, uA",
           "rests, uA", "works for", "mean, uA", cli_plain());
    for (unsigned i = 0; i < rig->sensors; i++) {
        all = print_sensor(&rig->sensor[i], options.every_us, &sum_ua) && all;
    }
    print_life(&options, sum_ua);
    if (!all) {
        printf("The sum lacks those of which nobody says it.\n");
    }
    pintle_rig_free(rig);
    return 0;
}

const struct command command_power = {
    .name = "power",
    .summary = "what the rig's chips draw, and how long a battery lasts",
    .more = "Example:\n  pintle power --demo\n"
            "  pintle power --rig boat.rig --every 10min --battery 7000 --board 0.4",
    .run = run,
};
