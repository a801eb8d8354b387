/* parts.h: the parts that ship (parts/list.h).
 *
 * Each is a constant table for pintle_sensor_on_i2c and its like. Its settings and options for
 * pintle_sensor_set, its channels for sample.channel, the size of its trim and what only it can do
 * are in a header of its own, pintle/parts/NAME.h, which includes this one. Parts that a program
 * does not name are not linked.
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

/* pintle_PART_set_SETTING: pintle_sensor_set with an option of that setting and no other, so that
 * the compiler says where an option is another's. WRONG_PART: the sensor is of another part. */
#define PINTLE_SETTER(part_name, setting, number, type)                                            \
    PINTLE_MUST_CHECK static inline enum pintle_status pintle_##part_name##_set_##setting(         \
        struct pintle_sensor *sensor, enum pintle_##type option)                                   \
    {                                                                                              \
        return sensor->part == &pintle_##part_name                                                 \
                   ? pintle_sensor_set(sensor, (unsigned)(number), (unsigned)option)               \
                   : PINTLE_WRONG_PART;                                                            \
    }

PINTLE_C_END

#endif
