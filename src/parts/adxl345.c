/* ADXL345, datasheet rev. G (registers: table 19). */
#include "pintle/parts/adxl345.h"

#include "pintle/ability.h"
#include "pintle/burst.h"

#define DEVID 0x00
#define OFSX 0x1e /* and y, z */
#define BW_RATE 0x2c
#define POWER_CTL 0x2d
#define INT_ENABLE 0x2e
#define INT_SOURCE 0x30
#define DATA_FORMAT 0x31
#define DATAX0 0x32
#define FIFO_CTL 0x38
#define FIFO_STATUS 0x39

#define MEASURE 0x08    /* POWER_CTL */
#define DATA_READY 0x80 /* INT_ENABLE, INT_SOURCE */
#define OVERRUN 0x01
#define STREAM 0x80 /* FIFO_CTL */
#define AXES 6      /* bytes */

static const uint8_t addresses[] PINTLE_TABLE = { 0x53, 0x1d };

PINTLE_OPTIONS(resolutions, PINTLE_ADXL345_RESOLUTION_OPTIONS);
PINTLE_OPTIONS(ranges, PINTLE_ADXL345_RANGE_OPTIONS);
PINTLE_OPTIONS(rates, PINTLE_ADXL345_RATE_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_ADXL345_RESOLUTION] = { DATA_FORMAT, 3, 2, PINTLE_ADXL345_FULL, resolutions, NULL },
    [PINTLE_ADXL345_RANGE] = { DATA_FORMAT, 0, 4, PINTLE_ADXL345_2_G, ranges, NULL },
    [PINTLE_ADXL345_RATE] = { BW_RATE, 0, 9, PINTLE_ADXL345_100_HZ, rates, NULL },
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(DEVID, 1, 0xff, 0xe5),
    PINTLE_END(),
};

/* It has no reset: everything is written that bears on a sample, while it stands by; a sample from
 * before is thrown away. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE(POWER_CTL, 1, 0),
    PINTLE_WRITE(OFSX, 3, 0),
    PINTLE_WRITE(BW_RATE, 1, 0),
    PINTLE_WRITE(INT_ENABLE, 2, DATA_READY), /* and INT_MAP: to INT1 */
    PINTLE_WRITE(DATA_FORMAT, 1, 0),
    PINTLE_WRITE(FIFO_CTL, 1, 0),
    PINTLE_READ(DATAX0, AXES),
    PINTLE_WRITE(POWER_CTL, 1, MEASURE),
    PINTLE_WAIT_SETTINGS(1100),
    PINTLE_READ(DATAX0, AXES),
    PINTLE_EXPECT(DATA_FORMAT, 1, 0xef,
                  0), /* power lost since it was written, and put to measure? */
    PINTLE_END(),
};

static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_POLL(INT_SOURCE, DATA_READY, DATA_READY, 200),
    PINTLE_READ(DATAX0, AXES),
    PINTLE_EXPECT(DATA_FORMAT, 1, 0xef, 0),     /* still the range that was set? */
    PINTLE_EXPECT(POWER_CTL, 1, 0xff, MEASURE), /* after power-up it stands by */
    PINTLE_END(),
};

static const struct pintle_step rest[] PINTLE_TABLE = {
    PINTLE_WRITE(POWER_CTL, 1, 0),
    PINTLE_END(),
};

/* "FIFO": 32 samples, each moving on when all of it was read; when they are full the oldest gives
 * way. Leaving the bypass empties it. */
static const struct pintle_step fifo_start[] PINTLE_TABLE = {
    PINTLE_WRITE(FIFO_CTL, 1, 0),
    PINTLE_WRITE(FIFO_CTL, 1, STREAM),
    PINTLE_END(),
};
static const struct pintle_step fifo_check[] PINTLE_TABLE = {
    PINTLE_EXPECT(POWER_CTL, 1, 0xff, MEASURE),
    PINTLE_EXPECT(FIFO_CTL, 1, 0xff, STREAM),
    PINTLE_END(),
};
static const uint32_t periods_ns[] PINTLE_TABLE = { 80000000, 40000000, 20000000, 10000000, 5000000,
                                                    2500000,  1250000,  625000,   312500 };

static const struct pintle_fifo fifo PINTLE_TABLE = { .start = fifo_start,
                                                      .empty = fifo_start,
                                                      .check = fifo_check,
                                                      .periods_ns = periods_ns,
                                                      .count_reg = FIFO_STATUS,
                                                      .count_mask = 0x3f,
                                                      .data_reg = DATAX0,
                                                      .over_reg = INT_SOURCE,
                                                      .over_mask = OVERRUN,
                                                      .depth = 32,
                                                      .channels = 0x07,
                                                      .count_width = 1,
                                                      .per_count = 1,
                                                      .record = AXES,
                                                      .at_once = 1,
                                                      .rate = PINTLE_ADXL345_RATE };
static const struct pintle_abilities abilities PINTLE_TABLE = { .fifo = &fifo };

/* Table 1: 256, 128, 64, 32 counts per g with ten bits; 256 at every range in full resolution. Data
 * are right-justified, low byte first, the sign extended. */
#define ROW(ends, per_g)                                                                           \
    {                                                                                              \
        .bytes = 2, .flags = PINTLE_LINEAR_SIGNED | PINTLE_LINEAR_LITTLE_ENDIAN,                   \
        .scale = (float)(9.80665 / (per_g)), .lowest = -(ends), .highest = (ends)-1                \
    }
static const struct pintle_linear rows[] PINTLE_TABLE = {
    ROW(512, 256), ROW(512, 128),  ROW(512, 64),   ROW(512, 32),
    ROW(512, 256), ROW(1024, 256), ROW(2048, 256), ROW(4096, 256),
};

#define AXIS(name, first)                                                                          \
    PINTLE_CHANNEL(name, ACCELERATION, 3, -156.9064f, 156.9064f, rows, .at = (first),              \
                   .rows_by = 1 << PINTLE_ADXL345_RESOLUTION | 1 << PINTLE_ADXL345_RANGE)
static const struct pintle_channel channels[] PINTLE_TABLE = { AXIS("accel-x", 0),
                                                               AXIS("accel-y", 2),
                                                               AXIS("accel-z", 4) };

const struct pintle_part pintle_adxl345 PINTLE_TABLE = {
    .name = "ADXL345",
    .flags = PINTLE_PART_ONES_SILENT | PINTLE_PART_ZEROS_SILENT,
    .raw_size = AXES,
    .channel_count = 3,
    .setting_count = 3,
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
};
