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
    of->filled = 0;
    of->step_ms = 0;
}

/* A window that has been jumped over, or into which time has gone back, is a new one. */
static void keep_time(struct pintle_derivation *of, int64_t time_us)
{
    uint32_t now_ms = (uint32_t)(time_us / 1000);
    uint32_t step = now_ms - of->now_ms;
    if (of->begun && of->over_ms > 0 && step > of->over_ms) {
        pintle_derive_begin(of);
        step = 0;
    }
    of->step_ms = of->begun ? step : 0;
    of->now_ms = now_ms;
}

void pintle_derive(struct pintle_derivation *of, const struct pintle_reading *inputs,
                   int64_t time_us, struct pintle_reading *result)
{
    PINTLE_TABLE_ROW(struct pintle_formula, formula, of->formula);
    float values[PINTLE_DERIVE_INPUTS];
    pintle_marks quality = 0;
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

static float difference(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
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

#define POOR 75 /* per cent: with less a window is no window */

static void forget_oldest(struct pintle_derivation *of)
{
    of->first = (uint16_t)((of->first + 1) % of->room);
    of->used--;
}

/* What is missing in the window, from its beginning on and in between: a reading stands for the
 * time since the one before, as far as they come evenly. */
static pintle_marks look_for_holes(struct pintle_derivation *of)
{
    uint32_t patience = of->step_ms + of->step_ms / 2;
    uint32_t before = of->now_ms;
    uint32_t missing = 0;
    for (uint16_t i = of->used; i > 0; i--) {
        uint32_t apart = before - moment(of, (uint16_t)(i - 1))->at_ms;
        missing += apart > patience ? apart - of->step_ms : 0;
        before -= apart;
    }
    uint8_t holes = missing > 0;
    uint32_t age = of->now_ms - before;
    of->late = of->over_ms > age + of->step_ms / 4;
    missing += of->late ? of->over_ms - age : 0;
    missing = missing < of->over_ms ? missing : of->over_ms;
    of->filled = (uint8_t)(100 - (uint64_t)missing * 100 / of->over_ms);
    return (pintle_marks)((of->late || of->filled < POOR ? PINTLE_QUALITY_FIRST : 0)
                          | (holes ? PINTLE_QUALITY_GAP : 0));
}

static uint32_t age_of(const struct pintle_derivation *of, uint16_t i)
{
    return of->now_ms - moment(of, i)->at_ms;
}

/* Take it in, let go of what is older than the window, but for the last one: that is what was when
 * the window begins. What marks it keeps it out. Returns what is known against the window. */
static pintle_marks remember(struct pintle_derivation *of, float value, pintle_marks quality)
{
    if (of->room == 0 || of->over_ms == 0) {
        return PINTLE_QUALITY_FIRST; /* there is no window */
    }
    while (of->used > 1 && age_of(of, 1) >= of->over_ms) {
        forget_oldest(of);
    }
    if (quality == 0) {
        if (of->used == of->room) { /* more than there is memory for: the window gets shorter */
            forget_oldest(of);
        }
        *moment(of, of->used++) = (struct pintle_moment){ value, of->now_ms };
        of->begun = 1;
    }
    return look_for_holes(of);
}

/* The first of them that lies in the window. */
static uint16_t begins_at(const struct pintle_derivation *of)
{
    return of->used > 0 && age_of(of, 0) > of->over_ms ? 1 : 0;
}

/* Angles run from 0 to 360 or, where one is below 0, from -180 to 180. */
static float as_angle(float degrees, uint8_t is_signed)
{
    float least = is_signed ? -180 : 0;
    return degrees < least ? degrees + 360 : degrees >= least + 360 ? degrees - 360 : degrees;
}

static float average(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    float sum = 0;
    uint8_t is_signed = 0;
    *quality |= remember(of, inputs[0], *quality);
    uint16_t from = begins_at(of);
    for (uint16_t i = from; i < of->used; i++) {
        sum += shorter(of, moment(of, i)->value - inputs[0]);
        is_signed = is_signed || moment(of, i)->value < 0;
    }
    float mean = of->used > from ? inputs[0] + sum / (float)(of->used - from) : NAN;
    return of->round ? as_angle(mean, is_signed) : mean;
}

const struct pintle_formula pintle_average PINTLE_TABLE = {
    .inputs = 1, .gives = PINTLE_ANY, .takes = { PINTLE_ANY }, .windowed = 1, .make = average
};

static float extreme(struct pintle_derivation *of, float value, pintle_marks *quality, float sign)
{
    if (of->over_ms == 0) {
        if (*quality == 0 && (!of->begun || (value - of->kept) * sign > 0)) {
            of->kept = value;
            of->begun = 1;
        }
        return of->begun ? of->kept : NAN;
    }
    float most = NAN;
    *quality |= remember(of, value, *quality);
    uint16_t from = begins_at(of);
    for (uint16_t i = from; i < of->used; i++) {
        float one = moment(of, i)->value;
        most = i == from || (one - most) * sign > 0 ? one : most;
    }
    return most;
}

static float least(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    return extreme(of, inputs[0], quality, -1);
}

static float greatest(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    return extreme(of, inputs[0], quality, 1);
}

const struct pintle_formula pintle_least PINTLE_TABLE = {
    .inputs = 1, .gives = PINTLE_ANY, .takes = { PINTLE_ANY }, .windowed = 1, .make = least
};
const struct pintle_formula pintle_greatest PINTLE_TABLE = {
    .inputs = 1, .gives = PINTLE_ANY, .takes = { PINTLE_ANY }, .windowed = 1, .make = greatest
};

/* Against the reading that is nearest to as old as the window. */
static float change(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    (void)remember(of, inputs[0], *quality); /* its ends are all it takes */
    uint16_t oldest = begins_at(of);
    if (oldest == 1
        && (of->used == 1 || age_of(of, 0) - of->over_ms < of->over_ms - age_of(of, 1))) {
        oldest = 0;
    }
    *quality |= of->late ? PINTLE_QUALITY_FIRST : 0;
    return of->used > 0 ? shorter(of, inputs[0] - moment(of, oldest)->value) : NAN;
}

const struct pintle_formula pintle_change PINTLE_TABLE = {
    .inputs = 1, .gives = PINTLE_ANY, .takes = { PINTLE_ANY }, .windowed = 1, .make = change
};

#endif
