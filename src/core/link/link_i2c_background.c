/* I2C transfers that go on by themselves: the port starts one and is asked how it is. Only what
 * stands alone goes so, the writes and reads of a measurement: their bytes stay where they are
 * until it is over, and nothing else depends on when that is. Everything else waits for its
 * transfer. */
#include "../engine/engine.h"

/* sensor->errand: a transfer of the sensor's is under way, or was ended by somebody who needed the
 * bus, with this status above it. */
enum { NONE, UNDER_WAY, ENDED };

#define ASK_AGAIN_US 20u

/* How is the one under way? A port that doesn't keep its limit isn't waited for. */
static enum pintle_status ask(const struct pintle_i2c *bus)
{
    enum pintle_status status = bus->calls->done(bus->common.context);
    if (status == PINTLE_NOT_READY) {
        uint64_t now = pintle_priv_now(bus->common.clock);
        return now > bus->background->until_us ? PINTLE_TIME_LIMIT : status;
    }
    return pintle_priv_said(status);
}

/* Wait for the one under way: somebody else needs the bus. */
static void finish(struct pintle_i2c *bus)
{
    struct pintle_background *room = bus->background;
    enum pintle_status status = PINTLE_NOT_READY;
    if (!room->of) {
        return;
    }
    while (status == PINTLE_NOT_READY) {
        status = ask(bus);
        if (status == PINTLE_NOT_READY
            && pintle_priv_sleep(bus->common.clock, ASK_AGAIN_US) != PINTLE_OK) {
            status = PINTLE_CLOCK_STOPPED;
        }
    }
    if (room->of->errand == UNDER_WAY) {
        room->of->errand = (uint8_t)(ENDED + status);
    }
    room->of = NULL;
}

/* Is it a step of a measurement that writes or reads once, into what the sensor keeps? */
static uint8_t stands_alone(const struct pintle_sensor *sensor,
                            const struct pintle_segment *segments)
{
    if (!(sensor->flags & SENSOR_STEPS) || sensor->phase != PHASE_MEASURE
        || pintle_table_pointer(&sensor->part->link) != &pintle_link_i2c
        || sensor->bus.any->claims) {
        return 0;
    }
    uint8_t op = pintle_table_u8(&(sensor->at - 1)->op); /* of the step that is being done */
    return (op == PINTLE_OP_WRITE || op == PINTLE_OP_READ)
           && (!segments->out || segments->length <= PINTLE_BACKGROUND_OUT);
}

static enum pintle_status later(struct pintle_sensor *sensor)
{
    sensor->when_us = (int64_t)(pintle_priv_now(pintle_priv_clock(sensor)) + ASK_AGAIN_US);
    return PINTLE_NOT_READY;
}

static enum pintle_status begin(struct pintle_sensor *sensor, const struct pintle_segment *segments,
                                uint8_t count)
{
    struct pintle_i2c *bus = sensor->bus.i2c;
    struct pintle_background *room = bus->background;
    uint32_t limit = pintle_i2c_limit(bus, segments, count);
    for (uint8_t i = 0; i < count; i++) {
        room->segments[i] = segments[i];
    }
    if (segments->out) {
        for (uint16_t i = 0; i < segments->length; i++) {
            room->out[i] = segments->out[i];
        }
        room->segments[0].out = room->out;
    }
    enum pintle_status status = pintle_priv_said(
        bus->calls->start(bus->common.context, sensor->place, room->segments, count, limit));
    if (status != PINTLE_OK) {
        return status;
    }
    room->of = sensor;
    room->until_us = pintle_priv_now(bus->common.clock) + 2 * (uint64_t)limit;
    sensor->errand = UNDER_WAY;
    return later(sensor);
}

/* The sensor's own, as far as it has come. */
static enum pintle_status go_on(struct pintle_sensor *sensor)
{
    struct pintle_i2c *bus = sensor->bus.i2c;
    enum pintle_status status = (enum pintle_status)(sensor->errand - ENDED);
    if (sensor->errand == UNDER_WAY) {
        status = ask(bus);
        if (status == PINTLE_NOT_READY) {
            return later(sensor);
        }
        bus->background->of = NULL;
    }
    sensor->errand = NONE;
    return status;
}

/* What is done once more, because it failed, is waited for: so it ends. */
static enum pintle_status exchange(struct pintle_sensor *sensor,
                                   const struct pintle_segment *segments, uint8_t count)
{
    struct pintle_i2c *bus = sensor->bus.i2c;
    struct pintle_background *room = bus->background;
    uint8_t alone = stands_alone(sensor, segments);
    uint8_t waits = room->failed == sensor;
    room->failed = waits ? NULL : room->failed;
    if (!alone || waits || (sensor->errand == NONE && room->of)) {
        finish(bus);
    }
    if (!alone || waits) {
        return pintle_priv_i2c_attempt(bus, sensor->place, segments, count);
    }
    enum pintle_status status =
        sensor->errand == NONE ? begin(sensor, segments, count) : go_on(sensor);
    if (status != PINTLE_OK && status != PINTLE_NOT_READY) {
        room->failed = sensor;
    }
    return status;
}

enum pintle_status pintle_i2c_in_background(struct pintle_i2c *bus, struct pintle_background *room)
{
    if (!bus->calls->start || !bus->calls->done) {
        return PINTLE_UNSUPPORTED;
    }
    memset(room, 0, sizeof *room);
    memset(bus->known, 0, sizeof bus->known);
    room->exchange = exchange;
    room->finish = finish;
    bus->background = room;
    return PINTLE_OK;
}
