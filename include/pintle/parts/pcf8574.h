/* parts/pcf8574.h: PCF8574 and PCF8574A, eight lines to set and to read (datasheet PCF8574;
 * PCF8574A). The two differ in their addresses. How to drive the lines: lines.h.
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

#endif
