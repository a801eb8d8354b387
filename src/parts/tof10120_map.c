/* TOF10120 for people, from its manual, version 1.2. */
#include "pintle/parts/tof10120.h"

#include "parts/map.h"

OPTION_NAMES(modes, PINTLE_TOF10120_MODE_OPTIONS);
static const struct pintle_setting_text settings[] = {
    { .name = "mode", .meaning = "the mean of several, or each as it comes", .options = modes },
};

static const struct pintle_channel_text channels[] = {
    { "L", "d = L x 1 mm", "1 mm", "5 percent", 0.09f, 0.1f, 1.8f, 0.09f },
};

static const struct pintle_stretch data[] = {
    { "L=", 12, "the answer to r6#, such as L=740mm, in ASCII, with zeros behind it" },
};

static const struct pintle_accuracy accuracies[] = { { 0, 0.05f, 0 } };

#define NOTE "glass and black surfaces shorten or lose it; the sun too"
const struct pintle_sheet pintle_priv_tof10120 = {
    .part = &pintle_tof10120,
    .what = "distance by light, serial line",
    .source = "TOF10120 manual, version 1.2",
    .supply_lowest = 3.0f,
    .supply_highest = 5.0f,
    .working_ua = 35000,
    .resting_ua = 0,
    .high_v = 2.0f,
    .proof = "answers r6# with L=",
    .proof_is_certain = 1,
    .known_for = NOTE,
    .known_by_quality = PINTLE_QUALITY_SATURATED | PINTLE_QUALITY_RANGE,
    .settings = settings,
    .channels = channels,
    .accuracies = accuracies,
    .data = data,
    .data_count = COUNT(data),
};

static const struct pintle_strap straps[] = { { 0x52, "as it comes; a command changes it" } };
static const struct pintle_stretch i2c_data[] = { { "04h", 2, "distance, filtered" },
                                                  { "04h", 2, "once more; may be left out" } };
static const struct pintle_map_reg regs[] = {
    { "DISTANCE", RO(0x00, 2), 0, "as each comes, mm", NO_FIELDS },
    { "FILTERED", RO(0x04, 2), 0, "the mean of several, mm", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_tof10120i2c = {
    .part = &pintle_tof10120i2c,
    .what = "distance by light, I2C",
    .source = "TOF10120 manual, version 1.2",
    .supply_lowest = 3.0f,
    .supply_highest = 5.0f,
    .working_ua = 35000,
    .resting_ua = 0,
    .high_v = 2.0f,
    .straps = straps,
    .proof = "no identity; it answers",
    .proof_is_certain = 0,
    .known_for = NOTE,
    .known_by_quality = PINTLE_QUALITY_SATURATED | PINTLE_QUALITY_RANGE,
    .channels = channels,
    .accuracies = accuracies,
    .data = i2c_data,
    .repeats = 2,
    .data_count = COUNT(i2c_data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
