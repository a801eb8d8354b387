/* parts/sht31.h: SHT31, temperature and humidity, commands instead of registers, a CRC on every
 * word (datasheet SHT3x-DIS version 7).
 */
#ifndef PINTLE_PARTS_SHT31_H
#define PINTLE_PARTS_SHT31_H

#include "pintle/parts.h"

enum { PINTLE_SHT31_TEMPERATURE, PINTLE_SHT31_HUMIDITY };
enum { PINTLE_SHT31_REPEATABILITY };
enum { PINTLE_SHT31_HIGH, PINTLE_SHT31_MEDIUM, PINTLE_SHT31_LOW };

#endif
