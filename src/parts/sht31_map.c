/* SHT31 for people, from datasheet SHT3x-DIS version 7. */
#include "pintle/parts/sht31.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x44, "ADDR to VSS" }, { 0x45, "ADDR to VDD" } };

OPTION_NAMES(repeatabilities, PINTLE_SHT31_REPEATABILITY_OPTIONS);

static const char *const repeatability_effects[] = { "0.04 degC, 0.08 %RH", "0.08 degC, 0.15 %RH",
                                                     "0.15 degC, 0.21 %RH" };
static const struct pintle_setting_text settings[] = {
    { .name = "repeatability",
      .meaning = "less noise, or a shorter measurement (15.5, 6.5, 4.5 ms)",
      .options = repeatabilities,
      .effects = repeatability_effects },
};

static const struct pintle_channel_text channels[] = {
    { "S_T", "T = -45 + 175 x S_T / (2^16 - 1)", "0.01 degC",
      "0.2 degC from 0 to 90 degC, 0.6 degC from -40 to 125 degC (typical)", 0.2f, 0, 90, 0.6f },
    { "S_RH", "RH = 100 x S_RH / (2^16 - 1)", "0.01 %RH", "2 %RH from 0 to 100 %RH (typical)", 2.0f,
      0, 100, 2.0f },
};

static const struct pintle_stretch data[] = {
    { "2400h", 3, "S_T, high byte first, and its CRC" },
    { "", 3, "S_RH, high byte first, and its CRC" },
};

static const char *const off_on[] = { "off", "on", NULL };
static const char *const right_wrong[] = { "right", "wrong", NULL };

static const struct pintle_field status[] = {
    { "ALERT_PENDING", 15, 1, "an alert is waiting", pintle_priv_no_yes },
    { "HEATER", 13, 1, "heater", off_on },
    { "RH_ALERT", 11, 1, "humidity tracking alert", pintle_priv_no_yes },
    { "T_ALERT", 10, 1, "temperature tracking alert", pintle_priv_no_yes },
    { "RESET", 4, 1, "reset since the last clear", pintle_priv_no_yes },
    { "COMMAND", 1, 1, "the last command was processed", right_wrong },
    { "WRITE_CRC", 0, 1, "checksum of the last write", right_wrong },
};

static const struct pintle_map_reg regs[] = {
    { "STATUS", RO(0xf32d, 2), 0x8010, "status word", FIELDS(status) },
    { "CLEAR_STATUS", WO(0x3041, 0), 0, "command: clear STATUS", NO_FIELDS },
    { "SOFT_RESET", WO(0x30a2, 0), 0, "command: restart", NO_FIELDS },
    { "HEATER_ON", WO(0x306d, 0), 0, "command: heater on", NO_FIELDS },
    { "HEATER_OFF", WO(0x3066, 0), 0, "command: heater off", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_sht31 = {
    .part = &pintle_sht31,
    .what = "hygrometer and thermometer",
    .source = "SHT3x-DIS version 7",
    .supply_lowest = 2.15f,
    .supply_highest = 5.5f,
    .working_ua = 600,
    .resting_ua = 0.2f,
    .straps = straps,
    .proof = "no identity register; STATUS answers with a right CRC and its fixed bits",
    .proof_is_certain = 0,
    .known_for = "it does not answer while it measures, up to 15 ms",
    .settings = settings,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
