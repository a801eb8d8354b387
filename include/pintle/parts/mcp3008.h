/* parts/mcp3008.h: MCP3008, eight voltages over SPI, 10 bits, as shares of a reference (datasheet
 * DS21295). Only the inputs that are asked for are converted (pintle_sensor_ask). For what hangs on
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

/* numbers */
enum { PINTLE_MCP3008_REFERENCE /* V; 3.3 */ };

PINTLE_C_BEGIN

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_SPI_SENSOR(mcp3008, 8, 1, 0, 0, 24)

PINTLE_C_END

#endif
