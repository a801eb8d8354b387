#include <math.h>
#include <stdio.h>

#include "cli/cli.h"
#include "pintle/ability.h"
#include "pintle/host/check/hint.h"
#include "pintle/host/rig/worth.h"
#include "pintle/host/run/senml.h"

/* "21.53 +/- 0.21", where somebody asked for it and somebody knows. */
static char *with_worth(const struct pintle_station *station, unsigned i, unsigned c,
                        enum pintle_unit unit)
{
    const struct pintle_channel *channel = &station->rig->sensor[i].sheet->part->channels[c];
    const struct pintle_reading *reading = &station->turn[i].sample.channel[c];
    bool asked = station->rig->uncertain && channel->quantity != PINTLE_QUANTITY_TIME;
    char *value = cli_value(channel, unit, reading, 0);
    char *worth =
        asked ? cli_worth(channel, unit, pintle_station_uncertainty(station, i, c)) : g_strdup("");
    char *both = worth[0] ? g_strdup_printf("%s +/- %s", value, worth) : g_strdup(value);
    g_free(value);
    g_free(worth);
    return both;
}

static void print_channel(const struct pintle_station *station, unsigned i, unsigned c)
{
    const struct pintle_rig_sensor *sensor = &station->rig->sensor[i];
    const struct pintle_sample *sample = &station->turn[i].sample;
    const struct pintle_channel *channel = &sensor->sheet->part->channels[c];
    const struct pintle_reading *reading = &sample->channel[c];
    bool there = !sensor->made && !(reading->quality & PINTLE_QUALITY_BUS);
    bool good = pintle_reading_good(reading);
    enum pintle_unit unit = sensor->channel[c].unit;
    char *value = with_worth(station, i, c, unit);
    char *quality = cli_quality(reading->quality);
    char *raw = there ? cli_raw(channel, reading) : g_strdup("-");
    bool corrected = there && !(reading->quality & PINTLE_QUALITY_UNCORRECTED);
    bool light = channel->quantity == PINTLE_QUANTITY_ILLUMINANCE && good;
    printf("%-10s %-12s %20s %-5s %11s   %s%s%s%s%s%s\n", sensor->name, channel->name, value,
           cli_unit(channel, unit), raw, good ? cli_good() : cli_bad(), quality, cli_plain(),
           corrected ? ", corrected" : "", light ? ", " : "",
           light ? pintle_derive_light_word(reading->value) : "");
    if (sensor->channel[c].also != PINTLE_UNIT_COUNT) {
        char *again = with_worth(station, i, c, sensor->channel[c].also);
        printf("%-10s %-12s %20s %s\n", "", "", again, cli_unit(channel, sensor->channel[c].also));
        g_free(again);
    }
    g_free(value);
    g_free(quality);
    g_free(raw);
}

/* The command for what it does instead. */
static const char *what_else(const struct pintle_part *part)
{
    return part->can->store ? "see 'pintle store'" : "nobody can know more; see 'pintle show'";
}

/* The bytes of a block up to the last one that was read for somebody: inputs at its end that nobody
 * asks for were not. */
static unsigned read_for_somebody(const struct pintle_part *part, uint16_t idle)
{
    unsigned at = 0;
    unsigned end = idle ? 0 : part->raw_size;
    for (const struct pintle_step *step = part->measure; idle && step->op != PINTLE_OP_END;
         step++) {
        if (step->op == PINTLE_OP_FOR && !(step->reg & (uint16_t)~idle)) {
            at += step->value;
            step += step->width;
        } else if (step->op == PINTLE_OP_READ) {
            at += step->width;
            end = at;
        }
    }
    return end;
}

static void print_sensor(const struct pintle_station *station, unsigned i)
{
    const struct pintle_rig_sensor *sensor = &station->rig->sensor[i];
    const struct pintle_seat *turn = &station->turn[i];
    const struct pintle_part *part = sensor->sheet->part;
    pintle_marks quality = 0;
    for (unsigned c = 0; c < part->channel_count; c++) {
        print_channel(station, i, c);
        quality |= turn->sample.channel[c].quality;
    }
    if (station->rig->sensor[i].made) {
        return;
    }
    if (turn->status == PINTLE_OK && part->channel_count == 0) {
        printf("%-10s %s, at %s: it is there and measures nothing; %s\n", sensor->name,
               sensor->sheet->what, sensor->where, what_else(part));
    } else if (turn->status == PINTLE_OK) {
        uint16_t idle = pintle_sensor_block(&station->rigged[i].any.sensor).idle;
        char *bytes = cli_bytes(turn->sample.raw, read_for_somebody(part, idle));
        printf("%s%-10s raw bytes %s%s\n", cli_dim(), "", bytes, cli_plain());
        g_free(bytes);
    } else {
        const struct pintle_rig_bus *bus = &station->rig->bus[sensor->bus];
        const char *words = station->rigged[i].words;
        const char *said = words[0] ? words : pintle_status_sentence(turn->status);
        const char *causes = words[0] ? "" : pintle_hint_causes(turn->status, bus->kind);
        printf("%-10s %s at %s on bus '%s': %s%s%s%s\n", "", part->name, sensor->where, bus->name,
               said, causes[0] ? "; likely " : "", causes,
               words[0] ? "" : "; 'pintle scan' looks for the cause");
    }
    bool fits = turn->status == PINTLE_OK ? quality & sensor->sheet->known_by_quality
                                          : sensor->sheet->known_by_status >> turn->status & 1;
    if (fits) {
        printf("%-10s of a %s it is known: %s\n", "", part->name, sensor->sheet->known_for);
    }
}

static void print_text(const struct pintle_station *station, const uint8_t *chosen)
{
    printf("%s%-10s %-12s %20s %-5s %11s   quality%s\n", cli_bold(), "sensor", "channel", "value",
           "unit", "raw", cli_plain());
    for (unsigned i = 0; i < station->rig->sensors; i++) {
        if (chosen[i]) {
            print_sensor(station, i);
        }
    }
}

static void print_field(const struct pintle_station *station, unsigned i, unsigned c,
                        enum pintle_unit unit)
{
    const struct pintle_rig_sensor *sensor = &station->rig->sensor[i];
    const struct pintle_sample *sample = &station->turn[i].sample;
    uint16_t idle = sensor->made ? 0 : pintle_sensor_block(&station->rigged[i].any.sensor).idle;
    const struct pintle_channel *channel = &sensor->sheet->part->channels[c];
    const struct pintle_reading *reading = &sample->channel[c];
    bool there = !sensor->made && !(reading->quality & PINTLE_QUALITY_BUS);
    const char *symbol = NULL;
    struct pintle_channel finer = *channel; /* what is kept has every count */
    finer.decimals = (uint8_t)pintle_worth_places(sensor, c);
    char *value = cli_field(&finer, unit, reading, &symbol);
    char *quality = cli_quality(reading->quality);
    unsigned count = there ? read_for_somebody(sensor->sheet->part, idle) : 0;
    char *bytes = cli_bytes(sample->raw, count);
    char *raw = there ? cli_raw(channel, reading) : g_strdup("");
    printf("%s,%s,%s,%s,%s,%s,%s", sensor->name, channel->name, value, symbol, raw, bytes, quality);
    if (station->rig->uncertain) {
        enum pintle_unit base = unit;
        double worth = pintle_station_uncertainty(station, i, c);
        char *shown = base == PINTLE_UNIT_COUNT
                          ? isnan(worth) ? g_strdup("") : g_strdup_printf("%.3g", worth)
                          : cli_worth(channel, unit, worth);
        printf(",%s", shown);
        g_free(shown);
    }
    printf("\r\n");
    g_free(value);
    g_free(quality);
    g_free(bytes);
    g_free(raw);
}

static void print_csv(const struct pintle_station *station, const uint8_t *chosen)
{
    printf("sensor,channel,value,unit,raw,bytes,quality%s\r\n",
           station->rig->uncertain ? ",uncertainty" : "");
    for (unsigned i = 0; i < station->rig->sensors; i++) {
        const struct pintle_rig_sensor *sensor = &station->rig->sensor[i];
        for (unsigned c = 0; chosen[i] && c < sensor->sheet->part->channel_count; c++) {
            print_field(station, i, c, sensor->channel[c].unit);
            if (sensor->channel[c].also != PINTLE_UNIT_COUNT) {
                print_field(station, i, c, sensor->channel[c].also);
            }
        }
    }
}

static void print_senml(const struct pintle_station *station, const uint8_t *chosen)
{
    char *pack = pintle_senml(station, chosen);
    printf("%s\n", pack);
    pintle_host_free(pack);
}

/* No names: all sensors. */
static bool choose(const struct pintle_rig *rig, int argc, char **argv, uint8_t *chosen,
                   struct pintle_problem *problem)
{
    for (unsigned i = 0; i < rig->sensors; i++) {
        chosen[i] = argc == 1;
    }
    for (int i = 1; i < argc; i++) {
        int index = pintle_rig_find_sensor(rig, argv[i], problem);
        if (index < 0) {
            return false;
        }
        chosen[index] = 1;
    }
    return true;
}

static int run(int argc, char **argv)
{
    struct rig_options options = { 0 };
    char *format_name = NULL;
    gboolean worth = FALSE;
    const GOptionEntry entries[] = { RIG_OPTIONS(options),
                                     AT_OPTION(options.at),
                                     UNIT_OPTION(options),
                                     { "format", 'f', 0, G_OPTION_ARG_STRING, &format_name,
                                       "text, csv or senml", "NAME" },
                                     { "uncertainty", 0, 0, G_OPTION_ARG_NONE, &worth,
                                       "and how exact each is: standard uncertainties", NULL },
                                     { 0 } };
    if (!cli_options(&command_read, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    static void (*const printers[])(const struct pintle_station *,
                                    const uint8_t *) = { print_text, print_csv, print_senml };
    struct pintle_problem problem = { 0 };
    struct pintle_rig *rig = NULL;
    struct pintle_station *station = NULL;
    enum format format = FORMAT_TEXT;
    int status = 0;
    if (!cli_format(format_name, &format, &problem)
        || !cli_units_fit(options.units, format, FORMAT_CSV, &problem)
        || (worth && format == FORMAT_SENML
            && !pintle_problem_set(&problem, PINTLE_FAILURE_USE,
                                   "SenML has no word for an uncertainty; take --format csv"))
        || !cli_open(&options, &rig, &station, &problem)) {
        return cli_fail(&problem);
    }
    uint8_t *chosen = g_new0(uint8_t, rig->sensors);
    rig->uncertain = rig->uncertain || worth;
    if (!choose(rig, argc, argv, chosen, &problem)) {
        status = cli_fail(&problem);
    } else {
        pintle_station_some(station, chosen, true);
        for (unsigned i = 0; i < rig->sensors; i++) {
            if (chosen[i] && station->turn[i].status != PINTLE_OK) {
                status = PINTLE_FAILURE_RIG;
            }
        }
        printers[format](station, chosen);
    }
    g_free(chosen);
    pintle_station_free(station);
    pintle_rig_free(rig);
    return status;
}

const struct command command_read = {
    .name = "read",
    .usage = "[SENSOR...]",
    .summary = "one reading of each channel, raw beside value",
    .more =
        "Without names every sensor is read. A first reading after power-up is thrown away and\n"
        "another taken.\n\n"
        "Example:\n  pintle read --demo\n  pintle read --demo baro sea --format csv",
    .run = run,
};
