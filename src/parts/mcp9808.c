/* MCP9808, datasheet DS25095 (registers: section 5). */
#include "pintle/parts/mcp9808.h"

#include "pintle/ability.h"
#include "pintle/limits.h"

#define CONFIG 0x01
#define UPPER 0x02
#define LOWER 0x03
#define CRITICAL 0x04
#define AMBIENT 0x05
#define MANUFACTURER_ID 0x06
#define DEVICE_ID 0x07 /* and the revision in the low byte */
#define RESOLUTION 0x08

/* CONFIG: a hysteresis of 1.5 degC for an alert that is off. After power-up there is none, so that
 * it tells a chip that lost its supply; so does a lock, which keeps what was there from being
 * written and ends with the supply as well. */
#define OURS 0x0200
#define LOCKED 0x00c0
#define SHDN 0x0100

static const uint8_t addresses[] PINTLE_TABLE = { 0x18, 0x19, 0x1a, 0x1b, 0x1c, 0x1d, 0x1e, 0x1f };

PINTLE_OPTIONS(resolutions, PINTLE_MCP9808_RESOLUTION_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_MCP9808_RESOLUTION] = { RESOLUTION, 0, 4, PINTLE_MCP9808_0_0625_DEGC, resolutions,
                                    NULL },
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(MANUFACTURER_ID, 2, 0xffff, 0x0054),
    PINTLE_EXPECT(DEVICE_ID, 2, 0xff00, 0x0400),
    PINTLE_END(),
};

/* It converts all the time, unless somebody has shut it down; the first result at the new
 * resolution comes a conversion later, behind the one that was under way. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE_LOOSE(CONFIG, 2, OURS), /* a lock keeps it out, and measuring looks */
    PINTLE_WRITE(RESOLUTION, 1, 0),
    PINTLE_WAIT_SETTINGS(250000),
    PINTLE_END(),
};

static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_READ(AMBIENT, 2),
    PINTLE_REFUSE(CONFIG, 2, OURS | LOCKED, 0),
    PINTLE_REFUSE(CONFIG, 2, SHDN, SHDN),  /* somebody else let it rest */
    PINTLE_EXPECT(RESOLUTION, 1, 0x03, 0), /* still as fine as it was set? */
    PINTLE_END(),
};

static const struct pintle_step rest[] PINTLE_TABLE = {
    PINTLE_WRITE(CONFIG, 2, OURS | SHDN),
    PINTLE_END(),
};

/* Register 5-4: three alert flags, then 13 bits in two's complement. */
static const struct pintle_linear temperature PINTLE_TABLE = { .bytes = 2,
                                                               .bits = 13,
                                                               .flags = PINTLE_LINEAR_SIGNED
                                                                        | PINTLE_LINEAR_POWER_ON,
                                                               .scale = 0.0625f,
                                                               .lowest = -4096,
                                                               .highest = 4095 };

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("temperature", TEMPERATURE, 4, -40, 125, &temperature, .at = 0),
};

/* Section 5.2.3: its pin goes low outside the two limits; the critical one is kept out of the way.
 * The flags come with the value. */
#define ALERT 0x0008
#define HIGHEST 0x0ffc
static const struct pintle_step alert[] PINTLE_TABLE = {
    PINTLE_WRITE(CRITICAL, 2, HIGHEST),
    PINTLE_WRITE(CONFIG, 2, OURS | ALERT),
    PINTLE_END(),
};
static const struct pintle_step alerts[] PINTLE_TABLE = {
    PINTLE_EXPECT(CONFIG, 2, ALERT | OURS, ALERT | OURS),
    PINTLE_END(),
};
static const struct pintle_limit_rules limits PINTLE_TABLE = { .low = LOWER,
                                                               .high = UPPER,
                                                               .mask = 0x1ffc,
                                                               .on = alert,
                                                               .check = alerts,
                                                               .state = AMBIENT,
                                                               .below = 0x2000,
                                                               .above = 0x4000 };
static const struct pintle_abilities can PINTLE_TABLE = { .limits = &limits };

const struct pintle_part pintle_mcp9808 PINTLE_TABLE = {
    .name = "MCP9808",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_FORGETS,
    .raw_size = 2,
    .channel_count = 1,
    .setting_count = 1,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rest = rest,
    .settings = settings,
    .channels = channels,
    .can = &can,
};
