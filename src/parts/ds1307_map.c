/* DS1307 for people, from datasheet 19-5046. */
#include "pintle/parts/ds1307.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x68, "fixed" } };

OPTION_NAMES(outputs, PINTLE_DS1307_OUTPUT_OPTIONS);
static const struct pintle_setting_text settings[] = {
    { .name = "output", .meaning = "what its open-drain output SQW does", .options = outputs },
};

static const struct pintle_channel_text channels[] = {
    { "BCD", "two decimal digits a byte; years from 2000", "1 s", "the crystal's", 1, 0, 4.3e9f,
      1 },
};

static const struct pintle_stretch data[] = {
    { "00h", 7, "seconds, minutes, hours, weekday, day, month, year, in BCD" },
    { "06h", 1, "the year once more; may be left out" },
};

static const struct pintle_field seconds[] = {
    { "CH", 7, 1, "the clock is halted", pintle_priv_no_yes },
    { "seconds", 0, 7, "BCD", NULL },
};
static const struct pintle_field hours[] = {
    { "12/24", 6, 1, "12-hour form", pintle_priv_no_yes },
    { "hours", 0, 6, "BCD; in 12-hour form bit 5 is PM", NULL },
};
static const char *const rates[] = { "1Hz", "4096Hz", "8192Hz", "32768Hz", NULL };
static const struct pintle_field control[] = {
    { "OUT", 7, 1, "the output's level while there is no square wave", NULL },
    { "SQWE", 4, 1, "square wave on", pintle_priv_no_yes },
    { "RS", 0, 2, "its rate", rates },
};

static const struct pintle_map_reg regs[] = {
    { "SECONDS", RW(0x00, 1), 0x80, "and CH", FIELDS(seconds) },
    { "MINUTES", RW_BUT(0x01, 1, 0x80), 0x00, "BCD", NO_FIELDS },
    { "HOURS", RW_BUT(0x02, 1, 0x80), 0x00, "BCD", FIELDS(hours) },
    { "DAY", RW_BUT(0x03, 1, 0xf8), 0x01, "of the week, 1 to 7", NO_FIELDS },
    { "DATE", RW_BUT(0x04, 1, 0xc0), 0x01, "BCD", NO_FIELDS },
    { "MONTH", RW_BUT(0x05, 1, 0xe0), 0x01, "BCD", NO_FIELDS },
    { "YEAR", RW(0x06, 1), 0x00, "BCD", NO_FIELDS },
    { "CONTROL", RW_BUT(0x07, 1, 0x6c), 0x03, "the output", FIELDS(control) },
};

const struct pintle_sheet pintle_priv_ds1307 = {
    .part = &pintle_ds1307,
    .what = "clock with 56 bytes of memory",
    .source = "19-5046",
    .supply_lowest = 4.5f,
    .supply_highest = 5.5f,
    .working_ua = 1500,
    .resting_ua = 200,
    .high_v = 2.2f,
    .straps = straps,
    .proof = "no identity; bits that always read 0, and a date behind its last byte of memory",
    .proof_is_certain = 0,
    .known_for =
        "it wants 5 V, and no pull-up to them where the board has 3.3 V; a new battery leaves "
        "it halted",
    .known_by_quality = PINTLE_QUALITY_POWER_ON,
    .settings = settings,
    .channels = channels,
    .data = data,
    .repeats = 1,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
