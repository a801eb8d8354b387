/* SHT40 for people, from datasheet SHT4x version 6. */
#include "pintle/parts/sht40.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x44, "an SHT40-AD1B" },
                                              { 0x45, "an SHT40-BD1B" },
                                              { 0x46, "an SHT40-CD1B" } };

OPTION_NAMES(precisions, PINTLE_SHT40_PRECISION_OPTIONS);

static const char *const precision_effects[] = { "0.04 degC, 0.08 %RH", "0.07 degC, 0.15 %RH",
                                                 "0.1 degC, 0.25 %RH" };
static const struct pintle_setting_text settings[] = {
    { .name = "precision",
      .meaning = "less noise, or a shorter measurement (8.3, 4.5, 1.6 ms)",
      .options = precisions,
      .effects = precision_effects },
};

static const struct pintle_channel_text channels[] = {
    { "S_T", "T = -45 + 175 x S_T / (2^16 - 1)", "0.01 degC",
      "0.2 degC from 0 to 65 degC, 0.6 degC from -40 to 125 degC (typical)", 0.2f, 0, 65, 0.6f },
    { "S_RH", "RH = -6 + 125 x S_RH / (2^16 - 1), cropped to 0 and 100", "0.01 %RH",
      "1.8 %RH from 25 to 75 %RH, 3.5 %RH from 0 to 100 %RH (typical)", 1.8f, 25, 75, 3.5f },
};

static const struct pintle_stretch data[] = {
    { "FDh", 3, "S_T, high byte first, and its CRC" },
    { "", 3, "S_RH, high byte first, and its CRC" },
};

static const struct pintle_map_reg regs[] = {
    { "SERIAL_NUMBER", WO(0x89, 0), 0, "command: two words and their CRCs follow", NO_FIELDS },
    { "SOFT_RESET", WO(0x94, 0), 0, "command: restart", NO_FIELDS },
    { "HEATER_200_MW", WO(0x39, 0), 0, "command: heat for 1 s, then measure", NO_FIELDS },
    { "HEATER_20_MW", WO(0x1e, 0), 0, "command: heat for 1 s, then measure", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_sht40 = {
    .part = &pintle_sht40,
    .what = "hygrometer and thermometer",
    .source = "SHT4x version 6",
    .supply_lowest = 1.08f,
    .supply_highest = 3.6f,
    .working_ua = 320,
    .resting_ua = 0.08f,
    .straps = straps,
    .proof = "it has a serial number of two words, each with a right CRC",
    .proof_is_certain = 1,
    .known_for =
        "it does not answer while it measures; its humidity may leave 0 to 100 %RH, and is "
        "cropped",
    .settings = settings,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .serial = 0x89,
    .regs = regs,
    .reg_count = COUNT(regs),
};
