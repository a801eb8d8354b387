/* shape.h: from a straight line to what hangs on it.
 *
 * A linear channel (part.h) may end in one of these. They are plain functions and can be called by
 * hand too. May be called from an interrupt.
 *
 * May still change.
 */
#ifndef PINTLE_SHAPE_H
#define PINTLE_SHAPE_H

#include "pintle/config.h"

PINTLE_C_BEGIN

/* constants: how many coefficients follow, then c0, c1, ...: c0 + c1 x + c2 x^2 ... A table. */
float pintle_shape_polynomial(const float *constants, float x);

/* constants: an x, and behind it those of a polynomial: up to that x the value is x itself, above
 * it the polynomial's. */
float pintle_shape_above(const float *constants, float x);

/* A thermistor between the input and ground, a resistor between the reference and the input.
 * constants: the resistor in ohms, the thermistor's ohms at 25 degC, its B in kelvin; a table.
 * `x` is the input's share of the reference, above 0 and below 1. degC, by the B equation
 * 1/T = 1/T25 + ln(R/R25) / B; not a number at the ends, where the thermistor is shorted or
 * missing. */
float pintle_shape_thermistor(const float *constants, float x);

PINTLE_C_END

#endif
