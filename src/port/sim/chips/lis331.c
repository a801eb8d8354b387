/* A simulated LIS331DLH and LIS331HH: one register map (DocID15094 and DocID16366, section 7),
 * different ranges. Over SPI, section 5.2. */
#include <math.h>

#include "port/sim/bench.h"

#define WHO_AM_I 0x0f
#define CTRL_REG1 0x20
#define CTRL_REG4 0x23
#define STATUS_REG 0x27
#define OUT_X_L 0x28

#define BLE 0x40

struct lis331 {
    uint8_t regs[64];
    struct sim_shifter shifter;
    uint8_t head; /* read, increment, address */
    uint8_t address;
    uint8_t bytes;
    uint64_t next_us; /* sample */
};
SIM_STATE_FITS(struct lis331);

static struct lis331 *self(struct pintle_sim_chip *chip)
{
    return (struct lis331 *)(void *)chip->state.bytes;
}

static void power_up(struct pintle_sim_chip *chip)
{
    struct lis331 *s = self(chip);
    memset(s, 0, sizeof *s);
    s->regs[WHO_AM_I] = 0x32;
    s->regs[CTRL_REG1] = 0x07;
}

/* Section 2.1: 1, 2 and 3.9 mg, or 3, 6 and 12 mg per digit of twelve bits. */
static double digit(struct pintle_sim_chip *chip)
{
    static const double low[] = { 0.001, 0.002, 0, 0.0039 };
    static const double high[] = { 0.003, 0.006, 0, 0.012 };
    int range = self(chip)->regs[CTRL_REG4] >> 4 & 3;
    double g = (chip->model == &sim_lis331hh ? high : low)[range];
    return (g > 0 ? g : 1) * 9.80665;
}

static void sample(struct pintle_sim_chip *chip)
{
    struct lis331 *s = self(chip);
    for (int axis = 0; axis < 3; axis++) {
        double counts = floor(sim_sense(chip, axis) / digit(chip) + 0.5);
        unsigned value = (unsigned)(int)fmin(fmax(counts, -2048), 2047) << 4;
        int swapped = s->regs[CTRL_REG4] & BLE ? 1 : 0;
        s->regs[OUT_X_L + 2 * axis + swapped] = (uint8_t)value;
        s->regs[OUT_X_L + 2 * axis + 1 - swapped] = (uint8_t)(value >> 8);
    }
    s->regs[STATUS_REG] |= s->regs[STATUS_REG] & 0x08 ? 0xff : 0x0f;
}

/* Table 20: power-down, or 50, 100, 400, 1000 Hz. */
static void catch_up(struct pintle_sim_chip *chip)
{
    static const uint32_t period_us[] = { 20000, 10000, 2500, 1000 };
    struct lis331 *s = self(chip);
    if (s->regs[CTRL_REG1] >> 5 == 0 || chip->sim->now_us < s->next_us) {
        return;
    }
    sample(chip);
    s->next_us = chip->sim->now_us + period_us[s->regs[CTRL_REG1] >> 3 & 3];
}

static uint8_t read_reg(struct lis331 *s)
{
    uint8_t value = s->regs[s->address & 63];
    if (s->address == OUT_X_L + 5) {
        s->regs[STATUS_REG] = 0;
    }
    return value;
}

static void write_reg(struct pintle_sim_chip *chip, uint8_t value)
{
    struct lis331 *s = self(chip);
    uint8_t fixed = s->address == WHO_AM_I || s->address >= STATUS_REG;
    if (s->address == CTRL_REG1 && s->regs[CTRL_REG1] >> 5 == 0 && value >> 5) {
        s->next_us = chip->sim->now_us + 21000; /* 1/ODR + 1 ms at 50 Hz */
    }
    if (!fixed || s->address >= 0x30) {
        s->regs[s->address & 63] = value;
    }
}

static void select(struct pintle_sim_chip *chip, uint8_t on)
{
    struct lis331 *s = self(chip);
    s->bytes = 0;
    s->head = 0;
    s->shifter = (struct sim_shifter){ 0 };
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    if (on) {
        catch_up(chip);
    }
}

/* A whole byte is in; without the increment bit the same register comes again. */
static void take_byte(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct lis331 *s = self(chip);
    if (s->bytes == 0) {
        s->head = byte;
        s->address = byte & 63;
        s->bytes = 1;
    } else {
        if (!(s->head & 0x80)) {
            write_reg(chip, byte);
        }
        s->address = (uint8_t)(s->head & 0x40 ? (s->address + 1) & 63 : s->address);
    }
    if (s->head & 0x80) {
        sim_show(chip, &s->shifter, read_reg(s));
    }
}

static void clock(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct lis331 *s = self(chip);
    if (sim_shift(chip, &s->shifter, bit)) {
        s->shifter.bits = 0;
        take_byte(chip, s->shifter.in);
    }
    if (!(s->head & 0x80)) {
        chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    }
}

#define LIS331(title)                                                                              \
    {                                                                                              \
        .name = (title), .kind = PINTLE_SIM_SPI, .inputs = { "accel-x", "accel-y", "accel-z" },    \
        .errors = { 0.19, 0.19, 0.19 }, .noises = { 0.004, 0.004, 0.004 }, .power_up = power_up,   \
        .modes = 1 << 3, .top_hz = 10000000, .select = select, .clock = clock                      \
    }

const struct pintle_sim_model sim_lis331dlh = LIS331("LIS331DLH");
const struct pintle_sim_model sim_lis331hh = LIS331("LIS331HH");
