/* parts/sht40.h: SHT40, temperature and humidity, commands of one byte with a CRC on every word
 * (datasheet SHT4x version 6).
 */
#ifndef PINTLE_PARTS_SHT40_H
#define PINTLE_PARTS_SHT40_H

#include "pintle/parts.h"

enum { PINTLE_SHT40_TEMPERATURE, PINTLE_SHT40_HUMIDITY };
enum { PINTLE_SHT40_PRECISION };
enum { PINTLE_SHT40_HIGH, PINTLE_SHT40_MEDIUM, PINTLE_SHT40_LOW };

#endif
