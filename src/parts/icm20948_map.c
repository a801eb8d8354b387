/* ICM-20948 for people, from datasheet DS-000189. */
#include "parts/map.h"

static const char *const accel_ranges[] = { "2g", "4g", "8g", "16g", NULL };
static const char *const gyro_ranges[] = { "250deg/s", "500deg/s", "1000deg/s", "2000deg/s", NULL };
static const char *const accel_filters[] = { "473Hz", "246Hz",  "111Hz", "50Hz",
                                             "24Hz",  "11.5Hz", "5.7Hz", NULL };
static const char *const gyro_filters[] = { "361Hz", "152Hz",  "120Hz", "51Hz",
                                            "24Hz",  "11.6Hz", "5.7Hz", NULL };

static const struct pintle_setting_text settings[] = {
    { "accel-range", "full scale of the accelerometer", accel_ranges },
    { "accel-filter", "its bandwidth (3 dB)", accel_filters },
    { "gyro-range", "full scale of the gyroscope", gyro_ranges },
    { "gyro-filter", "its bandwidth (3 dB)", gyro_filters },
};

#define ACCEL(symbol)                                                                              \
    {                                                                                              \
        (symbol), "a = raw x g / 16384 (2 g), / 8192, / 4096, / 2048", "0.06 mg at 2 g",           \
            "25 mg and 0.5 % of the value", 0.3f, -20, 20, 1.1f                                    \
    }
#define RATE(symbol)                                                                               \
    {                                                                                              \
        (symbol), "w = raw deg/s / 131 (250 deg/s), / 65.5, / 32.8, / 16.4",                       \
            "0.008 deg/s at 250 deg/s", "5 deg/s and 1.5 % of the value", 0.09f, -4.4f, 4.4f,      \
            0.62f                                                                                  \
    }
static const struct pintle_channel_text channels[] = {
    ACCEL("ACCEL_XOUT"), ACCEL("ACCEL_YOUT"), ACCEL("ACCEL_ZOUT"),
    RATE("GYRO_XOUT"),   RATE("GYRO_YOUT"),   RATE("GYRO_ZOUT"),
};

static const struct pintle_stretch data[] = {
    { "2Dh", 6, "accelerometer x, y, z, high byte first" },
    { "33h", 6, "gyroscope x, y, z, high byte first" },
};

static const char *const clocks[] = { "internal 20 MHz", "best there is", NULL };

static const struct pintle_field user_ctrl[] = {
    { "DMP_EN", 7, 1, "motion processor", pintle_priv_no_yes },
    { "FIFO_EN", 6, 1, "FIFO", pintle_priv_no_yes },
    { "I2C_MST_EN", 5, 1, "auxiliary bus", pintle_priv_no_yes },
    { "I2C_IF_DIS", 4, 1, "SPI only", pintle_priv_no_yes },
};
static const struct pintle_field pwr_mgmt_1[] = {
    { "DEVICE_RESET", 7, 1, "write 1: reset", NULL },
    { "SLEEP", 6, 1, "asleep", pintle_priv_no_yes },
    { "LP_EN", 5, 1, "low power", pintle_priv_no_yes },
    { "TEMP_DIS", 3, 1, "thermometer off", pintle_priv_no_yes },
    { "CLKSEL", 0, 3, "clock", clocks },
};
static const struct pintle_field data_ready[] = {
    { "RAW_DATA_0_RDY", 0, 1, "new data; reading clears it", pintle_priv_no_yes },
};
static const struct pintle_field gyro_config[] = {
    { "GYRO_DLPFCFG", 3, 3, "filter", NULL },
    { "GYRO_FS_SEL", 1, 2, "full scale", gyro_ranges },
    { "GYRO_FCHOICE", 0, 1, "filter on", pintle_priv_no_yes },
};
static const struct pintle_field accel_config[] = {
    { "ACCEL_DLPFCFG", 3, 3, "filter", NULL },
    { "ACCEL_FS_SEL", 1, 2, "full scale", accel_ranges },
    { "ACCEL_FCHOICE", 0, 1, "filter on", pintle_priv_no_yes },
};
static const struct pintle_field counts[] = {
    { "OUT", 0, 16, "two's complement", NULL },
};

#define OUT(name, address)                                                                         \
    {                                                                                              \
        (name), RO((address), 2), 0, "last sample", FIELDS(counts)                                 \
    }
static const struct pintle_map_reg regs[] = {
    { "WHO_AM_I", RO(0x0000, 1), 0xea, "EAh", NO_FIELDS },
    { "USER_CTRL", RW_ACTS(0x0003, 1, 0x0e, 0x01), 0x00, "what is switched on", FIELDS(user_ctrl) },
    { "LP_CONFIG", RW_BUT(0x0005, 1, 0x8f), 0x40, "duty-cycled modes", NO_FIELDS },
    { "PWR_MGMT_1", RW_ACTS(0x0006, 1, 0x80, 0x10), 0x41, "reset, sleep, clock",
      FIELDS(pwr_mgmt_1) },
    { "PWR_MGMT_2", RW_BUT(0x0007, 1, 0xc0), 0x00, "axes switched off", NO_FIELDS },
    { "INT_STATUS_1", PINTLE_REG(0x001a, 1, PINTLE_REG_READ_ONLY | PINTLE_REG_READ_CLEARS), 0x00,
      "data ready", FIELDS(data_ready) },
    OUT("ACCEL_XOUT", 0x002d),
    OUT("ACCEL_YOUT", 0x002f),
    OUT("ACCEL_ZOUT", 0x0031),
    OUT("GYRO_XOUT", 0x0033),
    OUT("GYRO_YOUT", 0x0035),
    OUT("GYRO_ZOUT", 0x0037),
    OUT("TEMP_OUT", 0x0039),
    { "GYRO_SMPLRT_DIV", RW(0x0200, 1), 0x00, "1.1 kHz / (1 + this)", NO_FIELDS },
    { "GYRO_CONFIG_1", RW_BUT(0x0201, 1, 0xc0), 0x01, "range and filter", FIELDS(gyro_config) },
    { "ACCEL_SMPLRT_DIV", RW_BUT(0x0210, 2, 0xf000), 0x0000, "1.125 kHz / (1 + this)", NO_FIELDS },
    { "ACCEL_CONFIG", RW_BUT(0x0214, 1, 0xc0), 0x01, "range and filter", FIELDS(accel_config) },
};

const struct pintle_sheet pintle_priv_icm20948 = {
    .part = &pintle_icm20948,
    .what = "accelerometer and gyroscope, three axes each",
    .source = "DS-000189",
    .supply_lowest = 1.71f,
    .supply_highest = 3.6f,
    .proof = "register WHO_AM_I reads EAh",
    .proof_is_certain = 1,
    .known_for =
        "after power-up it sleeps and listens on I2C as well: zeros throughout say that its set-up "
        "was lost with its supply",
    .settings = settings,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
