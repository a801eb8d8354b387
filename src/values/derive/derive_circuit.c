/* What hangs on a converter's input, in the sensor's own quantity. */
#include <math.h>

#include "pintle/derive.h"

#if !PINTLE_WHOLE

#define ZERO_CELSIUS 273.15f

static float divided(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    (void)quality;
    return inputs[0] * (of->numbers[0] + of->numbers[1]) / of->numbers[1];
}

/* At the ends it is shorted, or missing. */
static float ohms(float near_side, float far_side, float resistor)
{
    return near_side > 0 && far_side > 0 ? resistor * near_side / far_side : NAN;
}

static float resistance_below(struct pintle_derivation *of, const float *inputs,
                              pintle_marks *quality)
{
    (void)quality;
    return ohms(inputs[0], of->numbers[1] - inputs[0], of->numbers[0]);
}

static float resistance_above(struct pintle_derivation *of, const float *inputs,
                              pintle_marks *quality)
{
    (void)quality;
    return ohms(of->numbers[1] - inputs[0], inputs[0], of->numbers[0]);
}

static float warm(float per_kelvin, pintle_marks *quality)
{
    float celsius = 1 / per_kelvin - ZERO_CELSIUS;
    *quality |= celsius >= -55 && celsius <= 150 ? 0 : PINTLE_QUALITY_RANGE;
    return celsius;
}

static float beta(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    float ratio = inputs[0] / of->numbers[0];
    return ratio > 0 ? warm(1 / 298.15f + logf(ratio) / of->numbers[1], quality) : NAN;
}

/* 1/T = a + b ln R + c (ln R)^3 */
static float steinhart(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    const float *abc = of->numbers;
    if (!(inputs[0] > 0)) {
        return NAN;
    }
    float x = logf(inputs[0]);
    return warm(abc[0] + x * (abc[1] + abc[2] * x * x), quality);
}

static float power(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    (void)of;
    (void)quality;
    return inputs[0] * inputs[1];
}

static float through_points(struct pintle_derivation *of, const float *inputs,
                            pintle_marks *quality)
{
    const float *at = of->numbers;
    float x = inputs[0];
    if (of->count < 4) {
        return NAN;
    }
    const float *last = at + 2 * (of->count / 2 - 1);
    *quality |= x >= at[0] && x <= last[0] ? 0 : PINTLE_QUALITY_RANGE;
    while (at + 2 < last && x > at[2]) {
        at += 2;
    }
    return at[1] + (x - at[0]) * (at[3] - at[1]) / (at[2] - at[0]);
}

#define V PINTLE_QUANTITY_VOLTAGE
#define OHMS PINTLE_QUANTITY_RESISTANCE
#define FORMULA(from, number_count, quantity, function)                                            \
    {                                                                                              \
        .inputs = 1, .numbers = (number_count), .gives = (quantity), .takes = { from },            \
        .make = (function)                                                                         \
    }
const struct pintle_formula pintle_divided PINTLE_TABLE = FORMULA(V, 2, V, divided);
const struct pintle_formula pintle_resistance_below PINTLE_TABLE =
    FORMULA(V, 2, OHMS, resistance_below);
const struct pintle_formula pintle_resistance_above PINTLE_TABLE =
    FORMULA(V, 2, OHMS, resistance_above);
const struct pintle_formula pintle_thermistor_beta PINTLE_TABLE =
    FORMULA(OHMS, 2, PINTLE_QUANTITY_TEMPERATURE, beta);
const struct pintle_formula pintle_thermistor_steinhart PINTLE_TABLE =
    FORMULA(OHMS, 3, PINTLE_QUANTITY_TEMPERATURE, steinhart);
const struct pintle_formula pintle_through_points PINTLE_TABLE =
    FORMULA(PINTLE_ANY, 0, PINTLE_ANY, through_points);
const struct pintle_formula pintle_power PINTLE_TABLE = { .inputs = 2,
                                                          .gives = PINTLE_QUANTITY_POWER,
                                                          .takes = { PINTLE_QUANTITY_VOLTAGE,
                                                                     PINTLE_QUANTITY_CURRENT },
                                                          .make = power };

float pintle_derive_resistor(float lowest, float highest, float *span)
{
    float best = sqrtf(lowest * highest);
    *span = highest / (highest + best) - lowest / (lowest + best);
    return best;
}

#endif
