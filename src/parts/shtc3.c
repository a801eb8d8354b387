/* SHTC3, datasheet SHTC3 version 4. It is left awake: asleep it costs a command and a wait more. */
#include "pintle/parts/shtc3.h"

#define WAKE 0x3517       /* table 8 */
#define SOFT_RESET 0x805d /* section 5.7 */
#define ID 0xefc8         /* section 5.9 */
#define ID_FIXED 0x083f
#define SHTC3_ID 0x0807

/* Table 9: the measuring commands are the options themselves. */
#define MEASURE 0

#define STARTING_US 240 /* table 5 */

static const uint8_t addresses[] PINTLE_TABLE = { 0x70 };

PINTLE_OPTIONS(modes, PINTLE_SHTC3_MODE_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_SHTC3_MODE] = { MEASURE, 0, 2, PINTLE_SHTC3_NORMAL, modes, NULL },
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_WAIT(STARTING_US),
    PINTLE_COMMAND(WAKE),
    PINTLE_WAIT(STARTING_US),
    PINTLE_EXPECT(ID, 2, ID_FIXED, SHTC3_ID),
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

/* Section 5.11: T = -45 + 175 S_T / 2^16, RH = 100 S_RH / 2^16. */
static const struct pintle_linear temperature PINTLE_TABLE = {
    .bytes = 2, .scale = 175.0f / 65536.0f, .zero = -45.0f, .lowest = 0, .highest = 65535
};
/* 0 and 100 %RH are values, not ends of a scale. */
static const struct pintle_linear humidity PINTLE_TABLE = {
    .bytes = 2, .scale = 100.0f / 65536.0f, .lowest = -1, .highest = 65536
};

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("temperature", TEMPERATURE, 2, -40, 125, &temperature, .at = 0),
    PINTLE_CHANNEL("humidity", HUMIDITY, 2, 0, 100, &humidity, .at = 3),
};

const struct pintle_part pintle_shtc3 PINTLE_TABLE = {
    .name = "SHTC3",
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
