/* A simulated ADS1115, from datasheet SBAS444. */
#include <math.h>

#include "port/sim/bench.h"

enum { REG_CONVERSION, REG_CONFIG, REG_LO, REG_HI };

struct ads1115 {
    uint16_t regs[4];
    uint64_t ends; /* the conversion under way; 0: there is none */
};
SIM_STATE(ads1115)

#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* Section 9.6. OS is no bit that is kept. */
static const struct pintle_sim_register registers[] = {
    { REG_CONVERSION, 2, PINTLE_SIM_READS, 0x0000, 0, 0 },
    { REG_CONFIG, 2, RW, 0x8583, 0x7fff, 0 },
    { REG_LO, 2, RW, 0x8000, 0xffff, 0 },
    { REG_HI, 2, RW, 0x7fff, 0xffff, 0 },
    { 0 },
};

static const struct pintle_sim_choice choices[] = {
    { "range", "6.144V", REG_CONFIG, 0x0e00, 0x0000 },
    { "range", "4.096V", REG_CONFIG, 0x0e00, 0x0200 },
    { "range", "2.048V", REG_CONFIG, 0x0e00, 0x0400 },
    { "range", "1.024V", REG_CONFIG, 0x0e00, 0x0600 },
    { "range", "0.512V", REG_CONFIG, 0x0e00, 0x0800 },
    { "range", "0.256V", REG_CONFIG, 0x0e00, 0x0a00 },
    { "rate", "8SPS", REG_CONFIG, 0x00e0, 0x0000 },
    { "rate", "16SPS", REG_CONFIG, 0x00e0, 0x0020 },
    { "rate", "32SPS", REG_CONFIG, 0x00e0, 0x0040 },
    { "rate", "64SPS", REG_CONFIG, 0x00e0, 0x0060 },
    { "rate", "128SPS", REG_CONFIG, 0x00e0, 0x0080 },
    { "rate", "250SPS", REG_CONFIG, 0x00e0, 0x00a0 },
    { "rate", "475SPS", REG_CONFIG, 0x00e0, 0x00c0 },
    { "rate", "860SPS", REG_CONFIG, 0x00e0, 0x00e0 },
    { 0 },
};

static const struct pintle_sim_map map = { .registers = registers, .choices = choices, .words = 1 };

static double period_us(const struct ads1115 *s)
{
    static const double rates[] = { 8, 16, 32, 64, 128, 250, 475, 860 };
    return 1e6 / rates[s->regs[REG_CONFIG] >> 5 & 7];
}

/* Table 7-5: the rate is within a tenth. */
static uint64_t conversion_us(const struct pintle_sim_chip *chip)
{
    double period = period_us(state(chip));
    return 20 + pintle_priv_sim_conversion(chip, period, 1.1 * period);
}

/* Six inputs, one after the other. */
static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return (uint32_t)(6 * (1.1 * period_us(state(chip)) + 26));
}

/* A conversion under way, at whatever rate, ends first. */
static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 137600;
}

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) = (struct ads1115){ .regs = { 0x0000, 0x8583, 0x8000, 0x7fff } };
}

/* A specimen's error is that at 2 V: of the gain, and little of an offset. */
static double sensed(struct pintle_sim_chip *chip, int input)
{
    double error = chip->error[input];
    return (pintle_sim_sense(chip, input) - error) * (1 + error / 2) + error / 60;
}

/* Table 9-3: between which inputs, and to which full scale. */
static void convert(struct pintle_sim_chip *chip)
{
    static const int8_t pairs[8][2] = { { 0, 1 },  { 0, 3 },  { 1, 3 },  { 2, 3 },
                                        { 0, -1 }, { 1, -1 }, { 2, -1 }, { 3, -1 } };
    static const double scales[] = { 6.144, 4.096, 2.048, 1.024, 0.512, 0.256, 0.256, 0.256 };
    struct ads1115 *s = self(chip);
    const int8_t *pair = pairs[s->regs[REG_CONFIG] >> 12 & 7];
    double volts = sensed(chip, pair[0]) - (pair[1] < 0 ? 0 : sensed(chip, pair[1]));
    double code = floor(volts / scales[s->regs[REG_CONFIG] >> 9 & 7] * 32768 + 0.5);
    s->regs[REG_CONVERSION] = (uint16_t)(int16_t)fmin(fmax(code, -32768), 32767);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct ads1115 *s = self(chip);
    if (s->ends == 0 || chip->sim->now_us < s->ends) {
        return;
    }
    convert(chip);
    s->ends = s->regs[REG_CONFIG] & 0x0100 ? 0 : chip->sim->now_us + conversion_us(chip);
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    const struct ads1115 *s = state(chip);
    if ((reg & 3) == REG_CONFIG) {
        return (s->regs[REG_CONFIG] & 0x7fffu) | (s->ends == 0 ? 0x8000u : 0);
    }
    return s->regs[reg & 3];
}

/* Section 9.6.3: writing OS begins a conversion in single-shot mode; in continuous mode they follow
 * each other. */
static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct ads1115 *s = self(chip);
    uint8_t single = (value & 0x0100) != 0;
    reg &= 3;
    if (reg == REG_CONVERSION) {
        return;
    }
    s->regs[reg] = (uint16_t)value;
    if (reg == REG_CONFIG && (!single || ((value & 0x8000) && s->ends == 0))) {
        s->ends = chip->sim->now_us + conversion_us(chip);
    }
}

const struct pintle_sim_model pintle_twin_ads1115 = {
    .name = "ADS1115",
    .inputs = { "ain0", "ain1", "ain2", "ain3" },
    .errors = { 0.0012, 0.0012, 0.0012, 0.0012 },
    .noises = { 0.00002, 0.00002, 0.00002, 0.00002 },
    .power_up = power_up,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
