/* A measurement as a line of CSV. */
#include "append.h"
#include "pintle/unit.h"

static const char ends[] PINTLE_TABLE = "\r\n";
static const char time_of[] PINTLE_TABLE = "time";
static const char quality_of[] PINTLE_TABLE = " quality";

static void end(struct pintle_text *text, size_t from)
{
    pintle_text_table(text, ends);
    pintle_priv_whole(text, from);
}

void pintle_text_line(struct pintle_text *text, const struct pintle_sensor *sensor, int64_t utc_us)
{
    const struct pintle_channel *channels = pintle_table_pointer(&sensor->part->channels);
    enum pintle_status status = pintle_sensor_status(sensor);
    size_t from = text->used;
    if (utc_us != 0) {
        pintle_text_time(text, utc_us, 0, 0);
    }
    for (uint8_t i = 0; i < pintle_table_u8(&sensor->part->channel_count); i++) {
        const struct pintle_reading *reading = &sensor->readings[i];
        pintle_text_char(text, ',');
        pintle_text_reading(text, &channels[i], reading);
        pintle_text_char(text, ',');
        if (status == PINTLE_OK) {
            pintle_text_quality(text, reading->quality);
        } else {
            pintle_text_table(text, pintle_status_word(status));
        }
    }
    end(text, from);
}

void pintle_text_columns(struct pintle_text *text, const struct pintle_part *part)
{
    const struct pintle_channel *channels = pintle_table_pointer(&part->channels);
    size_t from = text->used;
    pintle_text_table(text, time_of);
    for (uint8_t i = 0; i < pintle_table_u8(&part->channel_count); i++) {
        PINTLE_TABLE_ROW(struct pintle_channel, channel, &channels[i]);
        pintle_text_char(text, ',');
        pintle_text_table(text, channels[i].name);
        if (channel->quantity != PINTLE_QUANTITY_TIME) {
            pintle_text_char(text, ' ');
            pintle_text_table(text,
                              pintle_quantity_symbol((enum pintle_quantity)channel->quantity));
        }
        pintle_text_char(text, ',');
        pintle_text_table(text, channels[i].name);
        pintle_text_table(text, quality_of);
    }
    end(text, from);
}
