/* A simulated INA219, from datasheet SBOS448. */
#include <math.h>

#include "port/sim/bench.h"

enum { BUS, CURRENT, SHUNT };
enum { REG_CONFIG, REG_SHUNT, REG_BUS, REG_POWER, REG_CURRENT, REG_CALIBRATION };

struct ina219 {
    uint16_t regs[6];
    uint64_t ends; /* the conversions under way; 0: there are none */
};
SIM_STATE(ina219)

#define R PINTLE_SIM_READS
#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* Table 2. After power-up it converts by itself. RST clears all. */
static const struct pintle_sim_register registers[] = {
    { REG_CONFIG, 2, RW, 0x399f, 0x3fff, 0x8000 },
    { REG_SHUNT, 2, R | PINTLE_SIM_LIVE, 0, 0, 0 },
    { REG_BUS, 2, R | PINTLE_SIM_LIVE, 0, 0, 0 },
    { REG_POWER, 2, R | PINTLE_SIM_LIVE, 0, 0, 0 },
    { REG_CURRENT, 2, R | PINTLE_SIM_LIVE, 0, 0, 0 },
    { REG_CALIBRATION, 2, RW, 0, 0xfffe, 0 },
    { 0 },
};

/* Tables 3 to 5. */
#define SAMPLES(name, code)                                                                        \
    {                                                                                              \
        "samples", name, REG_CONFIG, 0x07f8, (code) << 7 | (code) << 3                             \
    }
static const struct pintle_sim_choice choices[] = {
    { "bus-range", "16V", REG_CONFIG, 0x2000, 0x0000 },
    { "bus-range", "32V", REG_CONFIG, 0x2000, 0x2000 },
    { "shunt-range", "40mV", REG_CONFIG, 0x1800, 0x0000 },
    { "shunt-range", "80mV", REG_CONFIG, 0x1800, 0x0800 },
    { "shunt-range", "160mV", REG_CONFIG, 0x1800, 0x1000 },
    { "shunt-range", "320mV", REG_CONFIG, 0x1800, 0x1800 },
    SAMPLES("1", 3),
    SAMPLES("2", 9),
    SAMPLES("4", 10),
    SAMPLES("8", 11),
    SAMPLES("16", 12),
    SAMPLES("32", 13),
    SAMPLES("64", 14),
    SAMPLES("128", 15),
    { 0 },
};

static const struct pintle_sim_map map = { .registers = registers, .choices = choices, .words = 1 };

/* Table 5: by the four bits of an ADC's field; bit 2 of them is of no meaning below 8. */
static double time_us(unsigned field)
{
    static const double resolution[] = { 84, 148, 276, 532 };
    return field & 8 ? 532.0 * (1 << (field & 7)) * (field == 8 ? 1 : 1.0008)
                     : resolution[field & 3];
}

static double both_us(const struct ina219 *s)
{
    unsigned mode = s->regs[REG_CONFIG] & 7;
    return (mode & 2 ? time_us(s->regs[REG_CONFIG] >> 7 & 15) : 0)
           + (mode & 1 ? time_us(s->regs[REG_CONFIG] >> 3 & 15) : 0);
}

static uint64_t conversion_us(const struct pintle_sim_chip *chip)
{
    double typical = both_us(state(chip));
    return pintle_priv_sim_conversion(chip, typical, 1.1 * typical);
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return (uint32_t)(1.1 * both_us(state(chip))) + 40;
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) = (struct ina219){ .regs = { [REG_CONFIG] = 0x399f } };
    self(chip)->ends = chip->sim->now_us + conversion_us(chip);
}

static double between(double value, double end)
{
    return fmin(fmax(floor(value + 0.5), -end), end);
}

/* Section 8.5.1: its own arithmetic, with CALIBRATION. */
static void compute(struct ina219 *s)
{
    double current = (int16_t)s->regs[REG_SHUNT] * (double)s->regs[REG_CALIBRATION] / 4096;
    double power = fabs(current) * (s->regs[REG_BUS] >> 3) / 5000;
    unsigned overflows = fabs(current) > 32767 || power > 65535;
    s->regs[REG_CURRENT] = (uint16_t)(int16_t)between(current, 32767);
    s->regs[REG_POWER] = (uint16_t)between(power, 65535);
    s->regs[REG_BUS] = (uint16_t)((s->regs[REG_BUS] & 0xfffe) | overflows);
}

static void convert(struct pintle_sim_chip *chip)
{
    struct ina219 *s = self(chip);
    unsigned config = s->regs[REG_CONFIG];
    double off = chip->error[BUS]; /* that at 13 V, in proportion */
    double bus_v = (pintle_sim_sense(chip, BUS) - off) * (1 + off / 13);
    double off_v = chip->error[CURRENT] * 0.1; /* its error is in amperes at 0.1 ohm */
    double shunt_v =
        (pintle_sim_sense(chip, CURRENT) - chip->error[CURRENT]) * pintle_sim_sense(chip, SHUNT)
        + off_v;
    if (config & 1) {
        double end = 4000 << (config >> 11 & 3);
        s->regs[REG_SHUNT] = (uint16_t)(int16_t)between(shunt_v / 10e-6, end);
    }
    if (config & 2) {
        double end = config & 0x2000 ? 8000 : 4000;
        double counts = fmax(between(bus_v / 0.004, end), 0);
        s->regs[REG_BUS] = (uint16_t)((unsigned)counts << 3);
    }
    s->regs[REG_BUS] |= 2; /* CNVR */
    compute(s);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct ina219 *s = self(chip);
    if (s->ends == 0 || chip->sim->now_us < s->ends) {
        return;
    }
    convert(chip);
    s->ends = s->regs[REG_CONFIG] & 4 ? chip->sim->now_us + conversion_us(chip) : 0;
}

/* Reading POWER clears CNVR. */
static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct ina219 *s = self(chip);
    if (reg == REG_POWER) {
        s->regs[REG_BUS] &= (uint16_t)~2u;
    }
    return reg <= REG_CALIBRATION ? s->regs[reg] : 0;
}

/* Section 8.6.2.1: writing the configuration begins anew and clears CNVR; modes 0 and 4 convert
 * nothing. */
static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct ina219 *s = self(chip);
    if (reg == REG_CALIBRATION) {
        s->regs[reg] = value & 0xfffe;
    } else if (reg == REG_CONFIG && value & 0x8000) {
        power_up(chip);
    } else if (reg == REG_CONFIG) {
        s->regs[reg] = value & 0x3fff;
        s->regs[REG_BUS] &= (uint16_t)~2u;
        s->ends = value & 3 ? chip->sim->now_us + conversion_us(chip) : 0;
    }
}

const struct pintle_sim_model pintle_twin_ina219 = {
    .name = "INA219",
    .inputs = { "bus-voltage", "current", "shunt" },
    .errors = { 0.05, 0.0009, 0 },
    .noises = { 0.001, 0.0001, 0 },
    .power_up = power_up,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
