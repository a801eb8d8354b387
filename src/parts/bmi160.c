/* BMI160, datasheet BST-BMI160-DS000 (registers: section 2.11). */
#include "pintle/parts/bmi160.h"

#include "pintle/ability.h"
#include "pintle/burst.h"

#define CHIP_ID 0x00
#define PMU_STATUS 0x03
#define DATA 0x0c /* gyroscope, then accelerometer */
#define STATUS 0x1b
#define TEMPERATURE 0x20
#define FIFO_LENGTH 0x22
#define FIFO_DATA 0x24
#define ACC_CONF 0x40
#define ACC_RANGE 0x41
#define GYR_CONF 0x42
#define GYR_RANGE 0x43
#define FIFO_CONFIG_1 0x47
#define CMD 0x7e

#define SOFTRESET 0xb6
#define ACC_NORMAL 0x11
#define GYR_NORMAL 0x15
#define ACC_SUSPEND 0x10
#define GYR_SUSPEND 0x14
#define FIFO_FLUSH 0xb0
#define BOTH_BARE 0xc0     /* FIFO_CONFIG_1: both, without headers */
#define BOTH_NORMAL 0x14   /* PMU_STATUS */
#define NORMAL_FILTER 0x20 /* bwp of ACC_CONF and GYR_CONF */
#define BOTH_READY 0xc0    /* STATUS */

static const uint8_t addresses[] PINTLE_TABLE = { 0x68, 0x69 };

PINTLE_OPTIONS(accel_ranges, PINTLE_BMI160_ACCEL_RANGE_OPTIONS);
PINTLE_FACTORS(accel_factors, PINTLE_BMI160_ACCEL_RANGE_OPTIONS);
PINTLE_OPTIONS(gyro_ranges, PINTLE_BMI160_GYRO_RANGE_OPTIONS);
PINTLE_FACTORS(gyro_factors, PINTLE_BMI160_GYRO_RANGE_OPTIONS);

PINTLE_OPTIONS(rates, PINTLE_BMI160_RATE_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_BMI160_ACCEL_RANGE] = { ACC_RANGE, 0, 4, PINTLE_BMI160_2_G, accel_ranges,
                                    accel_factors },
    [PINTLE_BMI160_GYRO_RANGE] = { GYR_RANGE, 0, 5, PINTLE_BMI160_2000_DEG_S, gyro_ranges,
                                   gyro_factors },
    [PINTLE_BMI160_RATE] = { ACC_CONF, 0, 7, PINTLE_BMI160_100_HZ, rates, NULL },
    { GYR_CONF, 0, 7, PINTLE_BMI160_RATE, rates, NULL },
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(CHIP_ID, 1, 0xff, 0xd1),
    PINTLE_END(),
};

/* Section 2.11.38: what commands take; table 2: starting the gyroscope takes 80 ms at most. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE_PLAIN(CMD, 1, SOFTRESET),
    PINTLE_WAIT(55000),
    PINTLE_WRITE_PLAIN(CMD, 1, ACC_NORMAL),
    PINTLE_WAIT(4000),
    PINTLE_WRITE_PLAIN(CMD, 1, GYR_NORMAL),
    PINTLE_WAIT(81000),
    PINTLE_POLL(PMU_STATUS, 0x3c, BOTH_NORMAL, 20),
    PINTLE_WRITE(ACC_CONF, 1, NORMAL_FILTER),
    PINTLE_WRITE(ACC_RANGE, 1, 0),
    PINTLE_WRITE(GYR_CONF, 1, NORMAL_FILTER),
    PINTLE_WRITE(GYR_RANGE, 1, 0),
    PINTLE_WAIT_SETTINGS(0),
    PINTLE_READ(DATA, 12),
    PINTLE_END(),
};

/* After power-up both are suspended. */
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_POLL(STATUS, BOTH_READY, BOTH_READY, 100),
    PINTLE_READ(DATA, 12),
    PINTLE_READ(TEMPERATURE, 2),
    PINTLE_EXPECT(ACC_RANGE, 1, 0x0f, 0), /* still the ranges that were set? */
    PINTLE_EXPECT(GYR_RANGE, 1, 0x07, 0),
    PINTLE_EXPECT(PMU_STATUS, 1, 0x3c, BOTH_NORMAL),
    PINTLE_END(),
};

static const struct pintle_step rest[] PINTLE_TABLE = {
    PINTLE_WRITE_PLAIN(CMD, 1, ACC_SUSPEND),
    PINTLE_WAIT(4000),
    PINTLE_WRITE_PLAIN(CMD, 1, GYR_SUSPEND),
    PINTLE_END(),
};

/* Section 2.5: 1024 bytes; when they are full the oldest frame gives way. */
static const struct pintle_step fifo_start[] PINTLE_TABLE = {
    PINTLE_WRITE(FIFO_CONFIG_1, 1, BOTH_BARE),
    PINTLE_WRITE_PLAIN(CMD, 1, FIFO_FLUSH),
    PINTLE_END(),
};
static const struct pintle_step fifo_check[] PINTLE_TABLE = {
    PINTLE_EXPECT(PMU_STATUS, 1, 0x3c, BOTH_NORMAL),
    PINTLE_EXPECT(FIFO_CONFIG_1, 1, 0xfe, BOTH_BARE),
    PINTLE_END(),
};
static const uint32_t periods_ns[] PINTLE_TABLE = { 40000000, 20000000, 10000000, 5000000,
                                                    2500000,  1250000,  625000 };

/* A sample has no temperature. */
static const struct pintle_fifo fifo PINTLE_TABLE = { .start = fifo_start,
                                                      .empty = fifo_start,
                                                      .check = fifo_check,
                                                      .periods_ns = periods_ns,
                                                      .count_reg = FIFO_LENGTH,
                                                      .count_mask = 0x07ff,
                                                      .data_reg = FIFO_DATA,
                                                      .over_reg = PINTLE_NO_REG,
                                                      .depth = 1024 / 12,
                                                      .channels = 0x3f,
                                                      .count_width = 2,
                                                      .per_count = 12,
                                                      .record = 12,
                                                      .at_once = 4,
                                                      .rate = PINTLE_BMI160_RATE };
static const struct pintle_abilities abilities PINTLE_TABLE = { .fifo = &fifo };

#define RADIAN 57.29577951
#define LITTLE (PINTLE_LINEAR_SIGNED | PINTLE_LINEAR_LITTLE_ENDIAN)
/* Table 2: 16384 to 2048 counts per g, 262.4 to 16.4 per deg/s. */
#define ROW(per_count)                                                                             \
    {                                                                                              \
        .bytes = 2, .flags = LITTLE, .scale = (float)(per_count), .lowest = -32768,                \
        .highest = 32767                                                                           \
    }
static const struct pintle_linear accel PINTLE_TABLE = ROW(9.80665 / 16384);
static const struct pintle_linear rate PINTLE_TABLE = ROW(1 / (262.4 * RADIAN));
/* Section 2.11.8: 0 is 23 degC, 512 counts a degree; 8000h means that there is none. */
static const struct pintle_linear temperature PINTLE_TABLE = { .bytes = 2,
                                                               .flags =
                                                                   LITTLE | PINTLE_LINEAR_POWER_ON,
                                                               .scale = 1.0f / 512,
                                                               .zero = 23,
                                                               .lowest = -32768,
                                                               .highest = 32767,
                                                               .power_on = -32768 };

#define ACCEL(name, first)                                                                         \
    PINTLE_CHANNEL(name, ACCELERATION, 4, -156.9064f, 156.9064f, &accel, .at = (first),            \
                   .scaled_by = 1 << PINTLE_BMI160_ACCEL_RANGE)
#define GYRO(name, first)                                                                          \
    PINTLE_CHANNEL(name, ANGULAR_RATE, 5, -34.9066f, 34.9066f, &rate, .at = (first),               \
                   .scaled_by = 1 << PINTLE_BMI160_GYRO_RANGE)
static const struct pintle_channel channels[] PINTLE_TABLE = {
    GYRO("rate-x", 0),
    GYRO("rate-y", 2),
    GYRO("rate-z", 4),
    ACCEL("accel-x", 6),
    ACCEL("accel-y", 8),
    ACCEL("accel-z", 10),
    PINTLE_CHANNEL("temperature", TEMPERATURE, 2, -40, 85, &temperature, .at = 12),
};

const struct pintle_part pintle_bmi160 PINTLE_TABLE = {
    .name = "BMI160",
    .flags = PINTLE_PART_FORGETS | PINTLE_PART_ONES_SILENT | PINTLE_PART_ZEROS_SILENT,
    .raw_size = 14,
    .channel_count = 7,
    .setting_count = 3,
    .further_count = 1,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .rest = rest,
    .can = &abilities,
    .settings = settings,
    .channels = channels,
    .factor = pintle_part_factor,
};
