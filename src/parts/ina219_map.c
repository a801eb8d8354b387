/* INA219 for people, from datasheet SBOS448. */
#include "pintle/parts/ina219.h"

#include "pintle/parts/ina219.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = {
    { 0x40, "A1 to GND, A0 to GND" }, { 0x41, "A1 to GND, A0 to VS" },
    { 0x42, "A1 to GND, A0 to SDA" }, { 0x43, "A1 to GND, A0 to SCL" },
    { 0x44, "A1 to VS, A0 to GND" },  { 0x45, "A1 to VS, A0 to VS" },
    { 0x46, "A1 to VS, A0 to SDA" },  { 0x47, "A1 to VS, A0 to SCL" },
    { 0x48, "A1 to SDA, A0 to GND" }, { 0x49, "A1 to SDA, A0 to VS" },
    { 0x4a, "A1 to SDA, A0 to SDA" }, { 0x4b, "A1 to SDA, A0 to SCL" },
    { 0x4c, "A1 to SCL, A0 to GND" }, { 0x4d, "A1 to SCL, A0 to VS" },
    { 0x4e, "A1 to SCL, A0 to SDA" }, { 0x4f, "A1 to SCL, A0 to SCL" },
};

OPTION_NAMES(bus_ranges, PINTLE_INA219_BUS_RANGE_OPTIONS);
OPTION_NAMES(shunt_ranges, PINTLE_INA219_SHUNT_RANGE_OPTIONS);
OPTION_NAMES(samples, PINTLE_INA219_SAMPLES_OPTIONS);

static const struct pintle_setting_text settings[] = {
    { .name = "bus-range",
      .meaning = "where the scale of the bus voltage ends; 4 mV a count either way",
      .options = bus_ranges },
    { .name = "shunt-range",
      .meaning = "where that of the shunt voltage ends; 10 uV a count either way",
      .options = shunt_ranges },
    { .name = "samples",
      .meaning = "averaged, of 532 us each: less noise, and no blind moments",
      .options = samples },
};

static const struct pintle_number_text numbers[] = {
    { "shunt", "ohm", "resistor between IN+ and IN-" },
};

/* Section 7.5, over temperature, with a shunt of 0.1 ohm. */
static const struct pintle_channel_text channels[] = {
    { "BD", "V = BD x 4 mV", "4 mV", "1 percent", 0.1f, 0, 10, 0.27f },
    { "SD", "I = SD x 10 uV / shunt", "0.1 mA at 0.1 ohm", "100 uV / shunt and 1 percent", 0.006f,
      -0.5f, 0.5f, 0.04f },
    { "BD x SD", "P = V x I", "0.4 uW at 0.1 ohm", "those of both", 0.2f, -5, 5, 2 },
    { "SD", "V = SD x 10 uV", "10 uV", "100 uV and 1 percent", 0.0006f, -0.05f, 0.05f, 0.004f },
};

static const struct pintle_accuracy accuracies[] = {
    { 0.004f, 0.01f, 0 },
    { 0.001f, 0.01f, 0 },
    { 0.026f, 0.02f, 1 + PINTLE_INA219_CURRENT }, /* at 26 V */
    { 1e-4f, 0.01f, 0 },
};

static const struct pintle_stretch data[] = {
    { "02h", 2, "bus voltage, high byte first: 13 bits, 0, CNVR, OVF" },
    { "01h", 2, "shunt voltage, high byte first" },
};

static const char *const modes[] = {
    "power-down", "shunt, triggered",  "bus, triggered",  "both, triggered",
    "off",        "shunt, continuous", "bus, continuous", "both, continuous",
    NULL
};

static const struct pintle_field configuration[] = {
    { "RST", 15, 1, "write 1: restart", NULL },
    { "BRNG", 13, 1, "bus range", bus_ranges },
    { "PG", 11, 2, "shunt range", shunt_ranges },
    { "BADC", 7, 4, "bus: resolution or samples; 3 is 12 bits, 9 to 15 are 2 to 128 samples",
      NULL },
    { "SADC", 3, 4, "shunt: likewise", NULL },
    { "MODE", 0, 3, "mode", modes },
};
static const struct pintle_field bus[] = {
    { "BD", 3, 13, "4 mV", NULL },
    { "CNVR", 1, 1, "both conversions are done", pintle_priv_no_yes },
    { "OVF", 0, 1, "current or power are out of range", pintle_priv_no_yes },
};
static const struct pintle_field calibration[] = {
    { "FS", 1, 15, "0.04096 / (ampere per count x shunt); 0: no arithmetic", NULL },
};

static const struct pintle_map_reg regs[] = {
    { "CONFIGURATION", RW_ACTS(0x00, 2, 0x8000, 0x4000), 0x399f, "ranges, samples, mode",
      FIELDS(configuration) },
    { "SHUNT_VOLTAGE", RO(0x01, 2), 0x0000, "10 uV, two's complement", NO_FIELDS },
    { "BUS_VOLTAGE", RO(0x02, 2), 0x0000, "bus voltage and flags", FIELDS(bus) },
    { "POWER", RO(0x03, 2), 0x0000, "with CALIBRATION", NO_FIELDS },
    { "CURRENT", RO(0x04, 2), 0x0000, "with CALIBRATION", NO_FIELDS },
    { "CALIBRATION", RW_BUT(0x05, 2, 0x0001), 0x0000, "full scale of CURRENT and POWER",
      FIELDS(calibration) },
};

const struct pintle_sheet pintle_priv_ina219 = {
    .part = &pintle_ina219,
    .what = "current and power monitor",
    .source = "SBOS448",
    .supply_lowest = 3.0f,
    .supply_highest = 5.5f,
    .working_ua = 700,
    .resting_ua = 6,
    .straps = straps,
    .proof = "no identity; bit 14 of CONFIGURATION, 2 of BUS_VOLTAGE, 0 of CALIBRATION read 0",
    .proof_is_certain = 0,
    .known_for = "the shunt's ohms decide the current: its tracks and solder count too",
    .known_by_quality = PINTLE_QUALITY_SATURATED,
    .settings = settings,
    .numbers = numbers,
    .channels = channels,
    .accuracies = accuracies,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
