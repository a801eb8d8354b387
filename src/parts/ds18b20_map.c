/* DS18B20 for people, from datasheet 19-7487. */
#include "pintle/parts/ds18b20.h"

#include "parts/map.h"

OPTION_NAMES(resolutions, PINTLE_DS18B20_RESOLUTION_OPTIONS);
OPTION_NAMES(powers, PINTLE_DS18B20_POWER_OPTIONS);

static const struct pintle_setting_text settings[] = {
    { .name = "resolution",
      .meaning = "0.5, 0.25, 0.125, 0.0625 degC; 94, 188, 375, 750 ms",
      .options = resolutions },
    { .name = "power",
      .meaning = "by a wire of its own, or by the line (VDD to GND)",
      .options = powers },
};

static const struct pintle_channel_text channels[] = {
    { "TEMP", "T = TEMP x 0.0625 (12 bits)", "0.5, 0.25, 0.125 or 0.0625 degC",
      "0.5 degC from -10 to 85 degC, 2.0 degC from -55 to 125 degC", 0.5f, -10, 85, 2.0f },
};

static const struct pintle_stretch data[] = {
    { "scratchpad", 9, "temperature, low byte first; T_H; T_L; configuration; three fixed; CRC" },
};

static const struct pintle_field degrees[] = {
    { "T", 0, 16, "two's complement, 0.0625 degC", NULL },
};
static const struct pintle_field whole[] = {
    { "T", 0, 8, "two's complement, whole degC", NULL },
};
static const struct pintle_field configuration[] = {
    { "R", 5, 2, "resolution", resolutions },
};

static const struct pintle_map_reg regs[] = {
    { "TEMPERATURE", RO(0, 2), 0x0550, "the last conversion", FIELDS(degrees) },
    { "T_H", RW(2, 1), 0x4b, "upper alarm limit", FIELDS(whole) },
    { "T_L", RW(3, 1), 0x46, "lower alarm limit", FIELDS(whole) },
    { "CONFIGURATION", RW_BUT(4, 1, 0x9f), 0x7f, "resolution", FIELDS(configuration) },
    { "COPY_SCRATCHPAD", WO(0x48, 0), 0,
      "keep limits and resolution in the EEPROM (with a supply of its own)", NO_FIELDS },
    { "RECALL", WO(0xb8, 0), 0, "fetch them from there", NO_FIELDS },
    { "CRC", RO(8, 1), 0x1c, "of the eight bytes before it", NO_FIELDS },
};

const struct pintle_sheet pintle_priv_ds18b20 = {
    .part = &pintle_ds18b20,
    .what = "thermometer on a 1-Wire line",
    .source = "19-7487",
    .supply_lowest = 3.0f,
    .supply_highest = 5.5f,
    .working_ua = 1000,
    .resting_ua = 0.75f,
    .high_v = 2.2f, /* electrical characteristics: local power */
    .proof = "its code has family 28h and a good CRC, and the configuration's fixed bits are right",
    .proof_is_certain = 1,
    .known_for =
        "+85 degC says that it lost its power while it converted: mend its supply wire, or set "
        "power=parasite where it has none",
    .known_by_quality = PINTLE_QUALITY_POWER_ON,
    .known_by_status = 1u << PINTLE_MISFIT,
    .settings = settings,
    .channels = channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
