/* derive.h: values made of other values: dew point, altitude, heading, averages.
 *
 *     pintle_derive_begin   once, after setting the members that are yours
 *     pintle_derive         for each set of readings
 *
 * A formula is a constant table; what isn't named isn't linked. What marks the readings that go in
 * also marks what comes out, and outside a formula's valid range it is marked RANGE. Values are in
 * base units (unit.h) throughout. Sources: WMO-No. 8 (2018) annex 4.B for moist air, ISO 2533 for
 * the atmosphere; the rest is said where it stands.
 *
 *     static const float at_sea[] = { 101325 };
 *     struct pintle_derivation height = { .formula = &pintle_altitude, .numbers = at_sea };
 *     pintle_derive_begin(&height);
 *     pintle_derive(&height, &air.reading[PINTLE_BME280_PRESSURE], now_us, &result);
 *
 * Stable.
 */
#ifndef PINTLE_DERIVE_H
#define PINTLE_DERIVE_H

#include "pintle/reading.h"
#include "pintle/table.h"
#include "pintle/unit.h"

PINTLE_C_BEGIN

#define PINTLE_DERIVE_INPUTS 6
#define PINTLE_ANY PINTLE_QUANTITY_COUNT /* of an input: anything; of what comes out: the same */

struct pintle_derivation;

struct pintle_formula {
    uint8_t inputs;  /* readings that go in */
    uint8_t numbers; /* and numbers; of a table as many pairs as there are */
    uint8_t gives;   /* enum pintle_quantity, or PINTLE_ANY */
    uint8_t takes[PINTLE_DERIVE_INPUTS];
    uint8_t windowed; /* it looks back: give it memory */
    /* Of values that are all there; sets bits of *quality. Not a number: there is none. */
    float (*make)(struct pintle_derivation *of, const float *inputs, pintle_marks *quality);
};

/* A reading of before. */
struct pintle_moment {
    float value;
    uint32_t at_ms;
};

/* The first members are the caller's, and must be there for as long as it is used. */
struct pintle_derivation {
    const struct pintle_formula *formula;
    const float *numbers;
    uint16_t count; /* of numbers, where the formula leaves that open */
    uint8_t round;  /* 1: its input is an angle that begins again at 360 degrees */
    /* Of formulas that look back: how far, and memory for as many readings as come in that time;
     * of pintle_least and pintle_greatest 0 looks back to the beginning, without memory. */
    uint32_t over_ms;
    struct pintle_moment *memory;
    uint16_t room;

    uint16_t used; /* from here on its own */
    uint16_t first;
    uint8_t begun;
    uint8_t late;   /* it has no reading from the window's beginning */
    uint8_t filled; /* per cent of the window that readings cover */
    uint32_t now_ms;
    uint32_t step_ms; /* since the call before */
    float kept;
};

void pintle_derive_begin(struct pintle_derivation *of);

/* `inputs` are as many as the formula takes; `time_us` is a time of theirs, from any clock that
 * goes on evenly. A window begins anew where that goes back, or on by more than the window. */
void pintle_derive(struct pintle_derivation *of, const struct pintle_reading *inputs,
                   int64_t time_us, struct pintle_reading *result);

/* --- moist air (WMO-No. 8, annex 4.B; over water, -45 to 60 degC) --- */

extern const struct pintle_formula pintle_dew_point;         /* temperature, relative humidity */
extern const struct pintle_formula pintle_absolute_humidity; /* likewise; mass per volume */
/* The relative humidity of the same air at another temperature: temperature and relative humidity
 * of the sensor, temperature of the air. Above 100 %RH it would condense: marked. */
extern const struct pintle_formula pintle_humidity_at;

/* --- the standard atmosphere (ISO 2533; -2000 to 11000 m) --- */

extern const struct pintle_formula
    pintle_altitude; /* pressure; number: pressure at the level of 0 */
extern const struct pintle_formula pintle_altitude_above;  /* pressure here, pressure there */
extern const struct pintle_formula pintle_altitude_gained; /* pressure; since the first good one */
extern const struct pintle_formula pintle_sea_level_pressure; /* pressure; number: altitude, m */

/* --- axes: x forward, y to the left, z up; at rest z reads +9.8 m/s2 --- */

/* Three accelerations, which must be gravity's alone: between 0.7 and 1.3 g in all. Degrees; pitch
 * is positive with the front up, roll with the left side up; beyond 80 degrees of pitch a roll is
 * marked, and so is a heading. */
extern const struct pintle_formula pintle_pitch;
extern const struct pintle_formula pintle_roll;

/* Three flux densities, three accelerations; number: the declination, degrees, east positive. Where
 * the front points, clockwise from north, 0 to 360 degrees, with the tilt taken out. The field must
 * be the Earth's alone: 20 to 70 uT in all, 5 uT along the ground. */
extern const struct pintle_formula pintle_heading;

/* Which axis of a chip is each axis of the thing that it is screwed to: 1, 2, 3 for x, y, z, with a
 * minus where it points the other way. A turn, never a mirror. */
struct pintle_derive_mount {
    int8_t x, y, z;
};
/* 1: each axis once, and right-handed. */
uint8_t pintle_derive_mount_is_valid(const struct pintle_derive_mount *mount);
/* Three readings in a row, x, y, z, of one kind. */
void pintle_derive_mount_apply(const struct pintle_derive_mount *mount, struct pintle_reading *xyz);

/* --- circuits --- */

extern const struct pintle_formula pintle_divided; /* voltage; numbers: upper, lower ohms */
/* The ohms of a sensor between the input and ground, or between the supply and the input. Voltage;
 * numbers: the resistor on the other side in ohms, the supply in volts. */
extern const struct pintle_formula pintle_resistance_below;
extern const struct pintle_formula pintle_resistance_above;
/* Resistance; numbers: ohms at 25 degC, B in kelvin; or Steinhart and Hart's three coefficients.
 * -55 to 150 degC. */
extern const struct pintle_formula pintle_thermistor_beta;
extern const struct pintle_formula pintle_thermistor_steinhart;
extern const struct pintle_formula pintle_power; /* voltage, current */
/* Through points: x, y, x, y, ..., x rising; straight between them. Beyond the ends it goes on as
 * straight as there, and is marked. Two points or more. */
extern const struct pintle_formula pintle_through_points;

/* The resistor beside a sensor of `least` to `greatest` ohms that makes the most of an input: their
 * geometric mean; and how much of the supply the input then spans, 0 to 1. */
float pintle_derive_resistor(float least, float greatest, float *span);

/* --- any quantity --- */

/* The first less the second; of temperatures a difference of temperatures, of angles that begin
 * again the shorter way round. */
extern const struct pintle_formula pintle_difference;
/* Over a window of time: the mean, the least, the greatest; and the change over it. Until the
 * window is full they are marked FIRST, and so are those of a window that lacks more than a
 * quarter; where less is missing, GAP. A change takes the ends alone. struct pintle_derivation says
 * how much of it is filled. */
extern const struct pintle_formula pintle_average;
extern const struct pintle_formula pintle_least;
extern const struct pintle_formula pintle_greatest;
extern const struct pintle_formula pintle_change;

/* What a formula gives of these: of PINTLE_ANY the first input's; differences of temperatures. */
enum pintle_quantity pintle_derive_gives(const struct pintle_formula *formula,
                                         enum pintle_quantity first);

/* --- light, in words --- */

/* "dark", "moonlight", "street light", "living room", "office", "overcast", "daylight", "sun"; for
 * people, a table. */
const char *pintle_derive_light_word(float lux);

PINTLE_C_END

#endif
