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
    uint8_t pointer;
    uint8_t byte; /* which byte of a write, or of the register read, comes next */
    uint8_t high;
    uint64_t started;
    uint64_t done; /* conversions of the series that are in the register */
};
SIM_STATE_FITS(struct mcp9808);

static struct mcp9808 *self(struct pintle_sim_chip *chip)
{
    return (struct mcp9808 *)(void *)chip->state.bytes;
}

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) =
        (struct mcp9808){ .regs = { [REG_MAKER] = 0x0054, [REG_DEVICE] = 0x0400, [REG_RES] = 3 },
                          .started = chip->sim->now_us };
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
    int step = 8 >> (s->regs[REG_RES] & 3);
    int sixteenths = (int)floor(sim_sense(chip, 0) * 16 / step + 0.5) * step;
    unsigned word = (unsigned)sixteenths & 0x1fffu;
    word |= sixteenths >= limit(s->regs[REG_CRIT]) ? 0x8000u : 0;
    word |= sixteenths > limit(s->regs[REG_UPPER]) ? 0x4000u : 0;
    word |= sixteenths < limit(s->regs[REG_LOWER]) ? 0x2000u : 0;
    s->regs[REG_AMBIENT] = (uint16_t)word;
}

static void catch_up(struct pintle_sim_chip *chip)
{
    static const uint32_t times[] = { 30000, 65000, 130000, 250000 };
    struct mcp9808 *s = self(chip);
    uint64_t finished = (chip->sim->now_us - s->started) / times[s->regs[REG_RES] & 3];
    if (!(s->regs[REG_CONFIG] & 0x0100) && finished > s->done) {
        convert(chip);
        s->done = finished;
    }
}

static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    catch_up(chip);
    self(chip)->byte = reading && self(chip)->pointer != REG_RES ? 1 : 0;
    return 1;
}

static void restart(struct pintle_sim_chip *chip)
{
    self(chip)->started = chip->sim->now_us;
    self(chip)->done = 0;
}

/* Byte 0 is the pointer; the resolution has one byte, the others two. */
static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct mcp9808 *s = self(chip);
    if (s->byte == 0) {
        s->pointer = byte & 0x0f;
    } else if (s->pointer == REG_RES && s->byte == 1) {
        s->regs[REG_RES] = byte & 3;
        restart(chip);
    } else if (s->byte == 1) {
        s->high = byte;
    } else if (s->byte == 2 && s->pointer == REG_CONFIG) {
        s->regs[REG_CONFIG] = (uint16_t)((s->high << 8 | byte) & 0x07cf);
        restart(chip);
    } else if (s->byte == 2 && s->pointer >= REG_UPPER && s->pointer <= REG_CRIT) {
        s->regs[s->pointer] = (uint16_t)((s->high << 8 | byte) & 0x1ffc);
    }
    s->byte++;
    return 1;
}

static uint8_t read(struct pintle_sim_chip *chip)
{
    struct mcp9808 *s = self(chip);
    uint16_t value = s->pointer <= REG_RES ? s->regs[s->pointer] : 0;
    return (uint8_t)(s->byte++ & 1 ? value >> 8 : value);
}

static void stop(struct pintle_sim_chip *chip)
{
    (void)chip;
}

const struct pintle_sim_model sim_mcp9808 = {
    .name = "MCP9808",
    .inputs = { "temperature" },
    .errors = { 0.2 },
    .noises = { 0.01 },
    .power_up = power_up,
    .start = start,
    .write = write,
    .read = read,
    .stop = stop,
};
