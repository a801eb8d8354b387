#include "engine.h"

#define LIMIT_US 25000u

static enum pintle_status attempt(const struct pintle_i2c *bus, uint8_t address,
                                  const struct pintle_segment *segments, uint8_t count)
{
    uint32_t limit = bus->limit_us ? bus->limit_us : LIMIT_US;
    return bus->calls->transfer(bus->context, address, segments, count, limit);
}

static uint8_t segments_fit(const struct pintle_segment *segments, uint8_t count)
{
    for (uint8_t i = 0; i < count; i++) {
        const struct pintle_segment *s = &segments[i];
        if (s->length > 0 ? (!s->out) == (!s->in) : s->in != NULL) {
            return 0;
        }
    }
    return count > 0;
}

enum pintle_status pintle_i2c_transfer(const struct pintle_i2c *bus, uint8_t address,
                                       const struct pintle_segment *segments, uint8_t count)
{
    if (address < 0x08 || address > 0x77 || !segments_fit(segments, count)) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = attempt(bus, address, segments, count);
    if (status != PINTLE_CLOCK_STUCK && status != PINTLE_DATA_STUCK) {
        return status;
    }
    if (!bus->calls->recover || bus->calls->recover(bus->context) != PINTLE_OK) {
        return status;
    }
    return attempt(bus, address, segments, count);
}

enum pintle_status pintle_i2c_probe(const struct pintle_i2c *bus, uint8_t address)
{
    const struct pintle_segment nothing = { NULL, NULL, 0 };
    return pintle_i2c_transfer(bus, address, &nothing, 1);
}

/* Put the register address in front of a write; returns how many bytes it takes. */
static uint8_t put_address(const struct pintle_sensor *sensor, uint16_t reg, uint8_t *to)
{
    if (pintle_priv_flags(sensor) & PINTLE_PART_WIDE_ADDRESS) {
        to[0] = (uint8_t)(reg >> 8);
        to[1] = (uint8_t)reg;
        return 2;
    }
    to[0] = (uint8_t)reg;
    return 1;
}

static void remember_pointer(struct pintle_sensor *sensor, uint16_t reg, enum pintle_status status)
{
    sensor->pointer = reg;
    sensor->pointed =
        status == PINTLE_OK && (pintle_priv_flags(sensor) & PINTLE_PART_STICKY_POINTER) != 0;
}

enum pintle_status pintle_priv_send(struct pintle_sensor *sensor, uint16_t reg,
                                    const uint8_t *bytes, uint8_t count)
{
    uint8_t out[2 + PINTLE_WRITE_MAX];
    if (count > PINTLE_WRITE_MAX) {
        return PINTLE_BAD_ARGUMENT;
    }
    uint8_t used = put_address(sensor, reg, out);
    for (uint8_t i = 0; i < count; i++) {
        out[used++] = bytes[i];
    }
    const struct pintle_segment segment = { out, NULL, used };
    enum pintle_status status = pintle_i2c_transfer(sensor->bus, sensor->address, &segment, 1);
    remember_pointer(sensor, reg, status);
    return status;
}

enum pintle_status pintle_priv_receive(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                       uint8_t count)
{
    uint8_t out[2];
    const struct pintle_segment segments[2] = { { out, NULL, put_address(sensor, reg, out) },
                                                { NULL, bytes, count } };
    uint8_t skip = sensor->pointed && sensor->pointer == reg;
    enum pintle_status status =
        pintle_i2c_transfer(sensor->bus, sensor->address, segments + skip, (uint8_t)(2 - skip));
    remember_pointer(sensor, reg, status);
    return status;
}

enum pintle_status pintle_priv_words(const uint8_t *bytes, uint8_t count)
{
    for (uint8_t i = 0; i + 2 < count; i = (uint8_t)(i + 3)) {
        if (pintle_crc8_31(bytes + i, 2) != bytes[i + 2]) {
            return PINTLE_BAD_CRC;
        }
    }
    return PINTLE_OK;
}

/* Where byte `i` of a register of `width` bytes belongs, in bits. */
static uint8_t place(const struct pintle_sensor *sensor, uint8_t i, uint8_t width)
{
    uint8_t high_first = pintle_priv_flags(sensor) & PINTLE_PART_BIG_ENDIAN;
    return (uint8_t)(8 * (high_first ? width - 1 - i : i));
}

enum pintle_status pintle_priv_read(struct pintle_sensor *sensor, uint16_t reg, uint8_t width,
                                    uint32_t *value)
{
    uint8_t bytes[6];
    uint8_t stride = 0;
    uint8_t count = width;
    if (width < 1 || width > 4) {
        return PINTLE_BAD_ARGUMENT;
    }
    if (pintle_priv_flags(sensor) & PINTLE_PART_CRC_WORDS) {
        stride = 1;
        count = (uint8_t)(width + width / 2);
    }
    enum pintle_status status = pintle_priv_receive(sensor, reg, bytes, count);
    if (status == PINTLE_OK && stride) {
        status = pintle_priv_words(bytes, count);
    }
    if (status != PINTLE_OK) {
        return status;
    }
    *value = 0;
    for (uint8_t i = 0; i < width; i++) {
        *value |= (uint32_t)bytes[i + stride * (i / 2)] << place(sensor, i, width);
    }
    return PINTLE_OK;
}

enum pintle_status pintle_priv_write(struct pintle_sensor *sensor, uint16_t reg, uint8_t width,
                                     uint32_t value)
{
    uint8_t bytes[PINTLE_WRITE_MAX];
    for (uint8_t i = 0; i < width && i < PINTLE_WRITE_MAX; i++) {
        bytes[i] = (uint8_t)(value >> place(sensor, i, width));
    }
    return pintle_priv_send(sensor, reg, bytes, width);
}
