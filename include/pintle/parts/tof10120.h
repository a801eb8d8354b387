/* parts/tof10120.h: TOF10120, distance by light, 100 to 1800 mm, on a serial line; and the same
 * chip over I2C, TOF10120I2C (its manual, version 1.2).
 */
#ifndef PINTLE_PARTS_TOF10120_H
#define PINTLE_PARTS_TOF10120_H

#include "pintle/parts.h"

enum { PINTLE_TOF10120_DISTANCE };
enum { PINTLE_TOF10120_MODE };
enum { PINTLE_TOF10120_FILTERED, PINTLE_TOF10120_REAL_TIME };

#endif
