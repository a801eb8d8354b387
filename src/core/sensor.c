#include "engine.h"
#include "pintle/onewire.h"

/* From OPEN on the sensor is set up, once a first measurement has followed. */
enum phase { PHASE_CLOSED, PHASE_IDENTITY, PHASE_SETUP, PHASE_OPEN, PHASE_MEASURE, PHASE_DONE };

static const struct pintle_step *program(const struct pintle_sensor *sensor, uint8_t phase)
{
    const struct pintle_part *part = sensor->part;
    switch (phase) {
    case PHASE_IDENTITY:
        return pintle_table_pointer(&part->identity);
    case PHASE_SETUP:
        return pintle_table_pointer(&part->setup);
    default:
        return pintle_table_pointer(&part->measure);
    }
}

static void enter(struct pintle_sensor *sensor, uint8_t phase)
{
    sensor->phase = phase;
    sensor->at = program(sensor, phase);
    sensor->limit_us = 0;
}

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
    PINTLE_ASSERT(sensor && part && clock);
    memset(sensor, 0, sizeof *sensor);
    sensor->part = part;
    sensor->clock = clock;
    sensor->trim = trim;
    if (pintle_priv_link(sensor).kind != kind || !fits(part)
        || (pintle_table_u8(&part->trim_size) > 0 && !trim)) {
        return PINTLE_BAD_ARGUMENT;
    }
    pintle_part_initial(part, sensor->settings);
    return PINTLE_OK;
}

enum pintle_status pintle_sensor_on_i2c(struct pintle_sensor *sensor,
                                        const struct pintle_part *part,
                                        const struct pintle_i2c *bus,
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
    return i < count ? status : PINTLE_BAD_ARGUMENT;
}

enum pintle_status pintle_sensor_on_spi(struct pintle_sensor *sensor,
                                        const struct pintle_part *part,
                                        const struct pintle_spi *bus,
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
    return whole && code[0] == pintle_table_u8(&part->family) ? status : PINTLE_BAD_ARGUMENT;
}

enum pintle_status pintle_sensor_set(struct pintle_sensor *sensor, uint8_t setting, uint8_t option)
{
    struct pintle_setting row;
    if (setting >= pintle_table_u8(&sensor->part->setting_count)) {
        return PINTLE_BAD_ARGUMENT;
    }
    pintle_priv_setting(sensor, setting, &row);
    if (option >= row.count) {
        return PINTLE_BAD_ARGUMENT;
    }
    sensor->settings[setting] = option;
    sensor->phase = PHASE_CLOSED;
    return PINTLE_OK;
}

/* At the end of a program: which comes next? */
static void next_phase(struct pintle_sensor *sensor)
{
    switch (sensor->phase) {
    case PHASE_IDENTITY:
        sensor->trim_used = 0;
        enter(sensor, PHASE_SETUP);
        break;
    case PHASE_SETUP:
        sensor->flags |= SENSOR_FIRST;
        sensor->raw_used = 0;
        enter(sensor, PHASE_MEASURE);
        break;
    default:
        sensor->phase = PHASE_DONE;
        break;
    }
}

/* Run steps until the measurement is done, must wait, or fails. While starting also
 * stop where raw bytes would be read. */
static enum pintle_status run_steps(struct pintle_sensor *sensor, struct pintle_sample *sample,
                                    uint8_t starting)
{
    while (sensor->phase != PHASE_DONE) {
        struct pintle_step step;
        pintle_table_copy(&step, sensor->at, sizeof step);
        if (step.op == PINTLE_OP_END) {
            next_phase(sensor);
            continue;
        }
        if (starting && step.op >= PINTLE_OP_READ) {
            return PINTLE_OK;
        }
        if (pintle_sensor_wait_us(sensor) > 0) {
            return PINTLE_NOT_READY;
        }
        const struct pintle_step *here = sensor->at++;
        enum pintle_status status = pintle_priv_step(sensor, &step, sample);
        if (status == PINTLE_NOT_READY) {
            sensor->at = here;
        }
        if (status != PINTLE_OK) {
            return status;
        }
    }
    return PINTLE_OK;
}

static enum pintle_status fail(struct pintle_sensor *sensor, enum pintle_status status)
{
    sensor->phase = PHASE_CLOSED;
    sensor->flags &= (uint8_t)~SENSOR_POINTED;
    sensor->ready_us = 0;
    return status;
}

static void sleep_until_ready(const struct pintle_sensor *sensor)
{
    uint32_t wait = pintle_sensor_wait_us(sensor);
    if (wait > 0) {
        sensor->clock->calls->sleep_us(sensor->clock->context, wait);
    }
}

enum pintle_status pintle_sensor_prove(struct pintle_sensor *sensor)
{
    enum pintle_status status = PINTLE_OK;
    struct pintle_step step;
    sensor->ready_us = 0;
    enter(sensor, PHASE_IDENTITY);
    pintle_table_copy(&step, sensor->at, sizeof step);
    while (status == PINTLE_OK && step.op != PINTLE_OP_END) {
        sleep_until_ready(sensor);
        status = pintle_priv_step(sensor, &step, NULL);
        pintle_table_copy(&step, ++sensor->at, sizeof step);
    }
    return fail(sensor, status);
}

enum pintle_status pintle_sensor_start(struct pintle_sensor *sensor)
{
    sensor->raw_used = 0;
    sensor->ready_us = 0;
    uint8_t set_up = sensor->phase >= PHASE_OPEN && !(sensor->flags & SENSOR_FIRST);
    enter(sensor, set_up ? PHASE_MEASURE : PHASE_IDENTITY);
    enum pintle_status status = run_steps(sensor, NULL, 1);
    if (status == PINTLE_OK || status == PINTLE_NOT_READY) {
        return PINTLE_OK;
    }
    return fail(sensor, status);
}

uint32_t pintle_sensor_wait_us(const struct pintle_sensor *sensor)
{
    if (sensor->ready_us == 0) {
        return 0;
    }
    uint64_t at = pintle_priv_now(sensor->clock);
    return sensor->ready_us > at ? (uint32_t)(sensor->ready_us - at) : 0;
}

static int32_t distance(int32_t a, int32_t b)
{
    return a > b ? a - b : b - a;
}

/* A power-on value is a suspicion only while nothing else was read yet or, where the row says how
 * near, while the value before was somewhere else: else it is a value like any other. */
static void believe(struct pintle_sensor *sensor, const struct pintle_linear *row,
                    struct pintle_reading *reading)
{
    struct pintle_linear linear;
    pintle_table_copy(&linear, row, sizeof linear);
    uint8_t is_it = reading->raw == linear.power_on && (linear.flags & PINTLE_LINEAR_POWER_ON);
    uint8_t known = !(sensor->flags & SENSOR_FIRST);
    uint8_t likely = linear.near == 0 || (sensor->flags & SENSOR_NEAR);
    if (is_it && known && likely) {
        reading->quality &= (uint8_t)~PINTLE_QUALITY_POWER_ON;
    }
    if (linear.near > 0) {
        uint8_t near = distance(reading->raw, linear.power_on) <= linear.near
                       && !(reading->quality & PINTLE_QUALITY_POWER_ON);
        sensor->flags =
            (uint8_t)(near ? sensor->flags | SENSOR_NEAR : sensor->flags & ~SENSOR_NEAR);
    }
}

/* Returns the bits that any of the channels has. */
static uint8_t mark_first(struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    const struct pintle_channel *channels = pintle_table_pointer(&sensor->part->channels);
    uint8_t count = pintle_table_u8(&sensor->part->channel_count);
    uint8_t suspect =
        (sensor->flags & SENSOR_FIRST) && (pintle_priv_flags(sensor) & PINTLE_PART_FIRST_SUSPECT);
    uint8_t any = 0;
    for (uint8_t i = 0; i < count; i++) {
        struct pintle_reading *reading = &sample->channel[i];
        const struct pintle_linear *linear = pintle_priv_row(&channels[i], sensor->settings);
        if (linear) {
            believe(sensor, linear, reading);
        }
        if (suspect) {
            reading->quality |= PINTLE_QUALITY_FIRST;
        }
        any |= reading->quality;
    }
    return any;
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

/* What was read, turned into readings. */
static void conclude(struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    const struct pintle_block block = { sample->raw, sensor->trim, NULL };
    pintle_part_decode(sensor->part, sensor->settings, &block, sample);
    uint8_t any = mark_first(sensor, sample);
    uint8_t forgot = (any & PINTLE_QUALITY_POWER_ON) && !(sensor->flags & SENSOR_FIRST)
                     && (pintle_priv_flags(sensor) & PINTLE_PART_FORGETS);
    sensor->phase = forgot ? PHASE_CLOSED : PHASE_OPEN;
    sensor->flags &= (uint8_t)~SENSOR_FIRST;
    stamp(sensor, sample);
}

enum pintle_status pintle_sensor_collect(struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    if (sensor->phase == PHASE_CLOSED || sensor->phase == PHASE_OPEN) {
        pintle_priv_mark_failed(sensor, sample);
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = run_steps(sensor, sample, 0);
    if (status == PINTLE_OK) {
        conclude(sensor, sample);
    } else if (status != PINTLE_NOT_READY) {
        pintle_priv_mark_failed(sensor, sample);
        fail(sensor, status);
    }
    return status;
}

enum pintle_status pintle_sensor_read(struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    enum pintle_status status = pintle_sensor_start(sensor);
    if (status != PINTLE_OK) {
        pintle_priv_mark_failed(sensor, sample);
        return status;
    }
    do {
        sleep_until_ready(sensor);
        status = pintle_sensor_collect(sensor, sample);
    } while (status == PINTLE_NOT_READY);
    return status;
}
