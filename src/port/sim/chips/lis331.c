/* A simulated LIS331DLH and LIS331HH: one register map (DocID15094 and DocID16366, section 7),
 * different ranges. Over SPI, section 5.2. */
#include <math.h>

#include "port/sim/bench.h"

#define WHO_AM_I 0x0f
#define CTRL_REG1 0x20
#define CTRL_REG2 0x21
#define CTRL_REG3 0x22
#define CTRL_REG4 0x23
#define CTRL_REG5 0x24
#define STATUS_REG 0x27
#define OUT_X_L 0x28

#define FDS 0x10 /* CTRL_REG2: the data come through the high-pass */
#define BLE 0x40 /* CTRL_REG4: high byte first */
#define STSIGN 0x08
#define ST 0x02
#define SIM 0x01 /* the data come out where they go in */
#define TURN_ON 0x03

#define R PINTLE_SIM_READS
#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* Section 6 and 7. BOOT of CTRL_REG2 ends by itself. */
static const struct pintle_sim_register registers[] = {
    { WHO_AM_I, 1, R, 0x32, 0, 0 },
    { CTRL_REG1, 1, RW, 0x07, 0xff, 0 },
    { CTRL_REG2, 1, RW, 0x00, 0x7f, 0 },
    { CTRL_REG3, 1, RW, 0x00, 0xff, 0 },
    { CTRL_REG4, 1, RW, 0x00, 0xfb, SIM },
    { CTRL_REG5, 1, RW, 0x00, TURN_ON, 0 },
    { 0x26, 1, RW, 0x00, 0xff, 0 },
    { STATUS_REG, 1, R, 0x00, 0, 0 },
    { OUT_X_L, 2, R, 0x0000, 0, 0 },
    { OUT_X_L + 2, 2, R, 0x0000, 0, 0 },
    { OUT_X_L + 4, 2, R | PINTLE_SIM_CLEARS, 0x0000, 0, 0 },
    { 0x30, 1, RW, 0x00, 0xff, 0 },
    { 0x32, 1, RW, 0x00, 0x7f, 0 },
    { 0x33, 1, RW, 0x00, 0x7f, 0 },
    { 0x34, 1, RW, 0x00, 0xff, 0 },
    { 0x36, 1, RW, 0x00, 0x7f, 0 },
    { 0x37, 1, RW, 0x00, 0x7f, 0 },
    { 0 },
};

/* Tables 19 and 29 (they differ in what the ranges are called). */
#define RATES                                                                                      \
    { "rate", "50Hz", CTRL_REG1, 0xf8, 0x20 }, { "rate", "100Hz", CTRL_REG1, 0xf8, 0x28 },         \
        { "rate", "400Hz", CTRL_REG1, 0xf8, 0x30 },                                                \
    {                                                                                              \
        "rate", "1000Hz", CTRL_REG1, 0xf8, 0x38                                                    \
    }
static const struct pintle_sim_choice dlh_choices[] = {
    RATES,
    { "range", "2g", CTRL_REG4, 0x30, 0x00 },
    { "range", "4g", CTRL_REG4, 0x30, 0x10 },
    { "range", "8g", CTRL_REG4, 0x30, 0x30 },
    { 0 },
};
static const struct pintle_sim_choice hh_choices[] = {
    RATES,
    { "range", "6g", CTRL_REG4, 0x30, 0x00 },
    { "range", "12g", CTRL_REG4, 0x30, 0x10 },
    { "range", "24g", CTRL_REG4, 0x30, 0x30 },
    { 0 },
};

static const struct pintle_sim_map dlh_map = { .registers = registers,
                                               .choices = dlh_choices,
                                               .low_first = 1,
                                               .read_bit = 0x80,
                                               .burst_bit = 0x40 };
static const struct pintle_sim_map hh_map = { .registers = registers,
                                              .choices = hh_choices,
                                              .low_first = 1,
                                              .read_bit = 0x80,
                                              .burst_bit = 0x40 };

struct lis331 {
    uint8_t regs[64];
    uint64_t next_us; /* sample */
    double steady[3]; /* what the high-pass takes away */
};
SIM_STATE(lis331)

static void power_up(struct pintle_sim_chip *chip)
{
    struct lis331 *s = self(chip);
    memset(s, 0, sizeof *s);
    pintle_priv_sim_fill(chip, 0, s->regs, sizeof s->regs);
}

/* Section 2.1: 1, 2 and 3.9 mg, or 3, 6 and 12 mg per digit of twelve bits. */
static double digit(struct pintle_sim_chip *chip)
{
    static const double low[] = { 0.001, 0.002, 0, 0.0039 };
    static const double high[] = { 0.003, 0.006, 0, 0.012 };
    int range = self(chip)->regs[CTRL_REG4] >> 4 & 3;
    double g = (chip->model == &pintle_twin_lis331hh ? high : low)[range];
    return (g > 0 ? g : 1) * 9.80665;
}

static void sample(struct pintle_sim_chip *chip)
{
    struct lis331 *s = self(chip);
    for (int axis = 0; axis < 3; axis++) {
        if (!(s->regs[CTRL_REG1] >> axis & 1)) {
            continue; /* this axis is switched off */
        }
        double felt = pintle_sim_sense(chip, axis);
        double pushed = s->regs[CTRL_REG4] & ST ? (s->regs[CTRL_REG4] & STSIGN ? -3 : 3) : 0;
        double passed = s->regs[CTRL_REG2] & FDS ? felt - s->steady[axis] : felt;
        s->steady[axis] = felt;
        double counts = floor((passed + pushed) / digit(chip) + 0.5);
        unsigned value = (unsigned)(int)fmin(fmax(counts, -2048), 2047) << 4;
        int swapped = s->regs[CTRL_REG4] & BLE ? 1 : 0;
        s->regs[OUT_X_L + 2 * axis + swapped] = (uint8_t)value;
        s->regs[OUT_X_L + 2 * axis + 1 - swapped] = (uint8_t)(value >> 8);
    }
    s->regs[STATUS_REG] |= s->regs[STATUS_REG] & 0x08 ? 0xff : 0x0f;
}

/* Tables 18 and 19: powered down; 50, 100, 400, 1000 Hz; or half a hertz to ten, as also in the
 * sleep of CTRL_REG5. */
static uint32_t period_us(const struct lis331 *s)
{
    static const uint32_t normal[] = { 20000, 10000, 2500, 1000 };
    static const uint32_t low[] = { 0, 0, 2000000, 1000000, 500000, 200000, 100000, 100000 };
    uint8_t power = s->regs[CTRL_REG1] >> 5;
    if (s->regs[CTRL_REG5] & TURN_ON) {
        return 200000;
    }
    return power == 1 ? normal[s->regs[CTRL_REG1] >> 3 & 3] : low[power];
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return period_us(state(chip));
}

/* Section 2.1: turn-on takes 1 ms and a period. */
static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    return 1000 + longest_us(chip);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct lis331 *s = self(chip);
    if (s->regs[CTRL_REG1] >> 5 == 0 || chip->sim->now_us < s->next_us) {
        return;
    }
    sample(chip);
    s->next_us = pintle_priv_sim_ends(chip, s->next_us, period_us(s));
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct lis331 *s = self(chip);
    uint8_t value = s->regs[reg & 63];
    if ((reg & 63) == OUT_X_L + 5) {
        s->regs[STATUS_REG] = 0;
    }
    return value;
}

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct lis331 *s = self(chip);
    uint8_t was_down = s->regs[CTRL_REG1] >> 5 == 0;
    uint32_t keeps = pintle_priv_sim_keeps(chip, reg & 63);
    s->regs[reg & 63] = (uint8_t)((value & keeps) | (s->regs[reg & 63] & ~keeps));
    if ((reg & 63) == CTRL_REG1 && was_down && value >> 5) {
        s->next_us = chip->sim->now_us + 1000 + period_us(s);
    }
}

/* With SIM set the data come out where they go in. */
static void clock(struct pintle_sim_chip *chip, uint8_t bit)
{
    pintle_priv_sim_front_clock(chip, bit);
    if (self(chip)->regs[CTRL_REG4] & SIM) {
        chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    }
}

/* Section 7.4: what INT1 says; of the choices only "there is a new sample". */
static uint8_t pin(struct pintle_sim_chip *chip)
{
    struct lis331 *s = self(chip);
    uint8_t told = (s->regs[CTRL_REG3] & 3) == 2 && (s->regs[STATUS_REG] & 0x08);
    return s->regs[CTRL_REG3] & 0x80 ? !told : told;
}

#define LIS331(title, which)                                                                       \
    {                                                                                              \
        .name = (title), .inputs = { "accel-x", "accel-y", "accel-z" },                            \
        .errors = { 0.19, 0.19, 0.19 }, .noises = { 0.004, 0.004, 0.004 }, .power_up = power_up,   \
        .map = &(which), .pin = pin, .longest_us = longest_us, .settles_us = settles_us,           \
        .modes = 1 << 3, .top_hz = 10000000, .kind = PINTLE_SIM_SPI, .catch_up = catch_up,         \
        .get = get, .put = put, .select = pintle_priv_sim_front_select, .clock = clock             \
    }

const struct pintle_sim_model pintle_twin_lis331dlh = LIS331("LIS331DLH", dlh_map);
const struct pintle_sim_model pintle_twin_lis331hh = LIS331("LIS331HH", hh_map);
