/* parts/bmp180.h: BMP180, temperature and pressure, factory trim, a conversion for each (datasheet
 * BST-BMP180-DS000).
 */
#ifndef PINTLE_PARTS_BMP180_H
#define PINTLE_PARTS_BMP180_H

#include "pintle/parts.h"

enum { PINTLE_BMP180_TEMPERATURE, PINTLE_BMP180_PRESSURE };
enum { PINTLE_BMP180_OVERSAMPLING };
enum { PINTLE_BMP180_X1, PINTLE_BMP180_X2, PINTLE_BMP180_X4, PINTLE_BMP180_X8 };
#define PINTLE_BMP180_TRIM 22

#endif
