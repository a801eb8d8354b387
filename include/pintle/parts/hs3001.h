/* parts/hs3001.h: HS3001, temperature and humidity, measures when it is called by its address and
 * says of each result whether it is new (datasheet HS300x, R36DS0010).
 */
#ifndef PINTLE_PARTS_HS3001_H
#define PINTLE_PARTS_HS3001_H

#include "pintle/parts.h"

enum { PINTLE_HS3001_TEMPERATURE, PINTLE_HS3001_HUMIDITY };

PINTLE_C_BEGIN

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(hs3001, 2, 0, 0, 0, 8)

PINTLE_C_END

#endif
