/* A simulated HS3001, from datasheet HS300x, R36DS0010. */
#include <math.h>

#include "port/sim/bench.h"

enum { TEMPERATURE, HUMIDITY };

struct hs3001 {
    uint8_t out[4];
    uint8_t at;
    uint8_t fetched; /* the result was */
    uint8_t measuring;
    uint64_t ready;
};
SIM_STATE(hs3001)

/* No registers that can be reached while it measures. */
static const struct pintle_sim_register registers[] = { { 0 } };
static const struct pintle_sim_map map = { .registers = registers };

/* Table 5: 16.9 ms for each quantity, and 0.1 ms to wake. No longest is stated; a tenth is taken.
 */
#define TYPICAL_US 33900
#define LONGEST_US 37300

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return LONGEST_US;
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

/* Section 6.6: before the first measurement what is fetched is old. */
static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) = (struct hs3001){ .fetched = 1 };
}

static unsigned code(double part)
{
    return (unsigned)fmin(fmax(floor(part * 16383.0 + 0.5), 0), 16383);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct hs3001 *s = self(chip);
    if (!s->measuring || chip->sim->now_us < s->ready) {
        return;
    }
    unsigned h = code(pintle_sim_sense(chip, HUMIDITY) / 100.0);
    unsigned t = code((pintle_sim_sense(chip, TEMPERATURE) + 40.0) / 165.0);
    s->out[0] = (uint8_t)(h >> 8);
    s->out[1] = (uint8_t)h;
    s->out[2] = (uint8_t)(t >> 6);
    s->out[3] = (uint8_t)(t << 2 | (pintle_priv_sim_random(chip->sim) & 3)); /* of no meaning */
    s->measuring = 0;
    s->fetched = 0;
}

static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    struct hs3001 *s = self(chip);
    catch_up(chip);
    s->at = 0;
    if (!reading && !s->measuring) {
        s->measuring = 1;
        s->ready = chip->sim->now_us + pintle_priv_sim_conversion(chip, TYPICAL_US, LONGEST_US);
    }
    return 1;
}

static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    (void)chip;
    (void)byte;
    return 1;
}

/* Table 7: the status in the two highest bits: 0 new, 1 fetched before. */
static uint8_t read(struct pintle_sim_chip *chip)
{
    struct hs3001 *s = self(chip);
    if (s->at >= sizeof s->out) {
        return 0xff;
    }
    uint8_t status = s->at == 0 && s->fetched ? 0x40 : 0;
    return s->out[s->at++] | status;
}

static void stop(struct pintle_sim_chip *chip)
{
    struct hs3001 *s = self(chip);
    s->fetched |= s->at > 0;
}

const struct pintle_sim_model pintle_twin_hs3001 = {
    .name = "HS3001",
    .inputs = { "temperature", "humidity" },
    .errors = { 0.14, 1.2 },
    .noises = { 0.02, 0.05 },
    .power_up = power_up,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    .start = start,
    .write = write,
    .read = read,
    .stop = stop,
};
