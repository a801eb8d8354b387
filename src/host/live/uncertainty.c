/* What a reading is worth: standard uncertainties, put together as independent contributions are
 * (ISO/IEC Guide 98-3, 4.3.7 and 5.1.2).
 *
 * A limit that a data sheet states is taken as the half width of a rectangle, a count as its full
 * width. A curve or axes that were calibrated take the place of what the data sheet allows for,
 * where they hold and their own uncertainty is known. */
#include <glib.h>
#include <math.h>

#include "pintle/host/live/station.h"
#include "host/rig/described_values.h"
#include "pintle/host/rig/worth.h"

static double square(double x)
{
    return x * x;
}

static bool covers(const struct pintle_correct_stage *stage, unsigned channel)
{
    unsigned wide = stage->kind == PINTLE_STAGE_AXES ? 3 : 1;
    return channel >= stage->channel && channel < stage->channel + wide;
}

/* How much of the second channel's uncertainty comes through. */
static double by_second(const struct pintle_station *station, const struct pintle_rig_stage *stage,
                        double value)
{
    const float *n = stage->stage.numbers;
    double slope =
        stage->stage.kind == PINTLE_STAGE_HEAT ? (double)n[0] : (double)n[1] + (double)n[2] * value;
    double its =
        pintle_station_uncertainty(station, (unsigned)stage->second, stage->second_channel);
    return isnan(its) ? 0 : square(slope * its);
}

/* Away from its middle a curve is less certain. */
static double off_the_middle(const struct pintle_rig_stage *stage, double value)
{
    double off = value - (double)stage->stage.numbers[0];
    double power = off;
    double sum = 0;
    for (unsigned i = 2; i < 5 && stage->stage.kind == PINTLE_STAGE_POLYNOMIAL; i++) {
        sum += square(power * stage->deviation[i]);
        power *= off;
    }
    return sum;
}

/* Of a correction, squared; *known: it takes the place of the data sheet's limit. */
static double of_stages(const struct pintle_station *station, unsigned index, unsigned channel,
                        double value, bool *known)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[index];
    double sum = 0;
    for (unsigned i = 0; i < from->stages; i++) {
        const struct pintle_rig_stage *stage = &from->stage[i];
        if (!covers(&stage->stage, channel)) {
            continue;
        }
        bool shape = stage->stage.kind >= PINTLE_STAGE_POLYNOMIAL;
        *known = *known || (shape && stage->stage.uncertainty > 0);
        sum += square((double)stage->stage.uncertainty) + square(stage->residual);
        sum += off_the_middle(stage, value);
        sum += stage->second >= 0 ? by_second(station, stage, value) : 0;
    }
    return sum;
}

/* By how much it changes with each of what goes in (5.1.3, note 2: by plus and minus its own
 * uncertainty). What looks back takes its input's: what is in all of a window alike. */
static double of_formula(const struct pintle_station *station, unsigned index, unsigned channel)
{
    const struct pintle_rig_made *made = &station->rig->sensor[index].made[channel];
    const struct pintle_formula *formula = made->formula ? made->formula->formula : NULL;
    float inputs[PINTLE_DERIVE_INPUTS];
    double sum = 0;
    for (unsigned i = 0; formula && i < formula->inputs; i++) {
        const struct pintle_seat *turn = &station->turn[made->of[i].sensor];
        inputs[i] = turn->sample.channel[made->of[i].channel].value;
    }
    for (unsigned i = 0; formula && i < formula->inputs; i++) {
        double its = pintle_station_uncertainty(station, made->of[i].sensor, made->of[i].channel);
        struct pintle_derivation copy = station->rigged[index].derivation[channel];
        float value = inputs[i];
        pintle_marks unused = 0;
        if (formula->windowed || isnan(its)) {
            return formula->windowed ? square(its) : (double)NAN;
        }
        inputs[i] = value + (float)its;
        double above = (double)formula->make(&copy, inputs, &unused);
        inputs[i] = value - (float)its;
        double below = (double)formula->make(&copy, inputs, &unused);
        inputs[i] = value;
        double change = fabs(above - below);
        bool round = pintle_derive_gives(formula, PINTLE_ANY) == PINTLE_QUANTITY_ANGLE;
        sum += square((round && change > 180 ? 360 - change : change) / 2);
    }
    return formula ? sum : (double)NAN;
}

/* A described channel that is made of others of its chip, by what the datasheet has of these. */
static double of_expression(const struct pintle_station *station, unsigned index, unsigned channel)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[index];
    const struct pintle_sample *sample = &station->turn[index].sample;
    const struct pintle_rigged *rigged = &station->rigged[index];
    const struct pintle_block block = pintle_sensor_block(&rigged->any.sensor);
    double each[PINTLE_MOST_CHANNELS] = { 0 };
    for (unsigned c = 0; c < from->sheet->part->channel_count; c++) {
        double value = (double)sample->channel[c].value;
        double limit = pintle_worth_accuracy(from, c, value);
        double count = pintle_worth_count(from, c, value);
        each[c] = limit > 0 ? sqrt(square(limit) / 3 + square(count) / 12) : (double)NAN;
    }
    return pintle_priv_described_spread(from->sheet->part, &block, channel, each);
}

double pintle_station_uncertainty(const struct pintle_station *station, unsigned index,
                                  unsigned channel)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[index];
    const struct pintle_reading *reading = &station->turn[index].sample.channel[channel];
    double value = (double)reading->value;
    bool known = false;
    if ((reading->quality & (PINTLE_QUALITY_BUS | PINTLE_QUALITY_IDLE)) || isnan(value)) {
        return (double)NAN;
    }
    double sum = of_stages(station, index, channel, value, &known);
    known = known && !(reading->quality & (PINTLE_QUALITY_SPAN | PINTLE_QUALITY_UNCORRECTED));
    if (from->made) {
        return sqrt(sum + of_formula(station, index, channel));
    }
    double limit = pintle_worth_accuracy(from, channel, value);
    double count = pintle_worth_count(from, channel, value);
    if (!known && limit == 0) {
        return from->sheet->described ? of_expression(station, index, channel) : (double)NAN;
    }
    return sqrt(sum + (known ? 0 : square(limit) / 3) + square(count) / 12);
}
