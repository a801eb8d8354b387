/* parts/shtc3.h: SHTC3, temperature and humidity, commands with a CRC on every word, two ways to
 * measure and a sleep (datasheet SHTC3 version 4).
 */
#ifndef PINTLE_PARTS_SHTC3_H
#define PINTLE_PARTS_SHTC3_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_SHTC3_TEMPERATURE, PINTLE_SHTC3_HUMIDITY };
enum { PINTLE_SHTC3_MODE };
/* Table 5: the longest measurement. */
#define PINTLE_SHTC3_MODE_OPTIONS(X)                                                               \
    X(SHTC3_NORMAL, "normal", 0x7866, 12100, 1)                                                    \
    X(SHTC3_LOW_POWER, "low-power", 0x609c, 800, 1)
enum pintle_shtc3_mode { PINTLE_SHTC3_MODE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(shtc3, 2, 0, 1, 0, 6)

PINTLE_SETTER(shtc3, mode, PINTLE_SHTC3_MODE, shtc3_mode)

PINTLE_C_END

#endif
