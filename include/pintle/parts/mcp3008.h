/* parts/mcp3008.h: MCP3008, eight voltages over SPI, 10 bits, as shares of a reference of 3.3 V
 * (datasheet DS21295). With another reference multiply by it and divide by 3.3; for what hangs on
 * an input see shape.h.
 */
#ifndef PINTLE_PARTS_MCP3008_H
#define PINTLE_PARTS_MCP3008_H

#include "pintle/parts.h"

enum {
    PINTLE_MCP3008_CH0,
    PINTLE_MCP3008_CH1,
    PINTLE_MCP3008_CH2,
    PINTLE_MCP3008_CH3,
    PINTLE_MCP3008_CH4,
    PINTLE_MCP3008_CH5,
    PINTLE_MCP3008_CH6,
    PINTLE_MCP3008_CH7
};

#endif
