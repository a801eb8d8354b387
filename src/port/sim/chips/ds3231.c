/* A simulated DS3231, from datasheet 19-5170. It counts its own registers, second by second, as
 * the chip's counter chain does. Unplugged from the board it keeps time on its battery. */
#include <math.h>

#include "port/sim/bench.h"

#define SECOND_US 1000000u
#define CONVERT_EVERY_S 64 /* section "Temperature Sensor" */

struct ds3231 {
    uint8_t regs[0x13];
    uint8_t buffer[7]; /* the time as it was at START, or where the address came around */
    uint8_t alive;     /* was powered once: the battery keeps it going */
    uint8_t until_conversion;
    uint64_t converts_until; /* 0: it isn't converting */
    uint64_t counted;        /* up to which moment seconds are counted */
};
SIM_STATE(ds3231)

#define R PINTLE_SIM_READS
#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)
#define TIME (RW | PINTLE_SIM_TRUTH)

/* Figure 1. CONV of the control register ends by itself; of the status' flags 0 can be written. */
static const struct pintle_sim_register registers[] = {
    { 0x00, 1, TIME, 0x00, 0x7f, 0 }, { 0x01, 1, TIME, 0x00, 0x7f, 0 },
    { 0x02, 1, TIME, 0x00, 0x7f, 0 }, { 0x03, 1, TIME, 0x01, 0x07, 0 },
    { 0x04, 1, TIME, 0x01, 0x3f, 0 }, { 0x05, 1, TIME, 0x01, 0x9f, 0 },
    { 0x06, 1, TIME, 0x00, 0xff, 0 }, { 0x07, 1, RW, 0x00, 0xff, 0 },
    { 0x08, 1, RW, 0x00, 0xff, 0 },   { 0x09, 1, RW, 0x00, 0xff, 0 },
    { 0x0a, 1, RW, 0x00, 0xff, 0 },   { 0x0b, 1, RW, 0x00, 0xff, 0 },
    { 0x0c, 1, RW, 0x00, 0xff, 0 },   { 0x0d, 1, RW, 0x00, 0xff, 0 },
    { 0x0e, 1, RW, 0x1c, 0xdf, 0 },   { 0x0f, 1, RW, 0x8c, 0x08, 0 },
    { 0x10, 1, RW, 0x00, 0xff, 0 },   { 0x11, 1, R, 0x00, 0, 0 },
    { 0x12, 1, R, 0x00, 0, 0 },       { 0 },
};

static const struct pintle_sim_map map = { .registers = registers, .last = 0x12 };

/* Table 2: alarm 1 compares the fields whose mask bits are clear. */
static int alarm_matches(const struct ds3231 *s)
{
    for (int i = 0; i < 3; i++) {
        uint8_t want = s->regs[7 + i];
        if (!(want & 0x80) && want != s->regs[i]) {
            return 0;
        }
    }
    uint8_t want = s->regs[10];
    uint8_t have = (want & 0x40) ? s->regs[3] : s->regs[4];
    return (want & 0x80) || (want & 0x3f) == have;
}

static void tick(struct ds3231 *s)
{
    if (pintle_priv_sim_tick(s->regs, 0x1f)) {
        s->regs[5] ^= 0x80;
    }
    if (alarm_matches(s)) {
        s->regs[0x0f] |= 0x01;
    }
}

static void convert(struct pintle_sim_chip *chip)
{
    struct ds3231 *s = self(chip);
    int quarters = (int)floor(pintle_sim_sense(chip, 0) * 4 + 0.5);
    quarters = quarters < -512 ? -512 : quarters > 511 ? 511 : quarters;
    unsigned word = (unsigned)(quarters * 64) & 0xffffu;
    s->regs[0x11] = (uint8_t)(word >> 8);
    s->regs[0x12] = (uint8_t)word;
    s->regs[0x0e] &= 0xdf;
    s->regs[0x0f] &= 0xfb; /* BSY */
    s->converts_until = 0;
}

/* AC characteristics: 125 ms, 200 ms at most. */
static void begin(struct pintle_sim_chip *chip, uint64_t at)
{
    struct ds3231 *s = self(chip);
    s->regs[0x0f] |= 0x04;
    s->converts_until = at + pintle_priv_sim_conversion(chip, 125000, 200000);
    s->until_conversion = CONVERT_EVERY_S;
}

static void end_conversion(struct pintle_sim_chip *chip)
{
    struct ds3231 *s = self(chip);
    if (s->converts_until > 0 && chip->sim->now_us >= s->converts_until) {
        convert(chip);
    }
}

static void count_on(struct pintle_sim_chip *chip)
{
    struct ds3231 *s = self(chip);
    uint64_t due = 0;
    while (chip->sim->now_us - s->counted >= SECOND_US) {
        s->counted += SECOND_US;
        tick(s);
        if (--s->until_conversion == 0) {
            s->until_conversion = CONVERT_EVERY_S;
            due = s->counted;
        }
    }
    end_conversion(chip);
    if (due > 0 && s->converts_until == 0) {
        begin(chip, due);
        end_conversion(chip);
    }
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 200000;
}

static void power_up(struct pintle_sim_chip *chip)
{
    struct ds3231 *s = self(chip);
    if (s->alive) {
        return;
    }
    *s = (struct ds3231){ .alive = 1,
                          .until_conversion = CONVERT_EVERY_S,
                          .counted = chip->sim->now_us };
    pintle_priv_sim_fill(chip, 0, s->regs, sizeof s->regs);
    begin(chip, chip->sim->now_us);
}

static void latch(struct ds3231 *s)
{
    memcpy(s->buffer, s->regs, sizeof s->buffer);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    count_on(chip);
    latch(self(chip));
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct ds3231 *s = self(chip);
    if (reg == 0) {
        latch(s);
    }
    return reg < 7 ? s->buffer[reg] : s->regs[reg];
}

/* Flags can be cleared and not set. Writing the seconds restarts the counter chain. */
static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct ds3231 *s = self(chip);
    uint32_t keeps = pintle_priv_sim_keeps(chip, reg);
    uint32_t old = s->regs[reg];
    s->regs[reg] = (uint8_t)((value & keeps) | (old & ~keeps));
    if (reg == 0x0f) {
        s->regs[reg] = (uint8_t)((value & 0x08) | (old & 0x04) | (old & value & 0x83));
    }
    if (reg == 0) {
        s->counted = chip->sim->now_us;
    }
    if (reg == 0x0e && (value & 0x20)) {
        if (s->converts_until == 0) {
            begin(chip, chip->sim->now_us);
        }
        s->regs[reg] |= 0x20; /* until it ends */
    }
}

/* Control register: with INTCN the pin is low while an alarm that may has gone off. */
static uint8_t pin(struct pintle_sim_chip *chip)
{
    const struct ds3231 *s = self(chip);
    return !((s->regs[0x0e] & 0x04) && (s->regs[0x0e] & s->regs[0x0f] & 0x03));
}

const struct pintle_sim_model pintle_twin_ds3231 = {
    .name = "DS3231",
    .inputs = { "temperature" },
    .errors = { 1.5 },
    .noises = { 0.0 },
    .power_up = power_up,
    .pin = pin,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
