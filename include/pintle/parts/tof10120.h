/* parts/tof10120.h: TOF10120, distance by light, 100 to 1800 mm, on a serial line; and the same
 * chip over I2C, TOF10120I2C (its manual, version 1.2).
 */
#ifndef PINTLE_PARTS_TOF10120_H
#define PINTLE_PARTS_TOF10120_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_TOF10120_DISTANCE };
enum { PINTLE_TOF10120_MODE };
#define PINTLE_TOF10120_MODE_OPTIONS(X)                                                            \
    X(TOF10120_FILTERED, "filtered", 0x30, 0, 1)                                                   \
    X(TOF10120_REAL_TIME, "real-time", 0x31, 0, 1)
enum pintle_tof10120_mode { PINTLE_TOF10120_MODE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Their channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_STREAM_SENSOR(tof10120, 1, 0, 1, 0, 12)
PINTLE_I2C_SENSOR(tof10120i2c, 1, 0, 0, 0, 4)

PINTLE_SETTER(tof10120, mode, PINTLE_TOF10120_MODE, tof10120_mode)

PINTLE_C_END

#endif
