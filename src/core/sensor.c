#include "engine.h"
#include "pintle/onewire.h"

/* Is there room for it in a sensor and a sample? */
static uint8_t fits(const struct pintle_part *part)
{
    return pintle_table_u8(&part->raw_size) <= PINTLE_RAW_MAX
           && pintle_table_u8(&part->channel_count) <= PINTLE_CHANNELS_MAX
           && pintle_table_u8(&part->setting_count) <= PINTLE_SETTINGS_MAX;
}

/* What all buses have in common. */
static enum pintle_status init(struct pintle_sensor *sensor, const struct pintle_part *part,
                               enum pintle_bus_kind kind, const struct pintle_clock *clock,
                               uint8_t *trim)
{
    PINTLE_ASSERT(sensor && part);
    memset(sensor, 0, sizeof *sensor);
    sensor->part = part;
    sensor->clock = clock;
    sensor->trim = trim;
    PINTLE_LINK(link, sensor);
    if (link->kind != kind) {
        return PINTLE_WRONG_BUS;
    }
    if (!fits(part) || (pintle_table_u8(&part->trim_size) > 0 && !trim)) {
        return PINTLE_NO_ROOM;
    }
    if (!pintle_priv_ends(part)) {
        return PINTLE_BAD_ARGUMENT;
    }
    pintle_part_initial(part, sensor->settings);
    return clock ? PINTLE_OK : PINTLE_NO_CLOCK;
}

enum pintle_status pintle_sensor_on_i2c(struct pintle_sensor *sensor,
                                        const struct pintle_part *part, struct pintle_i2c *bus,
                                        const struct pintle_clock *clock, uint8_t address,
                                        uint8_t *trim)
{
    const uint8_t *addresses = pintle_table_pointer(&part->addresses);
    uint8_t count = pintle_table_u8(&part->address_count);
    uint8_t i = 0;
    while (i < count && pintle_table_u8(&addresses[i]) != address) {
        i++;
    }
    enum pintle_status status = init(sensor, part, PINTLE_BUS_I2C, clock, trim);
    sensor->bus.i2c = bus;
    sensor->place.address = address;
    return status == PINTLE_OK && i == count ? PINTLE_WRONG_PLACE : status;
}

enum pintle_status pintle_sensor_on_spi(struct pintle_sensor *sensor,
                                        const struct pintle_part *part, struct pintle_spi *bus,
                                        const struct pintle_clock *clock, uint8_t select,
                                        uint8_t *trim)
{
    enum pintle_status status = init(sensor, part, PINTLE_BUS_SPI, clock, trim);
    sensor->bus.spi = bus;
    sensor->place.select = select;
    return status;
}

enum pintle_status pintle_sensor_on_onewire(struct pintle_sensor *sensor,
                                            const struct pintle_part *part,
                                            struct pintle_onewire *line,
                                            const struct pintle_clock *clock, const uint8_t code[8],
                                            uint8_t *trim)
{
    enum pintle_status status = init(sensor, part, PINTLE_BUS_ONEWIRE, clock, trim);
    sensor->bus.onewire = line;
    memcpy(sensor->place.code, code, sizeof sensor->place.code);
    uint8_t whole = pintle_onewire_crc(code, 8) == 0;
    whole = whole && code[0] == pintle_table_u8(&part->family);
    return status == PINTLE_OK && !whole ? PINTLE_WRONG_PLACE : status;
}

enum pintle_status pintle_sensor_on_stream(struct pintle_sensor *sensor,
                                           const struct pintle_part *part,
                                           struct pintle_stream *stream,
                                           const struct pintle_clock *clock, uint8_t *trim)
{
    enum pintle_status status = init(sensor, part, PINTLE_BUS_STREAM, clock, trim);
    sensor->bus.stream = stream;
    return status;
}

/* What is under way ends; the next start begins with the identity. */
static enum pintle_status shut(struct pintle_sensor *sensor, enum pintle_status status)
{
    sensor->phase = PHASE_CLOSED;
    sensor->status = PINTLE_OK;
    sensor->ready_us = 0;
    return status;
}

enum pintle_status pintle_sensor_set(struct pintle_sensor *sensor, unsigned setting,
                                     unsigned option)
{
    if (setting >= pintle_table_u8(&sensor->part->setting_count)) {
        return PINTLE_BAD_ARGUMENT;
    }
    PINTLE_SETTING(row, sensor, setting);
    if (option >= row->count) {
        return PINTLE_BAD_ARGUMENT;
    }
    sensor->settings[setting] = (uint8_t)option;
    return shut(sensor, PINTLE_OK);
}

enum pintle_status pintle_sensor_numbers(struct pintle_sensor *sensor, const float *numbers)
{
    const struct pintle_number *limits = pintle_table_pointer(&sensor->part->numbers);
    for (uint8_t i = pintle_table_u8(&sensor->part->number_count); i > 0; i--) {
        PINTLE_TABLE_ROW(struct pintle_number, number, &limits[i - 1]);
        if (!pintle_priv_within(&numbers[i - 1], number)) {
            return PINTLE_OUT_OF_RANGE;
        }
    }
    sensor->numbers = numbers;
    return PINTLE_OK;
}

enum pintle_status pintle_sensor_ask(struct pintle_sensor *sensor, uint32_t channels)
{
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
    if (!pintle_table_pointer(&sensor->part->ladder)) {
        return PINTLE_UNSUPPORTED;
    }
    sensor->flags = (uint8_t)((sensor->flags & ~SENSOR_AUTO) | (on ? SENSOR_AUTO : 0));
    return PINTLE_OK;
}

/* Is the chip set up, and has nothing happened on its bus since? */
static uint8_t is_set_up(struct pintle_sensor *sensor)
{
    return sensor->phase >= PHASE_OPEN && !(sensor->flags & SENSOR_FIRST)
           && sensor->upsets == *pintle_priv_upsets(sensor);
}

/* One that was well a moment ago: what disturbed it may have reached others. One that was not, or
 * is not there at all, disturbs nobody. */
static enum pintle_status fail(struct pintle_sensor *sensor, enum pintle_status status)
{
    PINTLE_LINK(link, sensor);
    link->forget(sensor);
    if (sensor->phase >= PHASE_OPEN && !(sensor->flags & SENSOR_FIRST) && status != PINTLE_OK) {
        (*pintle_priv_upsets(sensor))++;
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

static const struct pintle_claims *claims_of(const struct pintle_sensor *sensor)
{
    const struct pintle_link *link = pintle_table_pointer(&sensor->part->link);
    switch (pintle_table_u8(&link->kind)) {
    case PINTLE_BUS_I2C:
        return &sensor->bus.i2c->calls->claims;
    case PINTLE_BUS_SPI:
        return &sensor->bus.spi->calls->claims;
    case PINTLE_BUS_STREAM:
        return &sensor->bus.stream->calls->claims;
    default:
        return &sensor->bus.onewire->calls->claims;
    }
}

/* From the identity on. */
void pintle_priv_begin(struct pintle_sensor *sensor)
{
    const struct pintle_claims *claims = claims_of(sensor);
    uint8_t alone = claims->acquire || claims->release ? 0 : SENSOR_ALONE;
    sensor->flags = (uint8_t)((sensor->flags & ~SENSOR_ALONE) | alone);
    sensor->upsets = *pintle_priv_upsets(sensor);
    sensor->ready_us = 0;
    pintle_priv_enter(sensor, PHASE_IDENTITY);
}

/* From the identity up to the program of phase `end`, waiting. */
static enum pintle_status run_to(struct pintle_sensor *sensor, uint8_t end)
{
    enum pintle_status status = PINTLE_OK;
    pintle_priv_begin(sensor);
    do {
        status = pintle_priv_sleep(sensor->clock, pintle_sensor_wait_us(sensor));
        if (status == PINTLE_OK) {
            status = pintle_priv_run(sensor, NULL, end, PINTLE_OP_READ);
        }
    } while (status == PINTLE_NOT_READY);
    return status;
}

enum pintle_status pintle_sensor_prove(struct pintle_sensor *sensor)
{
    uint8_t open = is_set_up(sensor);
    enum pintle_status status = run_to(sensor, PHASE_SETUP);
    if (status != PINTLE_OK || !open) {
        return fail(sensor, status);
    }
    sensor->phase = PHASE_OPEN;
    sensor->status = PINTLE_OK;
    return status;
}

enum pintle_status pintle_priv_set_up(struct pintle_sensor *sensor)
{
    enum pintle_status status = run_to(sensor, PHASE_MEASURE);
    if (status == PINTLE_OK && sensor->phase != PHASE_MEASURE) {
        status = PINTLE_UNSUPPORTED;
    }
    if (status == PINTLE_OK) {
        sensor->phase = PHASE_OPEN;
        sensor->status = PINTLE_OK;
        return status;
    }
    return fail(sensor, status);
}

/* A measurement, with the identity and the set-up first where they are wanted. */
static void begin_measuring(struct pintle_sensor *sensor)
{
    uint8_t set_up = is_set_up(sensor);
    sensor->flags =
        (uint8_t)((sensor->flags & (SENSOR_FIRST | SENSOR_ALONE | SENSOR_AUTO)) | SENSOR_BLANK);
    sensor->status = PINTLE_OK;
    if (!set_up) {
        pintle_priv_begin(sensor);
        return;
    }
    sensor->ready_us = 0;
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

enum pintle_status pintle_sensor_start(struct pintle_sensor *sensor)
{
    begin_measuring(sensor);
    if (pintle_priv_keeps(sensor)) { /* all of it when it is collected */
        return PINTLE_OK;
    }
    enum pintle_status status = pintle_priv_run(sensor, NULL, PHASE_DONE, PINTLE_OP_READ);
    if (status == PINTLE_OK || status == PINTLE_NOT_READY || unlocks(sensor, status)) {
        return PINTLE_OK;
    }
    fail(sensor, status);
    sensor->status = (uint8_t)status;
    return status;
}

uint32_t pintle_sensor_wait_us(const struct pintle_sensor *sensor)
{
    uint32_t wait = pintle_priv_until(sensor->clock, sensor->ready_us);
    return wait > PINTLE_WAIT_MAX_US ? 0 : wait;
}

static void stamp(const struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    const struct pintle_clock *clock = sensor->clock;
    if (!clock->calls->get_wall_us
        || clock->calls->get_wall_us(clock->context, &sample->time_us) != PINTLE_OK) {
        sample->time_us = 0;
    }
}

void pintle_priv_mark_failed(const struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    uint8_t count = pintle_table_u8(&sensor->part->channel_count);
    memset(sample->channel, 0, sizeof sample->channel);
    for (uint8_t i = 0; i < count; i++) {
        sample->channel[i].quality = PINTLE_QUALITY_BUS;
    }
    stamp(sensor, sample);
}

static uint8_t climbs(struct pintle_sensor *sensor, const struct pintle_sample *sample)
{
    const struct pintle_ladder *ladder = pintle_table_pointer(&sensor->part->ladder);
    uint8_t (*climb)(struct pintle_sensor *, const struct pintle_sample *);
    pintle_table_copy(&climb, &ladder->climb, sizeof climb);
    return climb(sensor, sample);
}

/* What was read, turned into readings. NOT_READY: it looks as after power-up, or as no chip's, so
 * the chip is proven and set up again and measured once more; what comes then stays. */
static enum pintle_status conclude(struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    uint8_t again = sensor->flags & SENSOR_AGAIN;
    uint8_t flags = pintle_priv_flags(sensor);
    uint16_t first = (sensor->flags & SENSOR_FIRST) && (flags & PINTLE_PART_FIRST_SUSPECT)
                         ? PINTLE_QUALITY_FIRST
                         : 0;
    uint16_t doubt =
        PINTLE_QUALITY_BUS | (flags & PINTLE_PART_FORGETS ? PINTLE_QUALITY_POWER_ON : 0);
    const struct pintle_block block = { .raw = sample->raw,
                                        .trim = sensor->trim,
                                        .settings = sensor->settings,
                                        .numbers = sensor->numbers,
                                        .idle = sensor->idle,
                                        .again = again };
    uint16_t all = 0;
    doubt &= pintle_priv_decode(sensor->part, &block, sample, first, &all);
    if (doubt && !again) {
        sensor->flags |= SENSOR_AGAIN;
        pintle_priv_begin(sensor);
        return PINTLE_NOT_READY;
    }
    if ((sensor->flags & SENSOR_AUTO) && climbs(sensor, sample)) {
        pintle_priv_begin(sensor);
        return PINTLE_NOT_READY;
    }
    sensor->phase = doubt ? PHASE_CLOSED : PHASE_OPEN;
    sensor->flags &= (uint8_t)~SENSOR_FIRST;
    stamp(sensor, sample);
    return all ? PINTLE_NO_ANSWER : PINTLE_OK;
}

/* On with the measurement, to its readings. */
static enum pintle_status go_on(struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    if (sensor->flags & SENSOR_BLANK) {
        memset(sample->raw, 0, sizeof sample->raw);
    }
    enum pintle_status status = pintle_priv_run(sensor, sample, PHASE_DONE, UINT8_MAX);
    if (status == PINTLE_OK) {
        status = conclude(sensor, sample);
    } else if (status != PINTLE_NOT_READY && unlocks(sensor, status)) {
        return PINTLE_NOT_READY;
    }
    if (status != PINTLE_OK && status != PINTLE_NOT_READY) {
        pintle_priv_mark_failed(sensor, sample);
        fail(sensor, status);
    }
    return status;
}

enum pintle_status pintle_sensor_collect(struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    enum pintle_status status = (enum pintle_status)sensor->status;
    if (sensor->phase != PHASE_CLOSED && sensor->phase != PHASE_OPEN) {
        return go_on(sensor, sample);
    }
    if (status == PINTLE_OK) {
        return PINTLE_NOT_STARTED;
    }
    pintle_priv_mark_failed(sensor, sample);
    return status;
}

enum pintle_status pintle_sensor_read(struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    enum pintle_status slept = PINTLE_OK;
    begin_measuring(sensor);
    while (slept == PINTLE_OK) {
        enum pintle_status status = go_on(sensor, sample);
        if (status != PINTLE_NOT_READY) {
            return status;
        }
        slept = pintle_priv_sleep(sensor->clock, pintle_sensor_wait_us(sensor));
    }
    pintle_priv_mark_failed(sensor, sample);
    return fail(sensor, slept);
}
