/* parts/bmp180.h: BMP180, temperature and pressure, factory trim, a conversion for each (datasheet
 * BST-BMP180-DS000).
 */
#ifndef PINTLE_PARTS_BMP180_H
#define PINTLE_PARTS_BMP180_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_BMP180_TEMPERATURE, PINTLE_BMP180_PRESSURE };
enum { PINTLE_BMP180_OVERSAMPLING };
/* Table 8: the longest conversions, by the times that it samples the pressure. */
#define PINTLE_BMP180_OVERSAMPLING_OPTIONS(X)                                                      \
    X(BMP180_X1, "x1", 0, 4500, 1)                                                                 \
    X(BMP180_X2, "x2", 1, 7500, 1)                                                                 \
    X(BMP180_X4, "x4", 2, 13500, 1)                                                                \
    X(BMP180_X8, "x8", 3, 25500, 1)
enum pintle_bmp180_oversampling { PINTLE_BMP180_OVERSAMPLING_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_BMP180_TRIM 22

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(bmp180, 2, 0, 1, PINTLE_BMP180_TRIM, 5)

PINTLE_SETTER(bmp180, oversampling, PINTLE_BMP180_OVERSAMPLING, bmp180_oversampling)

PINTLE_C_END

#endif
