/* ADS1115 for people, from datasheet SBAS444. */
#include "pintle/parts/ads1115.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x48, "ADDR to GND" },
                                              { 0x49, "ADDR to VDD" },
                                              { 0x4a, "ADDR to SDA" },
                                              { 0x4b, "ADDR to SCL" } };

OPTION_NAMES(ranges, PINTLE_ADS1115_RANGE_OPTIONS);
OPTION_NAMES(rates, PINTLE_ADS1115_RATE_OPTIONS);

static const struct pintle_setting_text settings[] = {
    { .name = "range",
      .meaning = "full scale, of both signs; no input may go beyond the supply",
      .options = ranges },
    { .name = "rate",
      .meaning = "how long a conversion takes; slower is quieter",
      .options = rates },
};

/* Section 7.5: gain error 0.15 percent, offset 3 counts. */
#define CHANNEL                                                                                    \
    {                                                                                              \
        "D", "V = D x full scale / 2^15", "187.5 uV at 6.144 V, 7.8125 uV at 0.256 V",             \
            "0.15 percent and 3 counts", 0.0037f, -2.048f, 2.048f, 0.0095f                         \
    }
static const struct pintle_channel_text channels[] = { CHANNEL, CHANNEL, CHANNEL,
                                                       CHANNEL, CHANNEL, CHANNEL };

#define CLOSER                                                                                     \
    {                                                                                              \
        3 * 187.5e-6f, 0.0015f, 0                                                                  \
    }
static const struct pintle_accuracy accuracies[] = {
    CLOSER, CLOSER, CLOSER, CLOSER, CLOSER, CLOSER
};

static const struct pintle_stretch data[] = {
    { "00h", 2, "AIN0 against GND, high byte first" },
    { "00h", 2, "AIN1 against GND" },
    { "00h", 2, "AIN2 against GND" },
    { "00h", 2, "AIN3 against GND" },
    { "00h", 2, "AIN0 against AIN1" },
    { "00h", 2, "AIN2 against AIN3" },
};

static const char *const inputs[] = { "AIN0-AIN1", "AIN0-AIN3", "AIN1-AIN3", "AIN2-AIN3", "AIN0",
                                      "AIN1",      "AIN2",      "AIN3",      NULL };
static const char *const coded[] = { "6.144V", "4.096V", "2.048V", "1.024V", "0.512V",
                                     "0.256V", "0.256V", "0.256V", NULL };
static const char *const modes[] = { "continuous", "single-shot", NULL };
static const char *const kinds[] = { "hysteresis", "window", NULL };
static const char *const polarity[] = { "alert active low", "alert active high", NULL };
static const char *const queues[] = { "1", "2", "4", "off", NULL };

static const struct pintle_field config[] = {
    { "OS", 15, 1, "write 1: convert; reads 1 while nothing is converted", NULL },
    { "MUX", 12, 3, "inputs", inputs },
    { "PGA", 9, 3, "full scale", coded },
    { "MODE", 8, 1, "mode", modes },
    { "DR", 5, 3, "data rate", rates },
    { "COMP_MODE", 4, 1, "comparator", kinds },
    { "COMP_POL", 3, 1, "polarity", polarity },
    { "COMP_LAT", 2, 1, "alert stays until it is read", pintle_priv_no_yes },
    { "COMP_QUE", 0, 2, "conversions beyond a limit before the alert", queues },
};

static const struct pintle_map_reg regs[] = {
    { "CONVERSION", RO(0x00, 2), 0x0000, "last result", NO_FIELDS },
    { "CONFIG", RW_ACTS(0x01, 2, 0x8000, 0), 0x8583, "inputs, range, rate", FIELDS(config) },
    { "LO_THRESH", RW(0x02, 2), 0x8000, "lower limit", NO_FIELDS },
    { "HI_THRESH", RW(0x03, 2), 0x7fff, "upper limit", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_ads1115 = {
    .part = &pintle_ads1115,
    .what = "converter, four voltages to 16 bits",
    .source = "SBAS444",
    .supply_lowest = 2.0f,
    .supply_highest = 5.5f,
    .working_ua = 150,
    .resting_ua = 0.5f,
    .straps = straps,
    .proof = "no identity; it answers, and keeps a limit that another chip here would not",
    .proof_is_certain = 0,
    .known_for =
        "the range is a scale, not a permission: an input beyond the supply reads wrong and "
        "can harm it",
    .known_by_quality = PINTLE_QUALITY_SATURATED | PINTLE_QUALITY_RANGE,
    .settings = settings,
    .channels = channels,
    .accuracies = accuracies,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
