/* HS3001 for people, from datasheet HS300x, R36DS0010. */
#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x44, "fixed" } };

static const struct pintle_channel_text channels[] = {
    { "T", "T = -40 + 165 x T / (2^14 - 1)", "0.01 degC",
      "0.2 degC from -10 to 80 degC (typical), 0.5 degC from -40 to 125 degC", 0.2f, -10, 80,
      0.5f },
    { "RH", "RH = 100 x RH / (2^14 - 1)", "0.01 %RH",
      "1.5 %RH from 10 to 90 %RH (typical), 3 %RH from 0 to 100 %RH", 1.5f, 10, 90, 3.0f },
};

static const struct pintle_stretch data[] = {
    { "", 2, "two bits of status, RH" },
    { "", 2, "T, two bits that say nothing" },
    { "", 4, "once more, its status aside; may be left out" },
};

const struct pintle_sheet pintle_priv_hs3001 = {
    .part = &pintle_hs3001,
    .what = "hygrometer and thermometer",
    .source = "HS300x, R36DS0010",
    .supply_lowest = 2.3f,
    .supply_highest = 5.5f,
    .working_ua = 700,
    .resting_ua = 0.6f,
    .straps = straps,
    .proof = "no identity while it measures; it has a result, new or old",
    .proof_is_certain = 0,
    .known_for = "an SHT31 and an SHT40 have its address too",
    .known_by_quality = PINTLE_QUALITY_STALE,
    .channels = channels,
    .data = data,
    .repeats = 4,
    .data_count = COUNT(data),
};
