/* DS3231, datasheet 19-5170 (register map: figure 1). */
#include "pintle/parts/ds3231.h"

#include "pintle/ability.h"
#include "pintle/time.h"

#define SECONDS 0x00
#define DAY 0x03
#define DATE 0x04
#define MONTH 0x05
#define YEAR 0x06
#define ALARM_1 0x07
#define CONTROL 0x0e
#define STATUS 0x0f
#define TEMP_LSB 0x12

/* bit numbers */
#define OSF 7
#define BSY 2

static const uint8_t addresses[] PINTLE_TABLE = { 0x68 };

/* A register behind TEMP_LSB, where the address wraps to the seconds. */
#define WRAPPED(reg) (uint8_t)(2 + (reg))

/* The part has no identity register: bits that always read 0 stand in for one, and a date that
 * nothing but this address counter finds there: day, date and month are never 0. In another clock
 * chip it finds memory. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(STATUS, 1, 0x70, 0),
    PINTLE_EXPECT(TEMP_LSB, 1, 0x3f, 0),
    PINTLE_EXPECT(SECONDS, 1, 0x80, 0),
    PINTLE_EXPECT(TEMP_LSB, WRAPPED(DAY), 0xf8, 0),
    PINTLE_REFUSE_FIRST(TEMP_LSB, WRAPPED(DAY), 0x07, 0),
    PINTLE_REFUSE_FIRST(TEMP_LSB, WRAPPED(DATE), 0x3f, 0),
    PINTLE_REFUSE_FIRST(TEMP_LSB, WRAPPED(MONTH), 0x1f, 0),
    PINTLE_END(),
};

/* Nothing to start: it keeps time by itself and converts its temperature every 64 s, for the first
 * time right after power-up, for 200 ms at most. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_POLL(STATUS, 1 << BSY, 0, 400),
    PINTLE_END(),
};

/* From the status on, past the end of the map, where the address wraps to the seconds: one
 * burst holds the stop flag, the temperature and a time whose bytes belong together. */
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_READ(STATUS, 11),
    PINTLE_READ(YEAR, 1), /* ones are what a chip leaves that loses its supply in the last byte */
    PINTLE_END(),
};

/* Zeros in day, date or month are what memory holds, not this chip's counters. */
static uint8_t is_memory(const struct pintle_block *block)
{
    const uint8_t *regs = block->raw + 4;
    return regs[DAY] == 0 || regs[DATE] == 0 || (regs[MONTH] & 0x1f) == 0;
}

static void decode(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings)
{
    struct pintle_reading *time = &readings[PINTLE_DS3231_TIME];
    struct pintle_reading *temperature = &readings[PINTLE_DS3231_TEMPERATURE];
    if (is_memory(block)) {
        time->quality = temperature->quality = PINTLE_QUALITY_BUS;
    }
    if ((block->raw[0] & 1 << BSY) && block->raw[2] == 0 && block->raw[3] == 0) {
        temperature->quality |=
            PINTLE_QUALITY_POWER_ON; /* it may be converting for the first time */
    }
    if (block->raw[10] != block->raw[11]) {
        time->quality |= PINTLE_QUALITY_BUS;
    }
    pintle_time_decode(part, block, readings);
}

static const struct pintle_mark fixed_zeros[] PINTLE_TABLE = { PINTLE_UNLESS(1, 0x3f, 0, BUS),
                                                               PINTLE_MARKS_END() };
static const struct pintle_linear temperature PINTLE_TABLE = { .bytes = 2,
                                                               .shift = 6,
                                                               .flags = PINTLE_LINEAR_SIGNED,
                                                               .scale = 0.25f,
                                                               .lowest = -512,
                                                               .highest = 511,
                                                               .marks = fixed_zeros };

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("temperature", TEMPERATURE, 2, -40, 85, &temperature, .at = 2),
    PINTLE_CHANNEL("time", TIME, 0, 0, 4.3e9f, NULL, .at = 4),
};

/* STATUS: writing 0 clears OSF, A2F and A1F, writing 1 leaves them. CONTROL: writing 1 to CONV sets
 * a conversion off. */
#define STATUS_BIT(number)                                                                         \
    {                                                                                              \
        { STATUS, 1, 0, 0x83, 0, 0 }, (number)                                                     \
    }
#define CONTROL_BIT(number)                                                                        \
    {                                                                                              \
        { CONTROL, 1, 0, 0, 0x20, 0 }, (number)                                                    \
    }

/* Table 2: alarm 1. INTCN gives the output to the alarms. */
static const struct pintle_wake alarm PINTLE_TABLE = {
    .first = ALARM_1, .on = CONTROL_BIT(0), .route = CONTROL_BIT(2), .went = STATUS_BIT(0)
};

/* EOSC stops it on its battery. */
static const struct pintle_timekeeper timekeeper PINTLE_TABLE = { .first = SECONDS,
                                                                  .last = TEMP_LSB,
                                                                  .order = { 0, 1, 2, 3, 4, 5, 6 },
                                                                  .century = 0x80,
                                                                  .stop = CONTROL_BIT(7),
                                                                  .lost = STATUS_BIT(OSF),
                                                                  .lost_at = -4,
                                                                  .alarm = &alarm };
static const struct pintle_abilities can PINTLE_TABLE = { .timekeeper = &timekeeper };

const struct pintle_part pintle_ds3231 PINTLE_TABLE = {
    .name = "DS3231",
    .raw_size = 12,
    .channel_count = 2,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .channels = channels,
    .decode = decode,
    .can = &can,
};
