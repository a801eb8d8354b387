#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/ability.h"

#define BATCH 32

static bool able(const struct pintle_part *part)
{
    return part->can && part->can->fifo;
}

struct burst_options {
    struct rig_options rig;
    char *length;
    char *format;
    int64_t for_us;
    enum format how;
};

/* What came in it. */
struct tally {
    unsigned samples;
    int64_t first_us, last_us;
};

static bool has(const struct one *one, unsigned c)
{
    return one->sensor->part->can->fifo->channels >> c & 1;
}

static void print_head(const struct one *one, enum format how)
{
    const struct pintle_part *part = one->sensor->part;
    printf(how == FORMAT_CSV ? "time" : "%s%-27s", how == FORMAT_CSV ? "" : cli_bold(), "time");
    for (unsigned c = 0; c < part->channel_count; c++) {
        const struct pintle_channel *channel = &part->channels[c];
        const enum pintle_unit units[] = { one->from->channel[c].unit, one->from->channel[c].also };
        for (unsigned u = 0; has(one, c) && u < 2 && (u == 0 || units[u] != PINTLE_UNIT_COUNT);
             u++) {
            char *title = g_strdup_printf("%s %s", channel->name, cli_unit(channel, units[u]));
            printf(how == FORMAT_CSV ? ",%s" : " %15s", title);
            g_free(title);
        }
    }
    printf(how == FORMAT_CSV ? ",quality\r\n" : "   quality%s\n",
           how == FORMAT_CSV ? "" : cli_plain());
}

static void print_value(const struct pintle_channel *channel, enum pintle_unit unit,
                        const struct pintle_reading *reading, enum format how)
{
    char *value = cli_value(channel, unit, reading, 0);
    printf(how == FORMAT_CSV ? ",%s" : " %15s", value);
    g_free(value);
}

static void print_sample(const struct one *one, struct pintle_sample *sample, enum format how)
{
    const struct pintle_part *part = one->sensor->part;
    char time[40];
    struct pintle_text text;
    pintle_marks all = 0;
    pintle_station_correct(one->station, one->index, sample);
    pintle_text_init(&text, time, sizeof time);
    pintle_text_time(&text, sample->time_us, 0, 6);
    printf(how == FORMAT_CSV ? "%s" : "%-27s", time);
    for (unsigned c = 0; c < part->channel_count; c++) {
        struct pintle_reading *reading = &sample->channel[c];
        if (has(one, c)) {
            print_value(&part->channels[c], one->from->channel[c].unit, reading, how);
            if (one->from->channel[c].also != PINTLE_UNIT_COUNT) {
                print_value(&part->channels[c], one->from->channel[c].also, reading, how);
            }
            all |= reading->quality;
        }
    }
    char *quality = cli_quality(all);
    printf(how == FORMAT_CSV ? ",%s%s\r\n" : "   %s%s\n", quality,
           all & PINTLE_QUALITY_GAP ? "+gap" : "");
    g_free(quality);
}

/* Set up, then collected four times within what the FIFO holds, until the samples cover the time.
 */
static enum pintle_status collect(const struct one *one, struct pintle_burst *burst,
                                  const struct burst_options *options, struct tally *tally)
{
    static struct pintle_reading readings[BATCH * PINTLE_MOST_CHANNELS];
    const uint8_t channels = one->sensor->part->channel_count;
    enum pintle_status status = PINTLE_OK;
    while ((status == PINTLE_OK || status == PINTLE_NOT_READY)
           && tally->last_us - tally->first_us < options->for_us) {
        uint16_t count = 0;
        status = pintle_burst_collect(burst, readings, BATCH, &count);
        for (uint16_t i = 0; i < count && tally->last_us - tally->first_us < options->for_us; i++) {
            struct pintle_sample sample = { .time_us = pintle_burst_time_us(burst, i) };
            memcpy(sample.channel, readings + i * channels, channels * sizeof readings[0]);
            tally->first_us = tally->samples ? tally->first_us : sample.time_us;
            tally->last_us = sample.time_us;
            tally->samples++;
            print_sample(one, &sample, options->how);
        }
        uint32_t wait = status == PINTLE_NOT_READY ? pintle_sensor_wait_us(one->sensor)
                        : count == BATCH           ? 0
                                                   : pintle_burst_room_us(burst) / 4;
        pintle_station_wait(one->station, wait, NULL);
    }
    return status == PINTLE_NOT_READY ? PINTLE_OK : status;
}

static void sum_up(const struct pintle_burst *burst, const struct tally *tally)
{
    double seconds = (double)(tally->last_us - tally->first_us) / 1e6;
    char *lost = burst->lost ? g_strdup_printf("%u lost", burst->lost) : g_strdup("none lost");
    cli_say("%u samples in %.3f s, %.1f a second; %s%s", tally->samples, seconds,
            seconds > 0 ? (tally->samples - 1) / seconds : 0, lost,
            burst->lost ? ": the bus or this machine is too slow for this rate; raise the bus's "
                          "speed, or choose a lower rate"
                        : "");
    g_free(lost);
}

static bool act(const struct one *one, const struct burst_options *options,
                struct pintle_problem *problem)
{
    struct pintle_burst burst;
    struct tally tally = { 0 };
    enum pintle_status status = pintle_burst_init(&burst, one->sensor);
    if (status == PINTLE_OK) {
        print_head(one, options->how);
        status = collect(one, &burst, options, &tally);
    }
    if (status != PINTLE_OK) {
        return cli_one_failed(one, "collecting from", status, problem);
    }
    sum_up(&burst, &tally);
    return true;
}

static bool understood(struct burst_options *options, struct pintle_problem *problem)
{
    options->for_us = 1000000;
    if (options->length
        && (!pintle_duration_parse(options->length, &options->for_us) || options->for_us <= 0)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--for: '%s' is no duration; write \"2s\" or \"1min\"",
                                  options->length);
    }
    return cli_format(options->format, &options->how, problem)
           && (options->how != FORMAT_SENML
               || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                     "a burst is printed as text or csv, not as senml"))
           && cli_units_fit(options->rig.units, options->how, FORMAT_CSV, problem);
}

static int run(int argc, char **argv)
{
    struct burst_options options = { 0 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options.rig),
        AT_OPTION(options.rig.at),
        UNIT_OPTION(options.rig),
        { "for", 0, 0, G_OPTION_ARG_STRING, &options.length, "as long as this (1s)", "DURATION" },
        { "format", 'f', 0, G_OPTION_ARG_STRING, &options.format, "text or csv", "NAME" },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    struct one one;
    if (!cli_options(&command_burst, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc > 2) {
        return cli_misuse("burst: one sensor at a time");
    }
    if (!understood(&options, &problem)
        || !cli_open_one(&options.rig, argv[1], "FIFO", able, &one, &problem)) {
        return cli_fail(&problem);
    }
    bool ok = act(&one, &options, &problem);
    cli_close_one(&one);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_burst = {
    .name = "burst",
    .usage = "[SENSOR]",
    .summary = "every sample of a chip that keeps them in a FIFO, each with its time",
    .more = "The sensor's rate says how many there are. Where some were lost, the next is marked\n"
            "\"gap\", and the end says how many.\n\n"
            "Example:\n  pintle burst --rig boat.rig motion --for 10s --format csv",
    .run = run,
};
