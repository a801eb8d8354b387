/* The programs of a part: which step comes next, and what each of them does. */
#include <string.h>

#include "engine.h"

/* --- steps --- */

/* The bits that the settings living in register `of` give it; with PINTLE_PRIV_TIMES instead what
 * those in the set of its low half add to the measuring time. */
uint32_t pintle_priv_settings(const struct pintle_sensor *sensor, uint32_t of)
{
    uint32_t sum = 0;
    uint8_t settings = pintle_table_u8(&sensor->part->setting_count);
    uint8_t rows = (uint8_t)(settings + pintle_table_u8(&sensor->part->further_count));
    for (uint8_t i = 0; i < rows; i++) {
        PINTLE_SETTING(row, sensor, i);
        uint8_t chosen = pintle_priv_settings_at(sensor)[i < settings ? i : row->initial];
        PINTLE_TABLE_ROW(struct pintle_option, option, &row->options[chosen]);
        if (row->reg == of) {
            sum |= (uint32_t)option->code << row->shift;
        } else if (of >= PINTLE_PRIV_TIMES && i < settings && (of >> i & 1)) {
            sum += option->time_us;
        }
    }
    return sum;
}

/* Did it arrive? A bit that came wrong would bend every value from there on. */
enum pintle_status pintle_priv_read_back(struct pintle_sensor *sensor, uint16_t reg, uint8_t width,
                                         uint32_t value)
{
    uint32_t is = 0;
    enum pintle_status status = pintle_priv_read(sensor, reg, width, &is);
    return status == PINTLE_OK && is != value ? PINTLE_MISFIT : status;
}

static enum pintle_status do_write(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t plain = step->width & PINTLE_STEP_PLAIN;
    uint32_t bits = plain ? 0 : pintle_priv_settings(sensor, step->reg);
    uint8_t width = step->width & PINTLE_STEP_WIDTH;
    if (width == 0) {
        return pintle_priv_send(sensor, (uint16_t)(step->reg | bits), NULL, 0);
    }
    enum pintle_status status = pintle_priv_write(sensor, step->reg, width, step->value | bits);
    if (status == PINTLE_OK && sensor->phase == PHASE_SETUP && step->width == width) {
        status = pintle_priv_read_back(sensor, step->reg, width, step->value | bits);
    }
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

enum pintle_status pintle_priv_expected(const struct pintle_sensor *sensor,
                                        const struct pintle_step *step, uint32_t value)
{
    uint32_t mask = step->value >> 16;
    uint32_t want = step->value & mask;
    if (step->op == PINTLE_OP_EXPECT) {
        want |= pintle_priv_settings(sensor, step->reg) & mask;
    }
    uint8_t is = (value & mask) == want;
    return is == (step->op == PINTLE_OP_EXPECT) ? PINTLE_OK : blame(sensor, step, value);
}

static enum pintle_status do_expect(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint32_t value = 0;
    uint8_t width = step->width & PINTLE_STEP_WIDTH;
    enum pintle_status status = pintle_priv_read(sensor, step->reg, width, &value);
    return status == PINTLE_OK ? pintle_priv_expected(sensor, step, value) : status;
}

/* Append `width` bytes to the raw block or the trim; more than there is room for are a mistake of
 * the part's. */
enum pintle_status pintle_priv_append(struct pintle_sensor *sensor, const struct pintle_step *step,
                                      uint8_t *to, uint8_t *used, uint8_t room)
{
    if (*used + step->width > room) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = pintle_priv_receive(sensor, step->reg, to + *used, step->width);
    *used = (uint8_t)(*used + (status == PINTLE_OK ? step->width : 0));
    return status;
}

/* Bytes in front that nobody asked for are as the first one that was read (PINTLE_OP_FOR). */
enum pintle_status pintle_priv_take(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    uint8_t *raw = pintle_priv_raw(sensor);
    uint8_t front = sensor->raw_used = sensor->phase == PHASE_SETUP ? 0 : sensor->raw_used;
    enum pintle_status status = pintle_priv_append(sensor, step, raw, &sensor->raw_used,
                                                   pintle_table_u8(&sensor->part->raw_size));
    if (status == PINTLE_OK && sensor->phase != PHASE_SETUP && (sensor->flags & SENSOR_BLANK)) {
        memset(raw, raw[front], front);
        sensor->flags = (uint8_t)(sensor->flags & ~SENSOR_BLANK);
    }
    return status;
}

/* A part that has any of these names the function for them. */
static enum pintle_status do_rare(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    enum pintle_status (*rare)(struct pintle_sensor *, const struct pintle_step *);
    pintle_table_copy(&rare, &sensor->part->rare, sizeof rare);
    return rare ? rare(sensor, step) : PINTLE_BAD_ARGUMENT;
}

uint8_t pintle_priv_keeps(const struct pintle_sensor *sensor)
{
    return (pintle_priv_flags(sensor) & PINTLE_PART_KEEPS) && sensor->bus.any->claims;
}

/* Are the steps behind PINTLE_OP_ONLY to be done? */
static uint8_t applies(const struct pintle_sensor *sensor, const struct pintle_step *step)
{
    return step->reg == PINTLE_NO_REG ? (sensor->flags & SENSOR_AGAIN) != 0
                                      : pintle_priv_settings_at(sensor)[step->reg] == step->value;
}

static enum pintle_status do_step(struct pintle_sensor *sensor, const struct pintle_step *step)
{
    switch (step->op) {
    case PINTLE_OP_WAIT:
        sensor->when_us = (int64_t)(pintle_priv_now(pintle_priv_clock(sensor)) + step->value
                                    + pintle_priv_settings(sensor, PINTLE_PRIV_TIMES | step->reg));
        return PINTLE_OK;
    case PINTLE_OP_ONLY:
        sensor->at += applies(sensor, step) ? 0 : step->width;
        return PINTLE_OK;
    default:
        break;
    }
    if (step->op == PINTLE_OP_REFUSE && (step->width & PINTLE_STEP_PLAIN)
        && sensor->phase != PHASE_IDENTITY) {
        return PINTLE_OK;
    }
    if (pintle_step_is_rare(step)) {
        return do_rare(sensor, step);
    }
    enum pintle_status status = pintle_priv_hold(sensor);
    if (status != PINTLE_OK) {
        return status;
    }
    return step->op == PINTLE_OP_WRITE  ? do_write(sensor, step)
           : step->op == PINTLE_OP_READ ? pintle_priv_take(sensor, step)
                                        : do_expect(sensor, step);
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
    sensor->since = 0;
    sensor->errand = 0;
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
                                   uint8_t keep)
{
    const struct pintle_clock *clock = pintle_priv_clock(sensor);
    uint32_t wait = pintle_priv_until(clock, (uint64_t)sensor->when_us);
    if (wait > 0) {
        return wait > PINTLE_WAIT_MAX_US ? PINTLE_CLOCK_STOPPED
               : keep                    ? pintle_priv_sleep(clock, wait)
                                         : PINTLE_NOT_READY;
    }
    sensor->when_us = 0;
    sensor->at++;
    if (step->op == PINTLE_OP_WRITE) { /* what came before is over */
        pintle_priv_let_go(sensor);
    }
    sensor->flags |= SENSOR_STEPS;
    enum pintle_status status = do_step(sensor, step);
    sensor->flags &= (uint8_t)~SENSOR_STEPS;
    if (status == PINTLE_NOT_READY) {
        sensor->at--;
        status = keep ? PINTLE_OK : status;
    }
    if (step->op == PINTLE_OP_WRITE && !keep) {
        pintle_priv_let_go(sensor);
    }
    return status;
}

enum pintle_status pintle_priv_run(struct pintle_sensor *sensor, uint8_t end, uint8_t stop)
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
            status = run_step(sensor, step, keep);
        }
    }
    pintle_priv_let_go(sensor);
    return status;
}
