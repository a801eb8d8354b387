/* A simulated DS1307, from datasheet 19-5046. Unplugged from the board it keeps time and RAM on its
 * battery. */
#include "port/sim/bench.h"

#define SECOND_US 1000000u
#define STOPPED 0x80 /* CH */
#define CONTROL 0x07
#define LAST 0x3f

struct ds1307 {
    uint8_t regs[LAST + 1];
    uint8_t buffer[7]; /* the time as it was at START */
    uint8_t alive;
    uint64_t counted;
};
SIM_STATE(ds1307)

#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)
#define TIME (RW | PINTLE_SIM_TRUTH)

/* Tables 2 and 3; a new one stands still. RAM comes up with anything. */
static const struct pintle_sim_register registers[] = {
    { 0x00, 1, TIME, 0x80, 0xff, 0 },
    { 0x01, 1, TIME, 0x00, 0x7f, 0 },
    { 0x02, 1, TIME, 0x00, 0x7f, 0 },
    { 0x03, 1, TIME, 0x01, 0x07, 0 },
    { 0x04, 1, TIME, 0x01, 0x3f, 0 },
    { 0x05, 1, TIME, 0x01, 0x1f, 0 },
    { 0x06, 1, TIME, 0x00, 0xff, 0 },
    { CONTROL, 1, RW, 0x03, 0x93, 0 },
    { 0 },
};

static const struct pintle_sim_choice choices[] = {
    { "output", "low", CONTROL, 0x93, 0x00 },
    { "output", "high", CONTROL, 0x93, 0x80 },
    { "output", "1Hz", CONTROL, 0x93, 0x10 },
    { "output", "4096Hz", CONTROL, 0x93, 0x11 },
    { "output", "8192Hz", CONTROL, 0x93, 0x12 },
    { "output", "32768Hz", CONTROL, 0x93, 0x13 },
    { 0 },
};

static const struct pintle_sim_map map = { .registers = registers,
                                           .choices = choices,
                                           .last = LAST };

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

static void power_up(struct pintle_sim_chip *chip)
{
    struct ds1307 *s = self(chip);
    if (s->alive) {
        return;
    }
    s->alive = 1;
    s->counted = chip->sim->now_us;
    pintle_priv_sim_fill(chip, 0, s->regs, sizeof s->regs);
    for (unsigned i = CONTROL + 1; i <= LAST; i++) {
        s->regs[i] = (uint8_t)pintle_priv_sim_random(chip->sim);
    }
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct ds1307 *s = self(chip);
    while (chip->sim->now_us - s->counted >= SECOND_US) {
        s->counted += SECOND_US;
        if (!(s->regs[0] & STOPPED)) {
            (void)pintle_priv_sim_tick(s->regs, 0x1f);
        }
    }
    memcpy(s->buffer, s->regs, sizeof s->buffer);
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct ds1307 *s = self(chip);
    if (reg == 0) {
        memcpy(s->buffer, s->regs, sizeof s->buffer);
    }
    return reg < sizeof s->buffer ? s->buffer[reg] : s->regs[reg];
}

/* Writing the seconds restarts the counter chain. */
static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct ds1307 *s = self(chip);
    uint32_t keeps = reg > CONTROL ? 0xff : pintle_priv_sim_keeps(chip, reg);
    s->regs[reg] = (uint8_t)((value & keeps) | (s->regs[reg] & ~keeps));
    if (reg == 0) {
        s->counted = chip->sim->now_us;
    }
}

const struct pintle_sim_model pintle_twin_ds1307 = {
    .name = "DS1307",
    .power_up = power_up,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = longest_us,
    PINTLE_SIM_I2C_REGISTERS,
};
