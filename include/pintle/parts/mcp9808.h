/* parts/mcp9808.h: MCP9808, temperature, four resolutions, identity registers (datasheet
 * DS25095).
 */
#ifndef PINTLE_PARTS_MCP9808_H
#define PINTLE_PARTS_MCP9808_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_MCP9808_TEMPERATURE };
enum { PINTLE_MCP9808_RESOLUTION };
/* Register 5-7: the conversion times. */
#define PINTLE_MCP9808_RESOLUTION_OPTIONS(X)                                                       \
    X(MCP9808_0_5_DEGC, "0.5", 0, 30000, 1)                                                        \
    X(MCP9808_0_25_DEGC, "0.25", 1, 65000, 1)                                                      \
    X(MCP9808_0_125_DEGC, "0.125", 2, 130000, 1)                                                   \
    X(MCP9808_0_0625_DEGC, "0.0625", 3, 250000, 1)
enum pintle_mcp9808_resolution { PINTLE_MCP9808_RESOLUTION_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(mcp9808, 1, 0, 1, 0, 2)

PINTLE_SETTER(mcp9808, resolution, PINTLE_MCP9808_RESOLUTION, mcp9808_resolution)

PINTLE_C_END

#endif
