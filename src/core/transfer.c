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
    if (pintle_priv_flags(sensor) & PINTLE_PART_STICKY_POINTER) {
        pintle_priv_point(sensor, reg, status);
    }
}

static enum pintle_status send(struct pintle_sensor *sensor, uint16_t reg, const uint8_t *bytes,
                               uint8_t count)
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
    enum pintle_status status =
        pintle_i2c_transfer(sensor->bus.i2c, sensor->place.address, &segment, 1);
    remember_pointer(sensor, reg, status);
    return status;
}

/* The register address goes first, unless the chip's pointer holds it already. */
static enum pintle_status receive(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                  uint8_t count)
{
    uint8_t out[2];
    const struct pintle_segment segments[2] = { { out, NULL, put_address(sensor, reg, out) },
                                                { NULL, bytes, count } };
    uint8_t skip = pintle_priv_points(sensor, reg);
    enum pintle_status status = pintle_i2c_transfer(sensor->bus.i2c, sensor->place.address,
                                                    segments + skip, (uint8_t)(2 - skip));
    remember_pointer(sensor, reg, status);
    return status;
}

static enum pintle_status fetch(struct pintle_sensor *sensor, uint8_t *bytes, uint8_t count)
{
    const struct pintle_segment segment = { NULL, bytes, count };
    return pintle_i2c_transfer(sensor->bus.i2c, sensor->place.address, &segment, 1);
}

const struct pintle_link pintle_link_i2c PINTLE_TABLE = { PINTLE_BUS_I2C, send, receive, fetch,
                                                          NULL };
