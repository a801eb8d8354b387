/* A simulated MAX31855, from datasheet 19-5793: no register, 32 bits that say it all. */
#include <math.h>

#include "port/sim/bench.h"

struct max31855 {
    uint32_t word;
    uint8_t at;
    uint64_t converted_us;
    uint8_t ever;
};
SIM_STATE(max31855)

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) = (struct max31855){ 0 };
}

/* Tables 2 to 4: thermocouple in quarters, cold junction in sixteenths of a degree. */
static void convert(struct pintle_sim_chip *chip)
{
    int couple = (int)floor(fmin(fmax(pintle_sim_sense(chip, 0), -2048), 2047.75) * 4 + 0.5);
    int cold = (int)floor(fmin(fmax(pintle_sim_sense(chip, 1), -128), 127.9375) * 16 + 0.5);
    self(chip)->word = ((uint32_t)couple & 0x3fff) << 18 | ((uint32_t)cold & 0xfff) << 4;
}

static void select(struct pintle_sim_chip *chip, uint8_t on)
{
    struct max31855 *s = self(chip);
    uint64_t now = chip->sim->now_us;
    if (on && (!s->ever || now - s->converted_us >= 100000)) {
        convert(chip);
        s->converted_us = now;
        s->ever = 1;
    }
    s->at = 0;
    chip->shown = on ? (uint8_t)(s->word >> 31) : PINTLE_SIM_SHOWS_NOTHING;
}

static void clock(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct max31855 *s = self(chip);
    (void)bit;
    s->at = (uint8_t)(s->at < 32 ? s->at + 1 : 32);
    chip->shown = s->at < 32 && (s->word >> (31 - s->at) & 1);
}

const struct pintle_sim_model pintle_twin_max31855 = {
    .name = "MAX31855",
    .kind = PINTLE_SIM_SPI,
    .inputs = { "temperature", "junction" },
    .errors = { 1.5, 1.0 },
    .noises = { 0.1, 0.02 },
    .power_up = power_up,
    .modes = 1 << 0,
    .top_hz = 5000000,
    .select = select,
    .clock = clock,
};
