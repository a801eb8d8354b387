/* What the core's files share and users don't see. */
#ifndef PINTLE_CORE_ENGINE_H
#define PINTLE_CORE_ENGINE_H

#include "pintle/sensor.h"

/* Most data bytes of one write behind the register address. */
#define PINTLE_WRITE_MAX 4

/* struct pintle_sensor.flags */
#define SENSOR_FIRST 1   /* nothing was read since the set-up */
#define SENSOR_POINTED 2 /* `pointer` is known */
#define SENSOR_NEAR 4    /* the last value was near the power-on value */

/* The part's flags. */
static inline uint8_t pintle_priv_flags(const struct pintle_sensor *sensor)
{
    return pintle_table_u8(&sensor->part->flags);
}

/* The part's way to talk. */
static inline struct pintle_link pintle_priv_link(const struct pintle_sensor *sensor)
{
    struct pintle_link link;
    pintle_table_copy(&link, pintle_table_pointer(&sensor->part->link), sizeof link);
    return link;
}

static inline uint64_t pintle_priv_now(const struct pintle_clock *clock)
{
    return clock->calls->now_us(clock->context);
}

/* The pointer (or bank) is `pointer` now, if that went well. */
static inline void pintle_priv_point(struct pintle_sensor *sensor, uint16_t pointer,
                                     enum pintle_status status)
{
    sensor->pointer = pointer;
    sensor->flags = (uint8_t)(status == PINTLE_OK ? sensor->flags | SENSOR_POINTED
                                                  : sensor->flags & ~SENSOR_POINTED);
}

static inline uint8_t pintle_priv_points(const struct pintle_sensor *sensor, uint16_t pointer)
{
    return (sensor->flags & SENSOR_POINTED) && sensor->pointer == pointer;
}

/* Read a register of 1 to 4 bytes in the part's byte order, with its CRCs checked. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_read(struct pintle_sensor *sensor, uint16_t reg,
                                                      uint8_t width, uint32_t *value);

/* Write one, low `width` bytes of `value`, in the part's byte order. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_write(struct pintle_sensor *sensor, uint16_t reg,
                                                       uint8_t width, uint32_t value);

/* Row `i` of the part's settings. */
void pintle_priv_setting(const struct pintle_sensor *sensor, uint8_t i,
                         struct pintle_setting *setting);

/* The row of a linear channel that the settings pick; null: it has none. */
const struct pintle_linear *pintle_priv_row(const struct pintle_channel *channel,
                                            const uint8_t *settings);

/* Do one step; raw bytes go into `sample`, which may be null for steps that have none. NOT_READY:
 * do it again at sensor->ready_us. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_step(struct pintle_sensor *sensor,
                                                      const struct pintle_step *step,
                                                      struct pintle_sample *sample);

/* Mark every channel as failed, at the present time. */
void pintle_priv_mark_failed(const struct pintle_sensor *sensor, struct pintle_sample *sample);

/* Check words of two bytes with a CRC-8 each; `count` bytes in all. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_words(const uint8_t *bytes, uint8_t count);

#endif
