/* parts/adxl345.h: ADXL345, acceleration on three axes, ten bits of a range or full resolution
 * (datasheet ADXL345 rev. G). Over I2C. The INT1 pin is high from a new sample on
 * until that is read.
 */
#ifndef PINTLE_PARTS_ADXL345_H
#define PINTLE_PARTS_ADXL345_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_ADXL345_ACCEL_X, PINTLE_ADXL345_ACCEL_Y, PINTLE_ADXL345_ACCEL_Z };
enum { PINTLE_ADXL345_RESOLUTION, PINTLE_ADXL345_RANGE, PINTLE_ADXL345_RATE };
#define PINTLE_ADXL345_RESOLUTION_OPTIONS(X)                                                       \
    X(ADXL345_10_BIT, "10-bit", 0, 0, 1)                                                           \
    X(ADXL345_FULL, "full", 1, 0, 1)
enum pintle_adxl345_resolution { PINTLE_ADXL345_RESOLUTION_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_ADXL345_RANGE_OPTIONS(X)                                                            \
    X(ADXL345_2_G, "2g", 0, 0, 1)                                                                  \
    X(ADXL345_4_G, "4g", 1, 0, 1)                                                                  \
    X(ADXL345_8_G, "8g", 2, 0, 1)                                                                  \
    X(ADXL345_16_G, "16g", 3, 0, 1)
enum pintle_adxl345_range { PINTLE_ADXL345_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Table 7, and "theory of operation": turning on takes a period and 1.1 ms; two periods with what
 * the oscillator may be off. */
#define PINTLE_ADXL345_RATE_OPTIONS(X)                                                             \
    X(ADXL345_12_5_HZ, "12.5Hz", 7, 176000, 1)                                                     \
    X(ADXL345_25_HZ, "25Hz", 8, 88000, 1)                                                          \
    X(ADXL345_50_HZ, "50Hz", 9, 44000, 1)                                                          \
    X(ADXL345_100_HZ, "100Hz", 10, 22000, 1)                                                       \
    X(ADXL345_200_HZ, "200Hz", 11, 11000, 1)                                                       \
    X(ADXL345_400_HZ, "400Hz", 12, 5500, 1)                                                        \
    X(ADXL345_800_HZ, "800Hz", 13, 2750, 1)                                                        \
    X(ADXL345_1600_HZ, "1600Hz", 14, 1375, 1)                                                      \
    X(ADXL345_3200_HZ, "3200Hz", 15, 688, 1)
enum pintle_adxl345_rate { PINTLE_ADXL345_RATE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(adxl345, 3, 0, 3, 0, 6)

PINTLE_SETTER(adxl345, resolution, PINTLE_ADXL345_RESOLUTION, adxl345_resolution)
PINTLE_SETTER(adxl345, range, PINTLE_ADXL345_RANGE, adxl345_range)
PINTLE_SETTER(adxl345, rate, PINTLE_ADXL345_RATE, adxl345_rate)

PINTLE_C_END

#endif
