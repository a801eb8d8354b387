/* parts/mcp9808.h: MCP9808, temperature, four resolutions, identity registers (datasheet
 * DS25095).
 */
#ifndef PINTLE_PARTS_MCP9808_H
#define PINTLE_PARTS_MCP9808_H

#include "pintle/parts.h"

enum { PINTLE_MCP9808_TEMPERATURE };
enum { PINTLE_MCP9808_RESOLUTION };
enum {
    PINTLE_MCP9808_HALF,
    PINTLE_MCP9808_QUARTER,
    PINTLE_MCP9808_EIGHTH,
    PINTLE_MCP9808_SIXTEENTH
};

#endif
