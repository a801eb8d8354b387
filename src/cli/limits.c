#include <stdio.h>

#include "cli/past.h"
#include "pintle/ability.h"

struct limits_options {
    struct rig_options rig;
    char *low, *high, *length;
    int64_t for_us;
};

static bool able(const struct pintle_part *part)
{
    return part->can && part->can->limits;
}

/* One limit, in the unit that the channel is shown in; without any, the end of the scale. */
static bool take(const struct one *one, const char *option, const char *text, float end,
                 float *limit, struct pintle_problem *problem)
{
    const struct pintle_channel *channel = &one->sensor->part->channels[0];
    enum pintle_unit shown = cli_chosen(channel, one->from->channel[0].unit);
    char *rest = NULL;
    double number = text ? g_ascii_strtod(text, &rest) : 0;
    *limit = end;
    if (!text) {
        return true;
    }
    return (rest != text && !*rest
            && pintle_unit_convert((float)number, shown, pintle_quantity_unit(channel->quantity),
                                   limit)
                   == PINTLE_OK)
           || pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s: '%s' is no number of %s", option,
                                 text, cli_unit(channel, shown));
}

static void print(const struct one *one, const char *what)
{
    char time[40];
    struct pintle_text text;
    uint8_t level = 1;
    const struct pintle_platform *platform = one->station->platform;
    pintle_text_init(&text, time, sizeof time);
    pintle_text_time(&text, pintle_station_now(one->station), 0, 3);
    bool known = platform->pin && platform->pin(one->station, one->index, &level);
    printf("%-24s %s.%s %s%s\n", time, one->from->name, one->sensor->part->channels[0].name, what,
           !known  ? ""
           : level ? "; its pin is high"
                   : "; its pin is low");
}

static const char *word_of(uint8_t beyond)
{
    return beyond & PINTLE_LIMITS_ABOVE   ? "is above the high limit"
           : beyond & PINTLE_LIMITS_BELOW ? "is below the low limit"
                                          : "is told as within";
}

/* What an answer comes to: which limits it is beyond, or one of these. */
#define LOST 16
#define NO_ANSWER 32

static int answer_of(enum pintle_status status, uint8_t beyond)
{
    return status == PINTLE_OK ? beyond : status == PINTLE_MISFIT ? LOST : NO_ANSWER + (int)status;
}

static void print_answer(const struct one *one, int is)
{
    if (is < NO_ANSWER) {
        print(one, is == LOST ? "had lost its limits, which are set again" : word_of((uint8_t)is));
        return;
    }
    enum pintle_status status = (enum pintle_status)(is - NO_ANSWER);
    char *why = cli_why(one->station, one->from->bus, status);
    char *what = g_strdup_printf("cannot be asked: %s; it is asked again and again", why);
    print(one, what);
    g_free(what);
    g_free(why);
}

/* Ask, and print what is new, until the time is over. A sensor that is unplugged may come back:
 * only the last answer says how it went. */
static enum pintle_status watch(const struct one *one, struct pintle_limits *limits, int64_t for_us)
{
    struct pintle_progress progress = cli_watch_progress("watching");
    const struct pintle_clock *clock = &one->station->clock;
    uint64_t until = clock->calls->now_us(clock->context) + (uint64_t)for_us;
    int was = -1;
    for (;;) {
        uint8_t beyond = 0;
        enum pintle_status status = pintle_limits_ask(limits, &beyond);
        int is = answer_of(status, beyond);
        uint64_t now = clock->calls->now_us(clock->context);
        if (is != was && (is < NO_ANSWER || now < until)) {
            cli_progress_clear();
            print_answer(one, is);
        }
        was = is;
        double share = 1 - (double)(until - MIN(now, until)) / (double)MAX(for_us, 1);
        if (now >= until || !progress.step(progress.context, share)) {
            cli_end_progress();
            return is < NO_ANSWER ? PINTLE_OK : status;
        }
        pintle_station_wait(one->station, 250000, NULL);
    }
}

static bool act(const struct one *one, const struct limits_options *options,
                struct pintle_problem *problem)
{
    const struct pintle_part *part = one->sensor->part;
    struct pintle_limits limits;
    float low = 0;
    float high = 0;
    if (!take(one, "--low", options->low, part->channels[0].lowest, &low, problem)
        || !take(one, "--high", options->high, part->channels[0].highest, &high, problem)) {
        return false;
    }
    enum pintle_status status = pintle_limits_set(&limits, one->sensor, low, high);
    if (status == PINTLE_OUT_OF_RANGE) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "'%s' can't watch these limits: the low one must not be above "
                                  "the high one, and both within its scale",
                                  one->from->name);
    }
    if (status == PINTLE_MISFIT) {
        return pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                                  "'%s' doesn't keep limits: set up to measure only when it is "
                                  "told to it watches nothing; choose mode = \"continuous\"",
                                  one->from->name);
    }
    if (status == PINTLE_OK) {
        status = watch(one, &limits, options->for_us);
    }
    return status == PINTLE_OK || cli_one_failed(one, "watching", status, problem);
}

static int run(int argc, char **argv)
{
    struct limits_options options = { 0 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options.rig),
        AT_OPTION(options.rig.at),
        UNIT_OPTION(options.rig),
        { "low", 0, 0, G_OPTION_ARG_STRING, &options.low, "below this it tells", "VALUE" },
        { "high", 0, 0, G_OPTION_ARG_STRING, &options.high, "above this it tells", "VALUE" },
        { "for", 0, 0, G_OPTION_ARG_STRING, &options.length, "go on asking this long", "DURATION" },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    struct one one;
    if (!cli_options(&command_limits, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc > 2 || (!options.low && !options.high)) {
        return cli_misuse("limits: one sensor, and --low, --high or both");
    }
    if (options.length
        && (!pintle_duration_parse(options.length, &options.for_us) || options.for_us <= 0)) {
        return cli_misuse("--for: '%s' is no duration; write \"2s\" or \"1min\"", options.length);
    }
    if (!cli_open_one(&options.rig, argv[1], "limit to watch", able, &one, &problem)) {
        return cli_fail(&problem);
    }
    bool ok = act(&one, &options, &problem);
    cli_close_one(&one);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_limits = {
    .name = "limits",
    .usage = "[SENSOR] --low VALUE --high VALUE",
    .summary = "limits that a chip watches by itself, with its pin",
    .more = "They stay in the chip, and its pin goes low outside them, until it loses its supply\n"
            "or another command sets it up. The limits are in the unit that the sensor is shown\n"
            "in; without one of them there is none on that side. Corrections are not in them.\n"
            "A TMP102 tells of the high one until the value is below the low one.\n\n"
            "Example:\n  pintle limits --rig boat.rig locker --low 5 --high 45 --for 1h",
    .run = run,
};
