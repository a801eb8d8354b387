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

unsigned pintle_worth_places(const struct pintle_rig_sensor *sensor, unsigned channel)
{
    const struct pintle_channel *c = &sensor->sheet->part->channels[channel];
    double count = pintle_worth_count(sensor, channel, (double)(c->lowest + c->highest) / 2);
    double places = count > 0 ? ceil(-log10(count) - 1e-6) : 0;
    return (unsigned)CLAMP(places, c->decimals, PINTLE_DECIMALS_MAX);
}

/* By how much coarser a count is than with the part's initial settings and numbers; 1 where the
 * size of a count is unknown. */
static double coarser(const struct pintle_rig_sensor *sensor, unsigned channel)
{
    const struct pintle_part *part = sensor->sheet->part;
    struct pintle_rig_sensor initial = *sensor;
    pintle_part_initial(part, initial.chosen.settings);
    for (unsigned i = 0; i < part->number_count; i++) {
        initial.chosen.numbers[i] = part->numbers[i].initial;
    }
    double before = pintle_worth_count(&initial, channel, 0);
    return before > 0 ? pintle_worth_count(sensor, channel, 0) / before : 1;
}

double pintle_worth_accuracy(const struct pintle_rig_sensor *sensor, unsigned channel, double value)
{
    const struct pintle_channel_text *text =
        sensor->sheet->channels ? &sensor->sheet->channels[channel] : NULL;
    if (!text || sensor->made) {
        return 0;
    }
    const struct pintle_accuracy *closer =
        sensor->sheet->accuracies ? &sensor->sheet->accuracies[channel] : NULL;
    if (closer && (closer->scaled > 0 || closer->share > 0) && !isnan(value)) {
        double scaled = closer->scaled > 0
                            ? coarser(sensor, closer->like > 0 ? closer->like - 1u : channel)
                            : 0;
        return (double)closer->scaled * scaled + (double)closer->share * fabs(value);
    }
    bool narrow = text->accuracy_narrow > 0 && value >= (double)text->narrow_lowest
                  && value <= (double)text->narrow_highest;
    return (double)(narrow ? text->accuracy_narrow : text->accuracy_wide);
}

unsigned pintle_worth_lag(const struct pintle_rig_sensor *sensor)
{
    unsigned lag = 1;
    for (unsigned i = 0; i < sensor->sheet->part->setting_count && sensor->sheet->settings; i++) {
        const uint8_t *lags = sensor->sheet->settings[i].lags;
        lag = MAX(lag, lags ? lags[sensor->chosen.settings[i]] : 1u);
    }
    return lag;
}

/* Does a measurement wait for its own result, or ask whether there is one? */
static bool waits(const struct pintle_rig_sensor *sensor)
{
    const struct pintle_step *step = sensor->sheet->part->measure;
    for (; step->op != PINTLE_OP_END; step++) {
        if (step->op == PINTLE_OP_ONLY
            && (step->reg == PINTLE_NO_REG || sensor->chosen.settings[step->reg] != step->value)) {
            step += step->width;
        } else if (step->op == PINTLE_OP_WAIT || step->op == PINTLE_OP_POLL
                   || (step->op == PINTLE_OP_READ && step->value)) {
            return true;
        }
    }
    return false;
}

uint32_t pintle_worth_renewal_us(const struct pintle_rig_sensor *sensor)
{
    const struct pintle_part *part = sensor->sheet->part;
    uint32_t sum = 0;
    for (unsigned i = 0; i < part->setting_count; i++) {
        sum += part->settings[i].options[sensor->chosen.settings[i]].time_us;
    }
    return sensor->made || waits(sensor) ? 0 : sum;
}

/* What the quantity can do around an instrument: in one go, and in a second; and the count that is
 * finer than any part's noise. */
static const struct {
    uint8_t quantity;
    float jump, rate, fine;
} usual[] = {
    { PINTLE_QUANTITY_TEMPERATURE, 0.5f, 2.0f, 0.01f },
    { PINTLE_QUANTITY_HUMIDITY, 2.0f, 5.0f, 0.01f },
    { PINTLE_QUANTITY_PRESSURE, 50.0f, 200.0f, 1.0f },
    { PINTLE_QUANTITY_ACCELERATION, 0, 0, 0.001f },
    { PINTLE_QUANTITY_ANGULAR_RATE, 0, 0, 0.00015f },
};

#define COUNTS 6  /* of noise that is no jump */
#define FAST_S 10 /* nothing goes on moving that fast for longer */
#define FROZEN 30

void pintle_worth_limits(const struct pintle_rig_sensor *sensor, unsigned channel,
                         struct pintle_rig_channel *limits)
{
    const struct pintle_channel *c = &sensor->sheet->part->channels[channel];
    double count = pintle_worth_count(sensor, channel, (double)(c->lowest + c->highest) / 2);
    limits->jump = limits->rate = 0;
    limits->frozen = limits->fast_s = 0;
    limits->twin = -1;
    for (size_t i = 0; i < G_N_ELEMENTS(usual) && !sensor->made; i++) {
        if (usual[i].quantity != c->quantity) {
            continue;
        }
        if (usual[i].jump > 0) {
            limits->jump = fmaxf(usual[i].jump, COUNTS * (float)count);
            limits->rate = usual[i].rate;
            limits->fast_s = FAST_S;
        }
        /* Of a chip that a rig describes nobody says how much it scatters. */
        bool finer = count > 0 && (float)count <= usual[i].fine && !sensor->sheet->described;
        limits->frozen = finer ? FROZEN : 0;
    }
}
