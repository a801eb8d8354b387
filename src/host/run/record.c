/* The lines of readings.csv: RFC 4180, base units, UTC. Names of sensors and channels need no
 * quotes (rig.h). */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "pintle/host/rig/worth.h"
#include "pintle/host/run/run.h"

/* What a column is of; with no station there is no reading. */
struct column {
    const struct pintle_rig_sensor *sensor;
    const struct pintle_channel *channel;
    const struct pintle_reading *reading;
    const char *beside; /* "": the value itself */
};

typedef void (*each_column)(struct pintle_text *text, const struct column *column);

static bool is_corrected(const struct pintle_rig_sensor *sensor, unsigned channel)
{
    for (unsigned i = 0; i < sensor->stages; i++) {
        const struct pintle_correct_stage *stage = &sensor->stage[i].stage;
        unsigned wide = stage->kind == PINTLE_STAGE_AXES ? 3 : 1;
        if (channel >= stage->channel && channel < stage->channel + wide) {
            return true;
        }
    }
    return false;
}

/* Every column, in order: each channel that is logged and, where it is corrected, what it was
 * before. */
static void for_each(const struct pintle_rig *rig, const struct pintle_station *station,
                     struct pintle_text *text, each_column put)
{
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_rig_sensor *sensor = &rig->sensor[i];
        const struct pintle_part *part = sensor->sheet->part;
        for (unsigned c = 0; c < part->channel_count; c++) {
            struct column column = { sensor, &part->channels[c],
                                     station ? &station->turn[i].sample.channel[c] : NULL, "" };
            if (!pintle_run_logs(&part->channels[c])) {
                continue;
            }
            put(text, &column);
            if (is_corrected(sensor, c)) {
                column.reading = station ? &station->rigged[i].before[c] : NULL;
                column.beside = PINTLE_RUN_UNCORRECTED;
                put(text, &column);
            }
            if (rig->uncertain) {
                const struct pintle_reading worth = {
                    .value = station ? (float)pintle_station_uncertainty(station, i, c) : 0
                };
                column.reading = &worth;
                column.beside = PINTLE_RUN_UNCERTAINTY;
                put(text, &column);
            }
        }
    }
}

static void put_name(struct pintle_text *text, const struct column *column)
{
    pintle_text_string(text, column->sensor->name);
    pintle_text_char(text, '.');
    pintle_text_string(text, column->channel->name);
    pintle_text_string(text, column->beside);
}

static void put_column(struct pintle_text *text, const struct column *column)
{
    pintle_text_char(text, ',');
    put_name(text, column);
    pintle_text_char(text, '/');
    bool worth = strcmp(column->beside, PINTLE_RUN_UNCERTAINTY) == 0
                 && column->channel->quantity == PINTLE_QUANTITY_TEMPERATURE;
    enum pintle_quantity quantity =
        worth ? PINTLE_QUANTITY_WARMTH : (enum pintle_quantity)column->channel->quantity;
    pintle_text_string(text, pintle_quantity_symbol(quantity));
}

static void put_value(struct pintle_text *text, const struct column *column)
{
    const struct pintle_channel *channels = column->sensor->sheet->part->channels;
    struct pintle_channel finer = *column->channel;
    bool worth = strcmp(column->beside, PINTLE_RUN_UNCERTAINTY) == 0;
    pintle_text_char(text, ',');
    if (worth && isnan(column->reading->value)) {
        return; /* nobody knows */
    }
    unsigned places = pintle_worth_places(column->sensor, (unsigned)(column->channel - channels));
    finer.decimals = (uint8_t)MIN(places + (worth ? 1 : 0), PINTLE_DECIMALS_MAX);
    pintle_text_reading(text, &finer, column->reading);
}

/* Remarks of the quality column have "; " between them. */
static void begin_remark(struct pintle_text *text)
{
    if (text->used > 0 && text->at[text->used - 1] != ',') {
        pintle_text_string(text, "; ");
    }
}

/* What is suspect; and remarks that a reader wants to see beside a good value. */
#define TOLD                                                                                       \
    (PINTLE_QUALITY_SUSPECT | PINTLE_QUALITY_GAP | PINTLE_QUALITY_WARMING | PINTLE_QUALITY_SMOOTHED)

static void put_marks(struct pintle_text *text, pintle_marks left)
{
    for (pintle_marks bit = 1; left != 0; bit <<= 1) {
        if (left & bit) {
            left &= ~bit;
            pintle_text_string(text, pintle_quality_word(bit));
            pintle_text_string(text, left ? "+" : "");
        }
    }
}

static void put_remark(struct pintle_text *text, const struct column *column)
{
    if (!column->beside[0] && (column->reading->quality & TOLD)) {
        begin_remark(text);
        put_name(text, column);
        pintle_text_char(text, '=');
        put_marks(text, column->reading->quality & TOLD);
    }
}

static void put_record_remarks(struct pintle_text *text, const struct pintle_slot *slot)
{
    if (slot->missed > 0) {
        begin_remark(text);
        pintle_text_string(text, "missed=");
        pintle_text_whole(text, slot->missed, 1);
    }
    if (slot->stepped_us != 0) {
        begin_remark(text);
        pintle_text_string(text, "clock-step=");
        pintle_text_whole(text, slot->stepped_us / 1000, 1);
        pintle_text_string(text, "ms");
    }
    if (slot->unset) {
        begin_remark(text);
        pintle_text_string(text, "clock=never-set");
    }
}

static void put_header(struct pintle_text *text, const struct pintle_rig *rig)
{
    pintle_text_string(text, "record,time");
    for_each(rig, NULL, text, put_column);
    pintle_text_string(text, ",quality\r\n");
}

static void put_record(struct pintle_text *text, const struct pintle_station *station,
                       const struct pintle_slot *slot)
{
    pintle_text_whole(text, slot->number, 1);
    pintle_text_char(text, ',');
    pintle_text_time(text, slot->time_us, 0, slot->time_us % 1000000 ? 3 : 0);
    for_each(station->rig, station, text, put_value);
    pintle_text_char(text, ',');
    for_each(station->rig, station, text, put_remark);
    put_record_remarks(text, slot);
    if (text->used > 0 && text->at[text->used - 1] == ',') {
        pintle_text_string(text, "good");
    }
    pintle_text_string(text, "\r\n");
}

static bool all_good(const struct pintle_station *station)
{
    const struct pintle_rig *rig = station->rig;
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_part *part = rig->sensor[i].sheet->part;
        for (unsigned c = 0; c < part->channel_count; c++) {
            if (pintle_run_logs(&part->channels[c])
                && !pintle_reading_good(&station->turn[i].sample.channel[c])) {
                return false;
            }
        }
    }
    return true;
}

static void grow(struct pintle_run_line *line, struct pintle_text *text)
{
    line->size = line->size ? 2 * line->size : 1024;
    line->at = g_realloc(line->at, line->size);
    pintle_text_init(text, line->at, line->size);
}

void pintle_run_header(struct pintle_run_line *line, const struct pintle_rig *rig)
{
    struct pintle_text text;
    do {
        grow(line, &text);
        put_header(&text, rig);
    } while (text.full);
    line->used = text.used;
}

void pintle_run_record(struct pintle_run_line *line, const struct pintle_station *station,
                       const struct pintle_slot *slot)
{
    struct pintle_text text;
    if (!line->at) {
        grow(line, &text);
    }
    pintle_text_init(&text, line->at, line->size);
    put_record(&text, station, slot);
    while (text.full) {
        grow(line, &text);
        put_record(&text, station, slot);
    }
    line->used = text.used;
    line->missed = slot->missed;
    line->good = all_good(station);
}

void pintle_run_line_free(struct pintle_run_line *line)
{
    g_free(line->at);
    *line = (struct pintle_run_line){ 0 };
}
