/* LIS331DLH and LIS331HH for people, from datasheets DocID15094 and DocID16366. */
#include "pintle/parts/lis331.h"

#include "parts/map.h"

OPTION_NAMES(dlh_ranges, PINTLE_LIS331DLH_RANGE_OPTIONS);
OPTION_NAMES(hh_ranges, PINTLE_LIS331HH_RANGE_OPTIONS);
OPTION_NAMES(rates, PINTLE_LIS331_RATE_OPTIONS);

static const struct pintle_setting_text dlh_settings[] = {
    { .name = "range", .meaning = "full scale", .options = dlh_ranges },
    { .name = "rate", .meaning = "samples per second", .options = rates },
};
static const struct pintle_setting_text hh_settings[] = {
    { .name = "range", .meaning = "full scale", .options = hh_ranges },
    { .name = "rate", .meaning = "samples per second", .options = rates },
};

#define DLH(symbol)                                                                                \
    {                                                                                              \
        (symbol), "a = raw x 1 mg (2 g), x 2 mg, x 3.9 mg", "1 mg at 2 g", "20 mg at 2 g", 0.25f,  \
            -20, 20, 0.6f                                                                          \
    }
#define HH(symbol)                                                                                 \
    {                                                                                              \
        (symbol), "a = raw x 3 mg (6 g), x 6 mg, x 12 mg", "3 mg at 6 g", "70 mg at 6 g", 0.7f,    \
            -60, 60, 1.0f                                                                          \
    }
static const struct pintle_channel_text dlh_channels[] = { DLH("OUT_X"), DLH("OUT_Y"),
                                                           DLH("OUT_Z") };
static const struct pintle_channel_text hh_channels[] = { HH("OUT_X"), HH("OUT_Y"), HH("OUT_Z") };

static const struct pintle_stretch data[] = {
    { "28h", 6, "x, y, z, low byte first: twelve bits, left-justified" },
};

static const char *const powers[] = {
    "down", "normal", "0.5Hz", "1Hz", "2Hz", "5Hz", "10Hz", NULL
};
static const char *const dlh_scales[] = { "2g", "4g", "-", "8g", NULL };
static const char *const hh_scales[] = { "6g", "12g", "-", "24g", NULL };

static const struct pintle_field ctrl_1[] = {
    { "PM", 5, 3, "power mode", powers },
    { "DR", 3, 2, "data rate", rates },
    { "ZEN", 2, 1, "z axis on", pintle_priv_no_yes },
    { "YEN", 1, 1, "y axis on", pintle_priv_no_yes },
    { "XEN", 0, 1, "x axis on", pintle_priv_no_yes },
};
static const struct pintle_field ctrl_2[] = {
    { "BOOT", 7, 1, "write 1: fetch the trim again", NULL },
    { "HPM", 5, 2, "mode of the high-pass", NULL },
    { "FDS", 4, 1, "data come through the high-pass", pintle_priv_no_yes },
    { "HPEN2", 3, 1, "interrupt 2 does", pintle_priv_no_yes },
    { "HPEN1", 2, 1, "interrupt 1 does", pintle_priv_no_yes },
    { "HPCF", 0, 2, "its cut-off", NULL },
};
static const struct pintle_field ctrl_5[] = {
    { "TURNON", 0, 2, "3: sleep until an interrupt", NULL },
};
static const char *const signs[] = { "plus", "minus", NULL };
#define CTRL_4(scales)                                                                             \
    { "BDU", 7, 1, "both bytes of a value belong together", pintle_priv_no_yes },                  \
        { "BLE", 6, 1, "high byte first", pintle_priv_no_yes },                                    \
        { "FS", 4, 2, "full scale", scales }, { "STSIGN", 3, 1, "sense of the self-test", signs }, \
        { "ST", 1, 1, "self-test", pintle_priv_no_yes },                                           \
    {                                                                                              \
        "SIM", 0, 1, "SPI over three wires", pintle_priv_no_yes                                    \
    }
static const struct pintle_field dlh_ctrl_4[] = { CTRL_4(dlh_scales) };
static const struct pintle_field hh_ctrl_4[] = { CTRL_4(hh_scales) };
static const char *const told[] = { "its interrupt", "any interrupt", "a sample is there",
                                    "start-up", NULL };
static const struct pintle_field ctrl_3[] = {
    { "IHL", 7, 1, "active low", pintle_priv_no_yes },
    { "PP_OD", 6, 1, "open drain", pintle_priv_no_yes },
    { "LIR2", 5, 1, "interrupt 2 stays until it is read", pintle_priv_no_yes },
    { "I2_CFG", 3, 2, "what INT2 says", told },
    { "LIR1", 2, 1, "interrupt 1 stays until it is read", pintle_priv_no_yes },
    { "I1_CFG", 0, 2, "what INT1 says", told },
};
static const struct pintle_field status[] = {
    { "ZYXOR", 7, 1, "a sample was lost", pintle_priv_no_yes },
    { "ZYXDA", 3, 1, "a sample is there", pintle_priv_no_yes },
};
static const struct pintle_field counts[] = {
    { "OUT", 4, 12, "two's complement", NULL },
};

#define REGS(ctrl_4)                                                                               \
    { "WHO_AM_I", RO(0x0f, 1), 0x32, "32h", NO_FIELDS },                                           \
        { "CTRL_REG1", RW(0x20, 1), 0x07, "power, rate, axes", FIELDS(ctrl_1) },                   \
        { "CTRL_REG2", RW_ACTS(0x21, 1, 0x80, 0), 0x00, "filters", FIELDS(ctrl_2) },               \
        { "CTRL_REG3", RW(0x22, 1), 0x00, "interrupt pins", FIELDS(ctrl_3) },                      \
        { "CTRL_REG4", RW_BUT(0x23, 1, 0x04), 0x00, "range, order", FIELDS(ctrl_4) },              \
        { "CTRL_REG5", RW_BUT(0x24, 1, 0xfc), 0x00, "sleep to wake", FIELDS(ctrl_5) },             \
        { "STATUS_REG", RO(0x27, 1), 0x00, "data", FIELDS(status) },                               \
        { "OUT_X", RO(0x28, 2), 0x0000, "last sample", FIELDS(counts) },                           \
        { "OUT_Y", RO(0x2a, 2), 0x0000, "last sample", FIELDS(counts) },                           \
    {                                                                                              \
        "OUT_Z", RO(0x2c, 2), 0x0000, "last sample", FIELDS(counts)                                \
    }
static const struct pintle_map_reg dlh_regs[] = { REGS(dlh_ctrl_4) };
static const struct pintle_map_reg hh_regs[] = { REGS(hh_ctrl_4) };

/* The two have one identity, so that the proof cannot be certain. */
const struct pintle_sheet pintle_priv_lis331dlh = {
    .part = &pintle_lis331dlh,
    .what = "accelerometer, three axes, to 8 g",
    .source = "DocID15094",
    .supply_lowest = 2.16f,
    .supply_highest = 3.6f,
    .working_ua = 250,
    .resting_ua = 1,
    .high_share = 0.8f,
    .proof = "register WHO_AM_I reads 32h, as a LIS331HH's does",
    .proof_is_certain = 0,
    .known_for =
        "a LIS331HH has the same identity and counts a third: at rest 1 g tells them apart",
    .settings = dlh_settings,
    .channels = dlh_channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = dlh_regs,
    .reg_count = COUNT(dlh_regs),
};

const struct pintle_sheet pintle_priv_lis331hh = {
    .part = &pintle_lis331hh,
    .what = "accelerometer, three axes, to 24 g",
    .source = "DocID16366",
    .supply_lowest = 2.16f,
    .supply_highest = 3.6f,
    .working_ua = 250,
    .resting_ua = 1,
    .high_share = 0.8f,
    .proof = "register WHO_AM_I reads 32h, as a LIS331DLH's does",
    .proof_is_certain = 0,
    .known_for = "a LIS331DLH has the same identity and counts three times: at rest 1 g tells them "
                 "apart",
    .settings = hh_settings,
    .channels = hh_channels,
    .data = data,
    .data_count = COUNT(data),
    .regs = hh_regs,
    .reg_count = COUNT(hh_regs),
};
