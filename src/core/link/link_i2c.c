#include "../engine/engine.h"

/* Where the bus has no limit of its own: more than three times what the bits take, and this for
 * stretching. */
#define STRETCHING_US 25000u
#define UNKNOWN_NS 100000u

uint32_t pintle_i2c_limit(const struct pintle_i2c *bus, const struct pintle_segment *segments,
                          uint8_t count)
{
    uint32_t bit_ns = bus->bit_ns ? bus->bit_ns : UNKNOWN_NS;
    uint32_t bytes = count;
    if (bus->limit_us) {
        return bus->limit_us;
    }
    while (count > 0) {
        bytes += segments[--count].length;
    }
    return STRETCHING_US + bytes * (bit_ns >> 5); /* 32 ns are 31/1000 us */
}

enum pintle_status pintle_priv_i2c_attempt(const struct pintle_i2c *bus, uint8_t address,
                                           const struct pintle_segment *segments, uint8_t count)
{
    uint32_t limit = pintle_i2c_limit(bus, segments, count);
    return pintle_priv_said(
        count > 0 ? bus->calls->transfer(bus->common.context, address, segments, count, limit)
                  : bus->calls->probe(bus->common.context, address, limit));
}

/* For a sensor: by itself, where that can be. */
static enum pintle_status attempt(struct pintle_sensor *sensor,
                                  const struct pintle_segment *segments, uint8_t count)
{
    const struct pintle_i2c *bus = sensor->bus.i2c;
    return bus->background ? bus->background->exchange(sensor, segments, count)
                           : pintle_priv_i2c_attempt(bus, sensor->place, segments, count);
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

/* It failed: is it worth another attempt, the bus being free again, or another master only having
 * been faster? */
static uint8_t recovers(const struct pintle_i2c *bus, enum pintle_status status)
{
    if (status == PINTLE_CLOCK_STUCK || status == PINTLE_DATA_STUCK
        || status == PINTLE_TIME_LIMIT) {
        return bus->calls->recover && bus->calls->recover(bus->common.context) == PINTLE_OK;
    }
    return status == PINTLE_ARBITRATION_LOST;
}

/* By the bus's own users. With no segments: ask. */
static enum pintle_status deal(struct pintle_i2c *bus, uint8_t address,
                               const struct pintle_segment *segments, uint8_t count)
{
    enum pintle_status status = pintle_bus_claim(&bus->common);
    if (status != PINTLE_OK) {
        return status;
    }
    pintle_priv_forget(bus->known, address);
    if (bus->background) {
        bus->background->finish(bus);
    }
    status = pintle_priv_i2c_attempt(bus, address, segments, count);
    if (status != PINTLE_OK && recovers(bus, status)) {
        status = pintle_priv_i2c_attempt(bus, address, segments, count);
    }
    if (status != PINTLE_OK) {
        memset(bus->known, 0, sizeof bus->known);
        pintle_priv_upset(&bus->common, status);
    }
    pintle_bus_release(&bus->common);
    return status;
}

static uint8_t is_address(uint8_t address)
{
    return address >= 0x08 && address <= 0x77;
}

enum pintle_status pintle_i2c_transfer(struct pintle_i2c *bus, uint8_t address,
                                       const struct pintle_segment *segments, uint8_t count)
{
    return is_address(address) && segments_fit(segments, count)
               ? deal(bus, address, segments, count)
               : PINTLE_BAD_ARGUMENT;
}

enum pintle_status pintle_i2c_probe(struct pintle_i2c *bus, uint8_t address)
{
    const struct pintle_segment nothing = { NULL, NULL, 0 };
    return is_address(address) ? deal(bus, address, &nothing, bus->calls->probe ? 0 : 1)
                               : PINTLE_BAD_ARGUMENT;
}

/* Put the register address in front of a write; returns how many bytes it takes. */
static uint8_t put_address(const struct pintle_sensor *sensor, uint16_t reg, uint8_t *to)
{
    if (reg == PINTLE_NO_REG) {
        return 0;
    }
    if (pintle_priv_flags(sensor) & PINTLE_PART_WIDE_ADDRESS) {
        to[0] = (uint8_t)(reg >> 8);
        to[1] = (uint8_t)reg;
        return 2;
    }
    to[0] = (uint8_t)reg;
    return 1;
}

/* Talk about `reg`: afterwards the chip's pointer stays there, where it has one. What the bus knows
 * of it is worth something only where nobody else can move it, and not where a transfer's end may
 * be heard of after that of a later one. */
static enum pintle_status talk(struct pintle_sensor *sensor, uint16_t reg,
                               const struct pintle_segment *segments, uint8_t count)
{
    struct pintle_i2c *bus = sensor->bus.i2c;
    uint8_t address = sensor->place;
    enum pintle_status status = attempt(sensor, segments, count);
    pintle_priv_forget(bus->known, address);
    if (status == PINTLE_OK && bus->common.sole_master && !bus->background && reg != PINTLE_NO_REG
        && (pintle_priv_flags(sensor) & PINTLE_PART_STICKY_POINTER)) {
        *pintle_priv_memory(bus->known, address) = (struct pintle_memory){ address, reg };
    }
    return status;
}

enum pintle_status pintle_priv_i2c_send(struct pintle_sensor *sensor, uint16_t reg,
                                        const uint8_t *bytes, uint8_t count)
{
    uint8_t out[2 + PINTLE_SEND_MAX];
    if (count > PINTLE_SEND_MAX) {
        return PINTLE_BAD_ARGUMENT;
    }
    uint8_t used = put_address(sensor, reg, out);
    for (uint8_t i = 0; i < count; i++) {
        out[used++] = bytes[i];
    }
    const struct pintle_segment segment = { used ? out : NULL, NULL, used };
    return talk(sensor, reg, &segment, 1);
}

/* The register address goes first, unless there is none, or the chip's pointer holds it already;
 * then it still does afterwards. */
enum pintle_status pintle_priv_i2c_receive(struct pintle_sensor *sensor, uint16_t reg,
                                           uint8_t *bytes, uint8_t count)
{
    uint8_t out[2];
    struct pintle_i2c *bus = sensor->bus.i2c;
    uint8_t address = sensor->place;
    const struct pintle_memory *memory = pintle_priv_memory(bus->known, address);
    const struct pintle_segment data = { NULL, bytes, count };
    if (reg == PINTLE_NO_REG || (memory->key == address && memory->value == reg)) {
        return attempt(sensor, &data, 1);
    }
    const struct pintle_segment segments[2] = { { out, NULL, put_address(sensor, reg, out) },
                                                data };
    return talk(sensor, reg, segments, 2);
}

void pintle_priv_i2c_forget(struct pintle_sensor *sensor)
{
    memset(sensor->bus.i2c->known, 0, sizeof sensor->bus.i2c->known);
}

uint8_t pintle_priv_i2c_recover(struct pintle_sensor *sensor, enum pintle_status status)
{
    return recovers(sensor->bus.i2c, status);
}

const struct pintle_link pintle_link_i2c PINTLE_TABLE = {
    .kind = PINTLE_BUS_I2C,
    .send = pintle_priv_i2c_send,
    .receive = pintle_priv_i2c_receive,
    .forget = pintle_priv_i2c_forget,
    .recover = pintle_priv_i2c_recover,
};
