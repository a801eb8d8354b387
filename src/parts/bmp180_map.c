/* BMP180 for people, from datasheet BST-BMP180-DS000. */
#include "pintle/parts/bmp180.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x77, "fixed" } };

OPTION_NAMES(times, PINTLE_BMP180_OVERSAMPLING_OPTIONS);

static const char *const oversampling_effects[] = { "noise 6 Pa", "5 Pa", "4 Pa", "3 Pa" };
static const struct pintle_setting_text settings[] = {
    { .name = "oversampling",
      .meaning = "pressure samples per reading: less noise (4.5, 7.5, 13.5, 25.5 ms)",
      .options = times,
      .effects = oversampling_effects },
};

static const struct pintle_channel_text channels[] = {
    { "UT", "T from AC5, AC6, MC and MD (section 3.5)", "0.1 degC",
      "1.0 degC from 0 to 65 degC (typical), 2.0 degC from -40 to 85 degC", 1.0f, 0, 65, 2.0f },
    { "UP", "p from UT and the rest of the trim (section 3.5)", "1 Pa",
      "1.0 hPa (typical), 4 hPa from 700 hPa on, 6 hPa below", 400, 70000, 110000, 600 },
};

static const struct pintle_stretch data[] = {
    { "F6h", 2, "UT, high byte first" },
    { "F6h", 3, "UP, high byte first, left-justified 16 to 19 bits" },
};
static const struct pintle_stretch trim[] = {
    { "AAh", 22, "AC1 to AC6, B1, B2, MB, MC, MD, high byte first" },
};

static const struct pintle_field ctrl_meas[] = {
    { "oss", 6, 2, "oversampling of the pressure", times },
    { "sco", 5, 1, "a conversion runs", pintle_priv_no_yes },
    { "measurement_control", 0, 5, "0Eh temperature, 14h pressure", NULL },
};

static const struct pintle_map_reg regs[] = {
    { "id", RO(0xd0, 1), 0x55, "chip number, 55h", NO_FIELDS },
    { "soft_reset", WO(0xe0, 1), 0, "write B6h to restart", NO_FIELDS },
    { "ctrl_meas", RW_ACTS(0xf4, 1, 0x20, 0), 0, "starts a conversion", FIELDS(ctrl_meas) },
    { "out_msb", RO(0xf6, 1), 0x80, "result, bits 23 to 16", NO_FIELDS },
    { "out_lsb", RO(0xf7, 1), 0, "result, bits 15 to 8", NO_FIELDS },
    { "out_xlsb", RO(0xf8, 1), 0, "result, bits 7 to 0", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_bmp180 = {
    .part = &pintle_bmp180,
    .what = "barometer and thermometer",
    .source = "BST-BMP180-DS000",
    .supply_lowest = 1.8f,
    .supply_highest = 3.6f,
    .working_ua = 650,
    .resting_ua = 0.1f,
    .straps = straps,
    .proof = "register id reads 55h",
    .proof_is_certain = 1,
    .known_for = "one address only: two of them need two buses, and a BMP280 or BME280 strapped to "
                 "77h is in its way",
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
