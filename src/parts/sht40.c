/* SHT40, datasheet SHT4x version 6 (commands: table 7; conversion: section 4.6). */
#include "pintle/parts/sht40.h"

#define SERIAL_NUMBER 0x89
#define SOFT_RESET 0x94
#define MEASURE 0 /* the measuring commands are the options themselves */

#define STARTING_US 1000 /* table 4: after power-up and after a reset */

/* By the letter in front of "D1B": A, B, C. */
static const uint8_t addresses[] PINTLE_TABLE = { 0x44, 0x45, 0x46 };

PINTLE_OPTIONS(precisions, PINTLE_SHT40_PRECISION_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_SHT40_PRECISION] = { MEASURE, 0, 3, PINTLE_SHT40_HIGH, precisions, NULL },
};

/* Its serial number comes as two words, each with its checksum. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_WAIT(STARTING_US),
    PINTLE_COMMAND(SERIAL_NUMBER),
    PINTLE_WAIT(STARTING_US),
    PINTLE_EXPECT(PINTLE_NO_REG, 6, 0, 0),
    PINTLE_END(),
};

static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_COMMAND(SOFT_RESET),
    PINTLE_WAIT(STARTING_US),
    PINTLE_END(),
};

static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_COMMAND(MEASURE), PINTLE_WAIT_SETTINGS(0), PINTLE_FETCH(6), PINTLE_CHECK(), PINTLE_END(),
};

/* Section 4.6: T = -45 + 175 S_T / (2^16 - 1), RH = -6 + 125 S_RH / (2^16 - 1), cropped to 0 and
 * 100 %RH. */
static const struct pintle_linear temperature PINTLE_TABLE = {
    .bytes = 2, .scale = 175.0f / 65535.0f, .zero = -45.0f, .lowest = 0, .highest = 65535
};
static const struct pintle_linear humidity PINTLE_TABLE = { .bytes = 2,
                                                            .flags = PINTLE_LINEAR_CLAMP,
                                                            .scale = 125.0f / 65535.0f,
                                                            .zero = -6.0f,
                                                            .lowest = 0,
                                                            .highest = 65535 };

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("temperature", TEMPERATURE, 2, -40, 125, &temperature, .at = 0),
    PINTLE_CHANNEL("humidity", HUMIDITY, 2, 0, 100, &humidity, .at = 3),
};

const struct pintle_part pintle_sht40 PINTLE_TABLE = {
    .name = "SHT40",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_KEEPS,
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
