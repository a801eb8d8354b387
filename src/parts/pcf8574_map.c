/* PCF8574 and PCF8574A for people, from datasheet PCF8574; PCF8574A, rev. 5. */
#include "parts/map.h"

#define STRAPS(first)                                                                              \
    {                                                                                              \
        { (first), "A2, A1, A0 to GND" }, { (first) + 1, "A0 to VDD" },                            \
            { (first) + 2, "A1 to VDD" }, { (first) + 3, "A1, A0 to VDD" },                        \
            { (first) + 4, "A2 to VDD" }, { (first) + 5, "A2, A0 to VDD" },                        \
            { (first) + 6, "A2, A1 to VDD" },                                                      \
        {                                                                                          \
            (first) + 7, "A2, A1, A0 to VDD"                                                       \
        }                                                                                          \
    }
static const struct pintle_strap straps[] = STRAPS(0x20);
static const struct pintle_strap a_straps[] = STRAPS(0x38);

#define LINE(name)                                                                                 \
    {                                                                                              \
        (name), "1 high, 0 low", "1", "exact", 0.5f, 0, 1, 0.5f                                    \
    }
static const struct pintle_channel_text channels[] = {
    LINE("P0"), LINE("P1"), LINE("P2"), LINE("P3"), LINE("P4"), LINE("P5"), LINE("P6"), LINE("P7"),
};

static const struct pintle_stretch data[] = {
    { "", 1, "P7 to P0 as they are" },
    { "", 1, "once more; may be left out" },
};

#define SHEET(chip, where)                                                                         \
    {                                                                                              \
        .part = &(chip), .what = "eight lines, to set and to read",                                \
        .source = "PCF8574; PCF8574A rev. 5", .supply_lowest = 2.5f, .supply_highest = 6.0f,       \
        .working_ua = 40, .resting_ua = 2.5f, .straps = (where),                                   \
        .proof = "no identity; it answers", .proof_is_certain = 0,                                 \
        .known_for = "a high is 100 uA and no more: what needs current hangs between the supply "  \
                     "and a line that is low",                                                     \
        .channels = channels, .data = data, .data_count = COUNT(data), .repeats = 1, .acts = 1     \
    }
const struct pintle_sheet pintle_priv_pcf8574 = SHEET(pintle_pcf8574, straps);
const struct pintle_sheet pintle_priv_pcf8574a = SHEET(pintle_pcf8574a, a_straps);
