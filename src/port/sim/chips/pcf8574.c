/* Simulated PCF8574 and PCF8574A, from datasheet PCF8574; PCF8574A, rev. 5 (sections 8 and 9): a
 * latch of eight bits; a line is low where the latch or the world outside makes it so. */
#include "port/sim/bench.h"

struct pcf8574 {
    uint8_t latch;
};
SIM_STATE(pcf8574)

static void power_up(struct pintle_sim_chip *chip)
{
    self(chip)->latch = 0xff;
}

static uint32_t at_once(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    (void)chip;
    (void)reading;
    return 1;
}

static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    self(chip)->latch = byte;
    return 1;
}

/* The levels are taken at each byte's acknowledge. */
static uint8_t read(struct pintle_sim_chip *chip)
{
    uint8_t levels = 0;
    for (int i = 0; i < 8; i++) {
        levels |= (uint8_t)((pintle_sim_sense(chip, i) > 0.5) << i);
    }
    return levels & self(chip)->latch;
}

static void stop(struct pintle_sim_chip *chip)
{
    (void)chip;
}

#define PCF8574(title)                                                                             \
    {                                                                                              \
        .name = (title), .inputs = { "p0", "p1", "p2", "p3", "p4", "p5", "p6", "p7" },             \
        .power_up = power_up, .longest_us = at_once, .settles_us = at_once, .start = start,        \
        .write = write, .read = read, .stop = stop                                                 \
    }
const struct pintle_sim_model pintle_twin_pcf8574 = PCF8574("PCF8574");
const struct pintle_sim_model pintle_twin_pcf8574a = PCF8574("PCF8574A");
