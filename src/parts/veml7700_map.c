/* VEML7700 for people, from datasheet 84286 and application note 84323. */
#include "pintle/parts/veml7700.h"

#include "parts/map.h"

static const struct pintle_strap straps[] = { { 0x10, "fixed" } };

OPTION_NAMES(gains, PINTLE_VEML7700_GAIN_OPTIONS);
OPTION_NAMES(integrations, PINTLE_VEML7700_INTEGRATION_OPTIONS);

static const struct pintle_setting_text settings[] = {
    { .name = "gain", .meaning = "sensitivity: more light takes less of it", .options = gains },
    { .name = "integration",
      .meaning = "how long it collects light: longer is finer",
      .options = integrations },
};

static const struct pintle_channel_text channels[] = {
    { "ALS",
      "E = ALS x 0.0036 lx x (800 ms / integration) x (2 / gain), and above 1000 lx a polynomial",
      "0.0036 lx at gain x2 and 800 ms, 1.84 lx at x1/8 and 25 ms",
      "10 percent, and 17 more, by which later revisions count differently", 100, 0, 1000, 12000 },
    { "WHITE", "counts as they are", "1 count", "not stated", 6554, 0, 65535, 6554 },
};

/* 10 percent, and 0.0042 lx a count instead of 0.0036. */
static const struct pintle_accuracy accuracies[] = { { 0, 0.27f, 0 }, { 0, 0, 0 } };

static const struct pintle_stretch data[] = {
    { "04h", 2, "ALS, low byte first" },
    { "05h", 2, "WHITE, low byte first" },
};

static const char *const coded_gains[] = { "x1", "x2", "x1/8", "x1/4", NULL };
static const char *const waits[] = { "1", "2", "4", "8", NULL };

static const struct pintle_field conf[] = {
    { "ALS_GAIN", 11, 2, "sensitivity", coded_gains },
    { "ALS_IT", 6, 4, "integration: 0 100 ms, 1 200, 2 400, 3 800, 8 50, 12 25", NULL },
    { "ALS_PERS", 4, 2, "measurements in a row beyond a limit before it interrupts", waits },
    { "ALS_INT_EN", 1, 1, "interrupt", pintle_priv_no_yes },
    { "ALS_SD", 0, 1, "shut down", pintle_priv_no_yes },
};
static const struct pintle_field saving[] = {
    { "PSM", 1, 2, "mode 1 to 4: longer pauses", NULL },
    { "PSM_EN", 0, 1, "power saving", pintle_priv_no_yes },
};
static const struct pintle_field status[] = {
    { "INT_TH_LOW", 15, 1, "below the lower limit", pintle_priv_no_yes },
    { "INT_TH_HIGH", 14, 1, "above the upper limit", pintle_priv_no_yes },
};
static const struct pintle_field id[] = {
    { "ADDRESS", 8, 8, "C4h: address 10h", NULL },
    { "DEVICE", 0, 8, "81h", NULL },
};

static const struct pintle_map_reg regs[] = {
    { "ALS_CONF", RW_BUT(0x00, 2, 0xe40c), 0x0001, "gain, time, power", FIELDS(conf) },
    { "ALS_WH", RW(0x01, 2), 0x0000, "upper limit of the interrupt", NO_FIELDS },
    { "ALS_WL", RW(0x02, 2), 0x0000, "lower limit", NO_FIELDS },
    { "POWER_SAVING", RW_BUT(0x03, 2, 0xfff8), 0x0000, "power saving", FIELDS(saving) },
    { "ALS", RO(0x04, 2), 0x0000, "ambient light", NO_FIELDS },
    { "WHITE", RO(0x05, 2), 0x0000, "all light that silicon sees", NO_FIELDS },
    { "ALS_INT", RO(0x06, 2), 0x0000, "interrupt; reading clears it", FIELDS(status) },
    { "ID", RO(0x07, 2), 0xc481, "chip", FIELDS(id) },
};

const struct pintle_sheet pintle_priv_veml7700 = {
    .part = &pintle_veml7700,
    .what = "ambient light sensor",
    .source = "84286 rev 1.3, application note 84323",
    .supply_lowest = 2.5f,
    .supply_highest = 3.6f,
    .working_ua = 45,
    .resting_ua = 0.5f,
    .straps = straps,
    .proof = "the low byte of ID reads 81h",
    .proof_is_certain = 0,
    .known_for =
        "later revisions of its datasheet count 0.0042 lx instead of 0.0036: compare with a "
        "light meter, and mind the window in front of it",
    .known_by_quality = PINTLE_QUALITY_SATURATED,
    .settings = settings,
    .channels = channels,
    .accuracies = accuracies,
    .data = data,
    .data_count = COUNT(data),
    .regs = regs,
    .reg_count = COUNT(regs),
};
