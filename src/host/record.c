/* The lines of readings.csv: RFC 4180, base units, UTC. */
#include "pintle/host/run.h"

static void name_column(struct pintle_text *text, const struct pintle_rig_sensor *sensor,
                        const struct pintle_channel *channel)
{
    char buffer[80];
    struct pintle_text name;
    pintle_text_init(&name, buffer, sizeof buffer);
    pintle_text_string(&name, sensor->name);
    pintle_text_char(&name, '.');
    pintle_text_string(&name, channel->name);
    pintle_text_char(&name, '/');
    pintle_text_string(&name, pintle_quantity_symbol(channel->quantity));
    pintle_csv_field(text, buffer);
}

void pintle_run_header(struct pintle_text *text, const struct pintle_rig *rig)
{
    pintle_text_string(text, "record,time");
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_part *part = rig->sensor[i].sheet->part;
        for (unsigned c = 0; c < part->channel_count; c++) {
            if (pintle_run_logs(&part->channels[c])) {
                name_column(text, &rig->sensor[i], &part->channels[c]);
            }
        }
    }
    pintle_text_string(text, ",quality\r\n");
}

/* One remark of the quality column, "; " between them. */
static void begin_remark(struct pintle_text *quality)
{
    if (quality->used > 0) {
        pintle_text_string(quality, "; ");
    }
}

static void remark(struct pintle_text *quality, const struct pintle_rig_sensor *sensor,
                   const char *channel, uint8_t bits)
{
    begin_remark(quality);
    pintle_text_string(quality, sensor->name);
    pintle_text_char(quality, '.');
    pintle_text_string(quality, channel);
    pintle_text_char(quality, '=');
    pintle_text_quality(quality, bits);
}

static void put_sensor(struct pintle_text *text, struct pintle_text *quality,
                       const struct pintle_station *station, unsigned i)
{
    const struct pintle_rig_sensor *sensor = &station->rig->sensor[i];
    const struct pintle_part *part = sensor->sheet->part;
    for (unsigned c = 0; c < part->channel_count; c++) {
        const struct pintle_reading *reading = &station->seat[i].sample.channel[c];
        if (!pintle_run_logs(&part->channels[c])) {
            continue;
        }
        pintle_text_char(text, ',');
        pintle_text_reading(text, &part->channels[c], reading);
        if (reading->quality & PINTLE_QUALITY_SUSPECT) {
            remark(quality, sensor, part->channels[c].name, reading->quality);
        }
    }
}

void pintle_run_record(struct pintle_text *text, const struct pintle_station *station,
                       uint32_t number, int64_t slot_us, uint32_t missed)
{
    char buffer[4096];
    struct pintle_text quality;
    pintle_text_init(&quality, buffer, sizeof buffer);
    pintle_text_whole(text, number, 1);
    pintle_text_char(text, ',');
    pintle_text_time(text, slot_us, 0, slot_us % 1000000 ? 3 : 0);
    for (unsigned i = 0; i < station->rig->sensors; i++) {
        put_sensor(text, &quality, station, i);
    }
    if (missed > 0) {
        begin_remark(&quality);
        pintle_text_string(&quality, "missed=");
        pintle_text_whole(&quality, missed, 1);
    }
    pintle_csv_field(text, quality.used > 0 ? buffer : "good");
    pintle_text_string(text, "\r\n");
    text->full |= quality.full;
}
