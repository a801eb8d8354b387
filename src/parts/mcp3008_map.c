/* MCP3008 for people, from datasheet DS21295. */
#include "parts/map.h"

/* Integral non-linearity, offset and gain error of table 1-1 together: 7 counts at 3.3 V. */
#define CHANNEL                                                                                    \
    {                                                                                              \
        "code", "V = code x reference / 1024", "3.2 mV at 3.3 V", "7 counts, 23 mV at 3.3 V",      \
            0.023f, 0, 3.3f, 0.023f                                                                \
    }
static const struct pintle_channel_text channels[] = { CHANNEL, CHANNEL, CHANNEL, CHANNEL,
                                                       CHANNEL, CHANNEL, CHANNEL, CHANNEL };

static const struct pintle_number_text numbers[] = {
    { "reference", "V", "voltage at the reference input" },
};

#define STRETCH(n)                                                                                 \
    {                                                                                              \
        "ch" #n, 3, "null bit, ten bits, nine again from the low end"                              \
    }
static const struct pintle_stretch data[] = { STRETCH(0), STRETCH(1), STRETCH(2), STRETCH(3),
                                              STRETCH(4), STRETCH(5), STRETCH(6), STRETCH(7) };

static const struct pintle_field code[] = {
    { "NULL", 15, 1, "always 0", NULL },
    { "CODE", 5, 10, "share of the reference in 1024ths", NULL },
};

#define INPUT(name, n)                                                                             \
    {                                                                                              \
        (name), RO(0x30 | (n) << 1, 2), 0, "convert this input", FIELDS(code)                      \
    }
static const struct pintle_map_reg regs[] = {
    INPUT("CH0", 0), INPUT("CH1", 1), INPUT("CH2", 2), INPUT("CH3", 3),
    INPUT("CH4", 4), INPUT("CH5", 5), INPUT("CH6", 6), INPUT("CH7", 7),
};

const struct pintle_sheet pintle_priv_mcp3008 = {
    .part = &pintle_mcp3008,
    .what = "converter, eight voltages to 10 bits",
    .source = "DS21295",
    .supply_lowest = 2.7f,
    .supply_highest = 5.5f,
    .working_ua = 425,
    .resting_ua = 0.005f,
    .proof = "no identity; the null bit of a conversion is 0",
    .proof_is_certain = 0,
    .known_for =
        "an input that nothing is wired to wanders; a source of more than 1 kilohm reads low",
    .known_by_quality = PINTLE_QUALITY_JUMP | PINTLE_QUALITY_RANGE,
    .numbers = numbers,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
