/* DS18B20, datasheet 19-7487 (scratchpad: figure 9; resolution: table 2). */
#include "pintle/parts/ds18b20.h"

#include "pintle/reg.h"

/* bytes of the scratchpad */
#define TEMPERATURE 0
#define T_HIGH 2
#define CONFIGURATION 4
#define COUNT_REMAIN 6 /* "reserved" */
#define SCRATCHPAD 9

/* function commands */
#define READ_POWER_SUPPLY 0xb4
#define CONVERT 0x44
#define COPY_SCRATCHPAD 0x48
#define COPY_US 10000

#define R0 5 /* bit number in CONFIGURATION */
#define FIXED 0x9f
#define FIXED_ONES 0x1f

/* Family and CRC of its code are checked before; its configuration byte has fixed bits. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(CONFIGURATION, 1, FIXED, FIXED_ONES),
    PINTLE_END(),
};

/* The alarm limits beside it stay as they are. A chip whose supply wire is broken lives on the line
 * and says so: it would lose its power with every conversion. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_ONLY(PINTLE_DS18B20_POWER, PINTLE_DS18B20_EXTERNAL, 1),
    PINTLE_EXPECT(READ_POWER_SUPPLY, 1, 0xff, 0xff),
    PINTLE_WRITE(CONFIGURATION, 1, FIXED_ONES),
    PINTLE_END(),
};

/* After the command a chip with a supply of its own answers read slots with 0 until it has
 * converted
 * ("convert T"). One that doesn't begin would go on showing an old value, or the +85 degC of its
 * power-up. */
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_ONLY(PINTLE_DS18B20_POWER, PINTLE_DS18B20_PARASITE, 1),
    PINTLE_POWER(CONVERT, 0),
    PINTLE_ONLY(PINTLE_DS18B20_POWER, PINTLE_DS18B20_EXTERNAL, 2),
    PINTLE_EXPECT(CONVERT, 1, 0xff, 0x00),
    PINTLE_WAIT_SETTINGS(0),
    PINTLE_READ(TEMPERATURE, SCRATCHPAD),
    PINTLE_END(),
};

PINTLE_OPTIONS(resolutions, PINTLE_DS18B20_RESOLUTION_OPTIONS);
PINTLE_OPTIONS(powers, PINTLE_DS18B20_POWER_OPTIONS);

#define NOWHERE 0xffff

static const struct pintle_setting settings[] PINTLE_TABLE = {
    { CONFIGURATION, R0, 4, PINTLE_DS18B20_12_BIT, resolutions, NULL },
    { NOWHERE, 0, 2, PINTLE_DS18B20_EXTERNAL, powers, NULL },
};

#define HIGHEST (125 * 16) /* where the scale ends */
#define LOWEST (-55 * 16)
#define AFTER_POWER_UP (85 * 16)
#define AFTER_POWER_UP_REMAIN 0x0c

/* +85 degC is what the scratchpad holds after power-up, and after a conversion without enough
 * power. Byte 6 is 0Ch beside it then; behind a conversion it is 10h less the lowest four bits. A
 * chip that has a supply of its own, said so a moment ago and still is as it was set may have
 * measured it; of one that lives on the line it is never believed. */
static pintle_marks doubt(const struct pintle_block *block, int16_t sixteenths, uint8_t resolution)
{
    uint8_t supplied = block->settings[PINTLE_DS18B20_POWER] == PINTLE_DS18B20_EXTERNAL;
    uint8_t kept = block->raw[COUNT_REMAIN] != AFTER_POWER_UP_REMAIN
                   && resolution == block->settings[PINTLE_DS18B20_RESOLUTION];
    return (sixteenths == AFTER_POWER_UP && !(block->again && supplied && kept))
                   || resolution < block->settings[PINTLE_DS18B20_RESOLUTION]
               ? PINTLE_QUALITY_POWER_ON
               : 0;
}

/* Figure 10 and table 2: the bits below the resolution, which is what the chip says that it is, are
 * undefined. At a finer one than was waited for the conversion has not ended: the value is an old
 * one. */
static void decode(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings)
{
    (void)part;
    struct pintle_reading *reading = &readings[PINTLE_DS18B20_TEMPERATURE];
    uint8_t configuration = block->raw[CONFIGURATION];
    uint8_t resolution = configuration >> R0 & 3;
    uint8_t drop = (uint8_t)(3 - resolution);
    uint16_t word =
        (uint16_t)(block->raw[TEMPERATURE] | (uint16_t)block->raw[TEMPERATURE + 1] << 8);
    int16_t sixteenths = (int16_t)(word & (uint16_t)(0xffffu << drop));
    PINTLE_NOTE(block->notes, "bits", resolution + 9);
    PINTLE_NOTE(block->notes, "TEMP (sixteenths)", sixteenths);
    reading->raw = sixteenths;
    reading->value = pintle_part_value(sixteenths, 16, 4);
    reading->quality = doubt(block, sixteenths, resolution);
    if (sixteenths >= HIGHEST || sixteenths <= LOWEST) {
        reading->quality |= PINTLE_QUALITY_SATURATED;
    }
    if (resolution > block->settings[PINTLE_DS18B20_RESOLUTION]) {
        reading->quality |= PINTLE_QUALITY_STALE;
    }
    if ((configuration & FIXED) != FIXED_ONES) {
        reading->quality |= PINTLE_QUALITY_BUS;
    }
}

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("temperature", TEMPERATURE, 4, -55, 125, NULL, .at = 0),
};

const struct pintle_part pintle_ds18b20 PINTLE_TABLE = {
    .name = "DS18B20",
    .flags = PINTLE_PART_FORGETS | PINTLE_PART_ONES_SILENT,
    .raw_size = SCRATCHPAD,
    .channel_count = 1,
    .setting_count = 2,
    .family = 0x28,
    .link = &pintle_link_scratchpad,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .settings = settings,
    .channels = channels,
    .decode = decode,
};

enum pintle_status pintle_ds18b20_limits(struct pintle_sensor *sensor, int8_t low, int8_t high,
                                         uint8_t keep)
{
    if (low < -55 || high > 125 || low > high) {
        return PINTLE_OUT_OF_RANGE;
    }
    struct pintle_reg limits; /* assigned: an initializer would be a constant in RAM on AVR */
    memset(&limits, 0, sizeof limits);
    limits.address = T_HIGH;
    limits.width = 2;
    uint32_t both = (uint32_t)(uint8_t)low << 8 | (uint8_t)high;
    enum pintle_status status = pintle_sensor_prove(sensor);
    if (status == PINTLE_OK) {
        status = pintle_reg_write(sensor, &limits, both);
    }
    if (status != PINTLE_OK || !keep) {
        return status;
    }
    PINTLE_TABLE_ROW(struct pintle_link, link, &pintle_link_scratchpad);
    for (uint8_t tries = 0; tries < 3; tries++) { /* others may be powered by the line just now */
        status = pintle_bus_claim(sensor->bus.any);
        if (status == PINTLE_OK) {
            status = link->power(sensor, COPY_SCRATCHPAD, COPY_US);
            pintle_bus_release(sensor->bus.any);
        }
        if (status != PINTLE_NOT_READY) {
            break;
        }
        const struct pintle_clock *clock = sensor->bus.any->clock;
        uint64_t now = clock->calls->now_us(clock->context);
        uint64_t until = sensor->bus.onewire->powering_until_us;
        clock->calls->sleep_us(clock->context, until > now ? (uint32_t)(until - now) : 0);
    }
    sensor->when_us = 0; /* powering has set it: it is no time of day */
    return status;
}
