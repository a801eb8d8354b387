/* What the core's files share and users don't see. */
#ifndef PINTLE_CORE_ENGINE_H
#define PINTLE_CORE_ENGINE_H

#include "pintle/sensor.h"

/* Most data bytes of one write behind the register address: of a register, of anything. */
#define PINTLE_WRITE_MAX 4
#define PINTLE_SEND_MAX 32

/* struct pintle_sensor.flags */
#define SENSOR_FIRST 1    /* nothing was read since the set-up */
#define SENSOR_AGAIN 2    /* the measurement under way is the second attempt */
#define SENSOR_STEPS 4    /* a step of its program is being done */
#define SENSOR_BLANK 8    /* nothing was read yet for the measurement under way */
#define SENSOR_AUTO 16    /* it chooses its range by itself */
#define SENSOR_COARSER 32 /* the measurement under way did, to this side */
#define SENSOR_FINER 64
#define SENSOR_HOLDS 128 /* the bus is claimed for it */

/* From OPEN on the sensor is set up, once a first measurement has followed. */
enum phase { PHASE_CLOSED, PHASE_IDENTITY, PHASE_SETUP, PHASE_OPEN, PHASE_MEASURE, PHASE_DONE };

static inline uint8_t pintle_priv_under_way(const struct pintle_sensor *sensor)
{
    return sensor->phase != PHASE_CLOSED && sensor->phase != PHASE_OPEN;
}

/* What was done with it is over; a measurement that was under way, too. */
void pintle_priv_close(struct pintle_sensor *sensor, uint8_t phase);

/* What a sensor keeps: its settings, trim, raw block, a 1-Wire chip's code. */
uint8_t *pintle_priv_settings_at(const struct pintle_sensor *sensor);
uint8_t *pintle_priv_trim(const struct pintle_sensor *sensor);
uint8_t *pintle_priv_raw(const struct pintle_sensor *sensor);
static inline uint8_t *pintle_priv_code(const struct pintle_sensor *sensor)
{
    return pintle_priv_raw(sensor) + pintle_table_u8(&sensor->part->raw_size);
}

/* The part's flags. */
static inline uint8_t pintle_priv_flags(const struct pintle_sensor *sensor)
{
    return pintle_table_u8(&sensor->part->flags);
}

/* Declare `name`, the part's way to talk. */
#define PINTLE_LINK(name, sensor)                                                                  \
    PINTLE_TABLE_ROW(struct pintle_link, name, pintle_table_pointer(&(sensor)->part->link))

/* Its bus's clock. */
static inline const struct pintle_clock *pintle_priv_clock(const struct pintle_sensor *sensor)
{
    return sensor->bus.any->clock;
}

static inline uint64_t pintle_priv_now(const struct pintle_clock *clock)
{
    return clock->calls->now_us(clock->context);
}

/* Microseconds from now until then, 0 where that is past; more than PINTLE_WAIT_MAX_US where it is
 * so far off that the clock must have gone back, as a timer of 32 bits does when it wraps. */
uint32_t pintle_priv_until(const struct pintle_clock *clock, uint64_t then);

/* A port has no business to say that somebody should wait: nothing would ever end the waiting. */
static inline enum pintle_status pintle_priv_said(enum pintle_status status)
{
    return status == PINTLE_NOT_READY || status == PINTLE_LINE_BUSY ? PINTLE_UNSUPPORTED : status;
}

/* A transfer had this status: may chips on the bus have heard what no one said? */
void pintle_priv_upset(struct pintle_bus *bus, enum pintle_status status);

/* What a bus knows of the chip `key` (never 0): its place among the bus's memories. */
static inline struct pintle_memory *pintle_priv_memory(struct pintle_memory *memory, uint8_t key)
{
    return &memory[key & (PINTLE_REMEMBERED - 1)];
}

/* Somebody talked to the chip: nothing is known of it any more. */
static inline void pintle_priv_forget(struct pintle_memory *memory, uint8_t key)
{
    struct pintle_memory *m = pintle_priv_memory(memory, key);
    m->key = m->key == key ? 0 : m->key;
}

/* Nothing is known any more of the chips on the sensor's bus. */
void pintle_priv_forget_all(struct pintle_sensor *sensor);

/* One exchange with a chip: with the bus claimed, once more where the bus was stuck and could be
 * freed. After any failure nothing is remembered of the chips on that bus. With PINTLE_PRIV_ONCE
 * beside the count, what is read is gone from the chip then: it is never read twice. */
#define PINTLE_PRIV_ONCE 0x80
PINTLE_MUST_CHECK enum pintle_status pintle_priv_send(struct pintle_sensor *sensor, uint16_t reg,
                                                      const uint8_t *bytes, uint8_t count);
PINTLE_MUST_CHECK enum pintle_status pintle_priv_receive(struct pintle_sensor *sensor, uint16_t reg,
                                                         uint8_t *bytes, uint8_t count);

/* Claim the bus, if it is not yet, for several exchanges that nobody may come between; let it go.
 */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_hold(struct pintle_sensor *sensor);
void pintle_priv_let_go(struct pintle_sensor *sensor);

/* Does it keep the bus from a command to the result, so that this is nobody else's? */
uint8_t pintle_priv_keeps(const struct pintle_sensor *sensor);

/* The bits that the settings living in register `of` give it; with PINTLE_PRIV_TIMES instead what
 * those in the set of its low half add to the measuring time. */
#define PINTLE_PRIV_TIMES 0x10000u
uint32_t pintle_priv_settings(const struct pintle_sensor *sensor, uint32_t of);

/* Steps (step.c; rare.c has those that few parts have): did what was written arrive? Is a value as
 * it was expected? Append `width` bytes, to the raw block or elsewhere: more than there is room for
 * are a mistake of the part's. */
PINTLE_MUST_CHECK enum pintle_status
pintle_priv_read_back(struct pintle_sensor *sensor, uint16_t reg, uint8_t width, uint32_t value);
PINTLE_MUST_CHECK enum pintle_status pintle_priv_expected(const struct pintle_sensor *sensor,
                                                          const struct pintle_step *step,
                                                          uint32_t value);
PINTLE_MUST_CHECK enum pintle_status pintle_priv_append(struct pintle_sensor *sensor,
                                                        const struct pintle_step *step, uint8_t *to,
                                                        uint8_t *used, uint8_t room);
PINTLE_MUST_CHECK enum pintle_status pintle_priv_take(struct pintle_sensor *sensor,
                                                      const struct pintle_step *step);

/* One transfer, as it is. With no segments: ask. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_i2c_attempt(const struct pintle_i2c *bus,
                                                             uint8_t address,
                                                             const struct pintle_segment *segments,
                                                             uint8_t count);

/* What pintle_link_i2c is made of, for links that go over it. */
enum pintle_status pintle_priv_i2c_send(struct pintle_sensor *sensor, uint16_t reg,
                                        const uint8_t *bytes, uint8_t count);
enum pintle_status pintle_priv_i2c_receive(struct pintle_sensor *sensor, uint16_t reg,
                                           uint8_t *bytes, uint8_t count);
void pintle_priv_i2c_forget(struct pintle_sensor *sensor);
uint8_t pintle_priv_i2c_recover(struct pintle_sensor *sensor, enum pintle_status status);

/* Read a register of 1 to 4 bytes in the part's byte order, with its CRCs checked. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_read(struct pintle_sensor *sensor, uint16_t reg,
                                                      uint8_t width, uint32_t *value);

/* Write one, low `width` bytes of `value`, in the part's byte order. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_write(struct pintle_sensor *sensor, uint16_t reg,
                                                       uint8_t width, uint32_t value);

/* Declare `name`, row `i` of the part's settings. */
#define PINTLE_SETTING(name, sensor, i)                                                            \
    PINTLE_TABLE_ROW(                                                                              \
        struct pintle_setting, name,                                                               \
        (const struct pintle_setting *)pintle_table_pointer(&(sensor)->part->settings) + (i))

/* Do the part's programs have an end each? */
uint8_t pintle_priv_ends(const struct pintle_part *part);

/* Is a number within its limits, none of which is below 0? The bits of such floats are in their
 * order. */
static inline uint8_t pintle_priv_within(const float *number, const struct pintle_number *limits)
{
#if PINTLE_WHOLE
    uint32_t bits[3];
    memcpy(&bits[0], number, sizeof bits[0]);
    memcpy(&bits[1], &limits->lowest, sizeof bits[1]);
    memcpy(&bits[2], &limits->highest, sizeof bits[2]);
    return bits[0] >= bits[1] && bits[0] <= bits[2];
#else
    return *number >= limits->lowest && *number <= limits->highest;
#endif
}

/* A number of a table as a value. */
#if PINTLE_WHOLE
/* An integer through its row: scale, factors, zero. */
pintle_value pintle_priv_linear(const struct pintle_part *part, const struct pintle_channel *row,
                                const struct pintle_channel *channel,
                                const struct pintle_linear *linear,
                                const struct pintle_block *block, int32_t raw);
pintle_value pintle_priv_value_of(float number, uint8_t decimals);
#else
static inline pintle_value pintle_priv_value_of(float number, uint8_t decimals)
{
    (void)decimals;
    return number;
}
#endif

/* From the identity on. */
void pintle_priv_begin(struct pintle_sensor *sensor);

/* Run another program of the part's, to its end, with nothing to read into. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_program(struct pintle_sensor *sensor,
                                                         const struct pintle_step *program);

/* To the first step of a program. */
void pintle_priv_enter(struct pintle_sensor *sensor, uint8_t phase);

/* Run steps until the program before `end` is over, one must wait or fails, or one is not below
 * `stop`: PINTLE_OP_READ where raw bytes are left to the call that collects. NOT_READY: go on at
 * sensor->when_us. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_run(struct pintle_sensor *sensor, uint8_t end,
                                                     uint8_t stop);

/* Prove the part and set it up, waiting, but for what comes last: the next program waits for that.
 * Its caller closes it. For parts whose set-up reads nothing. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_set_up(struct pintle_sensor *sensor);

/* The measurement failed: every reading is marked, at the present time. */
enum pintle_status pintle_priv_failed(struct pintle_sensor *sensor, enum pintle_status status);

/* What was waited for until `at` has not come: look again so much later (1), or is it over (0)?
 * Within the two minutes in which its count comes around. */
uint8_t pintle_priv_not_yet(struct pintle_sensor *sensor, uint64_t at, uint16_t limit_ms,
                            uint16_t again_us);

/* Sleep until sensor->when_us. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_wait(struct pintle_sensor *sensor);

/* Sleep. CLOCK_STOPPED: no time passes, or the clock went back. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_sleep(const struct pintle_clock *clock,
                                                       uint32_t us);

void pintle_priv_no_value(struct pintle_reading *reading, pintle_marks quality);

/* Decode a block, with `more` known against each channel. Returns what is
 * known against any of them; *all: is each marked BUS? */
pintle_marks pintle_priv_decode(const struct pintle_part *part, const struct pintle_block *block,
                                struct pintle_reading *reading, pintle_marks more,
                                pintle_marks *all);

/* Check `count` bytes by the part's rule of this number. OK where the part has none. */
PINTLE_MUST_CHECK enum pintle_status pintle_priv_checked(const struct pintle_sensor *sensor,
                                                         uint8_t number, const uint8_t *bytes,
                                                         uint8_t count);

#endif
