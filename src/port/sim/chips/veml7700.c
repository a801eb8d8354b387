/* A simulated VEML7700, from datasheet 84286 and application note 84323. */
#include <math.h>

#include "port/sim/bench.h"

enum { ILLUMINANCE, WHITE };
enum { REG_CONF, REG_WH, REG_WL, REG_PSM, REG_ALS, REG_WHITE, REG_INT, REG_ID };

struct veml7700 {
    uint16_t regs[8];
    uint64_t ends; /* the integration under way; 0: there is none */
};
SIM_STATE(veml7700)

#define R PINTLE_SIM_READS
#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* Tables 1 to 5. */
static const struct pintle_sim_register registers[] = {
    { REG_CONF, 2, RW, 0x0001, 0x1bf3, 0 },
    { REG_WH, 2, RW, 0, 0xffff, 0 },
    { REG_WL, 2, RW, 0, 0xffff, 0 },
    { REG_PSM, 2, RW, 0, 0x0007, 0 },
    { REG_ALS, 2, R, 0, 0, 0 },
    { REG_WHITE, 2, R, 0, 0, 0 },
    { REG_INT, 2, R, 0, 0, 0 },
    { REG_ID, 2, R, 0xc481, 0, 0 },
    { 0 },
};

static const struct pintle_sim_choice choices[] = {
    { "gain", "x1", REG_CONF, 0x1800, 0x0000 },
    { "gain", "x2", REG_CONF, 0x1800, 0x0800 },
    { "gain", "x1/8", REG_CONF, 0x1800, 0x1000 },
    { "gain", "x1/4", REG_CONF, 0x1800, 0x1800 },
    { "integration", "25ms", REG_CONF, 0x03c0, 0x0300 },
    { "integration", "50ms", REG_CONF, 0x03c0, 0x0200 },
    { "integration", "100ms", REG_CONF, 0x03c0, 0x0000 },
    { "integration", "200ms", REG_CONF, 0x03c0, 0x0040 },
    { "integration", "400ms", REG_CONF, 0x03c0, 0x0080 },
    { "integration", "800ms", REG_CONF, 0x03c0, 0x00c0 },
    { 0 },
};

static const struct pintle_sim_map map = {
    .registers = registers, .choices = choices, .words = 1, .low_first = 1
};

static double integration_ms(const struct veml7700 *s)
{
    switch (s->regs[REG_CONF] >> 6 & 15) {
    case 12:
        return 25;
    case 8:
        return 50;
    case 1:
        return 200;
    case 2:
        return 400;
    case 3:
        return 800;
    default:
        return 100;
    }
}

/* Without power saving one integration follows the other; with it pauses of half a second and more
 * lie between them. */
static uint64_t period_us(const struct pintle_sim_chip *chip)
{
    const struct veml7700 *s = state(chip);
    double pause = s->regs[REG_PSM] & 1 ? 500000.0 * (1 << (s->regs[REG_PSM] >> 1 & 3)) : 0;
    double nominal = integration_ms(s) * 1000;
    return pintle_priv_sim_conversion(chip, nominal, 1.1 * nominal) + (uint64_t)pause;
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    return 2500 + (uint32_t)(2.2 * 1000 * integration_ms(state(chip)));
}

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) = (struct veml7700){ .regs = { [REG_CONF] = 0x0001, [REG_ID] = 0xc481 } };
}

/* Application note: what reads as x, with 0.0036 lx a count at gain 2 and 800 ms, is really this
 * much, above 1000 lx; here the other way round. */
static double bent(double lux)
{
    double low = 0;
    double high = 30000;
    if (lux <= 1000) {
        return lux;
    }
    for (int i = 0; i < 50; i++) {
        double x = (low + high) / 2;
        double y = ((6.0135e-13 * x - 9.3924e-9) * x + 8.1488e-5) * x * x + 1.0023 * x;
        if (y < lux) {
            low = x;
        } else {
            high = x;
        }
    }
    return low;
}

static uint16_t counts(double value)
{
    return (uint16_t)fmin(fmax(floor(value + 0.5), 0), 65535);
}

/* A specimen sees a share more or less, of all there is: its error is that at 200 lx. */
static double sensed(struct pintle_sim_chip *chip, int input)
{
    double error = chip->error[input];
    return (pintle_sim_sense(chip, input) - error) * (1 + error / 200);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    static const double gains[] = { 1, 2, 0.125, 0.25 };
    struct veml7700 *s = self(chip);
    if (s->ends == 0 || chip->sim->now_us < s->ends) {
        return;
    }
    double gain = gains[s->regs[REG_CONF] >> 11 & 3];
    double each = 0.0036 * 800 / integration_ms(s) * 2 / gain;
    s->regs[REG_ALS] = counts(bent(sensed(chip, ILLUMINANCE)) / each);
    s->regs[REG_WHITE] = counts(sensed(chip, WHITE));
    s->ends = pintle_priv_sim_ends(chip, s->ends, period_us(chip));
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    return reg <= REG_ID ? state(chip)->regs[reg] : 0;
}

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct veml7700 *s = self(chip);
    uint16_t keeps = (uint16_t)pintle_priv_sim_keeps(chip, reg);
    if (reg > REG_ID || !keeps) {
        return;
    }
    s->regs[reg] = (uint16_t)value & keeps;
    if (reg == REG_CONF) {
        s->ends = value & 1 ? 0 : chip->sim->now_us + 2500 + period_us(chip);
    }
}

const struct pintle_sim_model pintle_twin_veml7700 = {
    .name = "VEML7700",
    .inputs = { "illuminance", "white" },
    .errors = { 20, 20 },
    .noises = { 0.02, 1 },
    .power_up = power_up,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
