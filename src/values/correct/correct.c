#include "pintle/correct.h"

#include "twofold.h"

#if !PINTLE_WHOLE

#define NO_VALUE (PINTLE_QUALITY_BUS | PINTLE_QUALITY_IDLE)

static float determinant(const float m[9])
{
    return m[0] * (m[4] * m[8] - m[5] * m[7]) - m[1] * (m[3] * m[8] - m[5] * m[6])
           + m[2] * (m[3] * m[7] - m[4] * m[6]);
}

static uint8_t rises(const float *points, uint8_t count)
{
    for (uint8_t i = 2; i < count; i = (uint8_t)(i + 2)) {
        if (!(points[i] > points[i - 2])) {
            return 0;
        }
    }
    return count >= 4 && count % 2 == 0;
}

/* Has it as many numbers as its kind takes, and do they tell one value from another? */
static uint8_t fits(const struct pintle_correct_stage *s)
{
    float turned = 0;
    switch (s->kind) {
    case PINTLE_STAGE_HEAT:
        return s->count == 1 && s->numbers[0] != -1;
    case PINTLE_STAGE_THERMAL:
        return s->count == 3;
    case PINTLE_STAGE_POLYNOMIAL:
        for (uint8_t i = 2; i < s->count && i < 5; i++) {
            turned += s->numbers[i] * s->numbers[i];
        }
        return s->count >= 3 && s->count <= 5 && turned != 0;
    case PINTLE_STAGE_TABLE:
        return rises(s->numbers, s->count);
    case PINTLE_STAGE_AXES:
        turned = s->count == 12 ? determinant(s->numbers + 3) : 0;
        return turned != 0 && pintle_priv_is_finite(turned);
    default:
        return 0;
    }
}

uint8_t pintle_correct_is_valid(const struct pintle_correct_stage *stage)
{
    if (!stage->numbers || stage->count > PINTLE_STAGE_NUMBERS || !(stage->lowest <= stage->highest)
        || !(stage->uncertainty >= 0)) {
        return 0;
    }
    for (uint8_t i = 0; i < stage->count; i++) {
        if (!pintle_priv_is_finite(stage->numbers[i])) {
            return 0;
        }
    }
    return fits(stage);
}

static float polynomial(const struct pintle_correct_stage *stage, float x)
{
    float sum = 0;
    x -= stage->numbers[0];
    for (uint8_t i = stage->count; i > 1; i--) {
        sum = sum * x + stage->numbers[i - 1];
    }
    return sum;
}

static float table(const struct pintle_correct_stage *stage, float x)
{
    const float *p = stage->numbers;
    uint8_t i = 2;
    while (i + 2 < stage->count && x > p[i]) {
        i = (uint8_t)(i + 2);
    }
    return p[i - 1] + (x - p[i - 2]) * (p[i + 1] - p[i - 1]) / (p[i] - p[i - 2]);
}

static void judge_span(const struct pintle_correct_stage *stage, float value,
                       struct pintle_reading *reading)
{
    uint8_t anywhere = stage->lowest == 0 && stage->highest == 0;
    if (!anywhere && !(value >= stage->lowest && value <= stage->highest)) {
        reading->quality |= PINTLE_QUALITY_SPAN;
    }
}

/* 0: the second channel has no value. */
static uint8_t by_second(const struct pintle_correct_stage *stage, struct pintle_reading *reading)
{
    const struct pintle_reading *second = stage->second;
    const float *n = stage->numbers;
    float x = reading->value;
    if (!second || (second->quality & NO_VALUE)) {
        reading->quality |= PINTLE_QUALITY_SPAN;
        return 0;
    }
    judge_span(stage, second->value, reading);
    reading->quality |= second->quality & PINTLE_QUALITY_SUSPECT;
    reading->value = stage->kind == PINTLE_STAGE_HEAT
                         ? x - n[0] * (second->value - x)
                         : x + (n[1] + n[2] * x) * (second->value - n[0]);
    return 1;
}

static uint8_t by_axes(const struct pintle_correct_stage *stage, struct pintle_reading *xyz)
{
    const float *n = stage->numbers;
    float in[3];
    pintle_marks against = 0;
    for (uint8_t i = 0; i < 3; i++) {
        in[i] = xyz[i].value - n[i];
        judge_span(stage, xyz[i].value, &xyz[i]);
        against |= xyz[i].quality;
    }
    if (against & NO_VALUE) {
        return 0;
    }
    for (uint8_t i = 0; i < 3; i++) { /* each is made of all three */
        const float *m = n + 3 + 3 * i;
        xyz[i].value = m[0] * in[0] + m[1] * in[1] + m[2] * in[2];
        xyz[i].quality |= against & PINTLE_QUALITY_SUSPECT;
    }
    return 1;
}

/* 0: it was not. */
static uint8_t apply(const struct pintle_correct_stage *stage, struct pintle_reading *reading)
{
    float x = reading->value;
    if (reading->quality & NO_VALUE) {
        return 0;
    }
    switch (stage->kind) {
    case PINTLE_STAGE_HEAT:
    case PINTLE_STAGE_THERMAL:
        return by_second(stage, reading);
    case PINTLE_STAGE_POLYNOMIAL:
    case PINTLE_STAGE_TABLE:
        judge_span(stage, x, reading);
        reading->value = stage->kind == PINTLE_STAGE_TABLE ? table(stage, x) : polynomial(stage, x);
        return 1;
    case PINTLE_STAGE_AXES:
        return by_axes(stage, reading);
    default:
        return 0;
    }
}

void pintle_correct(const struct pintle_correct_stage *stages, uint8_t count,
                    struct pintle_reading *readings, uint8_t channels)
{
    uint32_t done = 0;
    uint32_t failed = 0;
    for (uint8_t i = 0; i < count; i++) {
        uint8_t wide = stages[i].kind == PINTLE_STAGE_AXES ? 3 : 1;
        uint32_t its = (uint32_t)(wide == 3 ? 7 : 1) << (stages[i].channel & 31);
        if (stages[i].channel + wide <= channels && !(failed & its)) {
            uint8_t applied = apply(&stages[i], &readings[stages[i].channel]);
            done |= applied ? its : 0;
            failed |= applied ? 0 : its;
        }
    }
    for (uint8_t i = 0; i < channels; i++) {
        struct pintle_reading *reading = &readings[i];
        if (!(reading->quality & NO_VALUE) && ((failed | ~done) >> i & 1)) {
            reading->quality |= PINTLE_QUALITY_UNCORRECTED;
        } else if (!(reading->quality & NO_VALUE) && !pintle_priv_is_finite(reading->value)) {
            reading->quality |= PINTLE_QUALITY_RANGE;
        }
    }
}

#endif
