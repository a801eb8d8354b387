#include "pintle/shape.h"

#include <math.h>

#include "pintle/table.h"

#if !PINTLE_WHOLE

static float constant(const float *constants, uint8_t i)
{
    float value;
    pintle_table_copy(&value, constants + i, sizeof value);
    return value;
}

float pintle_shape_polynomial(const float *constants, float x)
{
    float sum = 0;
    for (uint8_t i = (uint8_t)constant(constants, 0); i > 0; i--) {
        sum = sum * x + constant(constants, i);
    }
    return sum;
}

float pintle_shape_above(const float *constants, float x)
{
    return x > constant(constants, 0) ? pintle_shape_polynomial(constants + 1, x) : x;
}

float pintle_shape_thermistor(const float *constants, float x)
{
    if (!(x > 0 && x < 1)) {
        return NAN;
    }
    float ohms = constant(constants, 0) * x / (1 - x);
    float inverse = 1 / 298.15f + logf(ohms / constant(constants, 1)) / constant(constants, 2);
    return 1 / inverse - 273.15f;
}

#endif
