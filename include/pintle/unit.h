/* unit.h: quantities and units.
 *
 * Inside and in machine output every channel is in its quantity's base unit, written with the
 * symbol that SenML registers for it (RFC 8428 section 12.1, RFC 8798); for an angular rate none is
 * registered, and rad/s is written. For people a quantity may
 * be shown in another unit; the conversion is always a straight line.
 *
 * Stable.
 */
#ifndef PINTLE_UNIT_H
#define PINTLE_UNIT_H

#include "pintle/status.h"

PINTLE_C_BEGIN

/* X(NAME, "quantity", "base symbol", "unit for people") */
#define PINTLE_QUANTITY_LIST(X)                                                                    \
    X(TEMPERATURE, "temperature", "Cel", "degC")                                                   \
    X(HUMIDITY, "relative humidity", "%RH", "%RH")                                                 \
    X(PRESSURE, "pressure", "Pa", "hPa")                                                           \
    X(TIME, "time", "s", "UTC")                                                                    \
    X(ACCELERATION, "acceleration", "m/s2", "g")                                                   \
    X(ANGULAR_RATE, "angular rate", "rad/s", "deg/s")                                              \
    X(ANGLE, "angle", "deg", "deg")                                                                \
    X(VOLTAGE, "voltage", "V", "V")                                                                \
    X(CURRENT, "current", "A", "A")                                                                \
    X(LENGTH, "length", "m", "mm")                                                                 \
    X(ILLUMINANCE, "illuminance", "lx", "lx")                                                      \
    X(POWER, "power", "W", "W")                                                                    \
    X(RESISTANCE, "resistance", "Ohm", "ohm")                                                      \
    X(FREQUENCY, "frequency", "Hz", "Hz")                                                          \
    X(FLUX_DENSITY, "magnetic flux density", "T", "uT")                                            \
    X(VAPOUR, "absolute humidity", "kg/m3", "g/m3")                                                \
    X(WARMTH, "temperature difference", "K", "degC")                                               \
    X(STATE, "state", "/", "on")                                                                   \
    X(NUMBER, "count", "count", "count")

enum pintle_quantity {
#define PINTLE_QUANTITY_VALUE(name, word, symbol, shown) PINTLE_QUANTITY_##name,
    PINTLE_QUANTITY_LIST(PINTLE_QUANTITY_VALUE)
#undef PINTLE_QUANTITY_VALUE
        PINTLE_QUANTITY_COUNT
};

/* X(NAME, "symbol", QUANTITY, gain, offset): base = value x gain + offset */
#define PINTLE_UNIT_LIST(X)                                                                        \
    X(CEL, "degC", TEMPERATURE, 1.0f, 0.0f)                                                        \
    X(FAR, "degF", TEMPERATURE, 0.55555556f, -17.777778f)                                          \
    X(KELVIN, "K", TEMPERATURE, 1.0f, -273.15f)                                                    \
    X(RH, "%RH", HUMIDITY, 1.0f, 0.0f)                                                             \
    X(PA, "Pa", PRESSURE, 1.0f, 0.0f)                                                              \
    X(HPA, "hPa", PRESSURE, 100.0f, 0.0f)                                                          \
    X(KPA, "kPa", PRESSURE, 1000.0f, 0.0f)                                                         \
    X(MMHG, "mmHg", PRESSURE, 133.32239f, 0.0f)                                                    \
    X(INHG, "inHg", PRESSURE, 3386.3886f, 0.0f)                                                    \
    X(SECOND, "s", TIME, 1.0f, 0.0f)                                                               \
    X(MS2, "m/s2", ACCELERATION, 1.0f, 0.0f)                                                       \
    X(STANDARD_G, "g", ACCELERATION, 9.80665f, 0.0f)                                               \
    X(RAD_S, "rad/s", ANGULAR_RATE, 1.0f, 0.0f)                                                    \
    X(DEG_S, "deg/s", ANGULAR_RATE, 0.017453293f, 0.0f)                                            \
    X(DEG, "deg", ANGLE, 1.0f, 0.0f)                                                               \
    X(RAD, "rad", ANGLE, 57.29578f, 0.0f)                                                          \
    X(VOLT, "V", VOLTAGE, 1.0f, 0.0f)                                                              \
    X(MILLIVOLT, "mV", VOLTAGE, 0.001f, 0.0f)                                                      \
    X(AMPERE, "A", CURRENT, 1.0f, 0.0f)                                                            \
    X(METRE, "m", LENGTH, 1.0f, 0.0f)                                                              \
    X(MILLIMETRE, "mm", LENGTH, 0.001f, 0.0f)                                                      \
    X(CENTIMETRE, "cm", LENGTH, 0.01f, 0.0f)                                                       \
    X(FOOT, "ft", LENGTH, 0.3048f, 0.0f)                                                           \
    X(INCH, "in", LENGTH, 0.0254f, 0.0f)                                                           \
    X(LUX, "lx", ILLUMINANCE, 1.0f, 0.0f)                                                          \
    X(KILOLUX, "klx", ILLUMINANCE, 1000.0f, 0.0f)                                                  \
    X(FOOT_CANDLE, "fc", ILLUMINANCE, 10.763910f, 0.0f)                                            \
    X(MILLIAMPERE, "mA", CURRENT, 0.001f, 0.0f)                                                    \
    X(MICROAMPERE, "uA", CURRENT, 1e-6f, 0.0f)                                                     \
    X(WATT, "W", POWER, 1.0f, 0.0f)                                                                \
    X(MILLIWATT, "mW", POWER, 0.001f, 0.0f)                                                        \
    X(OHM, "ohm", RESISTANCE, 1.0f, 0.0f)                                                          \
    X(KILOHM, "kohm", RESISTANCE, 1000.0f, 0.0f)                                                   \
    X(HERTZ, "Hz", FREQUENCY, 1.0f, 0.0f)                                                          \
    X(MICROTESLA, "uT", FLUX_DENSITY, 1e-6f, 0.0f)                                                 \
    X(GAUSS, "G", FLUX_DENSITY, 1e-4f, 0.0f)                                                       \
    X(GRAM_M3, "g/m3", VAPOUR, 0.001f, 0.0f)                                                       \
    X(ON, "on", STATE, 1.0f, 0.0f)                                                                 \
    X(CEL_APART, "degC", WARMTH, 1.0f, 0.0f)                                                       \
    X(FAR_APART, "degF", WARMTH, 0.55555556f, 0.0f)                                                \
    X(KELVIN_APART, "K", WARMTH, 1.0f, 0.0f)                                                       \
    X(EACH, "count", NUMBER, 1.0f, 0.0f)

enum pintle_unit {
#define PINTLE_UNIT_VALUE(name, symbol, quantity, gain, offset) PINTLE_UNIT_##name,
    PINTLE_UNIT_LIST(PINTLE_UNIT_VALUE)
#undef PINTLE_UNIT_VALUE
        PINTLE_UNIT_COUNT
};

/* The quantity's name, "unknown" for any other number. This text and the next two lie in tables
 * (table.h). */
const char *pintle_quantity_word(enum pintle_quantity quantity);

/* The symbol of its base unit in machine output (SenML). */
const char *pintle_quantity_symbol(enum pintle_quantity quantity);

/* The unit in which people are shown it unless they ask for another; of a time "UTC". */
const char *pintle_quantity_shown(enum pintle_quantity quantity);

/* Likewise as a number; of a time, and of no quantity, PINTLE_UNIT_COUNT. */
enum pintle_unit pintle_quantity_unit(enum pintle_quantity quantity);

/* The unit's symbol (in a table), "unknown" for any other number; the quantity that it measures,
 * PINTLE_QUANTITY_COUNT likewise. */
const char *pintle_unit_symbol(enum pintle_unit unit);
enum pintle_quantity pintle_unit_quantity(enum pintle_unit unit);

/* A value in its quantity's base unit, in this unit, and the other way round; as it is for no unit.
 */
float pintle_unit_show(enum pintle_unit unit, float base);
float pintle_unit_base(enum pintle_unit unit, float value);

/* Convert `value` between two units of one quantity; *result is written on success only.
 * BAD_ARGUMENT: the units measure different quantities, or are none. */
PINTLE_MUST_CHECK enum pintle_status pintle_unit_convert(float value, enum pintle_unit from,
                                                         enum pintle_unit to, float *result);

/* The unit written so ("degF") of this quantity or, for PINTLE_QUANTITY_COUNT, of the first that
 * has one; PINTLE_UNIT_COUNT: there is none. */
enum pintle_unit pintle_unit_find(const char *symbol, enum pintle_quantity quantity);

PINTLE_C_END

#endif
