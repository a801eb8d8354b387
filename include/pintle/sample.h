/* sample.h: sensors of parts that a program learns of only when it runs, as the command-line tool
 * does: with room for the largest part. Firmware that knows its parts does without this header.
 *
 * May still change.
 */
#ifndef PINTLE_SAMPLE_H
#define PINTLE_SAMPLE_H

#include <string.h>

#include "pintle/sensor.h"

PINTLE_C_BEGIN

/* The most that a part of the tool may have; the test of the catalogue holds all that ship to it.
 */
#define PINTLE_MOST_CHANNELS 10
#define PINTLE_MOST_RAW 24
#define PINTLE_MOST_SETTINGS 8
#define PINTLE_MOST_TRIM 64
#define PINTLE_MOST_NUMBERS 4

/* A sensor of any part: struct pintle_any, pintle_any_room. */
PINTLE_SENSOR_TYPE(any, PINTLE_MOST_CHANNELS,
                   PINTLE_OWN(PINTLE_MOST_NUMBERS, PINTLE_MOST_SETTINGS, PINTLE_MOST_TRIM,
                              PINTLE_MOST_RAW)
                       + PINTLE_OWN_CODE)

/* All of one measurement, apart from its sensor. */
struct pintle_sample {
    int64_t time_us; /* UTC, microseconds since 1970; 0: unknown */
    uint8_t raw[PINTLE_MOST_RAW];
    struct pintle_reading channel[PINTLE_MOST_CHANNELS];
};

/* Which chip on its bus. */
union pintle_place {
    uint8_t address; /* I2C, 7 bits */
    uint8_t select;  /* SPI, which select line */
    uint8_t code[8]; /* 1-Wire: family, serial number, CRC, as they come */
};

/* A bus of any kind. */
union pintle_any_bus {
    struct pintle_i2c *i2c;
    struct pintle_spi *spi;
    struct pintle_onewire *onewire;
    struct pintle_stream *stream;
};

/* Prepare a sensor of `part` on a bus of this kind. Statuses as of pintle_sensor_on_i2c. */
PINTLE_MUST_CHECK static inline enum pintle_status
pintle_any_on(struct pintle_any *any, const struct pintle_part *part, enum pintle_bus_kind kind,
              union pintle_any_bus bus, const union pintle_place *place)
{
    struct pintle_room room = pintle_any_room(any);
    switch (kind) {
    case PINTLE_BUS_I2C:
        return pintle_sensor_on_i2c(&any->sensor, part, &room, bus.i2c, place->address);
    case PINTLE_BUS_SPI:
        return pintle_sensor_on_spi(&any->sensor, part, &room, bus.spi, place->select);
    case PINTLE_BUS_ONEWIRE:
        return pintle_sensor_on_onewire(&any->sensor, part, &room, bus.onewire, place->code);
    default:
        return pintle_sensor_on_stream(&any->sensor, part, &room, bus.stream);
    }
}

/* Copy a sensor's last measurement. */
static inline void pintle_sample_take(const struct pintle_sensor *sensor,
                                      struct pintle_sample *sample)
{
    const struct pintle_block block = pintle_sensor_block(sensor);
    sample->time_us = pintle_sensor_time_us(sensor);
    memcpy(sample->raw, block.raw, pintle_table_u8(&sensor->part->raw_size));
    memcpy(sample->channel, sensor->readings,
           pintle_table_u8(&sensor->part->channel_count) * sizeof sample->channel[0]);
}

/* pintle_sensor_read and pintle_sensor_collect, into a sample. NOT_READY and NOT_STARTED leave it
 * alone. */
PINTLE_MUST_CHECK static inline enum pintle_status pintle_sample_read(struct pintle_sensor *sensor,
                                                                      struct pintle_sample *sample)
{
    enum pintle_status status = pintle_sensor_read(sensor);
    pintle_sample_take(sensor, sample);
    return status;
}
PINTLE_MUST_CHECK static inline enum pintle_status
pintle_sample_collect(struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    enum pintle_status status = pintle_sensor_collect(sensor);
    if (status != PINTLE_NOT_READY && status != PINTLE_NOT_STARTED) {
        pintle_sample_take(sensor, sample);
    }
    return status;
}

/* pintle_part_decode, into a sample that keeps the raw block, too. */
static inline void pintle_sample_decode(const struct pintle_part *part,
                                        const struct pintle_block *block,
                                        struct pintle_sample *sample)
{
    if (sample->raw != block->raw) {
        memcpy(sample->raw, block->raw, pintle_table_u8(&part->raw_size));
    }
    pintle_part_decode(part, block, sample->channel);
}

PINTLE_C_END

#endif
