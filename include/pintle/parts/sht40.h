/* parts/sht40.h: SHT40, temperature and humidity, commands of one byte with a CRC on every word
 * (datasheet SHT4x version 6).
 */
#ifndef PINTLE_PARTS_SHT40_H
#define PINTLE_PARTS_SHT40_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_SHT40_TEMPERATURE, PINTLE_SHT40_HUMIDITY };
enum { PINTLE_SHT40_PRECISION };
/* Table 4: the longest measurement. */
#define PINTLE_SHT40_PRECISION_OPTIONS(X)                                                          \
    X(SHT40_HIGH, "high", 0xfd, 8300, 1)                                                           \
    X(SHT40_MEDIUM, "medium", 0xf6, 4500, 1)                                                       \
    X(SHT40_LOW, "low", 0xe0, 1600, 1)
enum pintle_sht40_precision { PINTLE_SHT40_PRECISION_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(sht40, 2, 0, 1, 0, 6)

PINTLE_SETTER(sht40, precision, PINTLE_SHT40_PRECISION, sht40_precision)

PINTLE_C_END

#endif
