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
    uint8_t pointer;
    uint8_t pointed; /* the pointer byte of this write has come */
};
SIM_STATE_FITS(struct as5600);

static struct as5600 *self(struct pintle_sim_chip *chip)
{
    return (struct as5600 *)(void *)chip->state.bytes;
}

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

static const struct pintle_sim_map map = { .registers = registers };

static void power_up(struct pintle_sim_chip *chip)
{
    struct as5600 *s = self(chip);
    memset(s, 0, sizeof *s);
    s->regs[STATUS] = 0x20; /* MD: a magnet is there */
    s->regs[AGC] = 128;
    s->regs[MAGNITUDE] = 0x0a;
}

static void measure(struct pintle_sim_chip *chip)
{
    struct as5600 *s = self(chip);
    double turns = pintle_priv_sim_sense(chip, 0) / 360;
    unsigned code = (unsigned)floor((turns - floor(turns)) * 4096 + 0.5) & 0xfff;
    unsigned zero = (unsigned)s->regs[1] << 8 | s->regs[2]; /* ZPOS */
    unsigned angle = (code - zero) & 0xfff;
    s->regs[RAW_ANGLE] = (uint8_t)(code >> 8);
    s->regs[RAW_ANGLE + 1] = (uint8_t)code;
    s->regs[ANGLE] = (uint8_t)(angle >> 8);
    s->regs[ANGLE + 1] = (uint8_t)angle;
}

static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    measure(chip);
    self(chip)->pointed = reading;
    return 1;
}

static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct as5600 *s = self(chip);
    if (!s->pointed) {
        s->pointed = 1;
        s->pointer = byte & 31;
    } else if (s->pointer >= 0x01 && s->pointer <= 0x08) {
        static const uint8_t keeps[] = { 0, 0x0f, 0xff, 0x0f, 0xff, 0x0f, 0xff, 0x3f, 0xff };
        s->regs[s->pointer] = byte & keeps[s->pointer];
        s->pointer++;
    }
    return 1;
}

static uint8_t read(struct pintle_sim_chip *chip)
{
    struct as5600 *s = self(chip);
    uint8_t value = s->regs[s->pointer];
    s->pointer = (s->pointer + 1) & 31;
    return value;
}

static void stop(struct pintle_sim_chip *chip)
{
    (void)chip;
}

const struct pintle_sim_model pintle_twin_as5600 = {
    .name = "AS5600",
    .inputs = { "angle" },
    .errors = { 0.8 },
    .noises = { 0.02 },
    .power_up = power_up,
    .map = &map,
    .start = start,
    .write = write,
    .read = read,
    .stop = stop,
};
