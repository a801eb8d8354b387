/* parts/tmp102.h: TMP102, temperature, pointer register, 12 or 13 bits (datasheet SLOS854).
 */
#ifndef PINTLE_PARTS_TMP102_H
#define PINTLE_PARTS_TMP102_H

#include "pintle/parts.h"

enum { PINTLE_TMP102_TEMPERATURE };
enum { PINTLE_TMP102_MODE, PINTLE_TMP102_FORMAT, PINTLE_TMP102_RATE, PINTLE_TMP102_FAULTS };
enum { PINTLE_TMP102_CONTINUOUS, PINTLE_TMP102_ONE_SHOT };
enum { PINTLE_TMP102_12_BIT, PINTLE_TMP102_13_BIT };
enum { PINTLE_TMP102_QUARTER_HZ, PINTLE_TMP102_1_HZ, PINTLE_TMP102_4_HZ, PINTLE_TMP102_8_HZ };
enum {
    PINTLE_TMP102_1_FAULT,
    PINTLE_TMP102_2_FAULTS,
    PINTLE_TMP102_4_FAULTS,
    PINTLE_TMP102_6_FAULTS
};

/* Set the thermostat limits of a TMP102, in degC (-128 to 127.9375), in the format that the
 * sensor is set to. OUT_OF_RANGE or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_tmp102_limits(struct pintle_sensor *sensor, float low,
                                                          float high);

#endif
