/* VEML7700, datasheet 84286 revision 1.3 (registers: tables 1 to 5) and application note 84323 (lux
 * per count, correction, choice of the range). */
#include "pintle/parts/veml7700.h"

#include "pintle/shape.h"

#if !PINTLE_WHOLE /* above 1000 lx there is a curve */

#define ALS_CONF 0x00
#define POWER_SAVING 0x03
#define ALS 0x04
#define WHITE 0x05
#define ID 0x07

#define ALS_SD 0x0001 /* ALS_CONF: shut down, as after power-up */
#define WAKE_US 2500  /* application note, "initialization" */

static const uint8_t addresses[] PINTLE_TABLE = { 0x10 };

PINTLE_OPTIONS(gains, PINTLE_VEML7700_GAIN_OPTIONS);
PINTLE_FACTORS(gain_factors, PINTLE_VEML7700_GAIN_OPTIONS);

PINTLE_OPTIONS(integrations, PINTLE_VEML7700_INTEGRATION_OPTIONS);
PINTLE_FACTORS(integration_factors, PINTLE_VEML7700_INTEGRATION_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_VEML7700_GAIN] = { ALS_CONF, 11, 4, PINTLE_VEML7700_X1_8, gains, gain_factors },
    [PINTLE_VEML7700_INTEGRATION] = { ALS_CONF, 6, 6, PINTLE_VEML7700_100_MS, integrations,
                                      integration_factors },
};

/* Application note, figure "flow chart": 100 and 10000 counts; the gain first, then the time. */
static const uint8_t rungs[] PINTLE_TABLE = {
    PINTLE_VEML7700_X2,   PINTLE_VEML7700_800_MS, PINTLE_VEML7700_X2,   PINTLE_VEML7700_400_MS,
    PINTLE_VEML7700_X2,   PINTLE_VEML7700_200_MS, PINTLE_VEML7700_X2,   PINTLE_VEML7700_100_MS,
    PINTLE_VEML7700_X1,   PINTLE_VEML7700_100_MS, PINTLE_VEML7700_X1_4, PINTLE_VEML7700_100_MS,
    PINTLE_VEML7700_X1_8, PINTLE_VEML7700_100_MS, PINTLE_VEML7700_X1_8, PINTLE_VEML7700_50_MS,
    PINTLE_VEML7700_X1_8, PINTLE_VEML7700_25_MS,
};
static const struct pintle_ladder ladder PINTLE_TABLE = {
    .climb = pintle_part_climb,
    .settings = { PINTLE_VEML7700_GAIN, PINTLE_VEML7700_INTEGRATION },
    .rungs = sizeof rungs / 2,
    .options = rungs,
    .channels = 1 << PINTLE_VEML7700_ILLUMINANCE,
    .lowest = 100,
    .highest = 10000,
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(ID, 2, 0x00ff, 0x81),
    PINTLE_END(),
};

/* Shut down while it is changed; what it measures on its own then is at the new range. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_WRITE(ALS_CONF, 2, ALS_SD),
    PINTLE_WRITE(POWER_SAVING, 2, 0),
    PINTLE_WRITE(ALS_CONF, 2, 0),
    PINTLE_WAIT_SETTINGS(WAKE_US),
    PINTLE_END(),
};

static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_FOR(1 << PINTLE_VEML7700_ILLUMINANCE, 1, 2),
    PINTLE_READ(ALS, 2),
    PINTLE_FOR(1 << PINTLE_VEML7700_WHITE, 1, 2),
    PINTLE_READ(WHITE, 2),
    PINTLE_EXPECT(ALS_CONF, 2, 0xffff, 0), /* after power-up it is shut down */
    PINTLE_END(),
};

static const struct pintle_step rest[] PINTLE_TABLE = {
    PINTLE_WRITE(ALS_CONF, 2, ALS_SD),
    PINTLE_END(),
};

/* Application note: 0.0036 lx a count at gain 2 and 800 ms; above 1000 lx the diode bends. */
static const float bend[] PINTLE_TABLE = {
    1000, 5, 0, 1.0023f, 8.1488e-5f, -9.3924e-9f, 6.0135e-13f
};
static const struct pintle_linear illuminance PINTLE_TABLE = {
    .bytes = 2,
    .flags = PINTLE_LINEAR_LITTLE_ENDIAN,
    .scale = 0.0036f,
    .lowest = -1,
    .highest = 65535,
    .shape = pintle_shape_above,
    .constants = bend,
};
static const struct pintle_linear white PINTLE_TABLE = {
    .bytes = 2, .flags = PINTLE_LINEAR_LITTLE_ENDIAN, .scale = 1, .lowest = -1, .highest = 65535
};

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("illuminance", ILLUMINANCE, 3, 0, 120000, &illuminance, .at = 0,
                   .scaled_by = 1 << PINTLE_VEML7700_GAIN | 1 << PINTLE_VEML7700_INTEGRATION,
                   .input = 1 << PINTLE_VEML7700_ILLUMINANCE),
    PINTLE_CHANNEL("white", NUMBER, 0, 0, 65535, &white, .at = 2,
                   .input = 1 << PINTLE_VEML7700_WHITE),
};

const struct pintle_part pintle_veml7700 PINTLE_TABLE = {
    .name = "VEML7700",
    .raw_size = 4,
    .channel_count = 2,
    .setting_count = 2,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .rest = rest,
    .settings = settings,
    .ladder = &ladder,
    .channels = channels,
    .factor = pintle_part_factor,
};

#endif
