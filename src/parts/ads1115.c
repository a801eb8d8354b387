/* ADS1115, datasheet SBAS444 (registers: section 9.6). */
#include "pintle/parts/ads1115.h"

#define CONVERSION 0x00
#define CONFIG 0x01
#define LO_THRESH 0x02
#define HI_THRESH 0x03

/* CONFIG, table 9-3 */
#define OS 0x8000u /* write: begin; read: nothing is being converted */
#define MUX(n) ((uint32_t)(n) << 12)
#define SINGLE 0x0100u
#define NO_COMPARATOR 0x0003u

static const uint8_t addresses[] PINTLE_TABLE = { 0x48, 0x49, 0x4a, 0x4b };

PINTLE_OPTIONS(ranges, PINTLE_ADS1115_RANGE_OPTIONS);
PINTLE_FACTORS(range_factors, PINTLE_ADS1115_RANGE_OPTIONS);

PINTLE_OPTIONS(rates, PINTLE_ADS1115_RATE_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_ADS1115_RANGE] = { CONFIG, 9, 6, PINTLE_ADS1115_6_144_V, ranges, range_factors },
    [PINTLE_ADS1115_RATE] = { CONFIG, 5, 8, PINTLE_ADS1115_128_SPS, rates, NULL },
};

static const uint8_t rungs[] PINTLE_TABLE = {
    PINTLE_ADS1115_0_256_V, PINTLE_ADS1115_0_256_V, PINTLE_ADS1115_0_512_V, PINTLE_ADS1115_0_512_V,
    PINTLE_ADS1115_1_024_V, PINTLE_ADS1115_1_024_V, PINTLE_ADS1115_2_048_V, PINTLE_ADS1115_2_048_V,
    PINTLE_ADS1115_4_096_V, PINTLE_ADS1115_4_096_V, PINTLE_ADS1115_6_144_V, PINTLE_ADS1115_6_144_V,
};
static const struct pintle_ladder ladder PINTLE_TABLE = {
    .climb = pintle_part_climb,
    .settings = { PINTLE_ADS1115_RANGE, PINTLE_ADS1115_RANGE },
    .rungs = sizeof rungs / 2,
    .options = rungs,
    .channels = 0x3f,
    .lowest = 12000,
    .highest = 30000,
};

/* It has no identity, and no bit that is always the same: that it answers is all. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_CALL(),
    PINTLE_END(),
};

/* A conversion under way, at whatever rate, ends first. What another chip at this address would not
 * keep, this one does. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE_PLAIN(CONFIG, 2, SINGLE | NO_COMPARATOR),
    PINTLE_POLL(CONFIG, 0x80, 0x80, 200),
    PINTLE_WRITE(LO_THRESH, 2, 0x8000),
    PINTLE_WRITE(HI_THRESH, 2, 0x7fff),
    PINTLE_EXPECT(HI_THRESH, 2, 0xffff, 0x7fff),
    PINTLE_END(),
};

/* Behind each result: was nothing under way any more, and is it of the conversion that was begun?
 * After power-up it is of another. */
#define BEGUN(mux) (OS | MUX(mux) | SINGLE | NO_COMPARATOR)
#define CONVERT(n, mux)                                                                            \
    PINTLE_FOR(1 << (n), 4, 2), PINTLE_WRITE(CONFIG, 2, BEGUN(mux)), PINTLE_WAIT_SETTINGS(0),      \
        PINTLE_READ(CONVERSION, 2), PINTLE_EXPECT(CONFIG, 2, 0xffff, BEGUN(mux))
static const struct pintle_step measure[] PINTLE_TABLE = {
    CONVERT(0, 4), CONVERT(1, 5), CONVERT(2, 6), CONVERT(3, 7),
    CONVERT(4, 0), CONVERT(5, 3), PINTLE_END(),
};

/* Table 8-3: 62.5 uV a count at 2.048 V. */
static const struct pintle_linear row PINTLE_TABLE = {
    .bytes = 2, .flags = PINTLE_LINEAR_SIGNED, .scale = 62.5e-6f, .lowest = -32768, .highest = 32767
};

#define CHANNEL(name, n, from)                                                                     \
    PINTLE_CHANNEL(name, VOLTAGE, 6, from, 5.8f, &row, .at = 2 * (n),                              \
                   .scaled_by = 1 << PINTLE_ADS1115_RANGE, .input = 1 << (n))
static const struct pintle_channel channels[] PINTLE_TABLE = {
    CHANNEL("ain0", 0, -0.3f), CHANNEL("ain1", 1, -0.3f),      CHANNEL("ain2", 2, -0.3f),
    CHANNEL("ain3", 3, -0.3f), CHANNEL("ain0-ain1", 4, -5.8f), CHANNEL("ain2-ain3", 5, -5.8f),
};

const struct pintle_part pintle_ads1115 PINTLE_TABLE = {
    .name = "ADS1115",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_STICKY_POINTER | PINTLE_PART_KEEPS,
    .raw_size = 12,
    .channel_count = 6,
    .setting_count = 2,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .settings = settings,
    .ladder = &ladder,
    .channels = channels,
    .factor = pintle_part_factor,
};
