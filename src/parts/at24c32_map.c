/* AT24C32 for people, from datasheet 0336. */
#include "parts/map.h"

static const struct pintle_strap straps[] = {
    { 0x50, "A2, A1, A0 to GND" }, { 0x51, "A0 to VCC" },         { 0x52, "A1 to VCC" },
    { 0x53, "A1, A0 to VCC" },     { 0x54, "A2 to VCC" },         { 0x55, "A2, A0 to VCC" },
    { 0x56, "A2, A1 to VCC" },     { 0x57, "A2, A1, A0 to VCC" },
};

const struct pintle_sheet pintle_priv_at24c32 = {
    .part = &pintle_at24c32,
    .what = "memory of 4096 bytes",
    .source = "0336",
    .supply_lowest = 1.8f,
    .supply_highest = 5.5f,
    .working_ua = 400,
    .resting_ua = 1,
    .straps = straps,
    .proof = "no identity; it answers",
    .proof_is_certain = 0,
    .known_for = "with WP high it takes what is written and keeps the old; a page stands a million "
                 "writes",
    .known_by_status = (uint32_t)1 << PINTLE_READ_ONLY,
};
