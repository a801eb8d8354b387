/* A simulated SHT40, from datasheet SHT4x version 6. */
#include <math.h>

#include "port/sim/bench.h"

enum { TEMPERATURE, HUMIDITY };

struct sht40 {
    uint32_t serial;
    uint8_t drawn;
    uint8_t got; /* the command's byte came */
    uint8_t out[6];
    uint8_t out_count, out_at;
    uint8_t measuring;
    uint8_t measured; /* the last measuring command */
    uint64_t ready;
};
SIM_STATE(sht40)

/* Table 7. The heater changes what there is to measure, for a second. */
static const struct pintle_sim_register registers[] = {
    { 0x89, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0x94, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0x39, 0, PINTLE_SIM_WRITES | PINTLE_SIM_TRUTH, 0, 0, 0 },
    { 0x1e, 0, PINTLE_SIM_WRITES | PINTLE_SIM_TRUTH, 0, 0, 0 },
    { 0 },
};
static const struct pintle_sim_choice choices[] = {
    { "precision", "high", 0xfd, 0xff, 0xfd },
    { "precision", "medium", 0xf6, 0xff, 0xf6 },
    { "precision", "low", 0xe0, 0xff, 0xe0 },
    { 0 },
};

static uint32_t chosen(const struct pintle_sim_chip *chip)
{
    return state(chip)->measured;
}

static const struct pintle_sim_map map = { .registers = registers,
                                           .choices = choices,
                                           .chosen = chosen };

/* Tables 4 and 7: how long a command keeps it busy, typically and at most; 0: it is none that
 * measures. */
static int time_of(uint8_t command, double *typical, double *longest)
{
    static const struct {
        uint8_t command;
        double typical, longest;
    } rows[] = { { 0xfd, 6900, 8300 },       { 0xf6, 3700, 4500 },       { 0xe0, 1300, 1600 },
                 { 0x39, 1000000, 1100000 }, { 0x32, 100000, 110000 },   { 0x2f, 1000000, 1100000 },
                 { 0x24, 100000, 110000 },   { 0x1e, 1000000, 1100000 }, { 0x15, 100000, 110000 } };
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        if (rows[i].command == command) {
            *typical = rows[i].typical;
            *longest = rows[i].longest;
            return 1;
        }
    }
    return 0;
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    double typical = 0;
    double longest = 0;
    (void)time_of(state(chip)->measured, &typical, &longest);
    return (uint32_t)longest;
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 3 * 1000;
}

static void power_up(struct pintle_sim_chip *chip)
{
    struct sht40 *s = self(chip);
    uint32_t serial = s->drawn ? s->serial : (uint32_t)pintle_priv_sim_random(chip->sim);
    *s = (struct sht40){ .serial = serial,
                         .drawn = 1,
                         .ready = chip->sim->now_us + pintle_priv_sim_conversion(chip, 300, 1000) };
}

static uint16_t code(double part)
{
    return (uint16_t)fmin(fmax(floor(part * 65535.0 + 0.5), 0), 65535);
}

/* Section 4.6, turned round. The heater warms what it measures. */
static void catch_up(struct pintle_sim_chip *chip)
{
    struct sht40 *s = self(chip);
    if (!s->measuring || chip->sim->now_us < s->ready) {
        return;
    }
    double warmer = s->measured < 0x80 ? 40 : 0;
    s->measuring = 0;
    s->out_count = 0;
    pintle_priv_sim_put_word(s->out, &s->out_count,
                             code((pintle_sim_sense(chip, TEMPERATURE) + warmer + 45.0) / 175.0));
    pintle_priv_sim_put_word(s->out, &s->out_count,
                             code((pintle_sim_sense(chip, HUMIDITY) + 6.0) / 125.0));
}

static uint8_t obey(struct pintle_sim_chip *chip, uint8_t command)
{
    struct sht40 *s = self(chip);
    double typical = 0;
    double longest = 0;
    s->out_count = s->out_at = 0;
    if (command == 0x94) {
        power_up(chip);
    } else if (command == 0x89) {
        pintle_priv_sim_put_word(s->out, &s->out_count, (uint16_t)(s->serial >> 16));
        pintle_priv_sim_put_word(s->out, &s->out_count, (uint16_t)s->serial);
    } else if (time_of(command, &typical, &longest)) {
        s->measured = command;
        s->measuring = 1;
        s->ready = chip->sim->now_us + pintle_priv_sim_conversion(chip, typical, longest);
    } else {
        return 0;
    }
    return 1;
}

/* Section 4.1: it answers no header while it measures. */
static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    struct sht40 *s = self(chip);
    catch_up(chip);
    s->got = 0;
    s->out_at = 0;
    return chip->sim->now_us >= s->ready && (!reading || s->out_count > 0);
}

static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct sht40 *s = self(chip);
    if (s->got) {
        return 0;
    }
    s->got = 1;
    return obey(chip, byte);
}

static uint8_t read(struct pintle_sim_chip *chip)
{
    struct sht40 *s = self(chip);
    return s->out_at < s->out_count ? s->out[s->out_at++] : 0xff;
}

/* What was read is gone. */
static void stop(struct pintle_sim_chip *chip)
{
    struct sht40 *s = self(chip);
    s->out_count = s->out_at > 0 ? 0 : s->out_count;
}

const struct pintle_sim_model pintle_twin_sht40 = {
    .name = "SHT40",
    .inputs = { "temperature", "humidity" },
    .errors = { 0.14, 1.5 },
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
