/* parts/ds3231.h: DS3231, a clock that keeps time on a battery, with its own thermometer
 * (datasheet 19-5170). What it does as a clock: time.h.
 */
#ifndef PINTLE_PARTS_DS3231_H
#define PINTLE_PARTS_DS3231_H

#include "pintle/parts.h"

enum { PINTLE_DS3231_TEMPERATURE, PINTLE_DS3231_TIME };

PINTLE_C_BEGIN

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(ds3231, 2, 0, 0, 0, 12)

PINTLE_C_END

#endif
