/* parts/sht31.h: SHT31, temperature and humidity, commands instead of registers, a CRC on every
 * word (datasheet SHT3x-DIS version 7).
 */
#ifndef PINTLE_PARTS_SHT31_H
#define PINTLE_PARTS_SHT31_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_SHT31_TEMPERATURE, PINTLE_SHT31_HUMIDITY };
enum { PINTLE_SHT31_REPEATABILITY };
/* Table 4: the longest measurement, at a supply down to 2.15 V. */
#define PINTLE_SHT31_REPEATABILITY_OPTIONS(X)                                                      \
    X(SHT31_HIGH, "high", 0x00, 15500, 1)                                                          \
    X(SHT31_MEDIUM, "medium", 0x0b, 6500, 1)                                                       \
    X(SHT31_LOW, "low", 0x16, 4500, 1)
enum pintle_sht31_repeatability { PINTLE_SHT31_REPEATABILITY_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(sht31, 2, 0, 1, 0, 6)

PINTLE_SETTER(sht31, repeatability, PINTLE_SHT31_REPEATABILITY, sht31_repeatability)

PINTLE_C_END

#endif
