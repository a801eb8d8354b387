/* MCP9808 for people, from datasheet DS25095. */
#include "pintle/parts/mcp9808.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = {
    { 0x18, "A2 A1 A0 to GND GND GND" }, { 0x19, "A2 A1 A0 to GND GND VDD" },
    { 0x1a, "A2 A1 A0 to GND VDD GND" }, { 0x1b, "A2 A1 A0 to GND VDD VDD" },
    { 0x1c, "A2 A1 A0 to VDD GND GND" }, { 0x1d, "A2 A1 A0 to VDD GND VDD" },
    { 0x1e, "A2 A1 A0 to VDD VDD GND" }, { 0x1f, "A2 A1 A0 to VDD VDD VDD" },
};

OPTION_NAMES(resolutions, PINTLE_MCP9808_RESOLUTION_OPTIONS);

static const struct pintle_setting_text settings[] = {
    { .name = "resolution",
      .meaning = "degC; finer takes longer (30, 65, 130, 250 ms)",
      .options = resolutions },
};

static const struct pintle_channel_text channels[] = {
    { "T_A", "T = T_A x 0.0625, 13 bits", "0.5, 0.25, 0.125 or 0.0625 degC",
      "0.5 degC from -20 to 100 degC, 1.0 degC from -40 to 125 degC", 0.5f, -20, 100, 1.0f },
};

static const struct pintle_stretch data[] = {
    { "05h", 2, "ambient temperature, high byte first: three flags, then 13 bits" },
};

static const char *const hysteresis[] = { "0 degC", "1.5 degC", "3 degC", "6 degC", NULL };
static const char *const powers[] = { "continuous conversion", "shutdown", NULL };
static const char *const outputs[] = { "comparator", "interrupt", NULL };
static const char *const polarity[] = { "alert active low", "alert active high", NULL };

static const struct pintle_field config[] = {
    { "T_HYST", 9, 2, "hysteresis of the limits", hysteresis },
    { "SHDN", 8, 1, "shutdown", powers },
    { "CRIT_LOCK", 7, 1, "T_CRIT locked until power-off", pintle_priv_no_yes },
    { "WIN_LOCK", 6, 1, "T_UPPER and T_LOWER locked until power-off", pintle_priv_no_yes },
    { "INT_CLEAR", 5, 1, "write 1: clear the interrupt", NULL },
    { "ALERT_STAT", 4, 1, "alert output asserted, read-only", pintle_priv_no_yes },
    { "ALERT_CNT", 3, 1, "alert output enabled", pintle_priv_no_yes },
    { "ALERT_SEL", 2, 1, "alert for T_CRIT only", pintle_priv_no_yes },
    { "ALERT_POL", 1, 1, "polarity", polarity },
    { "ALERT_MOD", 0, 1, "mode", outputs },
};
static const struct pintle_field limit[] = {
    { "T", 2, 11, "two's complement, 0.25 degC", NULL },
};
static const struct pintle_field ambient[] = {
    { "CRITICAL", 15, 1, "T_A at or above T_CRIT", pintle_priv_no_yes },
    { "UPPER", 14, 1, "T_A above T_UPPER", pintle_priv_no_yes },
    { "LOWER", 13, 1, "T_A below T_LOWER", pintle_priv_no_yes },
    { "T_A", 0, 13, "two's complement, 0.0625 degC", NULL },
};
static const struct pintle_field device[] = {
    { "DEVICE", 8, 8, "04h", NULL },
    { "REVISION", 0, 8, "revision", NULL },
};
static const struct pintle_field resolution[] = {
    { "R", 0, 2, "degC", resolutions },
};

static const struct pintle_map_reg regs[] = {
    { "CONFIG", RW_ACTS(0x01, 2, 0x20, 0xf810), 0, "modes and alert", FIELDS(config) },
    { "T_UPPER", RW_BUT(0x02, 2, 0xe003), 0, "upper limit", FIELDS(limit) },
    { "T_LOWER", RW_BUT(0x03, 2, 0xe003), 0, "lower limit", FIELDS(limit) },
    { "T_CRIT", RW_BUT(0x04, 2, 0xe003), 0, "critical limit", FIELDS(limit) },
    { "T_A", RO(0x05, 2), 0, "ambient temperature", FIELDS(ambient) },
    { "MANUFACTURER_ID", RO(0x06, 2), 0x0054, "0054h", NO_FIELDS },
    { "DEVICE_ID", RO(0x07, 2), 0x0400, "chip and revision", FIELDS(device) },
    { "RESOLUTION", RW_BUT(0x08, 1, 0xfc), 0x03, "resolution", FIELDS(resolution) },
};

const struct pintle_sheet pintle_priv_mcp9808 = {
    .part = &pintle_mcp9808,
    .what = "digital thermometer",
    .source = "DS25095",
    .supply_lowest = 2.7f,
    .supply_highest = 5.5f,
    .working_ua = 200,
    .resting_ua = 0.1f,
    .straps = straps,
    .proof = "registers MANUFACTURER_ID and DEVICE_ID read 0054h and 04h",
    .proof_is_certain = 1,
    .known_for = "a new value takes 250 ms at the finest resolution",
    .known_by_quality = PINTLE_QUALITY_POWER_ON | PINTLE_QUALITY_FROZEN,
    .settings = settings,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
