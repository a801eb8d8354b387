/* Values made of other values: what all formulas share. */
#include "pintle/derive.h"

#include <math.h>

#if !PINTLE_WHOLE

#define SUSPECT_VALUE (PINTLE_QUALITY_BUS | PINTLE_QUALITY_IDLE)

void pintle_derive_begin(struct pintle_derivation *of)
{
    of->used = 0;
    of->first = 0;
    of->begun = 0;
    of->full = 0;
}

/* A window that has been jumped over, or into which time has gone back, is a new one. */
static void keep_time(struct pintle_derivation *of, int64_t time_us)
{
    uint32_t now_ms = (uint32_t)(time_us / 1000);
    uint32_t step = now_ms - of->now_ms;
    if (of->begun && of->over_ms > 0 && step > of->over_ms) {
        pintle_derive_begin(of);
    }
    of->now_ms = now_ms;
}

void pintle_derive(struct pintle_derivation *of, const struct pintle_reading *inputs,
                   int64_t time_us, struct pintle_reading *result)
{
    PINTLE_TABLE_ROW(struct pintle_formula, formula, of->formula);
    float values[PINTLE_DERIVE_INPUTS];
    uint16_t quality = 0;
    for (uint8_t i = 0; i < formula->inputs && i < PINTLE_DERIVE_INPUTS; i++) {
        values[i] = inputs[i].value;
        quality |= inputs[i].quality & PINTLE_QUALITY_SUSPECT;
    }
    result->raw = 0;
    result->value = NAN;
    result->quality = quality;
    keep_time(of, time_us);
    if (!(quality & SUSPECT_VALUE)) {
        result->value = formula->make(of, values, &result->quality);
    }
    if (result->value - result->value != 0) { /* no number, or without end */
        result->value = NAN;
        result->quality |= result->quality ? 0 : PINTLE_QUALITY_RANGE;
    }
}

enum pintle_quantity pintle_derive_gives(const struct pintle_formula *formula,
                                         enum pintle_quantity first)
{
    PINTLE_TABLE_ROW(struct pintle_formula, row, formula);
    uint8_t apart = formula == &pintle_difference || formula == &pintle_change;
    if (row->gives != PINTLE_ANY) {
        return (enum pintle_quantity)row->gives;
    }
    return apart && first == PINTLE_QUANTITY_TEMPERATURE ? PINTLE_QUANTITY_WARMTH : first;
}

/* As near to 0 as turns make it. */
static float shorter(const struct pintle_derivation *of, float degrees)
{
    while (of->round && degrees > 180) {
        degrees -= 360;
    }
    while (of->round && degrees < -180) {
        degrees += 360;
    }
    return degrees;
}

static float difference(struct pintle_derivation *of, const float *inputs, uint16_t *quality)
{
    (void)quality;
    return shorter(of, inputs[0] - inputs[1]);
}

const struct pintle_formula pintle_difference PINTLE_TABLE = {
    .inputs = 2, .gives = PINTLE_ANY, .takes = { PINTLE_ANY, PINTLE_ANY }, .make = difference
};

/* --- windows --- */

static struct pintle_moment *moment(const struct pintle_derivation *of, uint16_t i)
{
    return &of->memory[(uint16_t)((of->first + i) % of->room)];
}

/* Take it in, let go of what is older than the window. What marks it keeps it out. */
static void remember(struct pintle_derivation *of, float value, uint16_t *quality)
{
    while (of->used > 0 && of->now_ms - moment(of, 0)->at_ms > of->over_ms) {
        of->first = (uint16_t)((of->first + 1) % of->room);
        of->used--;
        of->full = 1;
    }
    if (*quality == 0 && of->room > 0) {
        if (of->used == of->room) { /* more than there is memory for: the window gets shorter */
            of->first = (uint16_t)((of->first + 1) % of->room);
            of->used--;
            of->full = 0;
        }
        *moment(of, of->used++) = (struct pintle_moment){ value, of->now_ms };
        of->begun = 1;
    }
    if (of->used > 0 && of->now_ms - moment(of, 0)->at_ms >= of->over_ms) {
        of->full = 1;
    }
    *quality |= of->full ? 0 : PINTLE_QUALITY_FIRST;
}

static float average(struct pintle_derivation *of, const float *inputs, uint16_t *quality)
{
    float sum = 0;
    remember(of, inputs[0], quality);
    for (uint16_t i = 0; i < of->used; i++) {
        sum += shorter(of, moment(of, i)->value - inputs[0]);
    }
    float mean = of->used > 0 ? inputs[0] + sum / (float)of->used : NAN;
    return of->round && mean < 0 ? mean + 360 : of->round && mean >= 360 ? mean - 360 : mean;
}

const struct pintle_formula pintle_average PINTLE_TABLE = {
    .inputs = 1, .gives = PINTLE_ANY, .takes = { PINTLE_ANY }, .windowed = 1, .make = average
};

static float extreme(struct pintle_derivation *of, float value, uint16_t *quality, float sign)
{
    if (of->over_ms == 0) {
        if (*quality == 0 && (!of->begun || (value - of->kept) * sign > 0)) {
            of->kept = value;
            of->begun = 1;
        }
        return of->begun ? of->kept : NAN;
    }
    float most = NAN;
    remember(of, value, quality);
    for (uint16_t i = 0; i < of->used; i++) {
        float one = moment(of, i)->value;
        most = i == 0 || (one - most) * sign > 0 ? one : most;
    }
    return most;
}

static float least(struct pintle_derivation *of, const float *inputs, uint16_t *quality)
{
    return extreme(of, inputs[0], quality, -1);
}

static float greatest(struct pintle_derivation *of, const float *inputs, uint16_t *quality)
{
    return extreme(of, inputs[0], quality, 1);
}

const struct pintle_formula pintle_least PINTLE_TABLE = {
    .inputs = 1, .gives = PINTLE_ANY, .takes = { PINTLE_ANY }, .windowed = 1, .make = least
};
const struct pintle_formula pintle_greatest PINTLE_TABLE = {
    .inputs = 1, .gives = PINTLE_ANY, .takes = { PINTLE_ANY }, .windowed = 1, .make = greatest
};

/* Against the oldest in the window, which is as old as the window or a reading younger. */
static float change(struct pintle_derivation *of, const float *inputs, uint16_t *quality)
{
    remember(of, inputs[0], quality);
    return of->used > 0 ? shorter(of, inputs[0] - moment(of, 0)->value) : NAN;
}

const struct pintle_formula pintle_change PINTLE_TABLE = {
    .inputs = 1, .gives = PINTLE_ANY, .takes = { PINTLE_ANY }, .windowed = 1, .make = change
};

#endif
