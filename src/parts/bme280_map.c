/* BME280 and BMP280 for people, from datasheets BST-BME280-DS002 and BST-BMP280-DS001. */
#include "pintle/parts/bme280.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x76, "SDO to GND" }, { 0x77, "SDO to VDDIO" } };

OPTION_NAMES(times, PINTLE_BME280_OVERSAMPLING_OPTIONS);
OPTION_NAMES(filters, PINTLE_BME280_FILTER_OPTIONS);

static const char *const temperature_oversampling_effects[] = { "noise 0.005 degC", "0.004 degC",
                                                                "0.003 degC", "0.003 degC",
                                                                "0.002 degC" };
static const char *const pressure_oversampling_effects[] = { "noise 3.3 Pa", "2.6 Pa", "2.1 Pa",
                                                             "1.6 Pa", "1.3 Pa" };
static const char *const humidity_oversampling_effects[] = { "noise 0.07 %RH", "0.05 %RH",
                                                             "0.04 %RH", "0.03 %RH", "0.02 %RH" };
static const char *const filter_effects[] = { "a step shows at once",
                                              "after 2 readings by three quarters", "after 5",
                                              "after 11", "after 22" };
/* "IIR filter", samples until three quarters of a step: section 3.4.4 of the BME280, 3.3.3 of the
 * BMP280. */
static const uint8_t filter_lags[] = { 1, 2, 5, 11, 22 };
static const struct pintle_setting_text settings[] = {
    { .name = "temperature-oversampling",
      .meaning = "samples per reading: less noise, 2.3 ms each",
      .options = times,
      .effects = temperature_oversampling_effects },
    { .name = "pressure-oversampling",
      .meaning = "samples per reading: less noise, 2.3 ms each",
      .options = times,
      .effects = pressure_oversampling_effects },
    { .name = "humidity-oversampling",
      .meaning = "samples per reading: less noise, 2.3 ms each",
      .options = times,
      .effects = humidity_oversampling_effects },
    { .name = "filter",
      .meaning = "smoothing over readings, for pressure and temperature",
      .options = filters,
      .effects = filter_effects,
      .lags = filter_lags },
};

static const struct pintle_setting_text bmp_settings[] = {
    { .name = "temperature-oversampling",
      .meaning = "samples per reading: less noise, 2.3 ms each",
      .options = times,
      .effects = temperature_oversampling_effects },
    { .name = "pressure-oversampling",
      .meaning = "samples per reading: less noise, 2.3 ms each",
      .options = times,
      .effects = pressure_oversampling_effects },
    { .name = "filter",
      .meaning = "smoothing over readings, for pressure and temperature",
      .options = filters,
      .effects = filter_effects,
      .lags = filter_lags },
};

static const struct pintle_channel_text bmp_channels[] = {
    { "adc_T", "t_fine and T from dig_T1 to dig_T3 (section 3.11.3)", "0.01 degC",
      "1.0 degC from 0 to 65 degC, 1.5 degC from -40 to 85 degC", 1.0f, 0, 65, 1.5f },
    { "adc_P", "p from t_fine and dig_P1 to dig_P9 (section 3.11.3)", "0.16 Pa",
      "1.0 hPa from 0 to 65 degC, 1.7 hPa from -20 to 0 degC", 100, 30000, 110000, 170 },
};

static const struct pintle_channel_text channels[] = {
    { "adc_T", "t_fine and T from dig_T1 to dig_T3 (section 4.2.3)", "0.01 degC",
      "1.0 degC from 0 to 65 degC, 1.5 degC from -40 to 85 degC", 1.0f, 0, 65, 1.5f },
    { "adc_P", "p from t_fine and dig_P1 to dig_P9 (section 4.2.3)", "0.18 Pa",
      "1.0 hPa from 0 to 65 degC, 1.7 hPa from -20 to 0 degC", 100, 30000, 110000, 170 },
    { "adc_H", "h from t_fine and dig_H1 to dig_H6 (section 4.2.3)", "0.008 %RH",
      "3 %RH from 20 to 80 %RH", 3, 20, 80, 4 },
};

static const struct pintle_stretch data[] = {
    { "F7h", 3, "adc_P: press_msb, press_lsb, press_xlsb, left-justified 20 bits" },
    { "FAh", 3, "adc_T: temp_msb, temp_lsb, temp_xlsb, left-justified 20 bits" },
    { "FDh", 2, "adc_H: hum_msb, hum_lsb" },
};

static const struct pintle_stretch trim[] = {
    { "88h", 26, "dig_T1 to dig_T3, dig_P1 to dig_P9 (low byte first), reserved A0h, dig_H1" },
    { "E1h", 7, "dig_H2 to dig_H6" },
};

static const struct pintle_stretch bmp_trim[] = {
    { "88h", 24, "dig_T1 to dig_T3, dig_P1 to dig_P9, low byte first" },
};

static const char *const oversampling[] = { "skipped", "x1",  "x2",  "x4", "x8",
                                            "x16",     "x16", "x16", NULL };
static const char *const powers[] = { "sleep", "forced", "forced", "normal", NULL };
static const char *const standbys[] = { "0.5 ms",  "62.5 ms", "125 ms", "250 ms", "500 ms",
                                        "1000 ms", "10 ms",   "20 ms",  NULL };
static const char *const coefficients[] = { "off", "2", "4", "8", "16", "16", "16", "16", NULL };

static const struct pintle_field ctrl_hum[] = {
    { "osrs_h", 0, 3, "humidity oversampling; takes effect with a write of ctrl_meas",
      oversampling },
};
static const struct pintle_field status[] = {
    { "measuring", 3, 1, "1 while a conversion runs", NULL },
    { "im_update", 0, 1, "1 while trim is copied", NULL },
};
static const struct pintle_field ctrl_meas[] = {
    { "osrs_t", 5, 3, "temperature oversampling", oversampling },
    { "osrs_p", 2, 3, "pressure oversampling", oversampling },
    { "mode", 0, 2, "power mode", powers },
};
static const struct pintle_field config[] = {
    { "t_sb", 5, 3, "standby in normal mode", standbys },
    { "filter", 2, 3, "filter coefficient", coefficients },
    { "spi3w_en", 0, 1, "3-wire SPI", NULL },
};

/* Temperature and pressure. */
#define BOTH                                                                                       \
    { "press_msb", RO(0xf7, 1), 0x80, "adc_P bits 19 to 12", NO_FIELDS },                          \
        { "press_lsb", RO(0xf8, 1), 0, "adc_P bits 11 to 4", NO_FIELDS },                          \
        { "press_xlsb", RO(0xf9, 1), 0, "adc_P bits 3 to 0", NO_FIELDS },                          \
        { "temp_msb", RO(0xfa, 1), 0x80, "adc_T bits 19 to 12", NO_FIELDS },                       \
        { "temp_lsb", RO(0xfb, 1), 0, "adc_T bits 11 to 4", NO_FIELDS },                           \
    {                                                                                              \
        "temp_xlsb", RO(0xfc, 1), 0, "adc_T bits 3 to 0", NO_FIELDS                                \
    }

static const struct pintle_map_reg bmp_regs[] = {
    { "id", RO(0xd0, 1), 0x58, "chip number, 58h", NO_FIELDS },
    { "reset", WO(0xe0, 1), 0, "write B6h to restart", NO_FIELDS },
    { "status", RO(0xf3, 1), 0, "status", FIELDS(status) },
    { "ctrl_meas", RW(0xf4, 1), 0, "measurement control", FIELDS(ctrl_meas) },
    { "config", RW_BUT(0xf5, 1, 0x02), 0, "rate, filter, interface", FIELDS(config) },
    BOTH,
};

static const struct pintle_map_reg regs[] = {
    { "id", RO(0xd0, 1), 0x60, "chip number, 60h", NO_FIELDS },
    { "reset", WO(0xe0, 1), 0, "write B6h to restart", NO_FIELDS },
    { "ctrl_hum", RW_BUT(0xf2, 1, 0xf8), 0, "humidity control", FIELDS(ctrl_hum) },
    { "status", RO(0xf3, 1), 0, "status", FIELDS(status) },
    { "ctrl_meas", RW(0xf4, 1), 0, "measurement control", FIELDS(ctrl_meas) },
    { "config", RW_BUT(0xf5, 1, 0x02), 0, "rate, filter, interface", FIELDS(config) },
    BOTH,
    { "hum_msb", RO(0xfd, 1), 0x80, "adc_H bits 15 to 8", NO_FIELDS },
    { "hum_lsb", RO(0xfe, 1), 0, "adc_H bits 7 to 0", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_bme280 = {
    .part = &pintle_bme280,
    .what = "barometer, hygrometer and thermometer",
    .source = "BST-BME280-DS002",
    .supply_lowest = 1.71f,
    .supply_highest = 3.6f,
    .working_ua = 450,
    .resting_ua = 0.1f,
    .straps = straps,
    .proof = "register id reads 60h",
    .proof_is_certain = 1,
    .known_for =
        "a BMP280 on an equal board has id 58h and no humidity; read often, it warms itself",
    .known_by_status = 1u << PINTLE_WRONG_IDENTITY,
    .settings = settings,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .trim = trim,
    .trim_count = COUNT(trim),
    .regs = regs,
    .reg_count = COUNT(regs),
};

const struct pintle_sheet pintle_priv_bmp280 = {
    .part = &pintle_bmp280,
    .what = "barometer and thermometer",
    .source = "BST-BMP280-DS001",
    .supply_lowest = 1.71f,
    .supply_highest = 3.6f,
    .working_ua = 500,
    .resting_ua = 0.1f,
    .straps = straps,
    .proof = "register id reads 58h",
    .proof_is_certain = 1,
    .known_for = "a BME280 on an equal board has id 60h and humidity; read often, it warms itself",
    .known_by_status = 1u << PINTLE_WRONG_IDENTITY,
    .settings = bmp_settings,
    .channels = bmp_channels,
    .data = data,
    .data_count = 2,
    .trim = bmp_trim,
    .trim_count = COUNT(bmp_trim),
    .regs = bmp_regs,
    .reg_count = COUNT(bmp_regs),
};
