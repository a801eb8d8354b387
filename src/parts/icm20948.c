/* ICM-20948, datasheet DS-000189 (register map: section 7; descriptions: sections 8 to 10; the
 * magnetometer AK09916: sections 3.3, 12 and 13). */
#include "pintle/parts/icm20948.h"

#include "pintle/ability.h"
#include "pintle/burst.h"

/* bank in the high byte */
#define WHO_AM_I 0x0000
#define USER_CTRL 0x0003
#define PWR_MGMT_1 0x0006
#define I2C_MST_STATUS 0x0017
#define INT_ENABLE_1 0x0011
#define INT_ENABLE_2 0x0012 /* FIFO_OVERFLOW_EN */
#define INT_STATUS_1 0x001a
#define INT_STATUS_2 0x001b
#define ACCEL_XOUT_H 0x002d
#define EXT_SLV_SENS_DATA_00 0x003b
#define FIFO_EN_2 0x0067
#define FIFO_RST 0x0068
#define FIFO_MODE 0x0069
#define FIFO_COUNTH 0x0070
#define FIFO_R_W 0x0072
#define GYRO_SMPLRT_DIV 0x0200
#define GYRO_CONFIG_1 0x0201
#define ACCEL_SMPLRT_DIV_2 0x0211
#define ACCEL_CONFIG 0x0214
#define I2C_MST_CTRL 0x0301
#define I2C_MST_DELAY_CTRL 0x0302
#define I2C_SLV0_ADDR 0x0303
#define I2C_SLV0_REG 0x0304
#define I2C_SLV0_CTRL 0x0305
#define I2C_SLV4_ADDR 0x0313
#define I2C_SLV4_REG 0x0314
#define I2C_SLV4_CTRL 0x0315
#define I2C_SLV4_DO 0x0316
#define I2C_SLV4_DI 0x0317
#define REG_BANK_SEL 0x7f

#define FIFO_EN 0x40 /* USER_CTRL */
#define I2C_MST_EN 0x20
#define I2C_IF_DIS 0x10
#define DEVICE_RESET 0x80
#define SLEEP 0x40
#define CLKSEL 0x07
#define BEST_CLOCK 0x01
#define AFTER_RESET 0x41 /* PWR_MGMT_1: asleep, best clock */
#define FILTERED 0x01    /* FCHOICE */
#define CONFIG_BITS 0x3f
#define DATA_READY 0x01 /* INT_STATUS_1 */

#define AK09916 0x0c
#define READING 0x80 /* I2C_SLVx_ADDR */
#define WIA2 0x01
#define ST1 0x10
#define CNTL2 0x31
#define CNTL3 0x32
#define MAG_100_HZ 0x08
#define MAG_BYTES 9    /* ST1, x, y, z, TMPS, ST2 */
#define DRDY 0x01      /* ST1 */
#define HOFL 0x08      /* ST2 */
#define SLV_EN 0x80    /* I2C_SLVx_CTRL */
#define SLV4_DONE 0x40 /* I2C_MST_STATUS */
#define SLV4_NACK 0x10
#define SLV0_NACK 0x01
#define SLV0_DELAYED 0x81 /* I2C_MST_DELAY_CTRL: every so many samples, and all bytes at once */

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

/* One register of the magnetometer, written or read by the chip. */
#define SEND(address, reg)                                                                         \
    PINTLE_WRITE(I2C_SLV4_ADDR, 1, (address)), PINTLE_WRITE(I2C_SLV4_REG, 1, (reg)),               \
        PINTLE_WRITE_PLAIN(I2C_SLV4_CTRL, 1, SLV_EN),                                              \
        PINTLE_POLL(I2C_MST_STATUS, SLV4_DONE | SLV4_NACK, SLV4_DONE, 60)
#define TELL(reg, value) PINTLE_WRITE(I2C_SLV4_DO, 1, (value)), SEND(AK09916, reg)
#define ASK(reg, want) SEND(AK09916 | READING, reg), PINTLE_EXPECT(I2C_SLV4_DI, 1, 0xff, want)

/* The magnetometer has a reset of its own. It measures 100 times a second, and the chip asks it a
 * little less often, so that each answer is new. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE_PLAIN(PWR_MGMT_1, 1, DEVICE_RESET),
    PINTLE_WAIT(RESET_US),
    PINTLE_POLL(PWR_MGMT_1, 0xff, AFTER_RESET, 100),
    PINTLE_WRITE(USER_CTRL, 1, I2C_MST_EN | I2C_IF_DIS),
    PINTLE_CHANGE(PWR_MGMT_1, SLEEP | CLKSEL, BEST_CLOCK),
    PINTLE_CHANGE(GYRO_CONFIG_1, CONFIG_BITS, FILTERED),
    PINTLE_CHANGE(ACCEL_CONFIG, CONFIG_BITS, FILTERED),
    PINTLE_WAIT(GYRO_START_US),
    PINTLE_WRITE(I2C_MST_CTRL, 1, 0x07), /* 345.6 kHz */
    TELL(CNTL3, 1),
    PINTLE_WAIT(1000),
    ASK(WIA2, 0x09),
    TELL(CNTL2, MAG_100_HZ),
    PINTLE_WRITE(I2C_SLV0_ADDR, 1, AK09916 | READING),
    PINTLE_WRITE(I2C_SLV0_REG, 1, ST1),
    PINTLE_WRITE(I2C_SLV0_CTRL, 1, SLV_EN | MAG_BYTES),
    PINTLE_WRITE(I2C_MST_DELAY_CTRL, 1, SLV0_DELAYED),
    PINTLE_WRITE(GYRO_SMPLRT_DIV, 1, 0),
    PINTLE_WRITE(ACCEL_SMPLRT_DIV_2, 1, 0),
    PINTLE_WRITE(I2C_SLV4_CTRL, 1, 0),
    PINTLE_WRITE(INT_ENABLE_1, 1, DATA_READY),
    PINTLE_WAIT_SETTINGS(32000),
    PINTLE_READ(INT_STATUS_1, 1), /* what is there is of before */
    PINTLE_END(),
};

/* All of a moment in one burst, and the magnetometer's last. After power-up it sleeps. */
#define MAG (1 << 1)
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_EXPECT(PWR_MGMT_1, 1, SLEEP | CLKSEL, BEST_CLOCK),
    PINTLE_POLL(INT_STATUS_1, DATA_READY, DATA_READY, 60),
    PINTLE_READ(ACCEL_XOUT_H, 14),
    PINTLE_FOR(MAG, 2, MAG_BYTES),
    PINTLE_READ(EXT_SLV_SENS_DATA_00, MAG_BYTES),
    PINTLE_EXPECT(I2C_MST_STATUS, 1, SLV0_NACK, 0),
    PINTLE_EXPECT(GYRO_CONFIG_1, 1, CONFIG_BITS, FILTERED), /* still the ranges that were set? */
    PINTLE_EXPECT(ACCEL_CONFIG, 1, CONFIG_BITS, FILTERED),
    PINTLE_EXPECT(PWR_MGMT_1, 1, SLEEP | CLKSEL, BEST_CLOCK),
    PINTLE_END(),
};

static const struct pintle_step rest[] PINTLE_TABLE = {
    PINTLE_WRITE(PWR_MGMT_1, 1, AFTER_RESET),
    PINTLE_END(),
};

/* 512 bytes; when they are full the oldest give way, one by one. The magnetometer isn't in it. */
static const struct pintle_step fifo_empty[] PINTLE_TABLE = {
    PINTLE_WRITE(FIFO_RST, 1, 0x1f),
    PINTLE_WRITE(FIFO_RST, 1, 0),
    PINTLE_READ(INT_STATUS_2, 1),
    PINTLE_END(),
};
#define SIX 0x1e
static const struct pintle_step fifo_start[] PINTLE_TABLE = {
    PINTLE_WRITE(FIFO_MODE, 1, 0),
    PINTLE_WRITE(FIFO_EN_2, 1, SIX),
    PINTLE_WRITE(USER_CTRL, 1, FIFO_EN | I2C_MST_EN | I2C_IF_DIS),
    PINTLE_WRITE(INT_ENABLE_2, 1, 0x1f),
    PINTLE_WRITE(FIFO_RST, 1, 0x1f),
    PINTLE_WRITE(FIFO_RST, 1, 0),
    PINTLE_READ(INT_STATUS_2, 1),
    PINTLE_END(),
};
static const struct pintle_step fifo_check[] PINTLE_TABLE = {
    PINTLE_EXPECT(PWR_MGMT_1, 1, SLEEP | CLKSEL, BEST_CLOCK),
    PINTLE_EXPECT(USER_CTRL, 1, 0xff, FIFO_EN | I2C_MST_EN | I2C_IF_DIS),
    PINTLE_EXPECT(FIFO_EN_2, 1, 0xff, SIX),
    PINTLE_EXPECT(INT_ENABLE_2, 1, 0x1f, 0x1f),
    PINTLE_END(),
};
static const uint32_t periods_ns[] PINTLE_TABLE = { 888889, 1777778, 4444444, 8888889, 17777778 };
static const struct pintle_fifo fifo PINTLE_TABLE = { .start = fifo_start,
                                                      .empty = fifo_empty,
                                                      .check = fifo_check,
                                                      .periods_ns = periods_ns,
                                                      .count_reg = FIFO_COUNTH,
                                                      .count_mask = 0x1fff,
                                                      .data_reg = FIFO_R_W,
                                                      .over_reg = INT_STATUS_2,
                                                      .over_mask = 0x1f,
                                                      .depth = 512 / 12,
                                                      .channels = 0x3f,
                                                      .count_width = 2,
                                                      .per_count = 12,
                                                      .record = 12,
                                                      .at_once = 4,
                                                      .torn = 1,
                                                      .rate = PINTLE_ICM20948_RATE };
static const struct pintle_abilities abilities PINTLE_TABLE = { .fifo = &fifo };

/* The codes of both ranges are 0 to 3, those of both filters the same, too. */
PINTLE_OPTIONS(ranges, PINTLE_ICM20948_ACCEL_RANGE_OPTIONS);
PINTLE_FACTORS(accel_factors, PINTLE_ICM20948_ACCEL_RANGE_OPTIONS);
PINTLE_FACTORS(gyro_factors, PINTLE_ICM20948_GYRO_RANGE_OPTIONS);
PINTLE_OPTIONS(filters, PINTLE_ICM20948_ACCEL_FILTER_OPTIONS);

PINTLE_OPTIONS(rates, PINTLE_ICM20948_RATE_OPTIONS);
static const struct pintle_option delays[] PINTLE_TABLE = {
    { 15, 0 }, { 7, 0 }, { 2, 0 }, { 1, 0 }, { 0, 0 }
};

static const struct pintle_setting settings[] PINTLE_TABLE = {
    { ACCEL_CONFIG, 1, 4, PINTLE_ICM20948_2_G, ranges, accel_factors },
    { ACCEL_CONFIG, 3, 7, PINTLE_ICM20948_ACCEL_11_5_HZ, filters, NULL },
    { GYRO_CONFIG_1, 1, 4, PINTLE_ICM20948_250_DEG_S, ranges, gyro_factors },
    { GYRO_CONFIG_1, 3, 7, PINTLE_ICM20948_GYRO_11_6_HZ, filters, NULL },
    { GYRO_SMPLRT_DIV, 0, 5, PINTLE_ICM20948_112_5_HZ, rates, NULL },
    { ACCEL_SMPLRT_DIV_2, 0, 5, PINTLE_ICM20948_RATE, rates, NULL },
    { I2C_SLV4_CTRL, 0, 5, PINTLE_ICM20948_RATE, delays, NULL },
};

#define ROW(per_count)                                                                             \
    {                                                                                              \
        .bytes = 2, .flags = PINTLE_LINEAR_SIGNED, .scale = (float)(per_count), .lowest = -32768,  \
        .highest = 32767                                                                           \
    }
#define RADIAN 57.29577951
static const struct pintle_linear accel PINTLE_TABLE = ROW(9.80665 / 16384);
static const struct pintle_linear rate PINTLE_TABLE = ROW(1 / (131 * RADIAN));
/* Section 3.4: 333.87 counts a degree from 21 degC. */
static const struct pintle_linear temperature PINTLE_TABLE = { .bytes = 2,
                                                               .flags = PINTLE_LINEAR_SIGNED,
                                                               .scale = (float)(1 / 333.87),
                                                               .zero = 21,
                                                               .lowest = -32768,
                                                               .highest = 32767 };
/* Section 3.3: 0.15 uT a count, low byte first; section 12: x is the accelerometer's, y and z are
 * turned round. Where it isn't new, and where the sensor ran out of its range. */
#define MAG_MARKS(name, before)                                                                    \
    static const struct pintle_mark name[] PINTLE_TABLE = {                                        \
        PINTLE_UNLESS(-(before), DRDY, DRDY, STALE),                                               \
        PINTLE_MARK(8 - (before), HOFL, HOFL, SATURATED),                                          \
        PINTLE_MARKS_END(),                                                                        \
    }
MAG_MARKS(marks_x, 1);
MAG_MARKS(marks_y, 3);
MAG_MARKS(marks_z, 5);
#define MAG_ROW(sign, its_marks)                                                                   \
    {                                                                                              \
        .bytes = 2, .flags = PINTLE_LINEAR_SIGNED | PINTLE_LINEAR_LITTLE_ENDIAN,                   \
        .scale = (sign)*0.15e-6f, .lowest = -32752, .highest = 32752, .marks = (its_marks)         \
    }
static const struct pintle_linear mag_x PINTLE_TABLE = MAG_ROW(1, marks_x);
static const struct pintle_linear mag_y PINTLE_TABLE = MAG_ROW(-1, marks_y);
static const struct pintle_linear mag_z PINTLE_TABLE = MAG_ROW(-1, marks_z);

#define ACCEL(name, first)                                                                         \
    PINTLE_CHANNEL(name, ACCELERATION, 4, -156.9064f, 156.9064f, &accel, .at = (first),            \
                   .scaled_by = 1 << PINTLE_ICM20948_ACCEL_RANGE)
#define RATE(name, first)                                                                          \
    PINTLE_CHANNEL(name, ANGULAR_RATE, 4, -34.9066f, 34.9066f, &rate, .at = (first),               \
                   .scaled_by = 1 << PINTLE_ICM20948_GYRO_RANGE)
#define FLUX(name, first, row)                                                                     \
    PINTLE_CHANNEL(name, FLUX_DENSITY, 7, -4.9128e-3f, 4.9128e-3f, row, .at = (first), .input = MAG)
static const struct pintle_channel channels[] PINTLE_TABLE = {
    ACCEL("accel-x", 0),
    ACCEL("accel-y", 2),
    ACCEL("accel-z", 4),
    RATE("rate-x", 6),
    RATE("rate-y", 8),
    RATE("rate-z", 10),
    PINTLE_CHANNEL("temperature", TEMPERATURE, 2, -40, 85, &temperature, .at = 12),
    FLUX("mag-x", 15, &mag_x),
    FLUX("mag-y", 17, &mag_y),
    FLUX("mag-z", 19, &mag_z),
};

/* A chip that lost its supply comes up asleep, with zeros in all data registers. */
const struct pintle_part pintle_icm20948 PINTLE_TABLE = {
    .name = "ICM20948",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_ONES_SILENT | PINTLE_PART_ZEROS_SILENT,
    .raw_size = 14 + MAG_BYTES,
    .channel_count = 10,
    .setting_count = 5,
    .further_count = 2,
    .link = &pintle_link_spi,
    .spi = &spi,
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
