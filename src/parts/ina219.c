/* INA219, datasheet SBOS448 (registers: section 8.6). Its own arithmetic stays off: with the shunt
 * in ohms current and power come from the two voltages of one measurement, with no rounding
 * between. */
#include "pintle/parts/ina219.h"

#define CONFIGURATION 0x00
#define SHUNT_VOLTAGE 0x01
#define BUS_VOLTAGE 0x02
#define CALIBRATION 0x05

/* CONFIGURATION, figure 19 */
#define RST 0x8000
#define UNUSED 0x4000
#define TRIGGERED 0x0003 /* shunt and bus, once */

/* BUS_VOLTAGE, figure 24: in its low byte */
#define CNVR 0x02
#define OVF 0x01
#define BUS_ZERO 0x0004

static const uint8_t addresses[] PINTLE_TABLE = { 0x40, 0x41, 0x42, 0x43, 0x44, 0x45, 0x46, 0x47,
                                                  0x48, 0x49, 0x4a, 0x4b, 0x4c, 0x4d, 0x4e, 0x4f };

PINTLE_OPTIONS(bus_ranges, PINTLE_INA219_BUS_RANGE_OPTIONS);
PINTLE_OPTIONS(shunt_ranges, PINTLE_INA219_SHUNT_RANGE_OPTIONS);
PINTLE_OPTIONS(samples, PINTLE_INA219_SAMPLES_OPTIONS);

/* The last row is the other place of the samples. */
static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_INA219_BUS_RANGE] = { CONFIGURATION, 13, 2, PINTLE_INA219_32_V, bus_ranges, NULL },
    [PINTLE_INA219_SHUNT_RANGE] = { CONFIGURATION, 11, 4, PINTLE_INA219_320_MV, shunt_ranges,
                                    NULL },
    [PINTLE_INA219_SAMPLES] = { CONFIGURATION, 7, 8, PINTLE_INA219_1_SAMPLE, samples, NULL },
    { CONFIGURATION, 3, 8, PINTLE_INA219_SAMPLES, samples, NULL },
};

/* Section 8.5.1: the resistor between its two sense pins. */
static const struct pintle_number numbers[] PINTLE_TABLE = {
    [PINTLE_INA219_SHUNT] = { 0.1f, 0.0001f, 100.0f },
};

/* It has no identity; three bits always read 0. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(CONFIGURATION, 2, UNUSED, 0),
    PINTLE_EXPECT(BUS_VOLTAGE, 2, BUS_ZERO, 0),
    PINTLE_EXPECT(CALIBRATION, 2, 0x0001, 0),
    PINTLE_END(),
};

static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE_PLAIN(CONFIGURATION, 2, RST),
    PINTLE_WRITE(CALIBRATION, 2, 0),
    PINTLE_END(),
};

/* After power-up it converts all the time, with another configuration. */
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_WRITE(CONFIGURATION, 2, TRIGGERED),
    PINTLE_WAIT_SETTINGS(40),
    PINTLE_READ_UNTIL(BUS_VOLTAGE, 2, 1, CNVR, CNVR, 50),
    PINTLE_READ(SHUNT_VOLTAGE, 2),
    PINTLE_EXPECT(CONFIGURATION, 2, 0xffff, TRIGGERED),
    PINTLE_END(),
};

#define OF_ALL PINTLE_UNLESS_BLOCK(1, CNVR, CNVR, STALE), PINTLE_UNLESS_BLOCK(1, BUS_ZERO, 0, BUS)
static const struct pintle_mark of_bus[] PINTLE_TABLE = { PINTLE_MARK(1, OVF, OVF, SATURATED),
                                                          OF_ALL, PINTLE_MARKS_END() };
static const struct pintle_mark of_shunt[] PINTLE_TABLE = { OF_ALL, PINTLE_MARKS_END() };

/* Figure 24: 4 mV a count in the upper 13 bits. */
#define BUS(end)                                                                                   \
    {                                                                                              \
        .bytes = 2, .shift = 3, .scale = 0.004f, .lowest = -1, .highest = (end), .marks = of_bus   \
    }
static const struct pintle_linear bus_rows[] PINTLE_TABLE = { BUS(4000), BUS(8000) };

/* Figures 20 to 23: 10 uV a count at every range, of which it uses more or fewer. */
#define SHUNT(end)                                                                                 \
    {                                                                                              \
        .bytes = 2, .flags = PINTLE_LINEAR_SIGNED, .scale = 1e-5f, .lowest = -(end),               \
        .highest = (end), .marks = of_shunt                                                        \
    }
static const struct pintle_linear shunt_rows[] PINTLE_TABLE = { SHUNT(4000), SHUNT(8000),
                                                                SHUNT(16000), SHUNT(32000) };

#define BUS_END 6500 /* 26 V */
#define COUNTS(at) (uint16_t)((uint16_t)(at)[0] << 8 | (at)[1])

/* Power is the product of both; what is known against either is known against it. */
static void decode(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings)
{
    (void)part;
    struct pintle_reading *power = &readings[PINTLE_INA219_POWER];
    uint16_t word = COUNTS(block->raw);
    int32_t bus = word >> 3;
    int32_t shunt = (int16_t)COUNTS(block->raw + 2);
    int32_t bus_end = 4000 << block->settings[PINTLE_INA219_BUS_RANGE];
    int32_t shunt_end = (int32_t)4000 << block->settings[PINTLE_INA219_SHUNT_RANGE];
    PINTLE_NOTE(block->notes, "BD", bus);
    PINTLE_NOTE(block->notes, "SD", shunt);
    power->raw = bus * shunt;
    power->value = pintle_part_product(&pintle_ina219, block, power->raw, 4e-8f,
                                       PINTLE_INA219_SHUNT | PINTLE_DIVIDED, 4);
    if (bus >= bus_end || shunt >= shunt_end || shunt <= -shunt_end || (word & OVF)) {
        power->quality |= PINTLE_QUALITY_SATURATED;
    }
    power->quality |= bus > BUS_END ? PINTLE_QUALITY_RANGE : 0;
    power->quality |= word & CNVR ? 0 : PINTLE_QUALITY_STALE;
    power->quality |= word & BUS_ZERO ? PINTLE_QUALITY_BUS : 0;
}

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("bus-voltage", VOLTAGE, 3, 0, 26, bus_rows, .at = 0,
                   .rows_by = 1 << PINTLE_INA219_BUS_RANGE),
    PINTLE_CHANNEL("current", CURRENT, 5, -3200, 3200, shunt_rows, .at = 2,
                   .rows_by = 1 << PINTLE_INA219_SHUNT_RANGE,
                   .number = (1 + PINTLE_INA219_SHUNT) | PINTLE_DIVIDED),
    PINTLE_CHANNEL("power", POWER, 4, -83200, 83200, NULL, .at = 0),
    PINTLE_CHANNEL("shunt-volt", VOLTAGE, 5, -0.32f, 0.32f, shunt_rows, .at = 2,
                   .rows_by = 1 << PINTLE_INA219_SHUNT_RANGE),
};

const struct pintle_part pintle_ina219 PINTLE_TABLE = {
    .name = "INA219",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_STICKY_POINTER,
    .raw_size = 4,
    .channel_count = 4,
    .setting_count = 3,
    .further_count = 1,
    .number_count = 1,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .settings = settings,
    .numbers = numbers,
    .channels = channels,
    .factor = pintle_part_factor,
    .decode = decode,
};
