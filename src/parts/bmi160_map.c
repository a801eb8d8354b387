/* BMI160 for people, from datasheet BST-BMI160-DS000. */
#include "pintle/parts/bmi160.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x68, "SDO to GND, CSB to VDDIO" },
                                              { 0x69, "SDO to VDDIO, CSB to VDDIO" } };

OPTION_NAMES(accel_ranges, PINTLE_BMI160_ACCEL_RANGE_OPTIONS);
OPTION_NAMES(gyro_ranges, PINTLE_BMI160_GYRO_RANGE_OPTIONS);
OPTION_NAMES(rates, PINTLE_BMI160_RATE_OPTIONS);

static const char *const rate_effects[] = { "noise 0.6 mg", "0.8 mg", "1.1 mg", "1.6 mg",
                                            "2.3 mg",       "3.2 mg", "4.7 mg" };
static const struct pintle_setting_text settings[] = {
    { .name = "accel-range",
      .meaning = "full scale of the accelerometer",
      .options = accel_ranges },
    { .name = "gyro-range", .meaning = "full scale of the gyroscope", .options = gyro_ranges },
    { .name = "rate",
      .meaning = "samples per second of both",
      .options = rates,
      .effects = rate_effects },
};

#define ACCEL(symbol)                                                                              \
    {                                                                                              \
        (symbol), "a = raw / 16384 g (2 g), / 8192, / 4096, / 2048", "0.06 mg at 2 g",             \
            "40 mg (typical), 1 percent", 0.6f, -8, 8, 2.2f                                        \
    }
#define GYRO(symbol)                                                                               \
    {                                                                                              \
        (symbol), "w = raw / 16.4 deg/s (2000 deg/s), / 32.8, / 65.6, / 131.2, / 262.4",           \
            "0.061 deg/s at 2000 deg/s", "3 deg/s (typical), 3 percent", 0.1f, -1, 1, 1.2f         \
    }
static const struct pintle_channel_text channels[] = {
    GYRO("GYR_X"),
    GYRO("GYR_Y"),
    GYRO("GYR_Z"),
    ACCEL("ACC_X"),
    ACCEL("ACC_Y"),
    ACCEL("ACC_Z"),
    { "TEMPERATURE", "T = 23 + TEMPERATURE / 512", "0.002 degC", "2 degC, of the chip itself", 2,
      -40, 85, 2 },
};

static const struct pintle_stretch data[] = {
    { "0Ch", 6, "angular rate x, y, z, low byte first" },
    { "12h", 6, "acceleration x, y, z" },
    { "20h", 2, "temperature" },
};

static const char *const powers[] = { "suspended", "normal", "low power", "fast start-up", NULL };

static const struct pintle_field pmu[] = {
    { "acc_pmu_status", 4, 2, "accelerometer", powers },
    { "gyr_pmu_status", 2, 2, "gyroscope", powers },
    { "mag_if_pmu_status", 0, 2, "interface to a magnetometer", powers },
};
static const struct pintle_field status[] = {
    { "drdy_acc", 7, 1, "a sample is there", pintle_priv_no_yes },
    { "drdy_gyr", 6, 1, "a sample is there", pintle_priv_no_yes },
};
static const struct pintle_field acc_conf[] = {
    { "acc_us", 7, 1, "undersampling", pintle_priv_no_yes },
    { "acc_bwp", 4, 3, "filter; 2 is the normal one", NULL },
    { "acc_odr", 0, 4, "rate: 8 is 100 Hz, each more doubles it", NULL },
};
static const struct pintle_field gyr_conf[] = {
    { "gyr_bwp", 4, 2, "filter; 2 is the normal one", NULL },
    { "gyr_odr", 0, 4, "rate: 8 is 100 Hz, each more doubles it", NULL },
};
static const struct pintle_field acc_range[] = {
    { "acc_range", 0, 4, "3 2 g, 5 4 g, 8 8 g, 12 16 g", NULL },
};
static const struct pintle_field gyr_range[] = {
    { "gyr_range", 0, 3, "0 2000 deg/s, each more halves it", NULL },
};

static const struct pintle_field fifo[] = {
    { "fifo_gyr_en", 7, 1, "the gyroscope's", pintle_priv_no_yes },
    { "fifo_acc_en", 6, 1, "the accelerometer's", pintle_priv_no_yes },
    { "fifo_mag_en", 5, 1, "the auxiliary bus's", pintle_priv_no_yes },
    { "fifo_header_en", 4, 1, "with headers", pintle_priv_no_yes },
    { "fifo_tag_int1_en", 3, 1, "note the pin INT1", pintle_priv_no_yes },
    { "fifo_tag_int2_en", 2, 1, "note the pin INT2", pintle_priv_no_yes },
    { "fifo_time_en", 1, 1, "the time behind the last frame", pintle_priv_no_yes },
};

static const struct pintle_map_reg regs[] = {
    { "CHIP_ID", RO(0x00, 1), 0xd1, "D1h", NO_FIELDS },
    { "PMU_STATUS", RO(0x03, 1), 0, "power modes", FIELDS(pmu) },
    { "GYR_X", RO(0x0c, 2), 0, "last sample", NO_FIELDS },
    { "GYR_Y", RO(0x0e, 2), 0, "last sample", NO_FIELDS },
    { "GYR_Z", RO(0x10, 2), 0, "last sample", NO_FIELDS },
    { "ACC_X", RO(0x12, 2), 0, "last sample", NO_FIELDS },
    { "ACC_Y", RO(0x14, 2), 0, "last sample", NO_FIELDS },
    { "ACC_Z", RO(0x16, 2), 0, "last sample", NO_FIELDS },
    { "STATUS", RO(0x1b, 1), 0, "data", FIELDS(status) },
    { "TEMPERATURE", RO(0x20, 2), 0x8000, "512 counts a degree from 23 degC", NO_FIELDS },
    { "FIFO_LENGTH", RO(0x22, 2), 0, "bytes in the FIFO", NO_FIELDS },
    { "FIFO_DATA", PINTLE_REG(0x24, 1, PINTLE_REG_READ_ONLY | PINTLE_REG_READ_CLEARS), 0x80,
      "the FIFO's oldest byte", NO_FIELDS },
    { "ACC_CONF", RW(0x40, 1), 0x28, "rate, filter", FIELDS(acc_conf) },
    { "ACC_RANGE", RW_BUT(0x41, 1, 0xf0), 0x03, "full scale", FIELDS(acc_range) },
    { "GYR_CONF", RW_BUT(0x42, 1, 0xc0), 0x28, "rate, filter", FIELDS(gyr_conf) },
    { "GYR_RANGE", RW_BUT(0x43, 1, 0xf8), 0x00, "full scale", FIELDS(gyr_range) },
    { "FIFO_CONFIG_1", RW_BUT(0x47, 1, 0x01), 0x10, "what goes into the FIFO", FIELDS(fifo) },
    { "CMD", WO(0x7e, 1), 0,
      "11h, 15h: accelerometer, gyroscope on; B0h: empty the FIFO; B6h: restart", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_bmi160 = {
    .part = &pintle_bmi160,
    .what = "accelerometer and gyroscope, six axes",
    .source = "BST-BMI160-DS000",
    .supply_lowest = 1.71f,
    .supply_highest = 3.6f,
    .working_ua = 925,
    .resting_ua = 3,
    .straps = straps,
    .proof = "register CHIP_ID reads D1h",
    .proof_is_certain = 1,
    .known_for = "CSB must be tied high, or it listens to SPI; its gyroscope takes 80 ms to start",
    .settings = settings,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
