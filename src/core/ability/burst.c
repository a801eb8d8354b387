/* Samples out of a chip's FIFO, in batches, each with its time. */
#include "pintle/burst.h"

#include "../engine/engine.h"
#include "pintle/ability.h"

#define ENOUGH 32u   /* samples until the rate is measured well enough */
#define PATIENCE 20u /* periods without a sample, and then it must have stopped */
#define LEAST_US 50000u

static const struct pintle_fifo *rules_of(const struct pintle_sensor *sensor)
{
    const struct pintle_abilities *can = pintle_table_pointer(&sensor->part->can);
    return can ? pintle_table_pointer(&can->fifo) : NULL;
}

static uint32_t nominal_ns(const struct pintle_sensor *sensor, const struct pintle_fifo *rules)
{
    return pintle_table_u32(&rules->periods_ns[pintle_priv_settings_at(sensor)[rules->rate]]);
}

enum pintle_status pintle_burst_init(struct pintle_burst *burst, struct pintle_sensor *sensor)
{
    memset(burst, 0, sizeof *burst);
    burst->sensor = sensor;
    return rules_of(sensor) ? PINTLE_OK : PINTLE_NO_ABILITY;
}

uint32_t pintle_burst_room_us(const struct pintle_burst *burst)
{
    PINTLE_TABLE_ROW(struct pintle_fifo, rules, rules_of(burst->sensor));
    return (uint32_t)((uint64_t)nominal_ns(burst->sensor, rules) * rules->depth / 1000);
}

/* --- registers --- */

static enum pintle_status ask_length(struct pintle_sensor *sensor, const struct pintle_fifo *rules,
                                     uint16_t *length)
{
    uint8_t bytes[2] = { 0, 0 };
    uint8_t high_first = pintle_priv_flags(sensor) & PINTLE_PART_BIG_ENDIAN;
    enum pintle_status status =
        pintle_priv_receive(sensor, rules->count_reg, bytes, rules->count_width);
    uint16_t value = bytes[0];
    if (rules->count_width > 1) {
        value = (uint16_t)(high_first ? bytes[0] << 8 | bytes[1] : bytes[1] << 8 | bytes[0]);
    }
    *length = value & rules->count_mask;
    return status;
}

/* One that no sample divides may be of a moment in which the chip was writing one; a second time it
 * is torn. */
static enum pintle_status ask_count(struct pintle_sensor *sensor, const struct pintle_fifo *rules,
                                    uint16_t *records, uint8_t *over)
{
    uint16_t length = 0;
    uint8_t part = 1;
    enum pintle_status status = PINTLE_OK;
    for (uint8_t tries = 2; tries > 0 && part && status == PINTLE_OK; tries--) {
        status = ask_length(sensor, rules, &length);
        part = length % rules->per_count != 0;
    }
    *records = (uint16_t)(length / rules->per_count);
    *over = *over || part;
    return status;
}

static enum pintle_status ask_over(struct pintle_sensor *sensor, const struct pintle_fifo *rules,
                                   uint8_t *over)
{
    uint8_t byte = 0;
    enum pintle_status status =
        rules->over_reg == PINTLE_NO_REG
            ? PINTLE_OK
            : pintle_priv_receive(sensor, rules->over_reg, &byte, 1 | PINTLE_PRIV_ONCE);
    *over = (uint8_t)(*over | ((byte & rules->over_mask) != 0));
    return status;
}

/* --- time --- */

static void begin_counting(struct pintle_burst *burst, const struct pintle_fifo *rules,
                           uint64_t now_us)
{
    burst->anchor_us = burst->newest_us = now_us;
    burst->since = 0;
    burst->period_ns = nominal_ns(burst->sensor, rules);
}

/* `records` more were there at `now_us`: the newest is at most a period old, and not of the future.
 */
static void count_on(struct pintle_burst *burst, const struct pintle_fifo *rules, uint16_t records,
                     uint64_t now_us)
{
    uint32_t nominal = nominal_ns(burst->sensor, rules);
    uint64_t newest = burst->newest_us + (uint64_t)records * burst->period_ns / 1000;
    uint64_t oldest_now = now_us - burst->period_ns / 1000;
    newest = newest > now_us ? now_us : newest < oldest_now ? oldest_now : newest;
    burst->newest_us = newest;
    burst->since += records;
    if (burst->since >= ENOUGH) {
        uint64_t period = (newest - burst->anchor_us) * 1000 / burst->since;
        uint32_t off = nominal / 10;
        burst->period_ns = (uint32_t)(period < nominal - off   ? nominal - off
                                      : period > nominal + off ? nominal + off
                                                               : period);
    }
}

/* How many samples have come since the one that was fetched last. */
static uint64_t overdue(const struct pintle_burst *burst, uint64_t now_us)
{
    return (now_us - burst->newest_us) * 1000 / burst->period_ns;
}

/* Some were dropped: how many, the time since the last one tells, to within one. */
static void count_lost(struct pintle_burst *burst, const struct pintle_fifo *rules, uint16_t kept,
                       uint64_t now_us)
{
    uint32_t period_ns = burst->period_ns;
    uint64_t due = overdue(burst, now_us);
    burst->lost += due > kept ? (uint32_t)(due - kept) : 1;
    burst->gap = 1;
    begin_counting(burst, rules, now_us - (uint64_t)kept * period_ns / 1000);
    burst->period_ns = period_ns;
}

/* --- samples --- */

static uint8_t channels_of(const struct pintle_sensor *sensor)
{
    return pintle_table_u8(&sensor->part->channel_count);
}

int64_t pintle_burst_time_us(const struct pintle_burst *burst, uint16_t index)
{
    const struct pintle_clock *clock = pintle_priv_clock(burst->sensor);
    uint16_t after = (uint16_t)(burst->batch - 1 - index);
    uint64_t at_us = burst->newest_us - (uint64_t)after * burst->period_ns / 1000;
    int64_t now_us = 0;
    if (index >= burst->batch || !clock->calls->get_wall_us
        || clock->calls->get_wall_us(clock->context, &now_us) != PINTLE_OK) {
        return 0;
    }
    return now_us - (int64_t)(pintle_priv_now(clock) - at_us);
}

static void decode(struct pintle_burst *burst, const struct pintle_fifo *rules,
                   const uint8_t *record, struct pintle_reading *readings)
{
    struct pintle_sensor *sensor = burst->sensor;
    struct pintle_block block = pintle_sensor_block(sensor);
    uint8_t *raw = pintle_priv_raw(sensor);
    pintle_marks all = 0;
    block.idle = 0;
    memset(raw, rules->fill, pintle_table_u8(&sensor->part->raw_size));
    memcpy(raw + rules->at, record, rules->record);
    (void)pintle_priv_decode(sensor->part, &block, readings, 0, &all);
    for (uint8_t c = channels_of(sensor); c > 0; c--) {
        struct pintle_reading *reading = &readings[c - 1];
        if (!(rules->channels >> (c - 1) & 1)) {
            pintle_priv_no_value(reading, PINTLE_QUALITY_IDLE);
        } else if (burst->gap) {
            reading->quality |= PINTLE_QUALITY_GAP;
        }
    }
    burst->gap = 0;
}

/* What was there at a moment. */
struct batch {
    uint64_t at_us;
    uint16_t there;
    uint16_t take; /* so many of them now */
    uint8_t over;  /* some were lost, or may have been */
};

/* Could the chip have run full meanwhile, and dropped some between those that are being fetched? */
static uint8_t ran_full(const struct pintle_burst *burst, const struct pintle_fifo *rules,
                        const struct batch *batch, uint16_t done)
{
    uint64_t now_us = pintle_priv_now(pintle_priv_clock(burst->sensor));
    uint64_t since = (now_us - batch->at_us) * 1000 / burst->period_ns + 1;
    return done > 0 && batch->there - done + since > rules->depth;
}

static enum pintle_status fetch_records(struct pintle_burst *burst, const struct pintle_fifo *rules,
                                        struct pintle_reading *readings, struct batch *batch)
{
    uint8_t bytes[PINTLE_BURST_BYTES];
    enum pintle_status status = PINTLE_OK;
    for (uint16_t done = 0; done < batch->take && status == PINTLE_OK;) {
        uint16_t left = (uint16_t)(batch->take - done);
        uint8_t count = (uint8_t)(left < rules->at_once ? left : rules->at_once);
        /* out of the chip, and gone from there */
        status = pintle_priv_receive(burst->sensor, rules->data_reg, bytes,
                                     (uint8_t)((count * rules->record) | PINTLE_PRIV_ONCE));
        batch->over = (uint8_t)(batch->over | ran_full(burst, rules, batch, done));
        for (uint8_t i = 0; i < count && status == PINTLE_OK; i++) {
            decode(burst, rules, bytes + i * rules->record,
                   readings + (size_t)done++ * channels_of(burst->sensor));
        }
    }
    return status;
}

/* --- the whole --- */

enum { IDLE, STARTING, RUNNING };

/* Set up, then on with the FIFO. */
static enum pintle_status start(struct pintle_burst *burst, const struct pintle_fifo *rules)
{
    struct pintle_sensor *sensor = burst->sensor;
    if (burst->state == IDLE) {
        pintle_priv_begin(sensor);
        burst->state = STARTING;
    }
    enum pintle_status status = pintle_priv_run(sensor, PHASE_MEASURE, UINT8_MAX);
    if (status == PINTLE_OK) {
        status = pintle_priv_program(sensor, rules->start);
    }
    if (status == PINTLE_OK && burst->gap) {
        count_lost(burst, rules, 0, pintle_priv_now(pintle_priv_clock(sensor)));
    } else if (status == PINTLE_OK) {
        begin_counting(burst, rules, pintle_priv_now(pintle_priv_clock(sensor)));
    }
    burst->state = status == PINTLE_OK ? RUNNING : burst->state;
    return status;
}

/* Empty it, where what is left can't be told from what is missing. */
static enum pintle_status throw_away(struct pintle_burst *burst, const struct pintle_fifo *rules)
{
    enum pintle_status status = pintle_priv_program(burst->sensor, rules->empty);
    count_lost(burst, rules, 0, pintle_priv_now(pintle_priv_clock(burst->sensor)));
    return status;
}

/* Fetch a batch, and see what became of the chip meanwhile. */
static enum pintle_status take(struct pintle_burst *burst, const struct pintle_fifo *rules,
                               struct pintle_reading *readings, struct batch *batch)
{
    batch->over = 0;
    enum pintle_status status = fetch_records(burst, rules, readings, batch);
    if (status == PINTLE_OK && rules->torn) {
        status = ask_over(burst->sensor, rules, &batch->over);
    }
    return status == PINTLE_OK ? pintle_priv_program(burst->sensor, rules->check) : status;
}

static enum pintle_status look(struct pintle_burst *burst, const struct pintle_fifo *rules,
                               struct batch *batch)
{
    enum pintle_status status = ask_over(burst->sensor, rules, &batch->over);
    if (status == PINTLE_OK) {
        status = ask_count(burst->sensor, rules, &batch->there, &batch->over);
    }
    batch->at_us = pintle_priv_now(pintle_priv_clock(burst->sensor));
    /* a chip that doesn't say it has lost some when it is full and should be fuller */
    if (rules->over_reg == PINTLE_NO_REG && batch->there >= rules->depth
        && overdue(burst, batch->at_us) > batch->there) {
        batch->over = 1;
    }
    return status;
}

static enum pintle_status quiet(const struct pintle_burst *burst, uint64_t now_us)
{
    uint64_t patience_us = (uint64_t)burst->period_ns * PATIENCE / 1000 + LEAST_US;
    return now_us - burst->newest_us > patience_us ? PINTLE_STAYED_BUSY : PINTLE_OK;
}

static enum pintle_status collect(struct pintle_burst *burst, const struct pintle_fifo *rules,
                                  struct pintle_reading *readings, uint16_t room, uint16_t *count)
{
    struct batch batch = { 0, 0, 0, 0 };
    enum pintle_status status = look(burst, rules, &batch);
    if (status != PINTLE_OK || batch.there == 0) {
        return status == PINTLE_OK ? quiet(burst, batch.at_us) : status;
    }
    if (batch.over && rules->torn) {
        return throw_away(burst, rules);
    }
    if (batch.over) {
        count_lost(burst, rules, batch.there, batch.at_us);
    }
    uint8_t gap = burst->gap;
    batch.take = batch.there < room ? batch.there : room;
    status = take(burst, rules, readings, &batch);
    if (status != PINTLE_OK || batch.over) {
        burst->gap = gap;
        return status == PINTLE_OK ? throw_away(burst, rules) : status;
    }
    uint64_t left_us = (uint64_t)(batch.there - batch.take) * burst->period_ns / 1000;
    count_on(burst, rules, batch.take, batch.at_us - left_us);
    *count = batch.take;
    return PINTLE_OK;
}

enum pintle_status pintle_burst_collect(struct pintle_burst *burst, struct pintle_reading *readings,
                                        uint16_t room, uint16_t *count)
{
    const struct pintle_fifo *table = rules_of(burst->sensor);
    *count = 0;
    if (!table || room == 0) {
        return table ? PINTLE_BAD_ARGUMENT : PINTLE_NO_ABILITY;
    }
    PINTLE_TABLE_ROW(struct pintle_fifo, rules, table);
    enum pintle_status status = burst->state == RUNNING
                                    ? collect(burst, rules, readings, room, count)
                                    : start(burst, rules);
    burst->batch = *count;
    if (status != PINTLE_OK && status != PINTLE_NOT_READY) {
        burst->gap = burst->gap || burst->state == RUNNING;
        burst->state = IDLE;
    }
    if (burst->state != STARTING) {
        pintle_priv_close(burst->sensor,
                          PHASE_CLOSED); /* whoever else measures sets it up afresh */
    }
    return status == PINTLE_OK && burst->state == STARTING ? PINTLE_NOT_READY : status;
}
