/* DS18B20, datasheet 19-7487 (scratchpad: figure 9; resolution: table 2). */
#include "pintle/parts.h"

#include "pintle/reg.h"

/* bytes of the scratchpad */
#define TEMPERATURE 0
#define T_HIGH 2
#define CONFIGURATION 4
#define SCRATCHPAD 9

/* function commands */
#define CONVERT 0x44
#define COPY_SCRATCHPAD 0x48
#define COPY_US 10000

#define R0 5 /* bit number in CONFIGURATION */
#define FIXED_ONES 0x1f

/* Family and CRC of its code are checked before; its configuration byte has fixed bits. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(CONFIGURATION, 1, 0x9f, FIXED_ONES),
    PINTLE_END(),
};

/* The alarm limits beside it stay as they are. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE(CONFIGURATION, 1, FIXED_ONES),
    PINTLE_END(),
};

static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_ONLY(PINTLE_DS18B20_POWER, PINTLE_DS18B20_PARASITE, 1),
    PINTLE_POWER(CONVERT, 0),
    PINTLE_ONLY(PINTLE_DS18B20_POWER, PINTLE_DS18B20_EXTERNAL, 2),
    PINTLE_COMMAND(CONVERT),
    PINTLE_WAIT_SETTINGS(0),
    PINTLE_READ(TEMPERATURE, SCRATCHPAD),
    PINTLE_END(),
};

static const struct pintle_option resolutions[] PINTLE_TABLE = {
    { 0, 93750 }, { 1, 187500 }, { 2, 375000 }, { 3, 750000 }
};
static const struct pintle_option powers[] PINTLE_TABLE = { { 0, 0 }, { 0, 0 } };

#define NOWHERE 0xffff

static const struct pintle_setting settings[] PINTLE_TABLE = {
    { CONFIGURATION, R0, 4, PINTLE_DS18B20_12_BIT, resolutions },
    { NOWHERE, 0, 2, PINTLE_DS18B20_EXTERNAL, powers },
};

/* The bits below the resolution are undefined and dropped. +85 degC is what the scratchpad holds
 * after power-up, and after a conversion without enough power: it is believed only where the
 * value before was within 5 degC of it. */
#define ROW(drop)                                                                                  \
    {                                                                                              \
        .bytes = 2, .shift = (drop),                                                               \
        .flags = PINTLE_LINEAR_SIGNED | PINTLE_LINEAR_LITTLE_ENDIAN | PINTLE_LINEAR_POWER_ON,      \
        .scale = 0.0625f * (1 << (drop)), .lowest = INT16_MIN, .highest = INT16_MAX,               \
        .power_on = 0x0550 >> (drop), .near = 80 >> (drop)                                         \
    }

static const struct pintle_linear rows[] PINTLE_TABLE = { ROW(3), ROW(2), ROW(1), ROW(0) };

static const struct pintle_channel channels[] PINTLE_TABLE = {
    { "temperature", PINTLE_QUANTITY_TEMPERATURE, 4, PINTLE_DS18B20_RESOLUTION, -55, 125, rows },
};

const struct pintle_part pintle_ds18b20 PINTLE_TABLE = {
    .name = "DS18B20",
    .flags = PINTLE_PART_FORGETS,
    .raw_size = SCRATCHPAD,
    .channel_count = 1,
    .setting_count = 2,
    .family = 0x28,
    .link = &pintle_link_scratchpad,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .settings = settings,
    .channels = channels,
};

enum pintle_status pintle_ds18b20_limits(struct pintle_sensor *sensor, int8_t low, int8_t high,
                                         uint8_t keep)
{
    if (low < -55 || high > 125 || low > high) {
        return PINTLE_OUT_OF_RANGE;
    }
    struct pintle_reg limits; /* assigned: an initializer would be a constant in RAM on AVR */
    limits.address = T_HIGH;
    limits.width = 2;
    limits.flags = 0;
    uint32_t both = (uint32_t)(uint8_t)low << 8 | (uint8_t)high;
    enum pintle_status status = pintle_reg_write(sensor, &limits, both);
    if (status != PINTLE_OK || !keep) {
        return status;
    }
    struct pintle_link link;
    pintle_table_copy(&link, &pintle_link_scratchpad, sizeof link);
    return link.power(sensor, COPY_SCRATCHPAD, COPY_US);
}
