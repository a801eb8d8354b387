/* A simulated MCP9808, from datasheet DS25095. */
#include <math.h>

#include "port/sim/bench.h"

enum {
    REG_CONFIG = 1,
    REG_UPPER,
    REG_LOWER,
    REG_CRIT,
    REG_AMBIENT,
    REG_MAKER,
    REG_DEVICE,
    REG_RES
};

struct mcp9808 {
    uint16_t regs[9];
    uint8_t under_way; /* the resolution of the conversion that is */
    uint64_t ends;     /* when it ends */
};
SIM_STATE(mcp9808)

#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* Section 5.1. */
static const struct pintle_sim_register registers[] = {
    { REG_CONFIG, 2, RW, 0x0000, 0x07cf, 0x00c0 },
    { REG_UPPER, 2, RW, 0x0000, 0x1ffc, 0 },
    { REG_LOWER, 2, RW, 0x0000, 0x1ffc, 0 },
    { REG_CRIT, 2, RW, 0x0000, 0x1ffc, 0 },
    { REG_AMBIENT, 2, PINTLE_SIM_READS, 0x0000, 0, 0 },
    { REG_MAKER, 2, PINTLE_SIM_READS, 0x0054, 0, 0 },
    { REG_DEVICE, 2, PINTLE_SIM_READS, 0x0400, 0, 0 },
    { REG_RES, 1, RW, 0x03, 0x03, 0 },
    { 0 },
};

/* Register 5-7. */
static const struct pintle_sim_choice choices[] = {
    { "resolution", "0.5", REG_RES, 0xff, 0 },
    { "resolution", "0.25", REG_RES, 0xff, 1 },
    { "resolution", "0.125", REG_RES, 0xff, 2 },
    { "resolution", "0.0625", REG_RES, 0xff, 3 },
    { 0 },
};

static const struct pintle_sim_map map = {
    .registers = registers, .choices = choices, .words = 1, .last = 15
};

static const uint32_t times[] = { 30000, 65000, 130000, 250000 };

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

/* The conversion under way, at whatever resolution, and the first one at this. */
static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    return times[3] + times[state(chip)->regs[REG_RES] & 3];
}

/* The datasheet knows one time for each resolution. */
static void begin(struct pintle_sim_chip *chip, uint64_t at)
{
    struct mcp9808 *s = self(chip);
    s->under_way = s->regs[REG_RES] & 3;
    s->ends = at + pintle_priv_sim_conversion(chip, 0.9 * times[s->under_way], times[s->under_way]);
}

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) =
        (struct mcp9808){ .regs = { [REG_MAKER] = 0x0054, [REG_DEVICE] = 0x0400, [REG_RES] = 3 } };
    begin(chip, chip->sim->now_us);
}

/* A limit's 11 bits, in sixteenths of a degree. */
static int limit(uint16_t reg)
{
    int value = reg & 0x0ffc;
    return reg & 0x1000 ? value - 0x1000 : value;
}

/* Register 5-4: the fraction below the resolution reads 0; three flags compare with the limits. */
static void convert(struct pintle_sim_chip *chip)
{
    struct mcp9808 *s = self(chip);
    int step = 8 >> s->under_way;
    int sixteenths = (int)floor(pintle_sim_sense(chip, 0) * 16 / step + 0.5) * step;
    unsigned word = (unsigned)sixteenths & 0x1fffu;
    word |= sixteenths >= limit(s->regs[REG_CRIT]) ? 0x8000u : 0;
    word |= sixteenths > limit(s->regs[REG_UPPER]) ? 0x4000u : 0;
    word |= sixteenths < limit(s->regs[REG_LOWER]) ? 0x2000u : 0;
    s->regs[REG_AMBIENT] = (uint16_t)word;
}

/* Of many conversions that have gone by only the last one shows. */
static void catch_up(struct pintle_sim_chip *chip)
{
    struct mcp9808 *s = self(chip);
    uint64_t now = chip->sim->now_us;
    if (s->regs[REG_CONFIG] & 0x0100 || now < s->ends) {
        return;
    }
    convert(chip); /* the one that was under way, at its own resolution */
    begin(chip, s->ends);
    if (now >= s->ends) {
        convert(chip);
        begin(chip, now - (now - s->ends) % times[s->under_way]);
    }
}

/* Register 5-2: with a lock bit set, until the power goes, only the shutdown can be taken back. */
static void configure(struct pintle_sim_chip *chip, uint16_t value)
{
    struct mcp9808 *s = self(chip);
    uint16_t old = s->regs[REG_CONFIG];
    uint16_t now = value & 0x07cf;
    if (old & 0x00c0) {
        now = (uint16_t)((old & ~0x0100) | (value & 0x00c0) | (old & value & 0x0100));
    }
    s->regs[REG_CONFIG] = now;
    if ((old & 0x0100) && !(now & 0x0100)) {
        begin(chip, chip->sim->now_us);
    }
}

static uint8_t locked(const struct mcp9808 *s, uint8_t reg)
{
    return (s->regs[REG_CONFIG] & (reg == REG_CRIT ? 0x0080 : 0x0040)) != 0;
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    return reg <= REG_RES ? state(chip)->regs[reg] : 0;
}

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct mcp9808 *s = self(chip);
    if (reg == REG_CONFIG) {
        configure(chip, (uint16_t)value);
    } else if (reg == REG_RES || (reg <= REG_CRIT && !locked(s, reg))) {
        s->regs[reg] = (uint16_t)(value & pintle_priv_sim_keeps(chip, reg));
    }
}

/* Section 5.2.3: as a comparator; of all three, or of the critical one alone. */
static uint8_t pin(struct pintle_sim_chip *chip)
{
    uint16_t config = state(chip)->regs[REG_CONFIG];
    uint16_t flags = state(chip)->regs[REG_AMBIENT] & (config & 0x0004 ? 0x8000 : 0xe000);
    uint8_t told = (config & 0x0008) && flags;
    return config & 0x0002 ? told : !told;
}

const struct pintle_sim_model pintle_twin_mcp9808 = {
    .name = "MCP9808",
    .inputs = { "temperature" },
    .errors = { 0.2 },
    .noises = { 0.01 },
    .power_up = power_up,
    .pin = pin,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
