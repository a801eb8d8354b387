/* LIS331DLH and LIS331HH, datasheets DocID15094 and DocID16366 (registers: section 7; SPI: section
 * 5.2). They differ in their ranges only. */
#include "pintle/parts/lis331.h"

#include <string.h>

#include "pintle/reg.h"

#define WHO_AM_I 0x0f
#define CTRL_REG1 0x20
#define CTRL_REG2 0x21
#define CTRL_REG3 0x22
#define READY_ON_INT1 0x02
#define CTRL_REG4 0x23
#define CTRL_REG5 0x24
#define STATUS_REG 0x27
#define OUT_X_L 0x28

#define NORMAL 0x27 /* CTRL_REG1: normal mode, all three axes */
#define BDU 0x80    /* CTRL_REG4: both bytes of a value belong together */
#define ZYXDA 0x08
#define AXES 6 /* bytes */

static const struct pintle_spi_rules spi PINTLE_TABLE = {
    .top_hz = 10000000,
    .mode = 3,
    .read_bit = 0x80,
    .burst_bit = 0x40,
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(WHO_AM_I, 1, 0xff, 0x32),
    PINTLE_END(),
};

/* One that was told to speak over three wires sends on the other line. */
static enum pintle_status unlock(struct pintle_sensor *sensor)
{
    struct pintle_reg reg; /* assigned: an initializer would be a constant in RAM on AVR */
    memset(&reg, 0, sizeof reg);
    reg.address = CTRL_REG4;
    reg.width = 1;
    return pintle_reg_write(sensor, &reg, BDU);
}

/* The part has no reset: everything is written that bears on a sample (filters, byte order,
 * self-test, sleep to wake). Meanwhile it is powered down, and a sample from before is read and
 * thrown away, so that what comes next was measured with these settings. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE(CTRL_REG1, 1, 0),
    PINTLE_WRITE(CTRL_REG2, 1, 0),
    PINTLE_WRITE(CTRL_REG3, 1, READY_ON_INT1),
    PINTLE_WRITE(CTRL_REG4, 1, BDU),
    PINTLE_WRITE(CTRL_REG5, 1, 0),
    PINTLE_READ(OUT_X_L, AXES),
    PINTLE_WRITE(CTRL_REG1, 1, NORMAL),
    PINTLE_WAIT(1000),
    PINTLE_EXPECT(CTRL_REG4, 1, 0xfb, BDU), /* power lost since it was written, and switched on? */
    PINTLE_END(),
};

static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_POLL(STATUS_REG, ZYXDA, ZYXDA, 60),
    PINTLE_READ(OUT_X_L, AXES),
    PINTLE_EXPECT(CTRL_REG4, 1, 0xfb, BDU),    /* still the range that was set? */
    PINTLE_EXPECT(CTRL_REG1, 1, 0xff, NORMAL), /* after power-up it is powered down */
    PINTLE_END(),
};

static const struct pintle_step rest[] PINTLE_TABLE = {
    PINTLE_WRITE(CTRL_REG1, 1, 0),
    PINTLE_END(),
};

PINTLE_OPTIONS(dlh_ranges, PINTLE_LIS331DLH_RANGE_OPTIONS);
PINTLE_OPTIONS(hh_ranges, PINTLE_LIS331HH_RANGE_OPTIONS);
PINTLE_OPTIONS(rates, PINTLE_LIS331_RATE_OPTIONS);
PINTLE_FACTORS(dlh_factors, PINTLE_LIS331DLH_RANGE_OPTIONS);
PINTLE_FACTORS(hh_factors, PINTLE_LIS331HH_RANGE_OPTIONS);

#define SETTINGS(ranges, factors)                                                                  \
    {                                                                                              \
        { CTRL_REG4, 4, 3, 0, ranges, factors },                                                   \
        {                                                                                          \
            CTRL_REG1, 3, 4, PINTLE_LIS331_50_HZ, rates, NULL                                      \
        }                                                                                          \
    }
static const struct pintle_setting dlh_settings[] PINTLE_TABLE = SETTINGS(dlh_ranges, dlh_factors);
static const struct pintle_setting hh_settings[] PINTLE_TABLE = SETTINGS(hh_ranges, hh_factors);

/* Twelve bits, left-justified, low byte first; mg per digit of the lowest range. */
#define ROW(mg)                                                                                    \
    {                                                                                              \
        .bytes = 2, .shift = 4, .flags = PINTLE_LINEAR_SIGNED | PINTLE_LINEAR_LITTLE_ENDIAN,       \
        .scale = (float)((mg)*9.80665e-3), .lowest = -2048, .highest = 2047                        \
    }
static const struct pintle_linear dlh_row PINTLE_TABLE = ROW(1);
static const struct pintle_linear hh_row PINTLE_TABLE = ROW(3);

#define AXIS(name, end, row, first)                                                                \
    PINTLE_CHANNEL(name, ACCELERATION, 3, -(end), end, row, .at = (first),                         \
                   .scaled_by = 1 << PINTLE_LIS331_RANGE)
#define AXES_OF(end, row)                                                                          \
    {                                                                                              \
        AXIS("accel-x", end, row, 0), AXIS("accel-y", end, row, 2), AXIS("accel-z", end, row, 4)   \
    }
static const struct pintle_channel dlh_channels[] PINTLE_TABLE = AXES_OF(78.4532f, &dlh_row);
static const struct pintle_channel hh_channels[] PINTLE_TABLE = AXES_OF(235.3596f, &hh_row);

/* A chip that lost its supply comes up powered down, with zeros in its data registers. */
#define LIS331(title, which, set)                                                                  \
    {                                                                                              \
        .name = title, .flags = PINTLE_PART_ONES_SILENT | PINTLE_PART_ZEROS_SILENT, .raw_size = 6, \
        .channel_count = 3, .setting_count = 2, .link = &pintle_link_spi, .spi = &spi,             \
        .identity = identity, .unlock = unlock, .setup = setup, .measure = measure,                \
        .rare = pintle_part_steps_rare, .rest = rest, .settings = (set), .channels = (which),      \
        .factor = pintle_part_factor                                                               \
    }

const struct pintle_part pintle_lis331dlh PINTLE_TABLE =
    LIS331("LIS331DLH", dlh_channels, dlh_settings);
const struct pintle_part pintle_lis331hh PINTLE_TABLE =
    LIS331("LIS331HH", hh_channels, hh_settings);
