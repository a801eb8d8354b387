#include "engine.h"
#include "pintle/onewire.h"

static void no_values(struct pintle_sensor *sensor, pintle_marks quality)
{
    for (uint8_t i = pintle_table_u8(&sensor->part->channel_count); i > 0; i--) {
        pintle_priv_no_value(&sensor->readings[i - 1], quality);
    }
}

/* Fill in what the part begins with, where there is room for it. */
static uint8_t furnish(struct pintle_sensor *sensor, const struct pintle_room *room, uint8_t more)
{
    const struct pintle_part *part = sensor->part;
    const struct pintle_number *rows = pintle_table_pointer(&part->numbers);
    uint8_t numbers = pintle_table_u8(&part->number_count);
    uint16_t need =
        (uint16_t)(PINTLE_OWN(numbers, pintle_table_u8(&part->setting_count),
                              pintle_table_u8(&part->trim_size), pintle_table_u8(&part->raw_size))
                   + more);
    if (pintle_table_u8(&part->channel_count) > room->channels || need > room->own_size) {
        return 0;
    }
    sensor->readings = room->readings;
    sensor->own = room->own;
    no_values(sensor, PINTLE_QUALITY_IDLE);
    for (uint8_t i = 0; i < numbers; i++) {
        pintle_table_copy(&((float *)(void *)room->own)[i], &rows[i].initial, sizeof(float));
    }
    pintle_part_initial(part, pintle_priv_settings_at(sensor));
    return 1;
}

/* What all buses have in common. */
static enum pintle_status init(struct pintle_sensor *sensor, const struct pintle_part *part,
                               const struct pintle_room *room, enum pintle_bus_kind kind,
                               struct pintle_bus *bus)
{
    PINTLE_ASSERT(sensor && part && room && bus);
    memset(sensor, 0, sizeof *sensor);
    sensor->part = part;
    sensor->bus.any = bus;
    sensor->status = PINTLE_NOT_STARTED;
    PINTLE_LINK(link, sensor);
    if (link->kind != kind) {
        return PINTLE_WRONG_BUS;
    }
    if (!furnish(sensor, room, kind == PINTLE_BUS_ONEWIRE ? PINTLE_OWN_CODE : 0)) {
        return PINTLE_NO_ROOM;
    }
    return !pintle_priv_ends(part) ? PINTLE_BAD_ARGUMENT : bus->clock ? PINTLE_OK : PINTLE_NO_CLOCK;
}

enum pintle_status pintle_sensor_on_i2c(struct pintle_sensor *sensor,
                                        const struct pintle_part *part,
                                        const struct pintle_room *room, struct pintle_i2c *bus,
                                        uint8_t address)
{
    PINTLE_ASSERT(part);
    const uint8_t *addresses = pintle_table_pointer(&part->addresses);
    uint8_t count = pintle_table_u8(&part->address_count);
    uint8_t i = 0;
    while (i < count && pintle_table_u8(&addresses[i]) != address) {
        i++;
    }
    enum pintle_status status = init(sensor, part, room, PINTLE_BUS_I2C, &bus->common);
    sensor->place = address;
    return status == PINTLE_OK && i == count ? PINTLE_WRONG_PLACE : status;
}

enum pintle_status pintle_sensor_on_spi(struct pintle_sensor *sensor,
                                        const struct pintle_part *part,
                                        const struct pintle_room *room, struct pintle_spi *bus,
                                        uint8_t select)
{
    enum pintle_status status = init(sensor, part, room, PINTLE_BUS_SPI, &bus->common);
    sensor->place = select;
    return status;
}

enum pintle_status pintle_sensor_on_onewire(struct pintle_sensor *sensor,
                                            const struct pintle_part *part,
                                            const struct pintle_room *room,
                                            struct pintle_onewire *line, const uint8_t code[8])
{
    enum pintle_status status = init(sensor, part, room, PINTLE_BUS_ONEWIRE, &line->common);
    if (status == PINTLE_OK) {
        memcpy(pintle_priv_code(sensor), code, PINTLE_OWN_CODE);
        uint8_t whole = pintle_onewire_crc(code, 8) == 0;
        whole = whole && code[0] == pintle_table_u8(&part->family);
        status = whole ? status : PINTLE_WRONG_PLACE;
    }
    return status;
}

enum pintle_status pintle_sensor_on_stream(struct pintle_sensor *sensor,
                                           const struct pintle_part *part,
                                           const struct pintle_room *room,
                                           struct pintle_stream *stream)
{
    enum pintle_status status = init(sensor, part, room, PINTLE_BUS_STREAM, &stream->common);
    return status;
}

void pintle_priv_close(struct pintle_sensor *sensor, uint8_t phase)
{
    if (pintle_priv_under_way(sensor)) {
        sensor->when_us = 0;
    }
    if (sensor->status == PINTLE_NOT_READY) {
        sensor->status = PINTLE_NOT_STARTED;
    }
    sensor->phase = phase;
}

/* What is under way ends; the next start begins with the identity. */
static enum pintle_status shut(struct pintle_sensor *sensor, enum pintle_status status)
{
    pintle_priv_close(sensor, PHASE_CLOSED);
    return status;
}

enum pintle_status pintle_sensor_set(struct pintle_sensor *sensor, unsigned setting,
                                     unsigned option)
{
    PINTLE_ASSERT(sensor->part);
    if (setting >= pintle_table_u8(&sensor->part->setting_count)) {
        return PINTLE_BAD_ARGUMENT;
    }
    PINTLE_SETTING(row, sensor, setting);
    if (option >= row->count) {
        return PINTLE_BAD_ARGUMENT;
    }
    pintle_priv_settings_at(sensor)[setting] = (uint8_t)option;
    return shut(sensor, PINTLE_OK);
}

enum pintle_status pintle_sensor_numbers(struct pintle_sensor *sensor, const float *numbers,
                                         uint8_t count)
{
    PINTLE_ASSERT(sensor->part);
    const struct pintle_number *limits = pintle_table_pointer(&sensor->part->numbers);
    if (count != pintle_table_u8(&sensor->part->number_count)) {
        return PINTLE_BAD_ARGUMENT;
    }
    for (uint8_t i = count; i > 0; i--) {
        PINTLE_TABLE_ROW(struct pintle_number, number, &limits[i - 1]);
        if (!pintle_priv_within(&numbers[i - 1], number)) {
            return PINTLE_OUT_OF_RANGE;
        }
    }
    if (count > 0) {
        memcpy(sensor->own, numbers, count * sizeof *numbers);
    }
    return PINTLE_OK;
}

enum pintle_status pintle_sensor_ask(struct pintle_sensor *sensor, uint32_t channels)
{
    PINTLE_ASSERT(sensor->part);
    const struct pintle_channel *rows = pintle_table_pointer(&sensor->part->channels);
    uint8_t count = pintle_table_u8(&sensor->part->channel_count);
    uint16_t wanted = 0;
    if (count < 32 && channels >> count) {
        return PINTLE_BAD_ARGUMENT;
    }
    for (uint8_t i = count; i > 0; i--) {
        wanted |= (uint16_t)(channels >> (i - 1) & 1 ? pintle_table_u16(&rows[i - 1].input) : 0);
    }
    sensor->idle = (uint16_t)(channels ? ~wanted : 0);
    return shut(sensor, PINTLE_OK);
}

enum pintle_status pintle_sensor_auto(struct pintle_sensor *sensor, uint8_t on)
{
    PINTLE_ASSERT(sensor->part);
    if (!pintle_table_pointer(&sensor->part->ladder)) {
        return PINTLE_NO_ABILITY;
    }
    sensor->flags = (uint8_t)((sensor->flags & ~SENSOR_AUTO) | (on ? SENSOR_AUTO : 0));
    return PINTLE_OK;
}

/* Is the chip set up, and has nothing happened on its bus since? */
static uint8_t is_set_up(struct pintle_sensor *sensor)
{
    return sensor->phase >= PHASE_OPEN && !(sensor->flags & SENSOR_FIRST)
           && sensor->upsets == sensor->bus.any->upsets;
}

/* One that was well a moment ago: what disturbed it may have reached others. One that was not, or
 * is not there at all, disturbs nobody. */
static enum pintle_status fail(struct pintle_sensor *sensor, enum pintle_status status)
{
    pintle_priv_forget_all(sensor);
    if (sensor->phase >= PHASE_OPEN && !(sensor->flags & SENSOR_FIRST) && status != PINTLE_OK) {
        sensor->bus.any->upsets++;
    }
    return shut(sensor, status);
}

enum pintle_status pintle_priv_sleep(const struct pintle_clock *clock, uint32_t us)
{
    if (us == 0) {
        return PINTLE_OK;
    }
    uint64_t before = pintle_priv_now(clock);
    for (uint8_t tries = 100; tries > 0; tries--) {
        clock->calls->sleep_us(clock->context, us);
        uint64_t now = pintle_priv_now(clock);
        if (now != before) {
            return now > before ? PINTLE_OK : PINTLE_CLOCK_STOPPED;
        }
        us = 1000; /* a coarse clock shows it a little later */
    }
    return PINTLE_CLOCK_STOPPED;
}

/* In units of 2048 us, so that nothing divides and two minutes fit; never early. */
uint8_t pintle_priv_not_yet(struct pintle_sensor *sensor, uint64_t at, uint16_t limit_ms,
                            uint16_t again_us)
{
    uint16_t now = (uint16_t)(at >> 11);
    if (sensor->since == 0) {
        sensor->since = now ? now : UINT16_MAX; /* one before */
    }
    if ((uint16_t)(now - sensor->since) > limit_ms / 2 + 1) {
        sensor->since = 0;
        return 0;
    }
    sensor->when_us = (int64_t)(at + again_us);
    return 1;
}

/* Until it may go on. */
static uint32_t left_us(const struct pintle_sensor *sensor)
{
    uint32_t us = pintle_priv_until(pintle_priv_clock(sensor), (uint64_t)sensor->when_us);
    return us > PINTLE_WAIT_MAX_US ? 0 : us;
}

enum pintle_status pintle_priv_wait(struct pintle_sensor *sensor)
{
    return pintle_priv_sleep(pintle_priv_clock(sensor), left_us(sensor));
}

/* From the identity on. */
void pintle_priv_begin(struct pintle_sensor *sensor)
{
    sensor->upsets = sensor->bus.any->upsets;
    sensor->when_us = 0;
    pintle_priv_enter(sensor, PHASE_IDENTITY);
}

/* From the identity up to the program of phase `end`, waiting. */
static enum pintle_status run_to(struct pintle_sensor *sensor, uint8_t end)
{
    enum pintle_status status = PINTLE_OK;
    pintle_priv_begin(sensor);
    do {
        status = pintle_priv_wait(sensor);
        if (status == PINTLE_OK) {
            status = pintle_priv_run(sensor, end, PINTLE_OP_READ);
        }
    } while (status == PINTLE_NOT_READY);
    return status;
}

enum pintle_status pintle_sensor_prove(struct pintle_sensor *sensor)
{
    PINTLE_ASSERT(sensor->part);
    uint8_t open = is_set_up(sensor);
    enum pintle_status status = run_to(sensor, PHASE_SETUP);
    if (status != PINTLE_OK || !open) {
        return fail(sensor, status);
    }
    pintle_priv_close(sensor, PHASE_OPEN);
    return status;
}

enum pintle_status pintle_priv_set_up(struct pintle_sensor *sensor)
{
    enum pintle_status status = run_to(sensor, PHASE_MEASURE);
    if (status == PINTLE_OK && sensor->phase != PHASE_MEASURE) {
        status = PINTLE_NO_ABILITY;
    }
    if (status == PINTLE_OK) {
        sensor->phase = PHASE_DONE;
        return status;
    }
    return fail(sensor, status);
}

/* A measurement, with the identity and the set-up first where they are wanted. */
static void begin_measuring(struct pintle_sensor *sensor)
{
    uint8_t set_up = is_set_up(sensor);
    sensor->flags = (uint8_t)((sensor->flags & (SENSOR_FIRST | SENSOR_AUTO)) | SENSOR_BLANK);
    sensor->status = PINTLE_NOT_READY;
    if (!set_up) {
        pintle_priv_begin(sensor);
        return;
    }
    sensor->when_us = 0;
    pintle_priv_enter(sensor, PHASE_MEASURE);
}

/* Nothing answered to its identity: can it be made to? Tried once. */
static uint8_t unlocks(struct pintle_sensor *sensor, enum pintle_status status)
{
    enum pintle_status (*unlock)(struct pintle_sensor *);
    pintle_table_copy(&unlock, &sensor->part->unlock, sizeof unlock);
    if (!unlock || status != PINTLE_NO_ANSWER || sensor->phase != PHASE_IDENTITY
        || (sensor->flags & SENSOR_AGAIN) || unlock(sensor) != PINTLE_OK) {
        return 0;
    }
    sensor->flags |= SENSOR_AGAIN;
    pintle_priv_begin(sensor);
    return 1;
}

static void stamp(struct pintle_sensor *sensor)
{
    const struct pintle_clock *clock = pintle_priv_clock(sensor);
    if (!clock->calls->get_wall_us
        || clock->calls->get_wall_us(clock->context, &sensor->when_us) != PINTLE_OK) {
        sensor->when_us = 0;
    }
}

enum pintle_status pintle_priv_failed(struct pintle_sensor *sensor, enum pintle_status status)
{
    no_values(sensor, PINTLE_QUALITY_BUS);
    fail(sensor, status);
    stamp(sensor);
    sensor->status = (uint8_t)status;
    return status;
}

enum pintle_status pintle_sensor_start(struct pintle_sensor *sensor)
{
    PINTLE_ASSERT(sensor->part);
    begin_measuring(sensor);
    if (pintle_priv_keeps(sensor)) { /* all of it when it is collected */
        return PINTLE_OK;
    }
    enum pintle_status status = pintle_priv_run(sensor, PHASE_DONE, PINTLE_OP_READ);
    return status == PINTLE_OK || status == PINTLE_NOT_READY || unlocks(sensor, status)
               ? PINTLE_OK
               : pintle_priv_failed(sensor, status);
}

uint32_t pintle_sensor_wait_us(const struct pintle_sensor *sensor)
{
    return pintle_priv_under_way(sensor) ? left_us(sensor) : 0;
}

static uint8_t climbs(struct pintle_sensor *sensor)
{
    const struct pintle_ladder *ladder = pintle_table_pointer(&sensor->part->ladder);
    uint8_t (*climb)(struct pintle_sensor *);
    pintle_table_copy(&climb, &ladder->climb, sizeof climb);
    return climb(sensor);
}

/* What was read, turned into readings. NOT_READY: it looks as after power-up, or as no chip's, so
 * the chip is proven and set up again and measured once more; what comes then stays. */
static enum pintle_status conclude(struct pintle_sensor *sensor)
{
    uint8_t again = sensor->flags & SENSOR_AGAIN;
    uint8_t flags = pintle_priv_flags(sensor);
    pintle_marks first = (sensor->flags & SENSOR_FIRST) && (flags & PINTLE_PART_FIRST_SUSPECT)
                             ? PINTLE_QUALITY_FIRST
                             : 0;
    pintle_marks doubt =
        PINTLE_QUALITY_BUS | (flags & PINTLE_PART_FORGETS ? PINTLE_QUALITY_POWER_ON : 0);
    struct pintle_block block = pintle_sensor_block(sensor);
    block.again = again;
    pintle_marks all = 0;
    doubt &= pintle_priv_decode(sensor->part, &block, sensor->readings, first, &all);
    if (doubt && !again) {
        sensor->flags |= SENSOR_AGAIN;
        pintle_priv_begin(sensor);
        return PINTLE_NOT_READY;
    }
    if ((sensor->flags & SENSOR_AUTO) && climbs(sensor)) {
        pintle_priv_begin(sensor);
        return PINTLE_NOT_READY;
    }
    sensor->phase = doubt ? PHASE_CLOSED : PHASE_OPEN;
    sensor->flags &= (uint8_t)~SENSOR_FIRST;
    sensor->status = PINTLE_OK;
    stamp(sensor);
    return all ? PINTLE_NO_ANSWER : PINTLE_OK;
}

/* On with the measurement, to its readings. */
static enum pintle_status go_on(struct pintle_sensor *sensor)
{
    if (sensor->flags & SENSOR_BLANK) {
        memset(pintle_priv_raw(sensor), 0, pintle_table_u8(&sensor->part->raw_size));
    }
    enum pintle_status status = pintle_priv_run(sensor, PHASE_DONE, UINT8_MAX);
    if (status == PINTLE_OK) {
        status = conclude(sensor);
    } else if (status != PINTLE_NOT_READY && unlocks(sensor, status)) {
        return PINTLE_NOT_READY;
    }
    return status == PINTLE_OK || status == PINTLE_NOT_READY ? status
                                                             : pintle_priv_failed(sensor, status);
}

enum pintle_status pintle_sensor_collect(struct pintle_sensor *sensor)
{
    PINTLE_ASSERT(sensor->part);
    if (pintle_priv_under_way(sensor)) {
        return go_on(sensor);
    }
    return sensor->status == PINTLE_OK ? PINTLE_NOT_STARTED : pintle_sensor_status(sensor);
}

enum pintle_status pintle_sensor_read(struct pintle_sensor *sensor)
{
    PINTLE_ASSERT(sensor->part);
    enum pintle_status slept = PINTLE_OK;
    begin_measuring(sensor);
    while (slept == PINTLE_OK) {
        enum pintle_status status = go_on(sensor);
        if (status != PINTLE_NOT_READY) {
            return status;
        }
        slept = pintle_priv_wait(sensor);
    }
    return pintle_priv_failed(sensor, slept);
}

enum pintle_status pintle_sensor_status(const struct pintle_sensor *sensor)
{
    return (enum pintle_status)sensor->status;
}

int64_t pintle_sensor_time_us(const struct pintle_sensor *sensor)
{
    return pintle_priv_under_way(sensor) ? 0 : sensor->when_us;
}
