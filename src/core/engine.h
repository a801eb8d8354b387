/* What the core's files share and users don't see. */
#ifndef PINTLE_CORE_ENGINE_H
#define PINTLE_CORE_ENGINE_H

#include "pintle/sensor.h"

/* Most data bytes of one write behind the register address. */
#define PINTLE_WRITE_MAX 4

/* The part's flags. */
static inline uint8_t pintle_priv_flags(const struct pintle_sensor *sensor)
{
    return pintle_table_u8(&sensor->part->flags);
}

/* Send the register address (or command) and `count` data bytes, at most PINTLE_WRITE_MAX. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_send(struct pintle_sensor *sensor, uint16_t reg,
                                                      const uint8_t *bytes, uint8_t count);

/* Send the register address, unless the chip's pointer holds it already, and read `count` bytes
 * after a repeated start. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_receive(struct pintle_sensor *sensor, uint16_t reg,
                                                         uint8_t *bytes, uint8_t count);

/* Read a register of 1 to 4 bytes in the part's byte order, with its CRCs checked. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_read(struct pintle_sensor *sensor, uint16_t reg,
                                                      uint8_t width, uint32_t *value);

/* Write one, low `width` bytes of `value`, in the part's byte order. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_write(struct pintle_sensor *sensor, uint16_t reg,
                                                       uint8_t width, uint32_t value);

/* Mark every channel as failed, at the present time. */
void pintle_priv_mark_failed(const struct pintle_sensor *sensor, struct pintle_sample *sample);

/* Check words of two bytes with a CRC-8 each; `count` bytes in all. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_words(const uint8_t *bytes, uint8_t count);

#endif
