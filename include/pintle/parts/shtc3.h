/* parts/shtc3.h: SHTC3, temperature and humidity, commands with a CRC on every word, two ways to
 * measure and a sleep (datasheet SHTC3 version 4).
 */
#ifndef PINTLE_PARTS_SHTC3_H
#define PINTLE_PARTS_SHTC3_H

#include "pintle/parts.h"

enum { PINTLE_SHTC3_TEMPERATURE, PINTLE_SHTC3_HUMIDITY };
enum { PINTLE_SHTC3_MODE };
enum { PINTLE_SHTC3_NORMAL, PINTLE_SHTC3_LOW_POWER };

#endif
