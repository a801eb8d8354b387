/* PCD8544 for people, from the datasheet of 1999-04-12. */
#include "pintle/parts/pcd8544.h"

#include "parts/map.h"

OPTION_NAMES(contrasts, PINTLE_PCD8544_CONTRAST_OPTIONS);
OPTION_NAMES(biases, PINTLE_PCD8544_BIAS_OPTIONS);
OPTION_NAMES(colours, PINTLE_PCD8544_COLOURS_OPTIONS);

static const struct pintle_setting_text settings[] = {
    { .name = "contrast",
      .meaning = "VOP: 3.06 V and 0.06 V each for the liquid; pale or all dark means another",
      .options = contrasts },
    { .name = "bias",
      .meaning = "multiplex rate; glasses of 48 rows want 1:48",
      .options = biases },
    { .name = "colours", .meaning = "which of the two a 1 is", .options = colours },
};

#define COMMAND(code) WO((code), 0)
static const struct pintle_map_reg regs[] = {
    { "FUNCTION_SET", COMMAND(0x20), 0,
      "and 4: asleep, 2: down a column, 1: the extended instructions", NO_FIELDS },
    { "DISPLAY_CONTROL", COMMAND(0x08), 0, "and 0: blank, 1: all on, 4: normal, 5: inverse",
      NO_FIELDS },
    { "SET_Y", COMMAND(0x40), 0, "band of eight rows, 0 to 5", NO_FIELDS },
    { "SET_X", COMMAND(0x80), 0, "column, 0 to 83; extended: VOP", NO_FIELDS },
    { "BIAS", COMMAND(0x10), 0, "extended: the bias system", NO_FIELDS },
    { "TEMPERATURE", COMMAND(0x04), 0, "extended: temperature coefficient", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_pcd8544 = {
    .part = &pintle_pcd8544,
    .what = "display of 84 x 48 dots",
    .source = "PCD8544, 1999-04-12",
    .supply_lowest = 2.7f,
    .supply_highest = 3.3f,
    .working_ua = 240,
    .resting_ua = 1.5f,
    .proof = "none: it has no output, and only a person can tell whether it is there",
    .proof_is_certain = 0,
    .known_for =
        "its reset input must get a pulse after power-up; a contrast that is off looks dead",
    .settings = settings,
    .regs = regs,
    .reg_count = COUNT(regs),
    .acts = 1,
    .mute = 1,
};
