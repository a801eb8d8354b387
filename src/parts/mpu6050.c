/* MPU6050, register map RM-MPU-6000A-00 rev. 4.2 (RM), specification PS-MPU-6000A-00 rev. 3.4 (PS).
 */
#include "pintle/parts/mpu6050.h"

#include "pintle/ability.h"
#include "pintle/burst.h"

#define SMPLRT_DIV 0x19
#define CONFIG 0x1a
#define GYRO_CONFIG 0x1b
#define ACCEL_CONFIG 0x1c
#define FIFO_EN 0x23
#define INT_ENABLE 0x38
#define INT_STATUS 0x3a /* the register in front of the data */
#define USER_CTRL 0x6a
#define PWR_MGMT_1 0x6b
#define FIFO_COUNT 0x72
#define FIFO_R_W 0x74
#define WHO_AM_I 0x75

#define DATA_RDY 0x01
#define FIFO_OFLOW 0x10
#define FIFO_ON 0x40    /* USER_CTRL */
#define FIFO_RESET 0x04 /* while it is off */
#define ALL_SEVEN 0xf8  /* FIFO_EN */
#define DEVICE_RESET 0x80
#define ASLEEP 0x40 /* after power-up and after a reset */
#define GYRO_CLOCK 0x01

#define GYRO_START_US 35000 /* PS 6.1: from sleep 30 ms, typically */

static const uint8_t addresses[] PINTLE_TABLE = { 0x68, 0x69 };

/* The codes of both ranges are 0 to 3. */
PINTLE_OPTIONS(ranges, PINTLE_MPU6050_ACCEL_RANGE_OPTIONS);
PINTLE_FACTORS(accel_factors, PINTLE_MPU6050_ACCEL_RANGE_OPTIONS);
PINTLE_FACTORS(gyro_factors, PINTLE_MPU6050_GYRO_RANGE_OPTIONS);
PINTLE_OPTIONS(filters, PINTLE_MPU6050_FILTER_OPTIONS);
PINTLE_OPTIONS(rates, PINTLE_MPU6050_RATE_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_MPU6050_ACCEL_RANGE] = { ACCEL_CONFIG, 3, 4, PINTLE_MPU6050_2_G, ranges,
                                     accel_factors },
    [PINTLE_MPU6050_GYRO_RANGE] = { GYRO_CONFIG, 3, 4, PINTLE_MPU6050_250_DEG_S, ranges,
                                    gyro_factors },
    [PINTLE_MPU6050_FILTER] = { CONFIG, 0, 6, PINTLE_MPU6050_FILTER_10_HZ, filters, NULL },
    [PINTLE_MPU6050_RATE] = { SMPLRT_DIV, 0, 5, PINTLE_MPU6050_100_HZ, rates, NULL },
};

/* RM 4.32: bits 6 to 1, whatever the address. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(WHO_AM_I, 1, 0xff, 0x68),
    PINTLE_END(),
};

static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE_PLAIN(PWR_MGMT_1, 1, DEVICE_RESET),
    PINTLE_WAIT(2000),
    PINTLE_POLL(PWR_MGMT_1, 0xff, ASLEEP, 150),
    PINTLE_WRITE(PWR_MGMT_1, 1, GYRO_CLOCK),
    PINTLE_WRITE(SMPLRT_DIV, 1, 0),
    PINTLE_WRITE(CONFIG, 1, 0),
    PINTLE_WRITE(INT_ENABLE, 1, DATA_RDY),
    PINTLE_WRITE(GYRO_CONFIG, 1, 0),
    PINTLE_WRITE(ACCEL_CONFIG, 1, 0),
    PINTLE_WAIT_SETTINGS(GYRO_START_US),
    PINTLE_READ(INT_STATUS, 15), /* what is there is of before */
    PINTLE_END(),
};

/* A new sample, and all of it, in one burst; after power-up it sleeps. */
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_READ_UNTIL(INT_STATUS, 15, 0, DATA_RDY, DATA_RDY, 60),
    PINTLE_EXPECT(GYRO_CONFIG, 1, 0xff, 0), /* still the ranges that were set? */
    PINTLE_EXPECT(ACCEL_CONFIG, 1, 0xff, 0),
    PINTLE_EXPECT(PWR_MGMT_1, 1, 0xff, GYRO_CLOCK),
    PINTLE_END(),
};

static const struct pintle_step rest[] PINTLE_TABLE = {
    PINTLE_WRITE(PWR_MGMT_1, 1, ASLEEP),
    PINTLE_END(),
};

/* RM 4.31: 1024 bytes; when they are full the oldest give way, one by one. */
static const struct pintle_step fifo_empty[] PINTLE_TABLE = {
    PINTLE_WRITE(USER_CTRL, 1, 0),
    PINTLE_WRITE(USER_CTRL, 1, FIFO_RESET),
    PINTLE_WRITE(USER_CTRL, 1, FIFO_ON),
    PINTLE_READ(INT_STATUS, 1),
    PINTLE_END(),
};
static const struct pintle_step fifo_start[] PINTLE_TABLE = {
    PINTLE_WRITE(USER_CTRL, 1, 0),
    PINTLE_WRITE(FIFO_EN, 1, ALL_SEVEN),
    PINTLE_WRITE(INT_ENABLE, 1, DATA_RDY | FIFO_OFLOW), /* RM 4.14: else it isn't said */
    PINTLE_WRITE(USER_CTRL, 1, FIFO_RESET),
    PINTLE_WRITE(USER_CTRL, 1, FIFO_ON),
    PINTLE_READ(INT_STATUS, 1),
    PINTLE_END(),
};
static const struct pintle_step fifo_check[] PINTLE_TABLE = {
    PINTLE_EXPECT(PWR_MGMT_1, 1, 0xff, GYRO_CLOCK),
    PINTLE_EXPECT(USER_CTRL, 1, 0xff, FIFO_ON),
    PINTLE_EXPECT(FIFO_EN, 1, 0xff, ALL_SEVEN),
    PINTLE_EXPECT(INT_ENABLE, 1, 0xff, DATA_RDY | FIFO_OFLOW),
    PINTLE_END(),
};
static const uint32_t periods_ns[] PINTLE_TABLE = { 1000000, 2000000, 5000000, 10000000, 20000000 };

static const struct pintle_fifo fifo PINTLE_TABLE = { .start = fifo_start,
                                                      .empty = fifo_empty,
                                                      .check = fifo_check,
                                                      .periods_ns = periods_ns,
                                                      .count_reg = FIFO_COUNT,
                                                      .count_mask = 0xffff,
                                                      .data_reg = FIFO_R_W,
                                                      .over_reg = INT_STATUS,
                                                      .over_mask = FIFO_OFLOW,
                                                      .depth = 1024 / 14,
                                                      .channels = 0x7f,
                                                      .count_width = 2,
                                                      .per_count = 14,
                                                      .record = 14,
                                                      .at = 1,
                                                      .fill = DATA_RDY,
                                                      .at_once = 3,
                                                      .torn = 1,
                                                      .rate = PINTLE_MPU6050_RATE };
static const struct pintle_abilities abilities PINTLE_TABLE = { .fifo = &fifo };

/* Data that were read before they were new. */
static const struct pintle_mark old[] PINTLE_TABLE = {
    PINTLE_UNLESS_BLOCK(0, DATA_RDY, DATA_RDY, STALE), PINTLE_MARKS_END()
};

#define RADIAN 57.29577951
#define ROW(per_count, at_zero)                                                                    \
    {                                                                                              \
        .bytes = 2, .flags = PINTLE_LINEAR_SIGNED, .scale = (float)(per_count), .zero = (at_zero), \
        .lowest = -32768, .highest = 32767, .marks = old                                           \
    }
static const struct pintle_linear accel PINTLE_TABLE = ROW(9.80665 / 16384, 0);
static const struct pintle_linear rate PINTLE_TABLE = ROW(1 / (131 * RADIAN), 0);
static const struct pintle_linear temperature PINTLE_TABLE = ROW(1 / 340.0, 36.53f); /* RM 4.18 */

#define ACCEL(name, first)                                                                         \
    PINTLE_CHANNEL(name, ACCELERATION, 4, -156.9064f, 156.9064f, &accel, .at = (first),            \
                   .scaled_by = 1 << PINTLE_MPU6050_ACCEL_RANGE)
#define GYRO(name, first)                                                                          \
    PINTLE_CHANNEL(name, ANGULAR_RATE, 4, -34.9066f, 34.9066f, &rate, .at = (first),               \
                   .scaled_by = 1 << PINTLE_MPU6050_GYRO_RANGE)
static const struct pintle_channel channels[] PINTLE_TABLE = {
    ACCEL("accel-x", 1),
    ACCEL("accel-y", 3),
    ACCEL("accel-z", 5),
    PINTLE_CHANNEL("temperature", TEMPERATURE, 2, -40, 85, &temperature, .at = 7),
    GYRO("rate-x", 9),
    GYRO("rate-y", 11),
    GYRO("rate-z", 13),
};

const struct pintle_part pintle_mpu6050 PINTLE_TABLE = {
    .name = "MPU6050",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_ONES_SILENT | PINTLE_PART_ZEROS_SILENT,
    .raw_size = 15,
    .data_at = 1,
    .channel_count = 7,
    .setting_count = 4,
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
