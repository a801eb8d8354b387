#include "pintle/host/run/senml.h"

#include <glib.h>
#include <math.h>

#include "host/base/json.h"
#include "pintle/host/rig/worth.h"

static json_t *number(const struct pintle_channel *channel, const struct pintle_reading *reading,
                      unsigned places)
{
    char buffer[40];
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    if (channel->quantity == PINTLE_QUANTITY_TIME) {
        return json_integer((json_int_t)(uint32_t)reading->raw + 946684800);
    }
    pintle_text_fixed(&text, reading->value, (uint8_t)places);
    return json_real(g_ascii_strtod(buffer, NULL));
}

/* A record with a time where the sample has one; without, it is of now. */
static void add_record(json_t *pack, json_t *record, const struct pintle_sample *sample)
{
    if (sample->time_us >= PINTLE_SENML_FROM_US) {
        json_object_set_new(record, "t", json_real((double)sample->time_us / 1e6));
    }
    json_array_append_new(pack, record);
}

static void add_quality(json_t *pack, const char *name, const struct pintle_reading *reading,
                        const struct pintle_sample *sample)
{
    char buffer[100];
    struct pintle_text words;
    char *quality_name = g_strconcat(name, ".quality", NULL);
    pintle_text_init(&words, buffer, sizeof buffer);
    pintle_text_quality(&words, reading->quality);
    add_record(pack, json_pack("{s:s, s:s}", "n", quality_name, "vs", buffer), sample);
    g_free(quality_name);
}

/* Of a rig's sensor with the places that its settings and numbers take; null: of any. */
static void add_sample(json_t *pack, const char *sensor, const struct pintle_sheet *sheet,
                       const struct pintle_rig_sensor *of, const struct pintle_sample *sample)
{
    for (unsigned c = 0; c < sheet->part->channel_count; c++) {
        const struct pintle_channel *channel = &sheet->part->channels[c];
        const struct pintle_reading *reading = &sample->channel[c];
        const char *unit = pintle_quantity_symbol((enum pintle_quantity)channel->quantity);
        unsigned places = of ? pintle_worth_places(of, c) : channel->decimals;
        char *name = g_strdup_printf("%s.%s", sensor, channel->name);
        if (!(reading->quality & PINTLE_QUALITY_BUS) && !isnan(reading->value)) {
            add_record(pack,
                       json_pack("{s:s, s:s, s:o}", "n", name, "u", unit, "v",
                                 number(channel, reading, places)),
                       sample);
        }
        if (reading->quality & PINTLE_QUALITY_SUSPECT) {
            add_quality(pack, name, reading, sample);
        }
        g_free(name);
    }
}

static char *print(json_t *pack)
{
    char *text = pintle_priv_json_line(pack);
    json_decref(pack);
    return text;
}

char *pintle_senml(const struct pintle_station *station, const uint8_t *chosen)
{
    json_t *pack = json_array();
    for (unsigned i = 0; i < station->rig->sensors; i++) {
        if (!chosen || chosen[i]) {
            const struct pintle_rig_sensor *sensor = &station->rig->sensor[i];
            add_sample(pack, sensor->name, sensor->sheet, sensor, &station->turn[i].sample);
        }
    }
    return print(pack);
}

char *pintle_senml_sample(const char *name, const struct pintle_sheet *sheet,
                          const struct pintle_sample *sample)
{
    json_t *pack = json_array();
    add_sample(pack, name, sheet, NULL, sample);
    return print(pack);
}
