/* parts/lis331.h: LIS331DLH and LIS331HH: accelerometers over SPI, to 8 g and to 24 g (datasheets
 * DocID15094, DocID16366). They have one identity: nothing tells them apart but gravity.
 * The INT1 pin is high from a new sample on until that is read.
 */
#ifndef PINTLE_PARTS_LIS331_H
#define PINTLE_PARTS_LIS331_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_LIS331_ACCEL_X, PINTLE_LIS331_ACCEL_Y, PINTLE_LIS331_ACCEL_Z };
enum { PINTLE_LIS331_RANGE, PINTLE_LIS331_RATE };
#define PINTLE_LIS331_RATE_OPTIONS(X)                                                              \
    X(LIS331_50_HZ, "50Hz", 0, 0, 1)                                                               \
    X(LIS331_100_HZ, "100Hz", 1, 0, 1)                                                             \
    X(LIS331_400_HZ, "400Hz", 2, 0, 1)                                                             \
    X(LIS331_1000_HZ, "1000Hz", 3, 0, 1)
enum pintle_lis331_rate { PINTLE_LIS331_RATE_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_LIS331DLH_RANGE_OPTIONS(X)                                                          \
    X(LIS331DLH_2_G, "2g", 0, 0, 1)                                                                \
    X(LIS331DLH_4_G, "4g", 1, 0, 2)                                                                \
    X(LIS331DLH_8_G, "8g", 3, 0, 3.9f)
enum pintle_lis331dlh_range { PINTLE_LIS331DLH_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_LIS331HH_RANGE_OPTIONS(X)                                                           \
    X(LIS331HH_6_G, "6g", 0, 0, 1)                                                                 \
    X(LIS331HH_12_G, "12g", 1, 0, 2)                                                               \
    X(LIS331HH_24_G, "24g", 3, 0, 4)
enum pintle_lis331hh_range { PINTLE_LIS331HH_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Their channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_SPI_SENSOR(lis331dlh, 3, 0, 2, 0, 6)
PINTLE_SPI_SENSOR(lis331hh, 3, 0, 2, 0, 6)

PINTLE_SETTER(lis331dlh, range, PINTLE_LIS331_RANGE, lis331dlh_range)
PINTLE_SETTER(lis331dlh, rate, PINTLE_LIS331_RATE, lis331_rate)
PINTLE_SETTER(lis331hh, range, PINTLE_LIS331_RANGE, lis331hh_range)
PINTLE_SETTER(lis331hh, rate, PINTLE_LIS331_RATE, lis331_rate)

PINTLE_C_END

#endif
