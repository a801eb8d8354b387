/* A simulated TMP102, from datasheet SLOS854. */
#include <math.h>

#include "port/sim/bench.h"

#define TYPICAL_US 26000 /* section 7.5 */
#define LONGEST_US 35000

enum { REG_TEMP, REG_CONFIG, REG_LOW, REG_HIGH };

struct tmp102 {
    uint16_t regs[4];
    uint8_t one_shot; /* a single conversion is under way */
    uint8_t latched;  /* the conversion under way began with this configuration */
    uint8_t times;    /* conversions beyond a limit, one after the other */
    uint16_t before;
    uint64_t ends; /* when the next conversion ends; 0: there is none */
};
SIM_STATE(tmp102)

/* Section 8.5. In the normal format limits have twelve bits, in the extended one thirteen. */
static const struct pintle_sim_register registers[] = {
    { REG_TEMP, 2, PINTLE_SIM_READS, 0x0000, 0, 0 },
    { REG_CONFIG, 2, PINTLE_SIM_READS | PINTLE_SIM_WRITES, 0x60a0, 0x1fd0, 0 },
    { REG_LOW, 2, PINTLE_SIM_READS | PINTLE_SIM_WRITES, 0x4b00, 0xfff0, 0 },
    { REG_HIGH, 2, PINTLE_SIM_READS | PINTLE_SIM_WRITES, 0x5000, 0xfff0, 0 },
    { 0 },
};

/* Tables 8-9 to 8-11. */
static const struct pintle_sim_choice choices[] = {
    { "mode", "continuous", REG_CONFIG, 0x0100, 0x0000 },
    { "mode", "one-shot", REG_CONFIG, 0x0100, 0x0100 },
    { "format", "12-bit", REG_CONFIG, 0x0010, 0x0000 },
    { "format", "13-bit", REG_CONFIG, 0x0010, 0x0010 },
    { "rate", "0.25Hz", REG_CONFIG, 0x00c0, 0x0000 },
    { "rate", "1Hz", REG_CONFIG, 0x00c0, 0x0040 },
    { "rate", "4Hz", REG_CONFIG, 0x00c0, 0x0080 },
    { "rate", "8Hz", REG_CONFIG, 0x00c0, 0x00c0 },
    { "faults", "1", REG_CONFIG, 0x1800, 0x0000 },
    { "faults", "2", REG_CONFIG, 0x1800, 0x0800 },
    { "faults", "4", REG_CONFIG, 0x1800, 0x1000 },
    { "faults", "6", REG_CONFIG, 0x1800, 0x1800 },
    { 0 },
};

static const struct pintle_sim_map map = { .registers = registers, .choices = choices, .words = 1 };

static uint64_t conversion_us(const struct pintle_sim_chip *chip)
{
    return pintle_priv_sim_conversion(chip, TYPICAL_US, LONGEST_US);
}

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) = (struct tmp102){ .regs = { 0x0000, 0x60a0, 0x4b00, 0x5000 },
                                   .ends = chip->sim->now_us + conversion_us(chip) };
}

/* A limit, in 1/256 of a degree, left-justified in either format. */
static int limit_of(const struct tmp102 *s, uint8_t reg)
{
    int value = (int16_t)s->regs[reg];
    return s->regs[REG_CONFIG] & 0x0010 ? value * 2 : value;
}

/* Sections 8.3.5 and 8.5.4: above T_HIGH, or below T_LOW, so many times in a row. AL shows it, 1
 * while nothing is to be told where the pin is active low. */
static void watch(struct tmp102 *s, int degrees)
{
    static const uint8_t queues[] = { 1, 2, 4, 6 };
    uint8_t needed = queues[s->regs[REG_CONFIG] >> 11 & 3];
    int told = !(s->regs[REG_CONFIG] & 0x0020);
    int beyond = told ? degrees < limit_of(s, REG_LOW) : degrees >= limit_of(s, REG_HIGH);
    s->times = (uint8_t)(beyond ? s->times + 1 : 0);
    if (s->times >= needed) {
        s->regs[REG_CONFIG] ^= 0x0020;
        s->times = 0;
    }
}

/* Section 8.3.2 and 8.3.3: 12 bits left-justified, or 13 with the lowest bit of the word set. */
static void convert(struct pintle_sim_chip *chip)
{
    struct tmp102 *s = self(chip);
    int extended = ((s->latched ? s->before : s->regs[REG_CONFIG]) >> 4) & 1;
    double limit = extended ? 4095 : 2047;
    double counts = floor(pintle_sim_sense(chip, 0) / 0.0625 + 0.5);
    counts = fmin(fmax(counts, -limit - 1), limit);
    s->regs[REG_TEMP] = extended ? (uint16_t)((int)counts * 8 | 1) : (uint16_t)((int)counts * 16);
    s->latched = 0;
    watch(s, (int)counts * 16);
}

static uint32_t period_us(const struct tmp102 *s)
{
    static const uint32_t periods[] = { 4000000, 1000000, 250000, 125000 };
    return periods[(s->regs[REG_CONFIG] >> 6) & 3];
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return state(chip)->regs[REG_CONFIG] & 0x0100 ? LONGEST_US : 0;
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    return longest_us(chip) ? 0 : period_us(state(chip)) + LONGEST_US;
}

/* Bring the registers up to the present; of many conversions that have gone by the last one shows.
 */
static void catch_up(struct pintle_sim_chip *chip)
{
    struct tmp102 *s = self(chip);
    uint64_t now = chip->sim->now_us;
    if (s->ends == 0 || now < s->ends) {
        return;
    }
    convert(chip);
    if (s->one_shot) {
        s->one_shot = 0;
        s->regs[REG_CONFIG] |= 0x8000; /* OS reads 1 when the conversion is done */
        s->ends = 0;
        return;
    }
    uint64_t more = (now - s->ends) / period_us(s);
    s->ends += period_us(s) * (1 + more);
    if (more > 0) {
        convert(chip);
    }
}

/* The series goes on: what is under way ends as it began, and the next one comes a period later. */
static void retime(struct pintle_sim_chip *chip, uint16_t old)
{
    struct tmp102 *s = self(chip);
    uint64_t now = chip->sim->now_us;
    if (now + conversion_us(chip) >= s->ends) {
        s->before = s->latched ? s->before : old;
        s->latched = 1;
    } else if (now + period_us(s) + conversion_us(chip) < s->ends) {
        s->ends = now + period_us(s) + conversion_us(chip);
    }
}

/* R1, R0 and AL cannot be written; the low four bits are zero. */
static void configure(struct pintle_sim_chip *chip, uint16_t value)
{
    struct tmp102 *s = self(chip);
    uint16_t old = s->regs[REG_CONFIG];
    s->regs[REG_CONFIG] = (uint16_t)((value & 0x1fd0) | (old & 0xe020));
    if ((value & 0x8100) == 0x8100 || (!(value & 0x0100) && (old & 0x0100))) {
        s->one_shot = (value & 0x0100) != 0; /* or it leaves the shutdown */
        s->ends = chip->sim->now_us + conversion_us(chip);
        s->regs[REG_CONFIG] &= 0x7fff;
        s->latched = 0;
    } else if (value & 0x0100) {
        s->ends = s->one_shot ? s->ends : 0;
    } else {
        retime(chip, old);
    }
}

/* Two bits of the pointer count. */
static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    return state(chip)->regs[reg & 3];
}

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct tmp102 *s = self(chip);
    if ((reg & 3) == REG_CONFIG) {
        configure(chip, (uint16_t)value);
    } else if ((reg & 3) != REG_TEMP) {
        s->regs[reg & 3] = (uint16_t)(value & (s->regs[REG_CONFIG] & 0x0010 ? 0xfff8 : 0xfff0));
    }
}

static uint8_t pin(struct pintle_sim_chip *chip)
{
    uint16_t config = state(chip)->regs[REG_CONFIG];
    uint8_t told = !(config & 0x0020);
    return config & 0x0400 ? told : !told;
}

const struct pintle_sim_model pintle_twin_tmp102 = {
    .name = "TMP102",
    .inputs = { "temperature" },
    .errors = { 1.0 },
    .noises = { 0.02 },
    .power_up = power_up,
    .pin = pin,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
