/* SD card for people, from the Physical Layer Simplified Specification 6.00. */
#include "parts/map.h"

static const struct pintle_stretch trim[] = {
    { "CMD9", 16, "CSD: what the card can do, and its size" },
    { "CMD10", 16, "CID: who made it, and its serial number" },
};

const struct pintle_sheet pintle_priv_sdcard = {
    .part = &pintle_sdcard,
    .what = "memory card, blocks of 512 bytes",
    .source = "Physical Layer Simplified Specification 6.00",
    .supply_lowest = 2.7f,
    .supply_highest = 3.6f,
    .working_ua = 50000,
    .resting_ua = 200,
    .proof = "answers the reset as a card does, and a pattern comes back",
    .proof_is_certain = 1,
    .known_for = "it wants a pull-up on its output and 100 mA for a moment when it writes",
    .trim = trim,
    .trim_count = COUNT(trim),
    .acts = 1,
};
