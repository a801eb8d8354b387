#include "pintle/host/rig/worth.h"

#include <glib.h>
#include <math.h>
#include <string.h>

/* "0.18 Pa" in base units; 0: it is no number. */
static double said_resolution(const char *text, enum pintle_quantity quantity)
{
    char *end = NULL;
    double number = text ? g_ascii_strtod(text, &end) : 0;
    if (!text || end == text) {
        return 0;
    }
    char *symbol = g_strdup(end + strspn(end, " "));
    symbol[strcspn(symbol, " ,;")] = '\0';
    enum pintle_unit unit = pintle_unit_find(symbol, quantity);
    g_free(symbol);
    if (unit == PINTLE_UNIT_COUNT) {
        return 0;
    }
    double per = (double)(pintle_unit_show(unit, 1) - pintle_unit_show(unit, 0));
    return number / per;
}

/* By the shape of a curve, where the channel has one. */
static double curved_count(const struct pintle_linear *row, double step, double value)
{
    double low = 0;
    double high = step * row->highest;
    for (unsigned i = 0; i < 60; i++) { /* which raw value is it of? */
        double middle = (low + high) / 2;
        bool rises =
            row->shape(row->constants, (float)high) > row->shape(row->constants, (float)low);
        if (((double)row->shape(row->constants, (float)middle) < value) == rises) {
            low = middle;
        } else {
            high = middle;
        }
    }
    double span = 4 * step;
    return fabs((double)row->shape(row->constants, (float)(low + span))
                - (double)row->shape(row->constants, (float)(low - span)))
           / 8;
}

double pintle_worth_count(const struct pintle_rig_sensor *sensor, unsigned channel, double value)
{
    const struct pintle_part *part = sensor->sheet->part;
    const struct pintle_channel *c = &part->channels[channel];
    if (sensor->made) {
        return 0;
    }
    if (!c->linear) {
        const struct pintle_channel_text *text =
            sensor->sheet->channels ? &sensor->sheet->channels[channel] : NULL;
        return text ? said_resolution(text->resolution, (enum pintle_quantity)c->quantity) : 0;
    }
    const uint8_t *settings = sensor->chosen.settings;
    const struct pintle_block block = { .settings = settings, .numbers = sensor->chosen.numbers };
    const struct pintle_linear *row = pintle_part_row(part, c, settings);
    double step = (double)row->scale;
    bool scaled = (c->scaled_by || c->number) && part->factor;
    step *= scaled ? (double)part->factor(part, c, &block) : 1;
    double count = row->shape ? curved_count(row, step, value) : fabs(step);
    return isfinite(count) ? count : 0;
}

double pintle_worth_accuracy(const struct pintle_rig_sensor *sensor, unsigned channel, double value)
{
    const struct pintle_channel_text *text =
        sensor->sheet->channels ? &sensor->sheet->channels[channel] : NULL;
    if (!text || sensor->made) {
        return 0;
    }
    bool narrow = text->accuracy_narrow > 0 && value >= (double)text->narrow_lowest
                  && value <= (double)text->narrow_highest;
    return (double)(narrow ? text->accuracy_narrow : text->accuracy_wide);
}

/* What the quantity can do around an instrument: in one go, and in a second; and the count that is
 * finer than any part's noise. */
static const struct {
    uint8_t quantity;
    float jump, rate, fine;
} usual[] = {
    { PINTLE_QUANTITY_TEMPERATURE, 0.5f, 2.0f, 0.01f },
    { PINTLE_QUANTITY_HUMIDITY, 2.0f, 10.0f, 0.01f },
    { PINTLE_QUANTITY_PRESSURE, 50.0f, 200.0f, 1.0f },
    { PINTLE_QUANTITY_ACCELERATION, 0, 0, 0.001f },
    { PINTLE_QUANTITY_ANGULAR_RATE, 0, 0, 0.00015f },
};

#define COUNTS 6 /* of noise that is no jump */
#define FROZEN 30

void pintle_worth_limits(const struct pintle_rig_sensor *sensor, unsigned channel,
                         struct pintle_rig_channel *limits)
{
    const struct pintle_channel *c = &sensor->sheet->part->channels[channel];
    double count = pintle_worth_count(sensor, channel, (double)(c->lowest + c->highest) / 2);
    limits->jump = limits->rate = 0;
    limits->frozen = 0;
    limits->twin = -1;
    for (size_t i = 0; i < G_N_ELEMENTS(usual) && !sensor->made; i++) {
        if (usual[i].quantity != c->quantity) {
            continue;
        }
        if (usual[i].jump > 0) {
            limits->jump = fmaxf(usual[i].jump, COUNTS * (float)count);
            limits->rate = usual[i].rate;
        }
        /* Of a chip that a rig describes nobody says how much it scatters. */
        bool finer = count > 0 && (float)count <= usual[i].fine && !sensor->sheet->described;
        limits->frozen = finer ? FROZEN : 0;
    }
}
