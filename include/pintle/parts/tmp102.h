/* parts/tmp102.h: TMP102, temperature, pointer register, 12 or 13 bits (datasheet SLOS854).
 */
#ifndef PINTLE_PARTS_TMP102_H
#define PINTLE_PARTS_TMP102_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_TMP102_TEMPERATURE };
enum { PINTLE_TMP102_MODE, PINTLE_TMP102_FORMAT, PINTLE_TMP102_RATE, PINTLE_TMP102_FAULTS };
#define PINTLE_TMP102_MODE_OPTIONS(X)                                                              \
    X(TMP102_CONTINUOUS, "continuous", 0, 0, 1)                                                    \
    X(TMP102_ONE_SHOT, "one-shot", 1, 0, 1)
enum pintle_tmp102_mode { PINTLE_TMP102_MODE_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_TMP102_FORMAT_OPTIONS(X)                                                            \
    X(TMP102_12_BIT, "12-bit", 0, 0, 1)                                                            \
    X(TMP102_13_BIT, "13-bit", 1, 0, 1)
enum pintle_tmp102_format { PINTLE_TMP102_FORMAT_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_TMP102_RATE_OPTIONS(X)                                                              \
    X(TMP102_0_25_HZ, "0.25Hz", 0, 4000000, 1)                                                     \
    X(TMP102_1_HZ, "1Hz", 1, 1000000, 1)                                                           \
    X(TMP102_4_HZ, "4Hz", 2, 250000, 1)                                                            \
    X(TMP102_8_HZ, "8Hz", 3, 125000, 1)
enum pintle_tmp102_rate { PINTLE_TMP102_RATE_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_TMP102_FAULTS_OPTIONS(X)                                                            \
    X(TMP102_1_FAULT, "1", 0, 0, 1)                                                                \
    X(TMP102_2_FAULTS, "2", 1, 0, 1)                                                               \
    X(TMP102_4_FAULTS, "4", 2, 0, 1)                                                               \
    X(TMP102_6_FAULTS, "6", 3, 0, 1)
enum pintle_tmp102_faults { PINTLE_TMP102_FAULTS_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(tmp102, 1, 0, 4, 0, 2)

PINTLE_SETTER(tmp102, mode, PINTLE_TMP102_MODE, tmp102_mode)
PINTLE_SETTER(tmp102, format, PINTLE_TMP102_FORMAT, tmp102_format)
PINTLE_SETTER(tmp102, rate, PINTLE_TMP102_RATE, tmp102_rate)
PINTLE_SETTER(tmp102, faults, PINTLE_TMP102_FAULTS, tmp102_faults)

PINTLE_C_END

#endif
