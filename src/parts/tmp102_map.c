/* TMP102 for people, from datasheet SLOS854. */
#include "pintle/parts/tmp102.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x48, "ADD0 to GND" },
                                              { 0x49, "ADD0 to V+" },
                                              { 0x4a, "ADD0 to SDA" },
                                              { 0x4b, "ADD0 to SCL" } };

OPTION_NAMES(modes, PINTLE_TMP102_MODE_OPTIONS);
OPTION_NAMES(formats, PINTLE_TMP102_FORMAT_OPTIONS);
OPTION_NAMES(rates, PINTLE_TMP102_RATE_OPTIONS);
OPTION_NAMES(queues, PINTLE_TMP102_FAULTS_OPTIONS);

static const float mode_currents[] = { 7, 40 };
static const struct pintle_setting_text settings[] = {
    { .name = "mode",
      .meaning = "convert all the time, or sleep and convert when asked",
      .options = modes,
      .working_ua = mode_currents },
    { .name = "format",
      .meaning = "12-bit: to 127.94 degC; 13-bit: to 150 degC",
      .options = formats },
    { .name = "rate", .meaning = "conversions per second in continuous mode", .options = rates },
    { .name = "faults",
      .meaning = "readings beyond a limit in a row before ALERT",
      .options = queues },
};

static const struct pintle_channel_text channels[] = {
    { "Temperature Register", "T = raw x 0.0625", "0.0625 degC",
      "2.0 degC from -25 to 85 degC, 3.0 degC from -40 to 125 degC", 2.0f, -25, 85, 3.0f },
};

static const struct pintle_stretch data[] = {
    { "00h", 2, "temperature, high byte first, left-justified 12 or 13 bits" },
};

static const char *const shutdown[] = { "continuous conversion", "shutdown", NULL };
static const char *const thermostat[] = { "comparator", "interrupt", NULL };
static const char *const polarity[] = { "ALERT active low", "ALERT active high", NULL };
static const char *const extended[] = { "12-bit", "13-bit", NULL };

static const struct pintle_field configuration[] = {
    { "OS", 15, 1, "write 1 in shutdown: convert once; reads 1 when that is done", NULL },
    { "R", 13, 2, "converter resolution, read-only, always 3", NULL },
    { "F", 11, 2, "faults in a row before ALERT", queues },
    { "POL", 10, 1, "polarity of ALERT", polarity },
    { "TM", 9, 1, "thermostat mode", thermostat },
    { "SD", 8, 1, "shutdown", shutdown },
    { "CR", 6, 2, "conversion rate", rates },
    { "AL", 5, 1, "alert, read-only; its sense follows POL", NULL },
    { "EM", 4, 1, "extended mode", extended },
};

static const struct pintle_field twelve[] = {
    { "T", 4, 12, "two's complement, 0.0625 degC (12-bit format)", NULL },
};

static const struct pintle_map_reg regs[] = {
    { "TEMPERATURE", RO(0x00, 2), 0x0000, "the last conversion", FIELDS(twelve) },
    { "CONFIGURATION", RW_ACTS(0x01, 2, 0x8000, 0x602f), 0x60a0, "modes", FIELDS(configuration) },
    { "T_LOW", RW_BUT(0x02, 2, 0x0007), 0x4b00, "lower limit of ALERT", FIELDS(twelve) },
    { "T_HIGH", RW_BUT(0x03, 2, 0x0007), 0x5000, "upper limit of ALERT", FIELDS(twelve) },
};

const struct pintle_sheet pintle_priv_tmp102 = {
    .part = &pintle_tmp102,
    .what = "digital thermometer",
    .source = "SLOS854",
    .supply_lowest = 1.4f,
    .supply_highest = 3.6f,
    .working_ua = 40,
    .resting_ua = 0.5f,
    .straps = straps,
    .proof = "no identity register; the fixed bits of CONFIGURATION are as they must be",
    .proof_is_certain = 0,
    .known_for =
        "0 degC until its first conversion is over; on a small board it measures the board",
    .known_by_quality = PINTLE_QUALITY_POWER_ON,
    .settings = settings,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
