/* parts.h: the parts that ship (parts/list.h).
 *
 * Each is a constant table. The type of its sensors, its settings with their options, its channels
 * and what only it can do are in a header of its own, pintle/parts/NAME.h, which includes this one.
 * Parts that a program does not name are not linked.
 *
 * Stable.
 */
#ifndef PINTLE_PARTS_H
#define PINTLE_PARTS_H

#include "pintle/parts/list.h"
#include "pintle/sensor.h"

PINTLE_C_BEGIN

#define PINTLE_PART_DECLARED(name, file, bus, place, flash)                                        \
    extern const struct pintle_part pintle_##name;
PINTLE_PART_LIST(PINTLE_PART_DECLARED)
#undef PINTLE_PART_DECLARED

PINTLE_C_END

#endif
