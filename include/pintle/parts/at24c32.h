/* parts/at24c32.h: AT24C32, an EEPROM of 4096 bytes in pages of 32 (datasheet 0336). How to read
 * and write it: store.h.
 */
#ifndef PINTLE_PARTS_AT24C32_H
#define PINTLE_PARTS_AT24C32_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(at24c32, 0, 0, 0, 0, 0)

PINTLE_C_END

#endif
