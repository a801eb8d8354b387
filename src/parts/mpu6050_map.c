/* MPU6050 for people, from RM-MPU-6000A-00 and PS-MPU-6000A-00. */
#include "pintle/parts/mpu6050.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x68, "AD0 to GND" }, { 0x69, "AD0 to VLOGIC" } };

OPTION_NAMES(accel_ranges, PINTLE_MPU6050_ACCEL_RANGE_OPTIONS);
OPTION_NAMES(gyro_ranges, PINTLE_MPU6050_GYRO_RANGE_OPTIONS);
OPTION_NAMES(filters, PINTLE_MPU6050_FILTER_OPTIONS);
OPTION_NAMES(rates, PINTLE_MPU6050_RATE_OPTIONS);

static const char *const filter_effects[] = { "noise 5.4 mg, 0.068 deg/s; 2.0 ms late",
                                              "3.9 mg, 0.048 deg/s; 3.0 ms",
                                              "2.7 mg, 0.033 deg/s; 4.9 ms",
                                              "1.8 mg, 0.023 deg/s; 8.5 ms",
                                              "1.3 mg, 0.016 deg/s; 13.8 ms",
                                              "0.9 mg, 0.011 deg/s; 19.0 ms" };
static const struct pintle_setting_text settings[] = {
    { .name = "accel-range",
      .meaning = "full scale of the accelerometer",
      .options = accel_ranges },
    { .name = "gyro-range", .meaning = "full scale of the gyroscope", .options = gyro_ranges },
    { .name = "filter",
      .meaning = "bandwidth of both",
      .options = filters,
      .effects = filter_effects },
    { .name = "rate", .meaning = "samples per second", .options = rates },
};

#define ACCEL(symbol)                                                                              \
    {                                                                                              \
        (symbol), "a = raw / 16384 g (2 g), / 8192, / 4096, / 2048", "0.06 mg at 2 g",             \
            "50 mg on x and y, 80 mg on z, 3 percent (typical)", 1.0f, -8, 8, 5.6f                 \
    }
#define GYRO(symbol)                                                                               \
    {                                                                                              \
        (symbol), "w = raw / 131 deg/s (250 deg/s), / 65.5, / 32.8, / 16.4",                       \
            "0.0076 deg/s at 250 deg/s", "20 deg/s and 3 percent", 0.4f, -1, 1, 1.5f               \
    }
static const struct pintle_channel_text channels[] = {
    ACCEL("ACCEL_XOUT"),
    ACCEL("ACCEL_YOUT"),
    ACCEL("ACCEL_ZOUT"),
    { "TEMP_OUT", "T = TEMP_OUT / 340 + 36.53", "0.003 degC", "3 degC, of the chip itself", 3, -40,
      85, 3 },
    GYRO("GYRO_XOUT"),
    GYRO("GYRO_YOUT"),
    GYRO("GYRO_ZOUT"),
};

static const struct pintle_stretch data[] = {
    { "3Ah", 1, "INT_STATUS: is the sample new? May be left out" },
    { "3Bh", 6, "acceleration x, y, z, high byte first" },
    { "41h", 2, "temperature" },
    { "43h", 6, "angular rate x, y, z" },
};

static const char *const clocks[] = { "8 MHz inside", "gyroscope x", "gyroscope y",
                                      "gyroscope z",  "32.768 kHz",  "19.2 MHz",
                                      "reserved",     "stopped",     NULL };
static const char *const bands[] = { "260Hz", "184Hz", "94Hz",     "44Hz", "21Hz",
                                     "10Hz",  "5Hz",   "reserved", NULL };

static const struct pintle_field config[] = {
    { "EXT_SYNC_SET", 3, 3, "where the FSYNC pin is noted", NULL },
    { "DLPF_CFG", 0, 3, "bandwidth", bands },
};
static const struct pintle_field gyro[] = {
    { "XG_ST", 7, 1, "self-test x", pintle_priv_no_yes },
    { "YG_ST", 6, 1, "self-test y", pintle_priv_no_yes },
    { "ZG_ST", 5, 1, "self-test z", pintle_priv_no_yes },
    { "FS_SEL", 3, 2, "full scale", gyro_ranges },
};
static const struct pintle_field accel[] = {
    { "XA_ST", 7, 1, "self-test x", pintle_priv_no_yes },
    { "YA_ST", 6, 1, "self-test y", pintle_priv_no_yes },
    { "ZA_ST", 5, 1, "self-test z", pintle_priv_no_yes },
    { "AFS_SEL", 3, 2, "full scale", accel_ranges },
};
static const struct pintle_field interrupts[] = {
    { "FIFO_OFLOW", 4, 1, "the FIFO ran full", pintle_priv_no_yes },
    { "I2C_MST", 3, 1, "the auxiliary bus", pintle_priv_no_yes },
    { "DATA_RDY", 0, 1, "a sample is there", pintle_priv_no_yes },
};
static const struct pintle_field pin[] = {
    { "INT_LEVEL", 7, 1, "it is active low", pintle_priv_no_yes },
    { "INT_OPEN", 6, 1, "it is open drain", pintle_priv_no_yes },
    { "LATCH_INT_EN", 5, 1, "until the status is read; else for 50 us", pintle_priv_no_yes },
    { "INT_RD_CLEAR", 4, 1, "until anything is read", pintle_priv_no_yes },
    { "FSYNC_INT_LEVEL", 3, 1, "FSYNC is active low", pintle_priv_no_yes },
    { "FSYNC_INT_EN", 2, 1, "FSYNC interrupts", pintle_priv_no_yes },
    { "I2C_BYPASS_EN", 1, 1, "the auxiliary bus is joined to the main one", pintle_priv_no_yes },
};
static const struct pintle_field control[] = {
    { "FIFO_EN", 6, 1, "the FIFO", pintle_priv_no_yes },
    { "I2C_MST_EN", 5, 1, "the auxiliary bus", pintle_priv_no_yes },
    { "FIFO_RESET", 2, 1, "write 1: empty the FIFO", NULL },
    { "SIG_COND_RESET", 0, 1, "write 1: reset the signal paths", NULL },
};
static const struct pintle_field power[] = {
    { "DEVICE_RESET", 7, 1, "write 1: restart", NULL },
    { "SLEEP", 6, 1, "asleep", pintle_priv_no_yes },
    { "CYCLE", 5, 1, "wakes for single samples", pintle_priv_no_yes },
    { "TEMP_DIS", 3, 1, "no thermometer", pintle_priv_no_yes },
    { "CLKSEL", 0, 3, "clock", clocks },
};

static const struct pintle_map_reg regs[] = {
    { "SMPLRT_DIV", RW(0x19, 1), 0, "1 kHz / (1 + this)", NO_FIELDS },
    { "CONFIG", RW_BUT(0x1a, 1, 0xc0), 0, "filter", FIELDS(config) },
    { "GYRO_CONFIG", RW_BUT(0x1b, 1, 0x07), 0, "gyroscope", FIELDS(gyro) },
    { "ACCEL_CONFIG", RW_BUT(0x1c, 1, 0x07), 0, "accelerometer", FIELDS(accel) },
    { "FIFO_EN", RW_BUT(0x23, 1, 0x07), 0, "what goes into the FIFO", NO_FIELDS },
    { "INT_PIN_CFG", RW_BUT(0x37, 1, 0x01), 0, "how the INT pin shows them", FIELDS(pin) },
    { "INT_ENABLE", RW_BUT(0x38, 1, 0xe6), 0, "interrupts", FIELDS(interrupts) },
    { "INT_STATUS", PINTLE_REG(0x3a, 1, PINTLE_REG_READ_ONLY | PINTLE_REG_READ_CLEARS), 0,
      "what happened", FIELDS(interrupts) },
    { "ACCEL_XOUT", RO(0x3b, 2), 0, "last sample", NO_FIELDS },
    { "ACCEL_YOUT", RO(0x3d, 2), 0, "last sample", NO_FIELDS },
    { "ACCEL_ZOUT", RO(0x3f, 2), 0, "last sample", NO_FIELDS },
    { "TEMP_OUT", RO(0x41, 2), 0, "last sample", NO_FIELDS },
    { "GYRO_XOUT", RO(0x43, 2), 0, "last sample", NO_FIELDS },
    { "GYRO_YOUT", RO(0x45, 2), 0, "last sample", NO_FIELDS },
    { "GYRO_ZOUT", RO(0x47, 2), 0, "last sample", NO_FIELDS },
    { "USER_CTRL", RW_ACTS(0x6a, 1, 0x05, 0x9a), 0, "FIFO and resets", FIELDS(control) },
    { "PWR_MGMT_1", RW_ACTS(0x6b, 1, 0x80, 0x10), 0x40, "power and clock", FIELDS(power) },
    { "FIFO_COUNT", RO(0x72, 2), 0, "bytes in the FIFO", NO_FIELDS },
    { "FIFO_R_W", PINTLE_REG(0x74, 1, PINTLE_REG_READ_ONLY | PINTLE_REG_READ_CLEARS), 0,
      "the FIFO's oldest byte", NO_FIELDS },
    { "WHO_AM_I", RO(0x75, 1), 0x68, "68h", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_mpu6050 = {
    .part = &pintle_mpu6050,
    .what = "accelerometer and gyroscope, six axes",
    .source = "RM-MPU-6000A-00 rev 4.2, PS-MPU-6000A-00 rev 3.4",
    .supply_lowest = 2.375f,
    .supply_highest = 3.46f,
    .working_ua = 3800,
    .resting_ua = 5,
    .straps = straps,
    .proof = "register WHO_AM_I reads 68h",
    .proof_is_certain = 1,
    .known_for = "a DS3231 or DS1307 has its address; its thermometer measures the chip",
    .settings = settings,
    .channels = channels,
    .data = data,
    .usual_first = 1,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
