/* parts/lis331.h: LIS331DLH and LIS331HH: accelerometers over SPI, to 8 g and to 24 g (datasheets
 * DocID15094, DocID16366). They have one identity: nothing tells them apart but gravity.
 * The INT1 pin is high from a new sample on until that is read.
 */
#ifndef PINTLE_PARTS_LIS331_H
#define PINTLE_PARTS_LIS331_H

#include "pintle/parts.h"

enum { PINTLE_LIS331_ACCEL_X, PINTLE_LIS331_ACCEL_Y, PINTLE_LIS331_ACCEL_Z };
enum { PINTLE_LIS331_RANGE, PINTLE_LIS331_RATE };
enum { PINTLE_LIS331_LOW, PINTLE_LIS331_MIDDLE, PINTLE_LIS331_HIGH };
enum { PINTLE_LIS331_50_HZ, PINTLE_LIS331_100_HZ, PINTLE_LIS331_400_HZ, PINTLE_LIS331_1000_HZ };

#endif
