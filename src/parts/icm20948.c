/* ICM-20948, datasheet DS-000189 (register map: section 7; descriptions: sections 8 to 10). */
#include "pintle/parts/icm20948.h"

_Static_assert(PINTLE_CHANNELS_MAX >= 6 && PINTLE_RAW_MAX >= 12,
               "this part needs larger samples: see config.h");

/* bank in the high byte */
#define WHO_AM_I 0x0000
#define USER_CTRL 0x0003
#define PWR_MGMT_1 0x0006
#define ACCEL_XOUT_H 0x002d
#define GYRO_CONFIG_1 0x0201
#define ACCEL_CONFIG 0x0214
#define REG_BANK_SEL 0x7f

#define I2C_IF_DIS 0x10
#define DEVICE_RESET 0x80
#define SLEEP 0x40
#define CLKSEL 0x07
#define BEST_CLOCK 0x01
#define AFTER_RESET 0x41 /* PWR_MGMT_1: asleep, best clock */
#define FILTERED 0x01    /* FCHOICE */
#define CONFIG_BITS 0x3f

#define RESET_US 11000 /* table 3: start-up time for registers, typical; 100 ms at most */
#define GYRO_START_US 35000

static const struct pintle_spi_rules spi PINTLE_TABLE = {
    .top_hz = 7000000,
    .read_bit = 0x80,
    .banks = 1,
    .bank_reg = REG_BANK_SEL,
    .bank_shift = 4,
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(WHO_AM_I, 1, 0xff, 0xea),
    PINTLE_END(),
};

/* The bits beside these belong to others: the FIFO, the auxiliary bus, the motion processor. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE(PWR_MGMT_1, 1, DEVICE_RESET),
    PINTLE_WAIT(RESET_US),
    PINTLE_POLL(PWR_MGMT_1, 0xff, AFTER_RESET, 100),
    PINTLE_CHANGE(USER_CTRL, I2C_IF_DIS, I2C_IF_DIS),
    PINTLE_CHANGE(PWR_MGMT_1, SLEEP | CLKSEL, BEST_CLOCK),
    PINTLE_CHANGE(GYRO_CONFIG_1, CONFIG_BITS, FILTERED),
    PINTLE_CHANGE(ACCEL_CONFIG, CONFIG_BITS, FILTERED),
    PINTLE_WAIT(GYRO_START_US),
    PINTLE_END(),
};

/* All six in one burst: they belong to one moment. */
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_READ(ACCEL_XOUT_H, 12),
    PINTLE_EXPECT(PWR_MGMT_1, 1, SLEEP | CLKSEL, BEST_CLOCK), /* after power-up it sleeps */
    PINTLE_END(),
};

static const struct pintle_option ranges[] PINTLE_TABLE = {
    { 0, 0 }, { 1, 0 }, { 2, 0 }, { 3, 0 }
};
static const struct pintle_option filters[] PINTLE_TABLE = { { 7, 0 }, { 1, 0 }, { 2, 0 }, { 3, 0 },
                                                             { 4, 0 }, { 5, 0 }, { 6, 0 } };

static const struct pintle_setting settings[] PINTLE_TABLE = {
    { ACCEL_CONFIG, 1, 4, PINTLE_ICM20948_2_G, ranges },
    { ACCEL_CONFIG, 3, 7, PINTLE_ICM20948_ACCEL_11_HZ, filters },
    { GYRO_CONFIG_1, 1, 4, PINTLE_ICM20948_250_DEG_S, ranges },
    { GYRO_CONFIG_1, 3, 7, PINTLE_ICM20948_GYRO_12_HZ, filters },
};

#define ROW(first, per_count)                                                                      \
    {                                                                                              \
        .at = (first), .bytes = 2, .flags = PINTLE_LINEAR_SIGNED, .scale = (float)(per_count),     \
        .lowest = -32768, .highest = 32767                                                         \
    }
/* Table 2: 16384, 8192, 4096, 2048 counts per g. */
#define ACCEL(first)                                                                               \
    {                                                                                              \
        ROW(first, 9.80665 / 16384), ROW(first, 9.80665 / 8192), ROW(first, 9.80665 / 4096),       \
            ROW(first, 9.80665 / 2048)                                                             \
    }
/* Table 1: 131, 65.5, 32.8, 16.4 counts per degree per second. */
#define RADIAN 57.29577951
#define RATE(first)                                                                                \
    {                                                                                              \
        ROW(first, 1 / (131 * RADIAN)), ROW(first, 1 / (65.5 * RADIAN)),                           \
            ROW(first, 1 / (32.8 * RADIAN)), ROW(first, 1 / (16.4 * RADIAN))                       \
    }
static const struct pintle_linear rows[6][4] PINTLE_TABLE = { ACCEL(0), ACCEL(2), ACCEL(4),
                                                              RATE(6),  RATE(8),  RATE(10) };

#define ACCEL_CHANNEL(name, i)                                                                     \
    {                                                                                              \
        name, PINTLE_QUANTITY_ACCELERATION, 4, PINTLE_ICM20948_ACCEL_RANGE, -156.9064f, 156.9064f, \
            rows[i]                                                                                \
    }
#define RATE_CHANNEL(name, i)                                                                      \
    {                                                                                              \
        name, PINTLE_QUANTITY_ANGULAR_RATE, 4, PINTLE_ICM20948_GYRO_RANGE, -34.9066f, 34.9066f,    \
            rows[i]                                                                                \
    }
static const struct pintle_channel channels[] PINTLE_TABLE = {
    ACCEL_CHANNEL("accel-x", 0), ACCEL_CHANNEL("accel-y", 1), ACCEL_CHANNEL("accel-z", 2),
    RATE_CHANNEL("rate-x", 3),   RATE_CHANNEL("rate-y", 4),   RATE_CHANNEL("rate-z", 5),
};

/* A chip that lost its supply comes up asleep, with zeros in all data registers. */
const struct pintle_part pintle_icm20948 PINTLE_TABLE = {
    .name = "ICM20948",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_ONES_SILENT | PINTLE_PART_ZEROS_SILENT,
    .raw_size = 12,
    .channel_count = 6,
    .setting_count = 4,
    .link = &pintle_link_spi,
    .spi = &spi,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .settings = settings,
    .channels = channels,
};
