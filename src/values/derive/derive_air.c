/* Moist air, by the formulas of WMO-No. 8 (2018), annex 4.B; and the standard atmosphere, ISO 2533.
 */
#include <math.h>

#include "pintle/derive.h"

#if !PINTLE_WHOLE

#define ZERO_CELSIUS 273.15f
#define VAPOUR_CONSTANT 461.5f /* J / (kg K) */

/* Saturation over water, in pascals; valid from -45 to 60 degC. */
static float saturation(float celsius, pintle_marks *quality)
{
    *quality |= celsius >= -45 && celsius <= 60 ? 0 : PINTLE_QUALITY_RANGE;
    return 611.2f * expf(17.62f * celsius / (243.12f + celsius));
}

static float vapour(const float *inputs, pintle_marks *quality)
{
    *quality |= inputs[1] >= 0 && inputs[1] <= 100 ? 0 : PINTLE_QUALITY_RANGE;
    return saturation(inputs[0], quality) * inputs[1] / 100;
}

static float dew_point(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    (void)of;
    float pressure = vapour(inputs, quality);
    if (!(pressure > 0)) {
        return NAN; /* air without water has none */
    }
    float x = logf(pressure / 611.2f);
    return 243.12f * x / (17.62f - x);
}

static float absolute_humidity(struct pintle_derivation *of, const float *inputs,
                               pintle_marks *quality)
{
    (void)of;
    return vapour(inputs, quality) / (VAPOUR_CONSTANT * (inputs[0] + ZERO_CELSIUS));
}

static float humidity_at(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    (void)of;
    float humidity = 100 * vapour(inputs, quality) / saturation(inputs[2], quality);
    *quality |= humidity > 100 ? PINTLE_QUALITY_RANGE : 0;
    return humidity;
}

#define AIR PINTLE_QUANTITY_TEMPERATURE, PINTLE_QUANTITY_HUMIDITY
const struct pintle_formula pintle_dew_point PINTLE_TABLE = {
    .inputs = 2, .gives = PINTLE_QUANTITY_TEMPERATURE, .takes = { AIR }, .make = dew_point
};
const struct pintle_formula pintle_absolute_humidity PINTLE_TABLE = {
    .inputs = 2, .gives = PINTLE_QUANTITY_VAPOUR, .takes = { AIR }, .make = absolute_humidity
};
const struct pintle_formula pintle_humidity_at PINTLE_TABLE = {
    .inputs = 3,
    .gives = PINTLE_QUANTITY_HUMIDITY,
    .takes = { AIR, PINTLE_QUANTITY_TEMPERATURE },
    .make = humidity_at
};

/* --- the standard atmosphere: 288.15 K at 0 m, 0.0065 K less each metre --- */

#define HEIGHT_M 44330.77f /* 288.15 / 0.0065 */
#define EXPONENT 0.190263f /* 0.0065 x 287.05287 / 9.80665 */
#define LOWEST_M (-2000.0f)
#define HIGHEST_M 11000.0f

static float height(float pressure, float reference, pintle_marks *quality)
{
    if (!(pressure > 0 && reference > 0)) {
        return NAN;
    }
    float metres = HEIGHT_M * (1 - powf(pressure / reference, EXPONENT));
    *quality |= metres >= LOWEST_M && metres <= HIGHEST_M ? 0 : PINTLE_QUALITY_RANGE;
    return metres;
}

static float altitude(struct pintle_derivation *of, const float *inputs, pintle_marks *quality)
{
    return height(inputs[0], of->numbers[0], quality);
}

static float altitude_above(struct pintle_derivation *of, const float *inputs,
                            pintle_marks *quality)
{
    (void)of;
    return height(inputs[0], inputs[1], quality);
}

static float altitude_gained(struct pintle_derivation *of, const float *inputs,
                             pintle_marks *quality)
{
    if (!of->begun && *quality == 0) {
        of->kept = inputs[0];
        of->begun = 1;
    }
    return of->begun ? height(inputs[0], of->kept, quality) : NAN;
}

static float sea_level_pressure(struct pintle_derivation *of, const float *inputs,
                                pintle_marks *quality)
{
    float metres = of->numbers[0];
    *quality |= metres >= LOWEST_M && metres <= HIGHEST_M ? 0 : PINTLE_QUALITY_RANGE;
    return inputs[0] * powf(1 - metres / HEIGHT_M, -1 / EXPONENT);
}

#define OF_PRESSURE(number_count, quantity, function)                                              \
    {                                                                                              \
        .inputs = 1, .numbers = (number_count), .gives = (quantity),                               \
        .takes = { PINTLE_QUANTITY_PRESSURE }, .make = (function)                                  \
    }
const struct pintle_formula pintle_altitude PINTLE_TABLE =
    OF_PRESSURE(1, PINTLE_QUANTITY_LENGTH, altitude);
const struct pintle_formula pintle_altitude_gained PINTLE_TABLE =
    OF_PRESSURE(0, PINTLE_QUANTITY_LENGTH, altitude_gained);
const struct pintle_formula pintle_sea_level_pressure PINTLE_TABLE =
    OF_PRESSURE(1, PINTLE_QUANTITY_PRESSURE, sea_level_pressure);
const struct pintle_formula pintle_altitude_above PINTLE_TABLE = {
    .inputs = 2,
    .gives = PINTLE_QUANTITY_LENGTH,
    .takes = { PINTLE_QUANTITY_PRESSURE, PINTLE_QUANTITY_PRESSURE },
    .make = altitude_above
};

#endif
