/* DS3231 for people, from datasheet 19-5170. */
#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x68, "fixed" } };

static const struct pintle_channel_text channels[] = {
    { "temperature registers", "T = raw x 0.25", "0.25 degC", "3 degC from -40 to 85 degC", 3.0f,
      -40, 85, 3.0f },
    { "", "BCD date and time, 00h to 06h", "1 s", "2 ppm from 0 to 40 degC", 1.0f, 0, 0, 1.0f },
};

static const struct pintle_stretch data[] = {
    { "0Fh", 1, "status, for the stop flag OSF" },
    { "10h", 1, "aging offset" },
    { "11h", 2, "temperature, high byte first, left-justified 10 bits" },
    { "00h", 7, "time: seconds, minutes, hours, day, date, month, year (the address wraps here)" },
    { "06h", 1, "the year once more; may be left out" },
};

static const char *const clocks[] = { "24 hours", "12 hours", NULL };
static const char *const outputs[] = { "square wave", "alarm interrupt", NULL };
static const char *const waves[] = { "1 Hz", "1024 Hz", "4096 Hz", "8192 Hz", NULL };

static const struct pintle_field hours[] = {
    { "12/24", 6, 1, "clock face", clocks },
    { "BCD", 0, 6, "tens and units (12 hours: bit 5 is PM)", NULL },
};
static const struct pintle_field month[] = {
    { "Century", 7, 1, "toggles when the years roll over", NULL },
    { "BCD", 0, 5, "tens and units", NULL },
};
static const struct pintle_field alarm[] = {
    { "mask", 7, 1, "1: this field does not matter", NULL },
    { "BCD", 0, 7, "tens and units", NULL },
};
static const struct pintle_field control[] = {
    { "EOSC", 7, 1, "1: stop the oscillator on battery", NULL },
    { "BBSQW", 6, 1, "square wave on battery", pintle_priv_no_yes },
    { "CONV", 5, 1, "write 1: convert the temperature now", NULL },
    { "RS", 3, 2, "square wave", waves },
    { "INTCN", 2, 1, "what INT/SQW carries", outputs },
    { "A2IE", 1, 1, "alarm 2 pulls INT low", pintle_priv_no_yes },
    { "A1IE", 0, 1, "alarm 1 pulls INT low", pintle_priv_no_yes },
};
static const struct pintle_field status[] = {
    { "OSF", 7, 1, "the oscillator has stopped: the time cannot be trusted", pintle_priv_no_yes },
    { "EN32kHz", 3, 1, "32 kHz output on", pintle_priv_no_yes },
    { "BSY", 2, 1, "a temperature conversion runs", pintle_priv_no_yes },
    { "A2F", 1, 1, "alarm 2 has gone off", pintle_priv_no_yes },
    { "A1F", 0, 1, "alarm 1 has gone off", pintle_priv_no_yes },
};

/* Writing 0 clears the flags of Status; writing 1 to CONV starts a conversion. */
#define CONTROL RW_ACTS(0x0e, 1, 0x20, 0)
#define STATUS                                                                                     \
    {                                                                                              \
        0x0f, 1, 0, 0x83, 0, 0x74                                                                  \
    }

static const struct pintle_map_reg regs[] = {
    { "Seconds", RW_BUT(0x00, 1, 0x80), 0x00, "BCD", NO_FIELDS },
    { "Minutes", RW_BUT(0x01, 1, 0x80), 0x00, "BCD", NO_FIELDS },
    { "Hours", RW_BUT(0x02, 1, 0x80), 0x00, "BCD, 12 or 24 hours", FIELDS(hours) },
    { "Day", RW_BUT(0x03, 1, 0xf8), 0x01, "day of the week, 1 to 7", NO_FIELDS },
    { "Date", RW_BUT(0x04, 1, 0xc0), 0x01, "BCD", NO_FIELDS },
    { "Month", RW_BUT(0x05, 1, 0x60), 0x01, "BCD, and the century bit", FIELDS(month) },
    { "Year", RW(0x06, 1), 0x00, "BCD, 00 to 99", NO_FIELDS },
    { "A1_Seconds", RW(0x07, 1), 0x00, "alarm 1", FIELDS(alarm) },
    { "A1_Minutes", RW(0x08, 1), 0x00, "alarm 1", FIELDS(alarm) },
    { "A1_Hours", RW(0x09, 1), 0x00, "alarm 1", FIELDS(alarm) },
    { "A1_Day", RW(0x0a, 1), 0x00, "alarm 1", FIELDS(alarm) },
    { "A2_Minutes", RW(0x0b, 1), 0x00, "alarm 2", FIELDS(alarm) },
    { "A2_Hours", RW(0x0c, 1), 0x00, "alarm 2", FIELDS(alarm) },
    { "A2_Day", RW(0x0d, 1), 0x00, "alarm 2", FIELDS(alarm) },
    { "Control", CONTROL, 0x1c, "alarms and outputs", FIELDS(control) },
    { "Status", STATUS, 0x8c, "flags", FIELDS(status) },
    { "Aging", RW(0x10, 1), 0x00, "oscillator trim, two's complement", NO_FIELDS },
    { "Temp_MSB", RO(0x11, 1), 0x00, "whole degC, two's complement", NO_FIELDS },
    { "Temp_LSB", RO(0x12, 1), 0x00, "quarters of a degC in bits 7 and 6", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_ds3231 = {
    .part = &pintle_ds3231,
    .what = "real-time clock with a thermometer",
    .source = "19-5170 rev 10",
    .supply_lowest = 2.3f,
    .supply_highest = 5.5f,
    .working_ua = 575,
    .resting_ua = 110,
    .stands_v = 5.5f, /* pin description: SCL and SDA, whatever V_CC */
    .straps = straps,
    .proof = "no identity register; bits that always read 0 do",
    .proof_is_certain = 0,
    .known_for = "OSF says that its battery was empty: the time must be set again",
    .known_by_quality = PINTLE_QUALITY_POWER_ON,
    .channels = channels,
    .data = data,
    .repeats = 1,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
