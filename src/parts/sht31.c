/* SHT31, datasheet SHT3x-DIS version 7. Its settings are bits of the measuring command. */
#include "pintle/parts/sht31.h"

#define STATUS 0xf32d       /* table 17 */
#define STATUS_ZEROS 0x500c /* reserved bits that read 0, table 18 */
#define BREAK 0x3093        /* table 13: end the periodic mode */
#define SOFT_RESET 0x30a2   /* table 14; heard only when nothing is being measured */
#define SINGLE_SHOT 0x2400  /* table 9, without clock stretching */

static const uint8_t addresses[] PINTLE_TABLE = { 0x44, 0x45 };

PINTLE_OPTIONS(repeatabilities, PINTLE_SHT31_REPEATABILITY_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_SHT31_REPEATABILITY] = { SINGLE_SHOT, 0, 3, PINTLE_SHT31_HIGH, repeatabilities, NULL },
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_WAIT(1500), /* table 4: after power-up */
    PINTLE_EXPECT(STATUS, 2, STATUS_ZEROS, 0),
    PINTLE_END(),
};

static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_COMMAND(BREAK), PINTLE_WAIT(1000), PINTLE_COMMAND(SOFT_RESET),
    PINTLE_WAIT(1500),     PINTLE_END(),
};

static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_COMMAND(SINGLE_SHOT),
    PINTLE_WAIT_SETTINGS(0),
    PINTLE_FETCH(6),
    PINTLE_CHECK(),
    PINTLE_END(),
};

/* Section 4.13: T = -45 + 175 S_T / (2^16 - 1), RH = 100 S_RH / (2^16 - 1). */
static const struct pintle_linear temperature PINTLE_TABLE = {
    .bytes = 2, .scale = 175.0f / 65535.0f, .zero = -45.0f, .lowest = 0, .highest = 65535
};
/* 0 and 100 %RH are values, not ends of a scale. */
static const struct pintle_linear humidity PINTLE_TABLE = {
    .bytes = 2, .scale = 100.0f / 65535.0f, .lowest = -1, .highest = 65536
};

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("temperature", TEMPERATURE, 2, -40, 125, &temperature, .at = 0),
    PINTLE_CHANNEL("humidity", HUMIDITY, 2, 0, 100, &humidity, .at = 3),
};

const struct pintle_part pintle_sht31 PINTLE_TABLE = {
    .name = "SHT31",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_WIDE_ADDRESS | PINTLE_PART_KEEPS,
    .raw_size = 6,
    .channel_count = 2,
    .setting_count = 1,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .crc = &pintle_crc8_words,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .settings = settings,
    .channels = channels,
};
