/* The programs of a part: which step comes next, and what each of them does. */
#include <string.h>

#include "engine.h"

#define POLL_INTERVAL_US 500u
#define LONG_EXPECT 8
#define POLLED 4

/* --- steps --- */

#define ALL_TIMES 0x10000u

/* The bits that the settings living in register `of` give it; with ALL_TIMES instead what those in
 * the set of its low half add to the measuring time. */
static uint32_t settings_sum(const struct pintle_sensor *sensor, uint32_t of)
{
    uint32_t sum = 0;
    uint8_t settings = pintle_table_u8(&sensor->part->setting_count);
    uint8_t rows = (uint8_t)(settings + pintle_table_u8(&sensor->part->further_count));
    for (uint8_t i = 0; i < rows; i++) {
        PINTLE_SETTING(row, sensor, i);
        uint8_t chosen = sensor->settings[i < settings ? i : row->initial];
        PINTLE_TABLE_ROW(struct pintle_option, option, &row->options[chosen]);
        if (row->reg == of) {
            sum |= (uint32_t)option->code << row->shift;
        } else if (of >= ALL_TIMES && i < settings && (of >> i & 1)) {
            sum += option->time_us;
        }
    }
    return sum;
}

/* Did it arrive? A bit that came wrong would bend every value from there on. */
static enum pintle_status read_back(struct pintle_sensor *sensor, uint16_t reg, uint8_t width,
                                    uint32_t value)
{
    uint32_t is = 0;
    enum pintle_status status = pintle_priv_read(sensor, reg, width, &is);
    return status == PINTLE_OK && is != value ? PINTLE_MISFIT : status;
}

static enum pintle_status do_write(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t plain = step->width & PINTLE_STEP_PLAIN;
    uint32_t bits = plain ? 0 : settings_sum(sensor, step->reg);
    uint8_t width = step->width & PINTLE_STEP_WIDTH;
    if (width == 0) {
        return pintle_priv_send(sensor, (uint16_t)(step->reg | bits), NULL, 0);
    }
    enum pintle_status status = pintle_priv_write(sensor, step->reg, width, step->value | bits);
    if (status == PINTLE_OK && sensor->phase == PHASE_SETUP && step->width == width) {
        status = read_back(sensor, step->reg, width, step->value | bits);
    }
    return status;
}

/* Is what was read as the condition says? NOT_READY puts the same step back on, a little later. */
static enum pintle_status until(struct pintle_sensor *sensor, uint32_t condition,
                                const uint8_t *bytes, uint64_t at)
{
    uint8_t byte = bytes[condition >> 12 & 15];
    uint32_t now = (uint32_t)at;
    if ((byte & (condition >> 24)) == (condition >> 16 & 0xff)) {
        sensor->limit_us = 0;
        return PINTLE_OK;
    }
    if (sensor->limit_us == 0) {
        sensor->limit_us = (now + 1000 * (condition & 0xfff)) | 1;
    }
    if ((int32_t)(now - sensor->limit_us) >= 0) {
        return PINTLE_STAYED_BUSY;
    }
    sensor->ready_us = at + POLL_INTERVAL_US;
    return PINTLE_NOT_READY;
}

static enum pintle_status do_poll(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t bytes[POLLED];
    uint64_t at = pintle_priv_now(sensor->clock);
    if (step->width > POLLED) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = pintle_priv_receive(sensor, step->reg, bytes, step->width);
    return status == PINTLE_OK ? until(sensor, step->value, bytes, at) : status;
}

/* A register, or the last byte of a longer stretch. */
static enum pintle_status read_expected(struct pintle_sensor *sensor,
                                        const struct pintle_step *step, uint32_t *value)
{
    uint8_t bytes[LONG_EXPECT];
    uint8_t width = step->width & PINTLE_STEP_WIDTH;
    if (width <= 2) {
        return pintle_priv_read(sensor, step->reg, width, value);
    }
    if (width > LONG_EXPECT) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = pintle_priv_receive(sensor, step->reg, bytes, width);
    if (status == PINTLE_OK && step->reg == PINTLE_NO_REG) {
        status = pintle_priv_checked(sensor, bytes, width);
    }
    *value = bytes[width - 1];
    return status;
}

/* It was not as expected. A wrong identity is another part's; where nobody drives the line, nothing
 * but ones or zeros come and there is none at all. */
static enum pintle_status blame(const struct pintle_sensor *sensor, const struct pintle_step *step,
                                uint32_t value)
{
    uint32_t ones = (step->width & PINTLE_STEP_WIDTH) > 1 ? 0xffff : 0xff;
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
    if ((step->width & PINTLE_STEP_PLAIN) && sensor->phase != PHASE_IDENTITY) {
        return PINTLE_OK;
    }
    enum pintle_status status = read_expected(sensor, step, &value);
    uint32_t mask = step->value >> 16;
    uint32_t want = step->value & mask;
    if (step->op == PINTLE_OP_EXPECT) {
        want |= settings_sum(sensor, step->reg) & mask;
    }
    uint8_t is = (value & mask) == want;
    if (status != PINTLE_OK || is == (step->op == PINTLE_OP_EXPECT)) {
        return status;
    }
    return blame(sensor, step, value);
}

/* Replace some bits of one byte, with those of the settings that live there. What is so already is
 * left alone. */
static enum pintle_status do_change(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t is = 0;
    uint8_t mask = (uint8_t)(step->value >> 8);
    uint8_t bits = (uint8_t)(step->value | settings_sum(sensor, step->reg));
    enum pintle_status status = pintle_priv_receive(sensor, step->reg, &is, 1);
    uint8_t byte = (uint8_t)((is & ~mask) | (bits & mask));
    if (status != PINTLE_OK || byte == is) {
        return status;
    }
    status = pintle_priv_send(sensor, step->reg, &byte, 1);
    return status == PINTLE_OK ? read_back(sensor, step->reg, 1, byte) : status;
}

/* Append `width` bytes to the raw block or the trim; more than there is room for are a mistake of
 * the part's. */
static enum pintle_status do_read(struct pintle_sensor *sensor, const struct pintle_step *step,
                                  uint8_t *to, uint8_t *used, uint8_t room)
{
    if (*used + step->width > room) {
        return PINTLE_BAD_ARGUMENT;
    }
    uint64_t at = pintle_priv_now(sensor->clock);
    to += *used;
    enum pintle_status status = pintle_priv_receive(sensor, step->reg, to, step->width);
    if (status == PINTLE_OK && step->value) {
        status = until(sensor, step->value, to, at);
    }
    *used = (uint8_t)(*used + (status == PINTLE_OK ? step->width : 0));
    return status;
}

/* What never changes is read twice: nothing else would notice a bit that came wrong once and then
 * bends every value. */
static enum pintle_status do_trim(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t again[4];
    uint8_t *trim = sensor->trim + sensor->trim_used;
    enum pintle_status status = do_read(sensor, step, sensor->trim, &sensor->trim_used,
                                        pintle_table_u8(&sensor->part->trim_size));
    PINTLE_LINK(link, sensor);
    uint8_t width = link->checks ? 0 : step->width;
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
    uint32_t us = step->value + settings_sum(sensor, ALL_TIMES | PINTLE_ALL_SETTINGS);
    return link->power ? link->power(sensor, (uint8_t)step->reg, us) : PINTLE_UNSUPPORTED;
}

/* Bytes that nobody asks for are as the first one that was read, so that whether anybody sends at
 * all can be told from the others: those behind it ... */
static void skip_bytes(struct pintle_sensor *sensor, struct pintle_sample *sample, uint8_t count)
{
    if (!(sensor->flags & SENSOR_BLANK)) {
        memset(sample->raw + sensor->raw_used, sample->raw[0], count);
    }
    sensor->raw_used = (uint8_t)(sensor->raw_used + count);
}

/* ... and those in front of it. */
static enum pintle_status read_raw(struct pintle_sensor *sensor, const struct pintle_step *step,
                                   struct pintle_sample *sample)
{
    uint8_t front = sensor->raw_used = sensor->phase == PHASE_SETUP ? 0 : sensor->raw_used;
    enum pintle_status status = do_read(sensor, step, sample->raw, &sensor->raw_used,
                                        pintle_table_u8(&sensor->part->raw_size));
    if (status == PINTLE_OK && sensor->phase != PHASE_SETUP && (sensor->flags & SENSOR_BLANK)) {
        memset(sample->raw, sample->raw[front], front);
        sensor->flags = (uint8_t)(sensor->flags & ~SENSOR_BLANK);
    }
    return status;
}

/* The steps that talk. */
static enum pintle_status do_traffic(struct pintle_sensor *sensor, const struct pintle_step *step,
                                     struct pintle_sample *sample)
{
    if (step->op >= PINTLE_OP_READ) {
        return read_raw(sensor, step, sample);
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

uint8_t pintle_priv_keeps(const struct pintle_sensor *sensor)
{
    return (pintle_priv_flags(sensor) & PINTLE_PART_KEEPS) && !(sensor->flags & SENSOR_ALONE);
}

/* Are the steps behind PINTLE_OP_ONLY to be done? */
static uint8_t applies(const struct pintle_sensor *sensor, const struct pintle_step *step)
{
    return step->reg == PINTLE_NO_REG ? (sensor->flags & SENSOR_AGAIN) != 0
                                      : sensor->settings[step->reg] == step->value;
}

static enum pintle_status do_step(struct pintle_sensor *sensor, const struct pintle_step *step,
                                  struct pintle_sample *sample)
{
    switch (step->op) {
    case PINTLE_OP_WAIT:
        sensor->ready_us = pintle_priv_now(sensor->clock) + step->value
                           + settings_sum(sensor, ALL_TIMES | step->reg);
        return PINTLE_OK;
    case PINTLE_OP_ONLY:
        sensor->at += applies(sensor, step) ? 0 : step->width;
        return PINTLE_OK;
    case PINTLE_OP_FOR:
        if (!(step->reg & (uint16_t)~sensor->idle)) {
            sensor->at += step->width;
            skip_bytes(sensor, sample, (uint8_t)step->value);
        }
        return PINTLE_OK;
    case PINTLE_OP_CHECK:
        return pintle_priv_checked(sensor, sample->raw, sensor->raw_used);
    default:
        break;
    }
    enum pintle_status status = pintle_priv_hold(sensor);
    return status == PINTLE_OK ? do_traffic(sensor, step, sample) : status;
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

void pintle_priv_enter(struct pintle_sensor *sensor, uint8_t phase)
{
    sensor->phase = phase;
    sensor->raw_used = 0;
    sensor->limit_us = 0;
    if (phase == PHASE_MEASURE) {
        sensor->at = pintle_table_pointer(&sensor->part->measure);
    } else if (phase == PHASE_SETUP) {
        sensor->at = pintle_table_pointer(&sensor->part->setup);
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

/* One step. What is read in a row and looked at behind is nobody's but ours: between reads the bus
 * is let go only where there is something to wait for. Where it is kept that is waited for here. */
static enum pintle_status run_step(struct pintle_sensor *sensor, const struct pintle_step *step,
                                   struct pintle_sample *sample, uint8_t keep)
{
    uint32_t wait = pintle_priv_until(sensor->clock, sensor->ready_us);
    if (wait > 0) {
        return wait > PINTLE_WAIT_MAX_US ? PINTLE_CLOCK_STOPPED
               : keep                    ? pintle_priv_sleep(sensor->clock, wait)
                                         : PINTLE_NOT_READY;
    }
    sensor->ready_us = 0;
    sensor->at++;
    if (step->op == PINTLE_OP_WRITE) { /* what came before is over */
        pintle_priv_let_go(sensor);
    }
    enum pintle_status status = do_step(sensor, step, sample);
    if (status == PINTLE_NOT_READY) {
        sensor->at--;
        status = keep ? PINTLE_OK : status;
    }
    if (step->op == PINTLE_OP_WRITE && !keep) {
        pintle_priv_let_go(sensor);
    }
    return status;
}

enum pintle_status pintle_priv_run(struct pintle_sensor *sensor, struct pintle_sample *sample,
                                   uint8_t end, uint8_t stop)
{
    enum pintle_status status = PINTLE_OK;
    uint8_t keep = pintle_priv_keeps(sensor);
    while (sensor->phase != end && status == PINTLE_OK) {
        PINTLE_TABLE_ROW(struct pintle_step, step, sensor->at);
        if (step->op == PINTLE_OP_END) {
            next_phase(sensor);
        } else if (step->op >= stop) {
            break;
        } else {
            status = run_step(sensor, step, sample, keep);
        }
    }
    pintle_priv_let_go(sensor);
    return status;
}
