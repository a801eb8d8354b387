#include "engine.h"

/* From OPEN on the sensor is set up, once a first measurement has followed. */
enum phase { PHASE_CLOSED, PHASE_IDENTITY, PHASE_SETUP, PHASE_OPEN, PHASE_MEASURE, PHASE_DONE };

#define POLL_INTERVAL_US 500u

/* One run of the engine: where raw bytes go, null while measuring only starts. */
struct run {
    struct pintle_sensor *sensor;
    struct pintle_sample *sample;
};

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

enum pintle_status pintle_sensor_init(struct pintle_sensor *sensor, const struct pintle_part *part,
                                      const struct pintle_i2c *bus,
                                      const struct pintle_clock *clock, uint8_t address,
                                      uint8_t *trim)
{
    PINTLE_ASSERT(sensor && part && bus && clock);
    const uint8_t *addresses = pintle_table_pointer(&part->addresses);
    uint8_t count = pintle_table_u8(&part->address_count);
    uint8_t i = 0;
    while (i < count && pintle_table_u8(&addresses[i]) != address) {
        i++;
    }
    if (i == count || (pintle_table_u8(&part->trim_size) > 0 && !trim)) {
        return PINTLE_BAD_ARGUMENT;
    }
    memset(sensor, 0, sizeof *sensor);
    sensor->part = part;
    sensor->bus = bus;
    sensor->clock = clock;
    sensor->address = address;
    sensor->trim = trim;
    pintle_part_initial(part, sensor->settings);
    return PINTLE_OK;
}

static void setting_at(const struct pintle_sensor *sensor, uint8_t i,
                       struct pintle_setting *setting)
{
    const struct pintle_setting *rows = pintle_table_pointer(&sensor->part->settings);
    pintle_table_copy(setting, &rows[i], sizeof *setting);
}

enum pintle_status pintle_sensor_set(struct pintle_sensor *sensor, uint8_t setting, uint8_t option)
{
    struct pintle_setting row;
    if (setting >= pintle_table_u8(&sensor->part->setting_count)) {
        return PINTLE_BAD_ARGUMENT;
    }
    setting_at(sensor, setting, &row);
    if (option >= row.count) {
        return PINTLE_BAD_ARGUMENT;
    }
    sensor->settings[setting] = option;
    sensor->phase = PHASE_CLOSED;
    return PINTLE_OK;
}

/* The bits that the settings living in `reg` give it. */
static uint32_t settings_bits(const struct pintle_sensor *sensor, uint16_t reg)
{
    uint32_t bits = 0;
    uint8_t count = pintle_table_u8(&sensor->part->setting_count);
    for (uint8_t i = 0; i < count; i++) {
        struct pintle_setting row;
        setting_at(sensor, i, &row);
        if (row.reg == reg) {
            bits |= (uint32_t)pintle_table_u16(&row.options[sensor->settings[i]].code) << row.shift;
        }
    }
    return bits;
}

static uint32_t settings_time(const struct pintle_sensor *sensor)
{
    uint32_t time = 0;
    uint8_t count = pintle_table_u8(&sensor->part->setting_count);
    for (uint8_t i = 0; i < count; i++) {
        struct pintle_setting row;
        setting_at(sensor, i, &row);
        time += pintle_table_u32(&row.options[sensor->settings[i]].time_us);
    }
    return time;
}

static uint64_t now(const struct pintle_sensor *sensor)
{
    return sensor->clock->calls->now_us(sensor->clock->context);
}

static enum pintle_status do_write(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint32_t bits = settings_bits(sensor, step->reg);
    if (step->width == 0) {
        return pintle_priv_send(sensor, (uint16_t)(step->reg | bits), NULL, 0);
    }
    return pintle_priv_write(sensor, step->reg, step->width, step->value | bits);
}

/* NOT_READY puts the same step back on, a little later. */
static enum pintle_status do_poll(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t byte = 0;
    uint64_t at = now(sensor);
    enum pintle_status status = pintle_priv_receive(sensor, step->reg, &byte, 1);
    if (status != PINTLE_OK) {
        return status;
    }
    if ((byte & (step->value >> 24)) == ((step->value >> 16) & 0xff)) {
        sensor->limit_us = 0;
        return PINTLE_OK;
    }
    if (sensor->limit_us == 0) {
        sensor->limit_us = at + (uint32_t)1000 * (uint16_t)step->value;
    }
    if (at >= sensor->limit_us) {
        return PINTLE_TIME_LIMIT;
    }
    sensor->ready_us = at + POLL_INTERVAL_US;
    return PINTLE_NOT_READY;
}

static enum pintle_status do_expect(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint32_t value = 0;
    enum pintle_status status = pintle_priv_read(sensor, step->reg, step->width, &value);
    if (status == PINTLE_OK && (value & (step->value >> 16)) != (step->value & 0xffff)) {
        return PINTLE_WRONG_IDENTITY;
    }
    return status;
}

static enum pintle_status do_raw(struct run *run, const struct pintle_step *step)
{
    struct pintle_sensor *sensor = run->sensor;
    uint8_t *to = run->sample->raw + sensor->raw_used;
    sensor->raw_used = (uint8_t)(sensor->raw_used + step->width);
    if (step->op == PINTLE_OP_READ) {
        return pintle_priv_receive(sensor, step->reg, to, step->width);
    }
    const struct pintle_segment segment = { NULL, to, step->width };
    return pintle_i2c_transfer(sensor->bus, sensor->address, &segment, 1);
}

static enum pintle_status do_trim(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t *to = sensor->trim + sensor->trim_used;
    sensor->trim_used = (uint8_t)(sensor->trim_used + step->width);
    return pintle_priv_receive(sensor, step->reg, to, step->width);
}

static enum pintle_status do_step(struct run *run, const struct pintle_step *step)
{
    struct pintle_sensor *sensor = run->sensor;
    switch (step->op) {
    case PINTLE_OP_WRITE:
        return do_write(sensor, step);
    case PINTLE_OP_WAIT:
        sensor->ready_us = now(sensor) + step->value + (step->width ? settings_time(sensor) : 0);
        return PINTLE_OK;
    case PINTLE_OP_ONLY:
        sensor->at += sensor->settings[step->reg] == step->value ? 0 : step->width;
        return PINTLE_OK;
    case PINTLE_OP_POLL:
        return do_poll(sensor, step);
    case PINTLE_OP_EXPECT:
        return do_expect(sensor, step);
    case PINTLE_OP_TRIM:
        return do_trim(sensor, step);
    case PINTLE_OP_WORDS:
        return pintle_priv_words(run->sample->raw, sensor->raw_used);
    default:
        return do_raw(run, step);
    }
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
        sensor->first = 1;
        sensor->raw_used = 0;
        enter(sensor, PHASE_MEASURE);
        break;
    default:
        sensor->phase = PHASE_DONE;
        break;
    }
}

/* Run steps until the measurement is done, must wait, or fails. While starting (no sample) also
 * stop where raw bytes would be read. */
static enum pintle_status run_steps(struct run *run)
{
    struct pintle_sensor *sensor = run->sensor;
    while (sensor->phase != PHASE_DONE) {
        struct pintle_step step;
        pintle_table_copy(&step, sensor->at, sizeof step);
        if (step.op == PINTLE_OP_END) {
            next_phase(sensor);
            continue;
        }
        if (!run->sample && step.op >= PINTLE_OP_READ) {
            return PINTLE_OK;
        }
        if (pintle_sensor_wait_us(sensor) > 0) {
            return PINTLE_NOT_READY;
        }
        const struct pintle_step *here = sensor->at++;
        enum pintle_status status = do_step(run, &step);
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
    sensor->pointed = 0;
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
    struct run run = { sensor, NULL };
    enum pintle_status status = PINTLE_OK;
    struct pintle_step step;
    sensor->ready_us = 0;
    enter(sensor, PHASE_IDENTITY);
    pintle_table_copy(&step, sensor->at, sizeof step);
    while (status == PINTLE_OK && step.op != PINTLE_OP_END) {
        sleep_until_ready(sensor);
        status = do_step(&run, &step);
        pintle_table_copy(&step, ++sensor->at, sizeof step);
    }
    return fail(sensor, status);
}

enum pintle_status pintle_sensor_start(struct pintle_sensor *sensor)
{
    struct run run = { sensor, NULL };
    sensor->raw_used = 0;
    sensor->ready_us = 0;
    uint8_t set_up = sensor->phase >= PHASE_OPEN && !sensor->first;
    enter(sensor, set_up ? PHASE_MEASURE : PHASE_IDENTITY);
    enum pintle_status status = run_steps(&run);
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
    uint64_t at = now(sensor);
    return sensor->ready_us > at ? (uint32_t)(sensor->ready_us - at) : 0;
}

/* A linear channel's power-on value is a suspicion only while nothing else was read yet: later it
 * is a value like any other. */
static uint8_t believe(const struct pintle_sensor *sensor, uint8_t i, int32_t raw)
{
    const struct pintle_channel *channels = pintle_table_pointer(&sensor->part->channels);
    const struct pintle_linear *linear = pintle_table_pointer(&channels[i].linear);
    return !sensor->first && linear && (int32_t)pintle_table_u32(&linear->power_on) == raw;
}

/* Returns the bits that any of the channels has. */
static uint8_t mark_first(const struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    uint8_t count = pintle_table_u8(&sensor->part->channel_count);
    uint8_t suspect = sensor->first && (pintle_priv_flags(sensor) & PINTLE_PART_FIRST_SUSPECT);
    uint8_t any = 0;
    for (uint8_t i = 0; i < count; i++) {
        struct pintle_reading *reading = &sample->channel[i];
        if ((reading->quality & PINTLE_QUALITY_POWER_ON) && believe(sensor, i, reading->raw)) {
            reading->quality &= (uint8_t)~PINTLE_QUALITY_POWER_ON;
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
    uint8_t forgot = (any & PINTLE_QUALITY_POWER_ON) && !sensor->first
                     && (pintle_priv_flags(sensor) & PINTLE_PART_FORGETS);
    sensor->phase = forgot ? PHASE_CLOSED : PHASE_OPEN;
    sensor->first = 0;
    stamp(sensor, sample);
}

enum pintle_status pintle_sensor_collect(struct pintle_sensor *sensor, struct pintle_sample *sample)
{
    struct run run = { sensor, sample };
    if (sensor->phase == PHASE_CLOSED || sensor->phase == PHASE_OPEN) {
        pintle_priv_mark_failed(sensor, sample);
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = run_steps(&run);
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
