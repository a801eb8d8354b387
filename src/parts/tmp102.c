/* TMP102, datasheet SLOS854 (registers: section 8.5). */
#include "pintle/parts/tmp102.h"

#include "pintle/ability.h"
#include "pintle/limits.h"

#include "pintle/reg.h"

#define TEMPERATURE 0x00
#define CONFIGURATION 0x01
#define T_LOW 0x02
#define T_HIGH 0x03

#define SHUT_DOWN 0x0100
#define ONE_SHOT 0x8000u   /* OS */
#define FIXED_ONES 0x6000u /* R1, R0: read-only */
#define FIXED_ZEROS 0x000fu
#define WRITABLE 0x1fd0u    /* F, POL, TM, SD, CR, EM */
#define CONVERSION_US 35000 /* section 7.5: the longest */

static const uint8_t addresses[] PINTLE_TABLE = { 0x48, 0x49, 0x4a, 0x4b };

PINTLE_OPTIONS(modes, PINTLE_TMP102_MODE_OPTIONS);
PINTLE_OPTIONS(formats, PINTLE_TMP102_FORMAT_OPTIONS);
PINTLE_OPTIONS(rates, PINTLE_TMP102_RATE_OPTIONS);
PINTLE_OPTIONS(faults, PINTLE_TMP102_FAULTS_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_TMP102_MODE] = { CONFIGURATION, 8, 2, PINTLE_TMP102_CONTINUOUS, modes, NULL },
    [PINTLE_TMP102_FORMAT] = { CONFIGURATION, 4, 2, PINTLE_TMP102_12_BIT, formats, NULL },
    [PINTLE_TMP102_RATE] = { CONFIGURATION, 6, 4, PINTLE_TMP102_4_HZ, rates, NULL },
    [PINTLE_TMP102_FAULTS] = { CONFIGURATION, 11, 4, PINTLE_TMP102_1_FAULT, faults, NULL },
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(CONFIGURATION, 2, FIXED_ONES | FIXED_ZEROS, FIXED_ONES),
    PINTLE_END(),
};

/* When it is looked at once more because it said 0 degC: a number of faults that it does not have
 * after power-up, or being shut down between conversions, tells whether it lost its supply once
 * more. */
#define QUEUE 0x1800u
#define WITNESS 0x0800u

/* In continuous mode a conversion under way at the moment of the change ends in the old format, so
 * the first reading comes a full period later. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE_LOOSE(CONFIGURATION, 2, FIXED_ONES),
    PINTLE_EXPECT(CONFIGURATION, 2, WRITABLE, 0),
    PINTLE_WHEN_AGAIN(1),
    PINTLE_WRITE_LOOSE(CONFIGURATION, 2, FIXED_ONES | WITNESS),
    PINTLE_ONLY(PINTLE_TMP102_MODE, PINTLE_TMP102_CONTINUOUS, 1),
    PINTLE_WAIT_SETTINGS(CONVERSION_US),
    PINTLE_END(),
};

/* Behind each value: somebody else may have shut it down meanwhile, or begun anew. */
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_ONLY(PINTLE_TMP102_MODE, PINTLE_TMP102_ONE_SHOT, 2),
    PINTLE_WRITE(CONFIGURATION, 2, ONE_SHOT | FIXED_ONES),
    PINTLE_WAIT(CONVERSION_US),
    PINTLE_READ(TEMPERATURE, 2),
    PINTLE_ONLY(PINTLE_TMP102_MODE, PINTLE_TMP102_ONE_SHOT, 1),
    PINTLE_EXPECT(CONFIGURATION, 2, ONE_SHOT | WRITABLE, ONE_SHOT), /* reads 1 when it is done */
    PINTLE_ONLY(PINTLE_TMP102_MODE, PINTLE_TMP102_CONTINUOUS, 1),
    PINTLE_EXPECT(CONFIGURATION, 2, WRITABLE & ~QUEUE, 0),
    PINTLE_ONLY(PINTLE_TMP102_MODE, PINTLE_TMP102_CONTINUOUS, 3),
    PINTLE_WHEN_AGAIN(2),
    PINTLE_EXPECT(CONFIGURATION, 2, QUEUE, WITNESS),
    PINTLE_WRITE(CONFIGURATION, 2, FIXED_ONES),
    PINTLE_END(),
};

static const struct pintle_step rest[] PINTLE_TABLE = {
    PINTLE_WRITE_PLAIN(CONFIGURATION, 2, FIXED_ONES | SHUT_DOWN),
    PINTLE_END(),
};

/* Section 8.5.2: the lowest bits tell the formats apart. */
static const struct pintle_mark twelve[] PINTLE_TABLE = { PINTLE_UNLESS(1, 0x0f, 0x00, POWER_ON),
                                                          PINTLE_MARKS_END() };
static const struct pintle_mark thirteen[] PINTLE_TABLE = { PINTLE_UNLESS(1, 0x07, 0x01, POWER_ON),
                                                            PINTLE_MARKS_END() };

/* Section 8.5.3: 0 degC until the first conversion after power-up has ended. */
#define ROW(drop, which, ends)                                                                     \
    {                                                                                              \
        .bytes = 2, .shift = (drop), .flags = PINTLE_LINEAR_SIGNED | PINTLE_LINEAR_POWER_ON,       \
        .scale = 0.0625f, .lowest = -(ends), .highest = (ends)-1, .marks = (which)                 \
    }

static const struct pintle_linear formats_rows[] PINTLE_TABLE = { ROW(4, twelve, 2048),
                                                                  ROW(3, thirteen, 4096) };

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("temperature", TEMPERATURE, 4, -40, 125, formats_rows,
                   .rows_by = 1 << PINTLE_TMP102_FORMAT),
};

/* Section 8.3.5: its pin goes low above T_HIGH, and back below T_LOW; AL says the same. */
#define AL 0x0020
static const struct pintle_step nothing[] PINTLE_TABLE = { PINTLE_END() };
static const struct pintle_step watches[] PINTLE_TABLE = {
    PINTLE_REFUSE(CONFIGURATION, 2, SHUT_DOWN, SHUT_DOWN),
    PINTLE_EXPECT(CONFIGURATION, 2, 0x1ed0, 0), /* F, POL, TM, CR, EM as they are set */
    PINTLE_END(),
};
static const struct pintle_limit_rules limits PINTLE_TABLE = { .low = T_LOW,
                                                               .high = T_HIGH,
                                                               .mask = 0xfff8,
                                                               .on = nothing,
                                                               .check = watches,
                                                               .state = CONFIGURATION,
                                                               .above = AL,
                                                               .inverted = 1 };
static const struct pintle_abilities can PINTLE_TABLE = { .limits = &limits };

const struct pintle_part pintle_tmp102 PINTLE_TABLE = {
    .name = "TMP102",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_STICKY_POINTER | PINTLE_PART_FORGETS,
    .raw_size = 2,
    .channel_count = 1,
    .setting_count = 4,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rest = rest,
    .settings = settings,
    .channels = channels,
    .can = &can,
};
