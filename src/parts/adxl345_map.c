/* ADXL345 for people, from its datasheet, rev. G. */
#include "pintle/parts/adxl345.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x53, "SDO/ALT ADDRESS to GND, CS to VDD I/O" },
                                              { 0x1d,
                                                "SDO/ALT ADDRESS to VDD I/O, CS to VDD I/O" } };

OPTION_NAMES(resolutions, PINTLE_ADXL345_RESOLUTION_OPTIONS);
OPTION_NAMES(ranges, PINTLE_ADXL345_RANGE_OPTIONS);
OPTION_NAMES(rates, PINTLE_ADXL345_RATE_OPTIONS);

static const float rate_currents[] = { 50, 60, 90, 140, 140, 140, 140, 90, 140 };
static const struct pintle_setting_text settings[] = {
    { .name = "resolution",
      .meaning = "ten bits of the range, or 1/256 g at every range",
      .options = resolutions },
    { .name = "range", .meaning = "full scale", .options = ranges },
    { .name = "rate",
      .meaning = "samples per second; the bandwidth is half of it",
      .options = rates,
      .working_ua = rate_currents },
};

#define AXIS(symbol)                                                                               \
    {                                                                                              \
        (symbol), "a = raw / 256 g; with ten bits / 256, 128, 64, 32 g", "3.9 mg",                 \
            "40 mg on x and y, 80 mg on z (typical), 1 percent", 0.9f, -20, 20, 2.5f               \
    }
static const struct pintle_channel_text channels[] = { AXIS("DATAX"), AXIS("DATAY"),
                                                       AXIS("DATAZ") };

static const struct pintle_stretch data[] = {
    { "32h", 6, "x, y, z, low byte first, right-justified" },
};

static const char *const fifo_modes[] = { "bypass", "fifo", "stream", "trigger", NULL };

static const struct pintle_field bw_rate[] = {
    { "LOW_POWER", 4, 1, "less current, more noise", pintle_priv_no_yes },
    { "Rate", 0, 4, "7 is 12.5 Hz, each more doubles it", NULL },
};
static const struct pintle_field power_ctl[] = {
    { "Link", 5, 1, "activity and inactivity alternate", pintle_priv_no_yes },
    { "AUTO_SLEEP", 4, 1, "sleep while nothing moves", pintle_priv_no_yes },
    { "Measure", 3, 1, "it measures", pintle_priv_no_yes },
    { "Sleep", 2, 1, "sleep", pintle_priv_no_yes },
    { "Wakeup", 0, 2, "rate asleep", NULL },
};
static const struct pintle_field sources[] = {
    { "DATA_READY", 7, 1, "a sample is there", pintle_priv_no_yes },
    { "SINGLE_TAP", 6, 1, "one tap", pintle_priv_no_yes },
    { "DOUBLE_TAP", 5, 1, "two taps", pintle_priv_no_yes },
    { "Activity", 4, 1, "it moved", pintle_priv_no_yes },
    { "Inactivity", 3, 1, "it lay still", pintle_priv_no_yes },
    { "FREE_FALL", 2, 1, "it falls", pintle_priv_no_yes },
    { "Watermark", 1, 1, "so many samples are in the FIFO", pintle_priv_no_yes },
    { "Overrun", 0, 1, "a sample was lost", pintle_priv_no_yes },
};
static const struct pintle_field data_format[] = {
    { "SELF_TEST", 7, 1, "a force is applied", pintle_priv_no_yes },
    { "SPI", 6, 1, "SPI over three wires", pintle_priv_no_yes },
    { "INT_INVERT", 5, 1, "interrupts are active low", pintle_priv_no_yes },
    { "FULL_RES", 3, 1, "full resolution", pintle_priv_no_yes },
    { "Justify", 2, 1, "left-justified", pintle_priv_no_yes },
    { "Range", 0, 2, "full scale", ranges },
};
static const struct pintle_field fifo_ctl[] = {
    { "FIFO_MODE", 6, 2, "mode", fifo_modes },
    { "Trigger", 5, 1, "line that triggers", NULL },
    { "Samples", 0, 5, "watermark", NULL },
};
static const struct pintle_field fifo_status[] = {
    { "FIFO_TRIG", 7, 1, "a trigger came", pintle_priv_no_yes },
    { "Entries", 0, 6, "samples in the FIFO", NULL },
};

static const struct pintle_map_reg regs[] = {
    { "DEVID", RO(0x00, 1), 0xe5, "E5h", NO_FIELDS },
    { "OFSX", RW(0x1e, 1), 0, "x offset, 15.6 mg", NO_FIELDS },
    { "OFSY", RW(0x1f, 1), 0, "y offset", NO_FIELDS },
    { "OFSZ", RW(0x20, 1), 0, "z offset", NO_FIELDS },
    { "BW_RATE", RW_BUT(0x2c, 1, 0xe0), 0x0a, "rate", FIELDS(bw_rate) },
    { "POWER_CTL", RW_BUT(0x2d, 1, 0xc0), 0, "power", FIELDS(power_ctl) },
    { "INT_ENABLE", RW(0x2e, 1), 0, "interrupts", FIELDS(sources) },
    { "INT_MAP", RW(0x2f, 1), 0, "to which pin", FIELDS(sources) },
    { "INT_SOURCE", PINTLE_REG(0x30, 1, PINTLE_REG_READ_ONLY | PINTLE_REG_READ_CLEARS), 0x02,
      "what happened", FIELDS(sources) },
    { "DATA_FORMAT", RW_BUT(0x31, 1, 0x10), 0, "range, resolution", FIELDS(data_format) },
    { "DATAX", RO(0x32, 2), 0, "last sample", NO_FIELDS },
    { "DATAY", RO(0x34, 2), 0, "last sample", NO_FIELDS },
    { "DATAZ", RO(0x36, 2), 0, "last sample", NO_FIELDS },
    { "FIFO_CTL", RW(0x38, 1), 0, "FIFO", FIELDS(fifo_ctl) },
    { "FIFO_STATUS", RO(0x39, 1), 0, "FIFO", FIELDS(fifo_status) },
};

const struct pintle_sheet pintle_priv_adxl345 = {
    .part = &pintle_adxl345,
    .what = "accelerometer, three axes, to 16 g",
    .source = "ADXL345 rev. G",
    .supply_lowest = 2.0f,
    .supply_highest = 3.6f,
    .working_ua = 140,
    .resting_ua = 0.1f,
    .straps = straps,
    .proof = "register DEVID reads E5h",
    .proof_is_certain = 1,
    .known_for = "CS must be tied high, or it listens to SPI; z is off by more than x and y",
    .settings = settings,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
