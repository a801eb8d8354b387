/* What each step of a part does. */
#include "engine.h"

#define POLL_INTERVAL_US 500u

void pintle_priv_setting(const struct pintle_sensor *sensor, uint8_t i,
                         struct pintle_setting *setting)
{
    const struct pintle_setting *rows = pintle_table_pointer(&sensor->part->settings);
    pintle_table_copy(setting, &rows[i], sizeof *setting);
}

/* The bits that the settings living in `reg` give it. */
static uint32_t settings_bits(const struct pintle_sensor *sensor, uint16_t reg)
{
    uint32_t bits = 0;
    uint8_t count = pintle_table_u8(&sensor->part->setting_count);
    for (uint8_t i = 0; i < count; i++) {
        struct pintle_setting row;
        pintle_priv_setting(sensor, i, &row);
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
        pintle_priv_setting(sensor, i, &row);
        time += pintle_table_u32(&row.options[sensor->settings[i]].time_us);
    }
    return time;
}

static enum pintle_status do_write(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint32_t bits = settings_bits(sensor, step->reg);
    if (step->width == 0) {
        return pintle_priv_link(sensor).send(sensor, (uint16_t)(step->reg | bits), NULL, 0);
    }
    return pintle_priv_write(sensor, step->reg, step->width, step->value | bits);
}

/* NOT_READY puts the same step back on, a little later. */
static enum pintle_status do_poll(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t byte = 0;
    uint64_t at = pintle_priv_now(sensor->clock);
    enum pintle_status status = pintle_priv_link(sensor).receive(sensor, step->reg, &byte, 1);
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

/* Is there one value throughout, all ones or all zeros, that says that nobody sent it? */
static uint8_t silent(const struct pintle_sensor *sensor, const uint8_t *bytes, uint8_t count)
{
    uint8_t flags = pintle_priv_flags(sensor);
    uint8_t suspicious = bytes[0] == 0xff ? flags & PINTLE_PART_ONES_SILENT
                         : bytes[0] == 0  ? flags & PINTLE_PART_ZEROS_SILENT
                                          : 0;
    for (uint8_t i = 1; i < count && suspicious; i++) {
        suspicious = bytes[i] == bytes[0];
    }
    return suspicious != 0;
}

/* A wrong identity is another part's; where nobody drives the line there is none at all. */
static enum pintle_status do_expect(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint32_t value = 0;
    enum pintle_status status = pintle_priv_read(sensor, step->reg, step->width, &value);
    if (status != PINTLE_OK || (value & (step->value >> 16)) == (step->value & 0xffff)) {
        return status;
    }
    const uint8_t bytes[2] = { (uint8_t)(step->width > 1 ? value >> 8 : value), (uint8_t)value };
    return silent(sensor, bytes, 2) ? PINTLE_NO_ANSWER : PINTLE_WRONG_IDENTITY;
}

/* Replace some bits of one byte, with those of the settings that live there. */
static enum pintle_status do_change(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t byte = 0;
    uint8_t mask = (uint8_t)(step->value >> 8);
    uint8_t bits = (uint8_t)(step->value | settings_bits(sensor, step->reg));
    enum pintle_status status = pintle_priv_link(sensor).receive(sensor, step->reg, &byte, 1);
    byte = (uint8_t)((byte & ~mask) | (bits & mask));
    return status == PINTLE_OK ? pintle_priv_link(sensor).send(sensor, step->reg, &byte, 1)
                               : status;
}

static enum pintle_status do_power(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    const struct pintle_link link = pintle_priv_link(sensor);
    uint32_t us = step->value + settings_time(sensor);
    return link.power ? link.power(sensor, (uint8_t)step->reg, us) : PINTLE_UNSUPPORTED;
}

static enum pintle_status do_raw(struct pintle_sensor *sensor, const struct pintle_step *step,
                                 struct pintle_sample *sample)
{
    const struct pintle_link link = pintle_priv_link(sensor);
    uint8_t *to = sample->raw + sensor->raw_used;
    enum pintle_status status = PINTLE_UNSUPPORTED;
    if (step->op == PINTLE_OP_READ) {
        status = link.receive(sensor, step->reg, to, step->width);
    } else if (link.fetch) {
        status = link.fetch(sensor, to, step->width);
    }
    if (status == PINTLE_OK) {
        sensor->raw_used = (uint8_t)(sensor->raw_used + step->width);
        status = silent(sensor, to, step->width) ? PINTLE_NO_ANSWER : PINTLE_OK;
    }
    return status;
}

static enum pintle_status do_trim(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t *to = sensor->trim + sensor->trim_used;
    sensor->trim_used = (uint8_t)(sensor->trim_used + step->width);
    return pintle_priv_link(sensor).receive(sensor, step->reg, to, step->width);
}

enum pintle_status pintle_priv_step(struct pintle_sensor *sensor, const struct pintle_step *step,
                                    struct pintle_sample *sample)
{
    switch (step->op) {
    case PINTLE_OP_WRITE:
        return do_write(sensor, step);
    case PINTLE_OP_WAIT:
        sensor->ready_us = pintle_priv_now(sensor->clock) + step->value
                           + (step->width ? settings_time(sensor) : 0);
        return PINTLE_OK;
    case PINTLE_OP_ONLY:
        sensor->at += sensor->settings[step->reg] == step->value ? 0 : step->width;
        return PINTLE_OK;
    case PINTLE_OP_POLL:
        return do_poll(sensor, step);
    case PINTLE_OP_EXPECT:
        return do_expect(sensor, step);
    case PINTLE_OP_CHANGE:
        return do_change(sensor, step);
    case PINTLE_OP_POWER:
        return do_power(sensor, step);
    case PINTLE_OP_TRIM:
        return do_trim(sensor, step);
    case PINTLE_OP_WORDS:
        return pintle_priv_words(sample->raw, sensor->raw_used);
    default:
        return do_raw(sensor, step, sample);
    }
}
