/* parts/pcf8574.h: PCF8574 and PCF8574A, eight lines to set and to read (datasheet PCF8574;
 * PCF8574A). The two differ in their addresses. How to drive the lines: outputs.h.
 */
#ifndef PINTLE_PARTS_PCF8574_H
#define PINTLE_PARTS_PCF8574_H

#include "pintle/parts.h"

enum {
    PINTLE_PCF8574_P0,
    PINTLE_PCF8574_P1,
    PINTLE_PCF8574_P2,
    PINTLE_PCF8574_P3,
    PINTLE_PCF8574_P4,
    PINTLE_PCF8574_P5,
    PINTLE_PCF8574_P6,
    PINTLE_PCF8574_P7
};

PINTLE_C_BEGIN

/* Their channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(pcf8574, 8, 0, 0, 0, 2)
PINTLE_I2C_SENSOR(pcf8574a, 8, 0, 0, 0, 2)

PINTLE_C_END

#endif
