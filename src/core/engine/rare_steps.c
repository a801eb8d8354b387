/* Steps that few parts have, so that firmware of the others does without them. */
#include "engine.h"

#define POLL_INTERVAL_US 500u
#define LONG_EXPECT 8
#define POLLED 4

/* Is what was read as the condition says? NOT_READY puts the same step back on, a little later. */
static enum pintle_status until(struct pintle_sensor *sensor, uint32_t condition,
                                const uint8_t *bytes, uint64_t at)
{
    uint8_t byte = bytes[condition >> 12 & 15];
    if ((byte & (condition >> 24)) == (condition >> 16 & 0xff)) {
        sensor->since = 0;
        return PINTLE_OK;
    }
    return pintle_priv_not_yet(sensor, at, condition & 0xfff, POLL_INTERVAL_US)
               ? PINTLE_NOT_READY
               : PINTLE_STAYED_BUSY;
}

static enum pintle_status do_poll(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t bytes[POLLED];
    uint64_t at = pintle_priv_now(pintle_priv_clock(sensor));
    if (step->width > POLLED) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = pintle_priv_receive(sensor, step->reg, bytes, step->width);
    return status == PINTLE_OK ? until(sensor, step->value, bytes, at) : status;
}

/* A part's bytes, read once more until they are as they must be. */
static enum pintle_status do_read_until(struct pintle_sensor *sensor,
                                        const struct pintle_step *step)
{
    uint64_t at = pintle_priv_now(pintle_priv_clock(sensor));
    enum pintle_status status = pintle_priv_take(sensor, step);
    if (status == PINTLE_OK) {
        uint8_t *bytes = pintle_priv_raw(sensor) + sensor->raw_used - step->width;
        status = until(sensor, step->value, bytes, at);
        sensor->raw_used = (uint8_t)(sensor->raw_used - (status == PINTLE_OK ? 0 : step->width));
    }
    return status;
}

/* The last byte of a longer stretch; of what comes with no register the checksums. */
static enum pintle_status do_long_expect(struct pintle_sensor *sensor,
                                         const struct pintle_step *step)
{
    uint8_t bytes[LONG_EXPECT];
    uint8_t width = step->width & PINTLE_STEP_WIDTH;
    if (width > LONG_EXPECT) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = pintle_priv_receive(sensor, step->reg, bytes, width);
    if (status == PINTLE_OK && step->reg == PINTLE_NO_REG) {
        return pintle_priv_checked(sensor, (uint8_t)step->value, bytes, width);
    }
    return status == PINTLE_OK ? pintle_priv_expected(sensor, step, bytes[width - 1]) : status;
}

/* Replace some bits of one byte, with those of the settings that live there. What is so already is
 * left alone. */
static enum pintle_status do_change(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t is = 0;
    uint8_t mask = (uint8_t)(step->value >> 8);
    uint8_t bits = (uint8_t)(step->value | pintle_priv_settings(sensor, step->reg));
    enum pintle_status status = pintle_priv_receive(sensor, step->reg, &is, 1);
    uint8_t byte = (uint8_t)((is & ~mask) | (bits & mask));
    if (status != PINTLE_OK || byte == is) {
        return status;
    }
    status = pintle_priv_send(sensor, step->reg, &byte, 1);
    return status == PINTLE_OK ? pintle_priv_read_back(sensor, step->reg, 1, byte) : status;
}

/* UM10204, table 3: reserved for future purposes. */
#define NOBODYS_ADDRESS 0x03

/* A chip that answers at every address spoils what the others send. Only an answer counts:
 * adapters differ in how they say that no one answered. */
static enum pintle_status do_vacant(struct pintle_sensor *sensor)
{
    uint8_t byte;
    uint8_t place = sensor->place;
    sensor->place = NOBODYS_ADDRESS;
    enum pintle_status status = pintle_priv_receive(sensor, PINTLE_NO_REG, &byte, 1);
    sensor->place = place;
    return status == PINTLE_OK ? PINTLE_WRONG_IDENTITY : PINTLE_OK;
}

/* What never changes is read twice: nothing else would notice a bit that came wrong once and then
 * bends every value. Who spoils both readings the same way is still there in between. */
static enum pintle_status do_trim(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t again[4];
    uint8_t *all = pintle_priv_trim(sensor);
    uint8_t *trim = all + sensor->trim_used;
    enum pintle_status status = pintle_priv_append(sensor, step, all, &sensor->trim_used,
                                                   pintle_table_u8(&sensor->part->trim_size));
    PINTLE_LINK(link, sensor);
    uint8_t width = link->checks ? 0 : step->width;
    if (status == PINTLE_OK && width > 0 && link->kind == PINTLE_BUS_I2C) {
        status = do_vacant(sensor);
    }
    for (uint8_t i = 0; i < width && status == PINTLE_OK; i = (uint8_t)(i + sizeof again)) {
        uint8_t left = (uint8_t)(step->width - i);
        uint8_t count = left < sizeof again ? left : (uint8_t)sizeof again;
        status = pintle_priv_receive(sensor, (uint16_t)(step->reg + i), again, count);
        if (status == PINTLE_OK && memcmp(again, trim + i, count) != 0) {
            status = PINTLE_BAD_CRC;
        }
    }
    return status;
}

static enum pintle_status do_power(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    PINTLE_LINK(link, sensor);
    uint32_t us =
        step->value + pintle_priv_settings(sensor, PINTLE_PRIV_TIMES | PINTLE_ALL_SETTINGS);
    return link->power ? link->power(sensor, (uint8_t)step->reg, us) : PINTLE_UNSUPPORTED;
}

/* Bytes that nobody asks for are as the first one that was read, so that whether anybody sends at
 * all can be told from the others. */
static void skip_bytes(struct pintle_sensor *sensor, uint8_t count)
{
    uint8_t *raw = pintle_priv_raw(sensor);
    if (!(sensor->flags & SENSOR_BLANK)) {
        memset(raw + sensor->raw_used, raw[0], count);
    }
    sensor->raw_used = (uint8_t)(sensor->raw_used + count);
}

enum pintle_status pintle_part_steps_rare(struct pintle_sensor *sensor,
                                          const struct pintle_step *step)
{
    if (step->op == PINTLE_OP_FOR) {
        if (!(step->reg & (uint16_t)~sensor->idle)) {
            sensor->at += step->width;
            skip_bytes(sensor, (uint8_t)step->value);
        }
        return PINTLE_OK;
    }
    if (step->op == PINTLE_OP_CHECK) {
        uint8_t count = step->width ? step->width : sensor->raw_used;
        const uint8_t *last = pintle_priv_raw(sensor) + sensor->raw_used - count;
        return pintle_priv_checked(sensor, (uint8_t)step->reg, last, count);
    }
    enum pintle_status status = pintle_priv_hold(sensor);
    if (status != PINTLE_OK) {
        return status;
    }
    switch (step->op) {
    case PINTLE_OP_POLL:
        return do_poll(sensor, step);
    case PINTLE_OP_CHANGE:
        return do_change(sensor, step);
    case PINTLE_OP_POWER:
        return do_power(sensor, step);
    case PINTLE_OP_VACANT:
        return do_vacant(sensor);
    case PINTLE_OP_TRIM:
        return do_trim(sensor, step);
    case PINTLE_OP_READ:
        return do_read_until(sensor, step);
    default:
        return do_long_expect(sensor, step);
    }
}
