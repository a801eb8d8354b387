/* A simulated AS5600, a magnetic angle encoder, from its datasheet (v1-06), "register description".
 */
#include <math.h>

#include "port/sim/bench.h"

#define STATUS 0x0b
#define RAW_ANGLE 0x0c
#define ANGLE 0x0e
#define AGC 0x1a
#define MAGNITUDE 0x1b

struct as5600 {
    uint8_t regs[32];
};
SIM_STATE(as5600)

#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

static const struct pintle_sim_register registers[] = {
    { 0x01, 2, RW, 0, 0x0fff, 0 },
    { 0x03, 2, RW, 0, 0x0fff, 0 },
    { 0x05, 2, RW, 0, 0x0fff, 0 },
    { 0x07, 2, RW, 0, 0x3fff, 0 },
    { STATUS, 1, PINTLE_SIM_READS, 0x20, 0, 0 },
    { RAW_ANGLE, 2, PINTLE_SIM_READS | PINTLE_SIM_LIVE, 0, 0, 0 },
    { ANGLE, 2, PINTLE_SIM_READS | PINTLE_SIM_LIVE, 0, 0, 0 },
    { AGC, 1, PINTLE_SIM_READS, 128, 0, 0 },
    { 0 },
};

static const struct pintle_sim_map map = { .registers = registers, .last = 31 };

static void power_up(struct pintle_sim_chip *chip)
{
    struct as5600 *s = self(chip);
    pintle_priv_sim_fill(chip, 0, s->regs, sizeof s->regs);
    s->regs[MAGNITUDE] = 0x0a; /* STATUS: MD, a magnet is there */
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct as5600 *s = self(chip);
    double turns = pintle_sim_sense(chip, 0) / 360;
    unsigned code = (unsigned)floor((turns - floor(turns)) * 4096 + 0.5) & 0xfff;
    unsigned zero = (unsigned)s->regs[1] << 8 | s->regs[2]; /* ZPOS */
    unsigned angle = (code - zero) & 0xfff;
    s->regs[RAW_ANGLE] = (uint8_t)(code >> 8);
    s->regs[RAW_ANGLE + 1] = (uint8_t)code;
    s->regs[ANGLE] = (uint8_t)(angle >> 8);
    s->regs[ANGLE + 1] = (uint8_t)angle;
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    return self(chip)->regs[reg];
}

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    uint32_t keeps = pintle_priv_sim_keeps(chip, reg);
    self(chip)->regs[reg] = (uint8_t)((value & keeps) | (self(chip)->regs[reg] & ~keeps));
}

const struct pintle_sim_model pintle_twin_as5600 = {
    .name = "AS5600",
    .inputs = { "angle" },
    .errors = { 0.8 },
    .noises = { 0.02 },
    .power_up = power_up,
    .map = &map,
    PINTLE_SIM_I2C_REGISTERS,
};
