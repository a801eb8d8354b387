/* SHTC3 for people, from its datasheet version 4. */
#include "pintle/parts/shtc3.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x70, "fixed" } };

OPTION_NAMES(modes, PINTLE_SHTC3_MODE_OPTIONS);

static const float mode_currents[] = { 430, 270 };
static const struct pintle_setting_text settings[] = {
    { .name = "mode",
      .meaning = "less noise, or a shorter measurement (12.1, 0.8 ms)",
      .options = modes,
      .working_ua = mode_currents },
};

static const struct pintle_channel_text channels[] = {
    { "S_T", "T = -45 + 175 x S_T / 2^16", "0.01 degC",
      "0.2 degC from 0 to 60 degC, 0.8 degC from -40 to 125 degC (typical)", 0.2f, 0, 60, 0.8f },
    { "S_RH", "RH = 100 x S_RH / 2^16", "0.01 %RH",
      "2 %RH from 20 to 80 %RH, 3.5 %RH from 0 to 100 %RH (typical)", 2.0f, 20, 80, 3.5f },
};

static const struct pintle_stretch data[] = {
    { "7866h", 3, "S_T, high byte first, and its CRC" },
    { "", 3, "S_RH, high byte first, and its CRC" },
};

static const struct pintle_field id[] = {
    { "CODE_HIGH", 11, 1, "part of the product code, 1", NULL },
    { "CODE", 0, 6, "the rest of it, 7", NULL },
};

static const struct pintle_map_reg regs[] = {
    { "ID", RO(0xefc8, 2), 0x0887, "product code in some of its bits", FIELDS(id) },
    { "WAKE", WO(0x3517, 0), 0, "command: leave the sleep", NO_FIELDS },
    { "SLEEP", WO(0xb098, 0), 0, "command: sleep until WAKE", NO_FIELDS },
    { "SOFT_RESET", WO(0x805d, 0), 0, "command: restart", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_shtc3 = {
    .part = &pintle_shtc3,
    .what = "hygrometer and thermometer",
    .source = "SHTC3 version 4",
    .supply_lowest = 1.62f,
    .supply_highest = 3.6f,
    .working_ua = 430,
    .resting_ua = 0.3f,
    .straps = straps,
    .proof = "the fixed bits of ID, with a right CRC",
    .proof_is_certain = 1,
    .known_for = "it does not answer while it measures, and asleep it hears nothing but WAKE",
    .settings = settings,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
