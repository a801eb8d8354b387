#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/ability.h"

struct clock_options {
    struct rig_options rig;
    gboolean set, went;
    char *alarm;
};

static bool able(const struct pintle_part *part)
{
    return part->can && part->can->timekeeper;
}

static bool has_alarm(const struct pintle_part *part)
{
    return able(part) && part->can->timekeeper->alarm;
}

static unsigned time_channel(const struct pintle_part *part)
{
    unsigned c = 0;
    while (part->channels[c].quantity != PINTLE_QUANTITY_TIME) {
        c++;
    }
    return c;
}

/* The chip's time, and how far the board's own is from it. */
static bool show(const struct one *one, struct pintle_problem *problem)
{
    enum pintle_status status = pintle_station_read(one->station, one->index, false);
    const struct pintle_part *part = one->sensor->part;
    unsigned c = time_channel(part);
    const struct pintle_reading *reading = &one->station->turn[one->index].sample.channel[c];
    if (status != PINTLE_OK) {
        return cli_one_failed(one, "reading", status, problem);
    }
    char *value = cli_value(&part->channels[c], PINTLE_UNIT_COUNT, reading, 0);
    char *quality = cli_quality(reading->quality);
    bool good = pintle_reading_good(reading);
    printf("%-12s %s   %s%s%s\n", one->from->name, value, good ? cli_good() : cli_bad(), quality,
           cli_plain());
    if (good && pintle_station_knows_time(one->station)) {
        int64_t is = (int64_t)(uint32_t)reading->raw + 946684800;
        int64_t ahead = is - pintle_station_now(one->station) / 1000000;
        printf("%-12s %lld s %s\n", "the board's", (long long)ABS(ahead),
               ahead > 0   ? "behind it"
               : ahead < 0 ? "ahead of it"
                           : "apart");
    }
    g_free(value);
    g_free(quality);
    return good
           || pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                                 "the clock stood still, or was never set; --set sets it from the "
                                 "board's");
}

/* "second", "minute=30", "hour=15:30", "day=06:15:30". */
static bool take_alarm(const char *text, enum pintle_every *every, unsigned at[3])
{
    static const char *const words[] = { "second", "minute", "hour", "day" };
    char **sides = g_strsplit(text, "=", 2);
    char **fields = g_strsplit(sides[0] && sides[1] ? sides[1] : "", ":", -1);
    unsigned kind = 0;
    while (kind < 4 && g_strcmp0(words[kind], sides[0]) != 0) {
        kind++;
    }
    bool ok = kind < 4 && g_strv_length(fields) == kind;
    for (unsigned i = 0; ok && i < kind; i++) {
        guint64 value = 0;
        ok = g_ascii_string_to_unsigned(fields[i], 10, 0, 59, &value, NULL);
        at[3 - kind + i] = (unsigned)value;
    }
    *every = (enum pintle_every)(ok ? kind : 0);
    g_strfreev(fields);
    g_strfreev(sides);
    return ok && at[0] < 24;
}

static bool arm(const struct one *one, const char *text, struct pintle_problem *problem)
{
    enum pintle_every every = PINTLE_EVERY_SECOND;
    unsigned at[3] = { 0 };
    if (!has_alarm(one->sensor->part)) {
        return cli_unable(one, "alarm", has_alarm, problem);
    }
    if (!take_alarm(text, &every, at)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "'%s' is no alarm; write second, minute=SS, hour=MM:SS or "
                                  "day=HH:MM:SS, in UTC",
                                  text);
    }
    enum pintle_status status =
        pintle_time_alarm(one->sensor, every, (uint8_t)at[0], (uint8_t)at[1], (uint8_t)at[2]);
    return status == PINTLE_OK || cli_one_failed(one, "arming", status, problem);
}

static bool ask_alarm(const struct one *one, struct pintle_problem *problem)
{
    uint8_t went = 0;
    if (!has_alarm(one->sensor->part)) {
        return cli_unable(one, "alarm", has_alarm, problem);
    }
    enum pintle_status status = pintle_time_alarmed(one->sensor, &went);
    if (status != PINTLE_OK) {
        return cli_one_failed(one, "asking", status, problem);
    }
    printf("the alarm has %s\n", went ? "gone off" : "not gone off");
    return true;
}

static bool set(const struct one *one, struct pintle_problem *problem)
{
    if (!pintle_station_knows_time(one->station)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                                  "the board doesn't know the time itself; set its clock first");
    }
    enum pintle_status status =
        pintle_time_set(one->sensor, pintle_station_now(one->station) / 1000000);
    return status == PINTLE_OK || cli_one_failed(one, "setting", status, problem);
}

static bool act(const struct one *one, const struct clock_options *options,
                struct pintle_problem *problem)
{
    return (!options->set || set(one, problem)) && (!options->went || ask_alarm(one, problem))
           && (!options->alarm || arm(one, options->alarm, problem)) && show(one, problem);
}

static int run(int argc, char **argv)
{
    struct clock_options options = { 0 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options.rig),
        AT_OPTION(options.rig.at),
        { "set", 0, 0, G_OPTION_ARG_NONE, &options.set, "set it from the board's clock", NULL },
        { "alarm", 0, 0, G_OPTION_ARG_STRING, &options.alarm,
          "let it go off: second, minute=SS, hour=MM:SS or day=HH:MM:SS (UTC)", "WHEN" },
        { "went", 0, 0, G_OPTION_ARG_NONE, &options.went, "has the alarm gone off? Clears it",
          NULL },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    struct one one;
    if (!cli_options(&command_clock, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc > 2) {
        return cli_misuse("clock: one sensor at a time");
    }
    if (!cli_open_one(&options.rig, argv[1], "clock", able, &one, &problem)) {
        return cli_fail(&problem);
    }
    bool ok = act(&one, &options, &problem);
    cli_close_one(&one);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_clock = {
    .name = "clock",
    .usage = "[SENSOR]",
    .summary = "a clock chip: its time beside the board's, set, its alarm",
    .more = "Example:\n  pintle clock --demo clock\n  pintle clock --demo clock --set --alarm "
            "minute=30",
    .run = run,
};
