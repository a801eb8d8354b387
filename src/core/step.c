/* The programs of a part: which step comes next, and what each of them does. */
#include <string.h>

#include "engine.h"

#define POLL_INTERVAL_US 500u
#define LONG_EXPECT 8

/* --- steps --- */

/* The bits that the settings living in `reg` give it; with `times` instead what all of them add to
 * the measuring time. */
static uint32_t settings_sum(const struct pintle_sensor *sensor, uint16_t reg, uint8_t times)
{
    uint32_t sum = 0;
    uint8_t count = pintle_table_u8(&sensor->part->setting_count);
    for (uint8_t i = 0; i < count; i++) {
        PINTLE_SETTING(row, sensor, i);
        PINTLE_TABLE_ROW(struct pintle_option, option, &row->options[sensor->settings[i]]);
        if (times) {
            sum += option->time_us;
        } else if (row->reg == reg) {
            sum |= (uint32_t)option->code << row->shift;
        }
    }
    return sum;
}

static enum pintle_status do_write(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint32_t bits = settings_sum(sensor, step->reg, 0);
    if (step->width == 0) {
        PINTLE_LINK(link, sensor);
        return link->send(sensor, (uint16_t)(step->reg | bits), NULL, 0);
    }
    return pintle_priv_write(sensor, step->reg, step->width, step->value | bits);
}

/* NOT_READY puts the same step back on, a little later. */
static enum pintle_status do_poll(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t byte = 0;
    uint64_t at = pintle_priv_now(sensor->clock);
    PINTLE_LINK(link, sensor);
    enum pintle_status status = link->receive(sensor, step->reg, &byte, 1);
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
        return PINTLE_STAYED_BUSY;
    }
    sensor->ready_us = at + POLL_INTERVAL_US;
    return PINTLE_NOT_READY;
}

/* A register, or the last byte of a longer stretch. */
static enum pintle_status read_expected(struct pintle_sensor *sensor,
                                        const struct pintle_step *step, uint32_t *value)
{
    uint8_t bytes[LONG_EXPECT];
    if (step->width <= 2) {
        return pintle_priv_read(sensor, step->reg, step->width, value);
    }
    if (step->width > LONG_EXPECT) {
        return PINTLE_BAD_ARGUMENT;
    }
    PINTLE_LINK(link, sensor);
    enum pintle_status status = link->receive(sensor, step->reg, bytes, step->width);
    *value = bytes[step->width - 1];
    return status;
}

/* It was not as expected. A wrong identity is another part's; where nobody drives the line, nothing
 * but ones or zeros come and there is none at all. */
static enum pintle_status blame(const struct pintle_sensor *sensor, const struct pintle_step *step,
                                uint32_t value)
{
    uint32_t ones = step->width > 1 ? 0xffff : 0xff;
    uint8_t flags = pintle_priv_flags(sensor);
    uint8_t silent = (value == ones && (flags & PINTLE_PART_ONES_SILENT))
                     || (value == 0 && (flags & PINTLE_PART_ZEROS_SILENT));
    if (silent && sensor->phase != PHASE_SETUP) {
        return PINTLE_NO_ANSWER;
    }
    return sensor->phase == PHASE_IDENTITY ? PINTLE_WRONG_IDENTITY : PINTLE_MISFIT;
}

static enum pintle_status do_expect(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint32_t value = 0;
    enum pintle_status status = read_expected(sensor, step, &value);
    uint8_t is = (value & (step->value >> 16)) == (step->value & 0xffff);
    if (status != PINTLE_OK || is == (step->op == PINTLE_OP_EXPECT)) {
        return status;
    }
    return blame(sensor, step, value);
}

/* Replace some bits of one byte, with those of the settings that live there. */
static enum pintle_status do_change(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t byte = 0;
    uint8_t mask = (uint8_t)(step->value >> 8);
    uint8_t bits = (uint8_t)(step->value | settings_sum(sensor, step->reg, 0));
    PINTLE_LINK(link, sensor);
    enum pintle_status status = link->receive(sensor, step->reg, &byte, 1);
    byte = (uint8_t)((byte & ~mask) | (bits & mask));
    return status == PINTLE_OK ? link->send(sensor, step->reg, &byte, 1) : status;
}

/* Append `width` bytes to the raw block or the trim; more than there is room for are a mistake of
 * the part's. */
static enum pintle_status do_read(struct pintle_sensor *sensor, const struct pintle_step *step,
                                  uint8_t *to, uint8_t *used, uint8_t room)
{
    PINTLE_LINK(link, sensor);
    if (*used + step->width > room) {
        return PINTLE_BAD_ARGUMENT;
    }
    to += *used;
    *used = (uint8_t)(*used + step->width);
    if (step->op != PINTLE_OP_FETCH) {
        return link->receive(sensor, step->reg, to, step->width);
    }
    return link->fetch ? link->fetch(sensor, to, step->width) : PINTLE_UNSUPPORTED;
}

/* What never changes is read twice: nothing else would notice a bit that came wrong once and then
 * bends every value. */
static enum pintle_status do_trim(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t again[4];
    uint8_t *trim = sensor->trim + sensor->trim_used;
    PINTLE_LINK(link, sensor);
    enum pintle_status status = do_read(sensor, step, sensor->trim, &sensor->trim_used,
                                        pintle_table_u8(&sensor->part->trim_size));
    for (uint8_t i = 0; i < step->width && status == PINTLE_OK; i = (uint8_t)(i + sizeof again)) {
        uint8_t left = (uint8_t)(step->width - i);
        uint8_t count = left < sizeof again ? left : (uint8_t)sizeof again;
        status = link->receive(sensor, (uint16_t)(step->reg + i), again, count);
        if (status == PINTLE_OK && memcmp(again, trim + i, count) != 0) {
            status = PINTLE_BAD_CRC;
        }
    }
    return status;
}

static enum pintle_status do_power(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    PINTLE_LINK(link, sensor);
    uint32_t us = step->value + settings_sum(sensor, 0, 1);
    return link->power ? link->power(sensor, (uint8_t)step->reg, us) : PINTLE_UNSUPPORTED;
}

/* The steps that talk. */
static enum pintle_status do_traffic(struct pintle_sensor *sensor, const struct pintle_step *step,
                                     struct pintle_sample *sample)
{
    if (step->op >= PINTLE_OP_READ) {
        return do_read(sensor, step, sample->raw, &sensor->raw_used,
                       pintle_table_u8(&sensor->part->raw_size));
    }
    switch (step->op) {
    case PINTLE_OP_WRITE:
        return do_write(sensor, step);
    case PINTLE_OP_POLL:
        return do_poll(sensor, step);
    case PINTLE_OP_EXPECT:
    case PINTLE_OP_REFUSE:
        return do_expect(sensor, step);
    case PINTLE_OP_CHANGE:
        return do_change(sensor, step);
    case PINTLE_OP_POWER:
        return do_power(sensor, step);
    default:
        return do_trim(sensor, step);
    }
}

static enum pintle_status claim(struct pintle_sensor *sensor, uint8_t take)
{
    PINTLE_LINK(link, sensor);
    return sensor->flags & SENSOR_SHARES ? link->claim(sensor, take) : PINTLE_OK;
}

static enum pintle_status do_step(struct pintle_sensor *sensor, const struct pintle_step *step,
                                  struct pintle_sample *sample)
{
    switch (step->op) {
    case PINTLE_OP_WAIT:
        sensor->ready_us = pintle_priv_now(sensor->clock) + step->value
                           + (step->width ? settings_sum(sensor, 0, 1) : 0);
        return PINTLE_OK;
    case PINTLE_OP_ONLY:
        sensor->at += sensor->settings[step->reg] == step->value ? 0 : step->width;
        return PINTLE_OK;
    case PINTLE_OP_WORDS:
        return pintle_priv_words(sample->raw, sensor->raw_used);
    default:
        break;
    }
    enum pintle_status status = claim(sensor, 1);
    if (status == PINTLE_OK) {
        status = do_traffic(sensor, step, sample);
        (void)claim(sensor, 0);
    }
    return status;
}

/* --- programs --- */

static uint8_t has_end(const struct pintle_step *step)
{
    uint8_t left = PINTLE_STEPS_MAX;
    while (pintle_table_u8(&step->op) != PINTLE_OP_END && left > 0) {
        step++;
        left--;
    }
    return left > 0;
}

uint8_t pintle_priv_ends(const struct pintle_part *part)
{
    return has_end(pintle_table_pointer(&part->identity))
           && has_end(pintle_table_pointer(&part->setup))
           && has_end(pintle_table_pointer(&part->measure));
}

/* Where measuring begins. Conditions there are the same every time: they are asked once. */
static void resolve(struct pintle_sensor *sensor)
{
    const struct pintle_step *at = pintle_table_pointer(&sensor->part->measure);
    for (;;) {
        PINTLE_TABLE_ROW(struct pintle_step, step, at);
        if (step->op != PINTLE_OP_ONLY || sensor->settings[step->reg] == step->value) {
            break;
        }
        at += 1 + step->width;
    }
    sensor->measure = at;
}

void pintle_priv_enter(struct pintle_sensor *sensor, uint8_t phase)
{
    sensor->phase = phase;
    sensor->raw_used = 0;
    sensor->limit_us = 0;
    if (phase == PHASE_MEASURE) {
        sensor->at = sensor->measure;
    } else if (phase == PHASE_SETUP) {
        sensor->at = pintle_table_pointer(&sensor->part->setup);
        resolve(sensor);
    } else {
        sensor->at = pintle_table_pointer(&sensor->part->identity);
    }
}

/* At the end of a program: which comes next? */
static void next_phase(struct pintle_sensor *sensor)
{
    switch (sensor->phase) {
    case PHASE_IDENTITY:
        sensor->trim_used = 0;
        pintle_priv_enter(sensor, PHASE_SETUP);
        break;
    case PHASE_SETUP:
        sensor->flags |= SENSOR_FIRST;
        pintle_priv_enter(sensor, PHASE_MEASURE);
        break;
    default:
        sensor->phase = PHASE_DONE;
        break;
    }
}

uint32_t pintle_priv_until(const struct pintle_clock *clock, uint64_t then)
{
    if (then == 0) {
        return 0;
    }
    uint64_t now = pintle_priv_now(clock);
    uint64_t left = then > now ? then - now : 0;
    return left > PINTLE_WAIT_MAX_US ? UINT32_MAX : (uint32_t)left;
}

enum pintle_status pintle_priv_run(struct pintle_sensor *sensor, struct pintle_sample *sample,
                                   uint8_t end, uint8_t stop)
{
    while (sensor->phase != end) {
        PINTLE_TABLE_ROW(struct pintle_step, step, sensor->at);
        if (step->op == PINTLE_OP_END) {
            next_phase(sensor);
            continue;
        }
        if (step->op >= stop) {
            break;
        }
        uint32_t wait = pintle_priv_until(sensor->clock, sensor->ready_us);
        if (wait > 0) {
            return wait > PINTLE_WAIT_MAX_US ? PINTLE_CLOCK_STOPPED : PINTLE_NOT_READY;
        }
        sensor->ready_us = 0;
        sensor->at++;
        enum pintle_status status = do_step(sensor, step, sample);
        if (status != PINTLE_OK) {
            if (status == PINTLE_NOT_READY) {
                sensor->at--;
            }
            return status;
        }
    }
    return PINTLE_OK;
}
