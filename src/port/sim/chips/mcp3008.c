/* A simulated MCP3008, from datasheet DS21295, section 5 and figures 5-1 and 5-2. */
#include <math.h>

#include "port/sim/bench.h"

#define REFERENCE 8 /* its input */

/* Clocks since the start bit: single-ended or not, three of address, one to sample, then the null
 * bit and the ten bits, which afterwards come once more from the low end. */
struct mcp3008 {
    uint8_t clocks; /* 0: no start bit yet */
    uint8_t how;
    uint16_t code;
};
SIM_STATE(mcp3008)

/* Table 5-2: no registers; a conversion begins with one of these bytes. */
#define INPUT(n)                                                                                   \
    {                                                                                              \
        0x30 | (n) << 1, 2, PINTLE_SIM_READS | PINTLE_SIM_LIVE, 0, 0, 0                            \
    }
static const struct pintle_sim_register registers[] = {
    INPUT(0), INPUT(1), INPUT(2), INPUT(3), INPUT(4), INPUT(5), INPUT(6), INPUT(7), { 0 },
};

static const struct pintle_sim_map map = { .registers = registers };

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) = (struct mcp3008){ 0 };
}

static void select(struct pintle_sim_chip *chip, uint8_t on)
{
    (void)on;
    self(chip)->clocks = 0;
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
}

/* Table 5-2: a pair's second input is taken from its first. */
static void sample(struct pintle_sim_chip *chip)
{
    struct mcp3008 *s = self(chip);
    int channel = s->how & 7;
    double volts = pintle_sim_sense(chip, channel);
    if (!(s->how & 8)) {
        volts -= pintle_sim_sense(chip, channel ^ 1);
    }
    double code = floor(volts / pintle_sim_sense(chip, REFERENCE) * 1024);
    s->code = (uint16_t)fmin(fmax(code, 0), 1023);
}

static uint8_t bit_at(const struct mcp3008 *s, uint8_t clocks)
{
    unsigned place = clocks < 17 ? 16u - clocks : clocks - 16u; /* down to the lowest, then up */
    return place < 10 && (s->code >> place & 1);
}

static void clock(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct mcp3008 *s = self(chip);
    if (s->clocks == 0) {
        s->clocks = bit;
        return;
    }
    s->clocks = (uint8_t)(s->clocks < 255 ? s->clocks + 1 : 255);
    if (s->clocks <= 5) {
        s->how = (uint8_t)(s->how << 1 | bit) & 15;
    } else if (s->clocks == 6) {
        sample(chip);
        chip->shown = PINTLE_SIM_SHOWS_0;
    } else {
        chip->shown = bit_at(s, s->clocks);
    }
}

const struct pintle_sim_model pintle_twin_mcp3008 = {
    .name = "MCP3008",
    .kind = PINTLE_SIM_SPI,
    .inputs = { "ch0", "ch1", "ch2", "ch3", "ch4", "ch5", "ch6", "ch7", "reference" },
    .errors = { 0.002, 0.002, 0.002, 0.002, 0.002, 0.002, 0.002, 0.002, 0 },
    .noises = { 0.0005, 0.0005, 0.0005, 0.0005, 0.0005, 0.0005, 0.0005, 0.0005, 0 },
    .power_up = power_up,
    .map = &map,
    .modes = 1 << 0 | 1 << 3,
    .top_hz = 3600000,
    .select = select,
    .clock = clock,
};
