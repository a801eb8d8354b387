/* A simulated SHT31, from datasheet SHT3x-DIS version 7. */
#include <math.h>

#include "port/sim/bench.h"

enum { TEMPERATURE, HUMIDITY };

struct sht31 {
    uint16_t status;
    uint8_t command[2];
    uint8_t got;       /* bytes of the command so far */
    uint8_t out[6];    /* what a read delivers */
    uint8_t out_count; /* 0: nothing, reads are not acknowledged */
    uint8_t out_at;
    uint8_t measuring;
    uint8_t heater;
    uint16_t measured;  /* the last measuring command */
    uint32_t period_us; /* of the periodic mode; 0: it measures when asked */
    uint64_t ready;     /* when the measurement or the reset ends */
};
SIM_STATE(sht31)

/* Tables 9 to 18. Some of the commands start something that goes on. */
static const struct pintle_sim_register registers[] = {
    { 0xf32d, 2, PINTLE_SIM_READS, 0x8010, 0, 0 }, { 0x3041, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0x30a2, 0, PINTLE_SIM_WRITES, 0, 0, 0 },     { 0x306d, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0x3066, 0, PINTLE_SIM_WRITES, 0, 0, 0 },     { 0x3093, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0x2032, 0, PINTLE_SIM_WRITES, 0, 0, 0 },     { 0x2126, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0x2737, 0, PINTLE_SIM_WRITES, 0, 0, 0 },     { 0x2b32, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0x2416, 0, PINTLE_SIM_WRITES, 0, 0, 0 },     { 0 },
};

/* Table 9. */
static const struct pintle_sim_choice choices[] = {
    { "repeatability", "high", 0x2400, 0xffff, 0x2400 },
    { "repeatability", "medium", 0x2400, 0xffff, 0x240b },
    { "repeatability", "low", 0x2400, 0xffff, 0x2416 },
    { 0 },
};

static uint32_t chosen(const struct pintle_sim_chip *chip)
{
    return state(chip)->measured;
}

static const struct pintle_sim_map map = {
    .registers = registers, .choices = choices, .chosen = chosen, .wide_address = 1
};

/* Table 4: by repeatability, typical and longest. */
enum { HIGH, MEDIUM, LOW };
static const uint16_t typical[] = { 12500, 4500, 2500 };
static const uint16_t longest[] = { 15500, 6500, 4500 };

static uint8_t repeatability(uint16_t command)
{
    switch (command & 0xff) {
    case 0x0b:
    case 0x24:
    case 0x26:
        return MEDIUM;
    case 0x16:
    case 0x2f:
        return LOW;
    default:
        return HIGH;
    }
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return longest[repeatability(state(chip)->measured)];
}

/* Table 4: after power-up or a reset 1.5 ms; table 13: 1 ms for a break. */
static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 1500 + 1000 + 1500;
}

static void power_up(struct pintle_sim_chip *chip)
{
    /* Table 4; table 18: alert pending, reset detected. */
    *self(chip) =
        (struct sht31){ .status = 0x8010,
                        .ready = chip->sim->now_us + pintle_priv_sim_conversion(chip, 500, 1500) };
}

/* `part` of the full scale of 2^16 - 1. */
static uint16_t code(double part)
{
    return (uint16_t)(fmin(fmax(part, 0), 1) * 65535.0 + 0.5);
}

/* Section 4.13, turned round. The heater warms the chip by some degrees. */
static void finish(struct pintle_sim_chip *chip)
{
    struct sht31 *s = self(chip);
    s->measuring = 0;
    s->out_count = 0;
    pintle_priv_sim_put_word(
        s->out, &s->out_count,
        code((pintle_sim_sense(chip, TEMPERATURE) + (s->heater ? 4.0 : 0.0) + 45.0) / 175.0));
    pintle_priv_sim_put_word(s->out, &s->out_count, code(pintle_sim_sense(chip, HUMIDITY) / 100.0));
}

static void measure(struct pintle_sim_chip *chip, uint16_t command)
{
    struct sht31 *s = self(chip);
    uint8_t how = repeatability(command);
    s->measured = command;
    s->measuring = 1;
    s->out_count = 0;
    s->ready = chip->sim->now_us + pintle_priv_sim_conversion(chip, typical[how], longest[how]);
}

/* Table 10: measurements per second, by the command's high byte; 0x2b32: four a second, "ART". */
static void repeat(struct pintle_sim_chip *chip, uint16_t command)
{
    static const uint32_t periods[] = { 2000000, 1000000, 500000, 250000, 0, 0, 0, 100000 };
    struct sht31 *s = self(chip);
    s->period_us = command == 0x2b32 ? 250000 : periods[command >> 8 & 7];
    s->measured = command;
    s->ready = 0;
}

/* Sections 4.5 to 4.9: while it measures by itself, it hears only the break, a fetch and the
 * status. */
static uint8_t deaf(const struct sht31 *s, uint16_t command)
{
    return s->period_us && command != 0x3093 && command != 0xe000 && command != 0xf32d
           && command != 0x3041;
}

static uint8_t obey(struct pintle_sim_chip *chip, uint16_t command)
{
    struct sht31 *s = self(chip);
    s->out_count = 0;
    switch (deaf(s, command) ? 0 : command) {
    case 0x2400: /* table 9 */
    case 0x240b:
    case 0x2416:
        measure(chip, command);
        return 1;
    case 0x2032:
    case 0x2126:
    case 0x2737:
    case 0x2b32:
        repeat(chip, command);
        return 1;
    case 0xe000:
        finish(chip);
        return 1;
    case 0x3093:
        s->period_us = 0;
        s->measuring = 0;
        s->ready = chip->sim->now_us + 1000;
        return 1;
    case 0xf32d:
        pintle_priv_sim_put_word(s->out, &s->out_count, s->status);
        return 1;
    case 0x3041:
        s->status &= 0x2000;
        return 1;
    case 0x306d:
        s->heater = 1;
        s->status |= 0x2000;
        return 1;
    case 0x3066:
        s->heater = 0;
        s->status &= 0xdfff;
        return 1;
    case 0x30a2:
        power_up(chip);
        return 1;
    default:
        s->status |= 0x0002; /* command not processed */
        return 0;
    }
}

static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    struct sht31 *s = self(chip);
    if (s->measuring && chip->sim->now_us >= s->ready) {
        finish(chip);
    }
    s->got = 0;
    s->out_at = 0;
    if (chip->sim->now_us < s->ready) {
        return 0; /* busy: neither commands nor reads are acknowledged */
    }
    return reading ? s->out_count > 0 : 1;
}

static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct sht31 *s = self(chip);
    if (s->got >= 2) {
        return 0;
    }
    s->command[s->got++] = byte;
    if (s->got < 2) {
        return 1;
    }
    return obey(chip, (uint16_t)(s->command[0] << 8 | s->command[1]));
}

static uint8_t read(struct pintle_sim_chip *chip)
{
    struct sht31 *s = self(chip);
    return s->out_at < s->out_count ? s->out[s->out_at++] : 0xff;
}

/* A result can be fetched once. */
static void stop(struct pintle_sim_chip *chip)
{
    struct sht31 *s = self(chip);
    if (s->out_at > 0) {
        s->out_count = 0;
    }
}

const struct pintle_sim_model pintle_twin_sht31 = {
    .name = "SHT31",
    .inputs = { "temperature", "humidity" },
    .errors = { 0.1, 1.2 },
    .noises = { 0.015, 0.03 },
    .power_up = power_up,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    .start = start,
    .write = write,
    .read = read,
    .stop = stop,
};
