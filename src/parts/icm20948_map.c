/* ICM-20948 for people, from datasheet DS-000189. */
#include "pintle/parts/icm20948.h"

#include "parts/map.h"

OPTION_NAMES(accel_ranges, PINTLE_ICM20948_ACCEL_RANGE_OPTIONS);
OPTION_NAMES(gyro_ranges, PINTLE_ICM20948_GYRO_RANGE_OPTIONS);
OPTION_NAMES(accel_filters, PINTLE_ICM20948_ACCEL_FILTER_OPTIONS);
OPTION_NAMES(gyro_filters, PINTLE_ICM20948_GYRO_FILTER_OPTIONS);

OPTION_NAMES(rates, PINTLE_ICM20948_RATE_OPTIONS);

static const char *const accel_filter_effects[] = { "noise 5.1 mg", "3.7 mg", "2.7 mg", "1.9 mg",
                                                    "1.3 mg",       "1.0 mg", "0.7 mg" };
static const char *const gyro_filter_effects[] = { "noise 0.29 deg/s", "0.21 deg/s", "0.19 deg/s",
                                                   "0.13 deg/s",       "0.09 deg/s", "0.06 deg/s",
                                                   "0.05 deg/s" };
static const struct pintle_setting_text settings[] = {
    { .name = "accel-range",
      .meaning = "full scale of the accelerometer",
      .options = accel_ranges },
    { .name = "accel-filter",
      .meaning = "its bandwidth (3 dB)",
      .options = accel_filters,
      .effects = accel_filter_effects },
    { .name = "gyro-range", .meaning = "full scale of the gyroscope", .options = gyro_ranges },
    { .name = "gyro-filter",
      .meaning = "its bandwidth (3 dB)",
      .options = gyro_filters,
      .effects = gyro_filter_effects },
    { .name = "rate",
      .meaning = "samples per second, but for the magnetometer's",
      .options = rates },
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
#define FLUX(symbol)                                                                               \
    {                                                                                              \
        (symbol), "B = raw x 0.15 uT; y and z with their signs turned", "0.15 uT",                 \
            "300 uT and 5 % of the value: calibrate it in its place", 3.1e-4f, -1e-3f, 1e-3f,      \
            5.5e-4f                                                                                \
    }
static const struct pintle_channel_text channels[] = {
    ACCEL("ACCEL_XOUT"),
    ACCEL("ACCEL_YOUT"),
    ACCEL("ACCEL_ZOUT"),
    RATE("GYRO_XOUT"),
    RATE("GYRO_YOUT"),
    RATE("GYRO_ZOUT"),
    { "TEMP_OUT", "T = TEMP_OUT / 333.87 + 21", "0.003 degC", "2 degC, of the chip itself", 2, -40,
      85, 2 },
    FLUX("HX"),
    FLUX("HY"),
    FLUX("HZ"),
};

static const struct pintle_stretch data[] = {
    { "2Dh", 6, "accelerometer x, y, z, high byte first" },
    { "33h", 6, "gyroscope x, y, z, high byte first" },
    { "39h", 2, "temperature" },
    { "3Bh", 9, "the magnetometer's ST1, x, y, z, low byte first, TMPS, ST2" },
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
static const struct pintle_field mst_status[] = {
    { "I2C_SLV4_DONE", 6, 1, "its transfer is over", pintle_priv_no_yes },
    { "I2C_LOST_ARB", 5, 1, "the auxiliary bus was lost", pintle_priv_no_yes },
    { "I2C_SLV4_NACK", 4, 1, "nobody answered", pintle_priv_no_yes },
    { "I2C_SLV0_NACK", 0, 1, "the magnetometer didn't answer", pintle_priv_no_yes },
};
static const struct pintle_field overflow[] = {
    { "FIFO_OVERFLOW_INT", 0, 5, "the FIFO ran full", NULL },
};
static const struct pintle_field fifo_en[] = {
    { "ACCEL_FIFO_EN", 4, 1, "the accelerometer's", pintle_priv_no_yes },
    { "GYRO_Z_FIFO_EN", 3, 1, "the gyroscope's z", pintle_priv_no_yes },
    { "GYRO_Y_FIFO_EN", 2, 1, "the gyroscope's y", pintle_priv_no_yes },
    { "GYRO_X_FIFO_EN", 1, 1, "the gyroscope's x", pintle_priv_no_yes },
    { "TEMP_FIFO_EN", 0, 1, "the temperature", pintle_priv_no_yes },
};
static const struct pintle_field slave_control[] = {
    { "I2C_SLV0_EN", 7, 1, "asked behind each sample", pintle_priv_no_yes },
    { "I2C_SLV0_BYTE_SW", 6, 1, "bytes of a word swapped", pintle_priv_no_yes },
    { "I2C_SLV0_REG_DIS", 5, 1, "no register is sent first", pintle_priv_no_yes },
    { "I2C_SLV0_GRP", 4, 1, "words begin at odd registers", pintle_priv_no_yes },
    { "I2C_SLV0_LENG", 0, 4, "bytes", NULL },
};
static const struct pintle_field slave_4_control[] = {
    { "I2C_SLV4_EN", 7, 1, "write 1: one transfer", NULL },
    { "I2C_SLV4_INT_EN", 6, 1, "interrupt when it is over", pintle_priv_no_yes },
    { "I2C_SLV4_REG_DIS", 5, 1, "no register is sent first", pintle_priv_no_yes },
    { "I2C_SLV4_DLY", 0, 5, "slave 0 is asked behind every 1 + this samples", NULL },
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
static const struct pintle_field pin[] = {
    { "INT1_ACTL", 7, 1, "it is active low", pintle_priv_no_yes },
    { "INT1_OPEN", 6, 1, "it is open drain", pintle_priv_no_yes },
    { "INT1_LATCH__EN", 5, 1, "until the status is read; else for 50 us", pintle_priv_no_yes },
    { "INT_ANYRD_2CLEAR", 4, 1, "until anything is read", pintle_priv_no_yes },
    { "ACTL_FSYNC", 3, 1, "FSYNC is active low", pintle_priv_no_yes },
    { "FSYNC_INT_MODE_EN", 2, 1, "FSYNC interrupts", pintle_priv_no_yes },
    { "BYPASS_EN", 1, 1, "the auxiliary bus is joined to the main one", pintle_priv_no_yes },
};
static const struct pintle_map_reg regs[] = {
    { "WHO_AM_I", RO(0x0000, 1), 0xea, "EAh", NO_FIELDS },
    { "USER_CTRL", RW_ACTS(0x0003, 1, 0x0e, 0x01), 0x00, "what is switched on", FIELDS(user_ctrl) },
    { "LP_CONFIG", RW_BUT(0x0005, 1, 0x8f), 0x40, "duty-cycled modes", NO_FIELDS },
    { "PWR_MGMT_1", RW_ACTS(0x0006, 1, 0x80, 0x10), 0x41, "reset, sleep, clock",
      FIELDS(pwr_mgmt_1) },
    { "PWR_MGMT_2", RW_BUT(0x0007, 1, 0xc0), 0x00, "axes switched off", NO_FIELDS },
    { "INT_PIN_CFG", RW_BUT(0x000f, 1, 0x01), 0x00, "how the INT pin shows them", FIELDS(pin) },
    { "INT_ENABLE_1", RW_BUT(0x0011, 1, 0xfe), 0x00, "interrupt", FIELDS(data_ready) },
    { "I2C_MST_STATUS", PINTLE_REG(0x0017, 1, PINTLE_REG_READ_ONLY | PINTLE_REG_READ_CLEARS), 0x00,
      "the auxiliary bus", FIELDS(mst_status) },
    { "INT_STATUS_1", PINTLE_REG(0x001a, 1, PINTLE_REG_READ_ONLY | PINTLE_REG_READ_CLEARS), 0x00,
      "data ready", FIELDS(data_ready) },
    { "INT_STATUS_2", PINTLE_REG(0x001b, 1, PINTLE_REG_READ_ONLY | PINTLE_REG_READ_CLEARS), 0x00,
      "FIFO overflow", FIELDS(overflow) },
    OUT("ACCEL_XOUT", 0x002d),
    OUT("ACCEL_YOUT", 0x002f),
    OUT("ACCEL_ZOUT", 0x0031),
    OUT("GYRO_XOUT", 0x0033),
    OUT("GYRO_YOUT", 0x0035),
    OUT("GYRO_ZOUT", 0x0037),
    OUT("TEMP_OUT", 0x0039),
    { "FIFO_EN_2", RW_BUT(0x0067, 1, 0xe0), 0x00, "what goes into the FIFO", FIELDS(fifo_en) },
    { "FIFO_RST", RW_BUT(0x0068, 1, 0xe0), 0x00, "1Fh, then 0: empty the FIFO", NO_FIELDS },
    { "FIFO_MODE", RW_BUT(0x0069, 1, 0xe0), 0x00, "what is lost when it is full: the oldest",
      NO_FIELDS },
    { "FIFO_COUNTH", RO(0x0070, 2), 0x0000, "bytes in the FIFO", NO_FIELDS },
    { "FIFO_R_W", PINTLE_REG(0x0072, 1, PINTLE_REG_READ_ONLY | PINTLE_REG_READ_CLEARS), 0x00,
      "the FIFO's oldest byte", NO_FIELDS },
    { "GYRO_SMPLRT_DIV", RW(0x0200, 1), 0x00, "1.125 kHz / (1 + this)", NO_FIELDS },
    { "GYRO_CONFIG_1", RW_BUT(0x0201, 1, 0xc0), 0x01, "range and filter", FIELDS(gyro_config) },
    { "ACCEL_SMPLRT_DIV_1", RW_BUT(0x0210, 1, 0xf0), 0x00, "the next one's high bits", NO_FIELDS },
    { "ACCEL_SMPLRT_DIV_2", RW(0x0211, 1), 0x00, "1.125 kHz / (1 + this)", NO_FIELDS },
    { "ACCEL_CONFIG", RW_BUT(0x0214, 1, 0xc0), 0x01, "range and filter", FIELDS(accel_config) },
    { "I2C_MST_CTRL", RW_BUT(0x0301, 1, 0xe0), 0x00, "the auxiliary bus's clock", NO_FIELDS },
    { "I2C_MST_DELAY_CTRL", RW_BUT(0x0302, 1, 0x60), 0x00, "which slaves are asked less often",
      NO_FIELDS },
    { "I2C_SLV0_ADDR", RW(0x0303, 1), 0x00, "8Ch: the magnetometer, reading", NO_FIELDS },
    { "I2C_SLV0_REG", RW(0x0304, 1), 0x00, "from this register on", NO_FIELDS },
    { "I2C_SLV0_CTRL", RW(0x0305, 1), 0x00, "slave 0", FIELDS(slave_control) },
    { "I2C_SLV4_ADDR", RW(0x0313, 1), 0x00, "slave 4", NO_FIELDS },
    { "I2C_SLV4_REG", RW(0x0314, 1), 0x00, "its register", NO_FIELDS },
    { "I2C_SLV4_CTRL", RW_ACTS(0x0315, 1, 0x80, 0x00), 0x00, "slave 4", FIELDS(slave_4_control) },
    { "I2C_SLV4_DO", RW(0x0316, 1), 0x00, "what is written to it", NO_FIELDS },
    { "I2C_SLV4_DI", RO(0x0317, 1), 0x00, "what it said", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_icm20948 = {
    .part = &pintle_icm20948,
    .what = "accelerometer, gyroscope, compass, nine axes",
    .source = "DS-000189",
    .supply_lowest = 1.71f,
    .supply_highest = 3.6f,
    .working_ua = 3110,
    .resting_ua = 8,
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
