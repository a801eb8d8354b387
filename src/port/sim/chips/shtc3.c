/* A simulated SHTC3, from its datasheet, version 4. */
#include <math.h>

#include "port/sim/bench.h"

enum { TEMPERATURE, HUMIDITY };

struct shtc3 {
    uint8_t command[2];
    uint8_t got;    /* bytes of the command so far */
    uint8_t out[6]; /* what a read delivers */
    uint8_t out_count, out_at;
    uint8_t asleep;
    uint8_t measuring;
    uint16_t measured; /* the last measuring command */
    uint64_t ready;    /* when the measurement, the start or the wake-up ends */
};
SIM_STATE(shtc3)

#define WAKE 0x3517
#define SLEEP 0xb098
#define RESET 0x805d
#define READ_ID 0xefc8

static const struct pintle_sim_register registers[] = {
    { READ_ID, 2, PINTLE_SIM_READS, 0x0887, 0, 0 },
    { WAKE, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { SLEEP, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { RESET, 0, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0 },
};

/* Table 9: temperature first, without clock stretching. */
static const struct pintle_sim_choice choices[] = {
    { "mode", "normal", 0x7866, 0xffff, 0x7866 },
    { "mode", "low-power", 0x609c, 0xffff, 0x609c },
    { 0 },
};

static uint32_t chosen(const struct pintle_sim_chip *chip)
{
    return state(chip)->measured;
}

static const struct pintle_sim_map map = {
    .registers = registers, .choices = choices, .chosen = chosen, .wide_address = 1
};

static uint8_t is_quick(uint16_t command)
{
    return command == 0x609c || command == 0x401a;
}

/* Table 5. */
static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return is_quick(state(chip)->measured) ? 800 : 12100;
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 3 * 240;
}

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) =
        (struct shtc3){ .ready = chip->sim->now_us + pintle_priv_sim_conversion(chip, 180, 240) };
}

/* Section 5.11, turned round; the scale has 2^16 steps. */
static uint16_t code(double part)
{
    return (uint16_t)fmin(fmax(floor(part * 65536.0 + 0.5), 0), 65535);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct shtc3 *s = self(chip);
    if (!s->measuring || chip->sim->now_us < s->ready) {
        return;
    }
    uint16_t t = code((pintle_sim_sense(chip, TEMPERATURE) + 45.0) / 175.0);
    uint16_t h = code(pintle_sim_sense(chip, HUMIDITY) / 100.0);
    uint8_t humidity_first = s->measured == 0x58e0 || s->measured == 0x401a;
    s->measuring = 0;
    s->out_count = 0;
    pintle_priv_sim_put_word(s->out, &s->out_count, humidity_first ? h : t);
    pintle_priv_sim_put_word(s->out, &s->out_count, humidity_first ? t : h);
}

/* Tables 8 and 9, sections 5.7 and 5.9. Returns whether there is such a command, now. */
static uint8_t obey(struct pintle_sim_chip *chip, uint16_t command)
{
    struct shtc3 *s = self(chip);
    uint64_t now = chip->sim->now_us;
    s->out_count = s->out_at = 0;
    if (s->asleep && command != WAKE) {
        return 0;
    }
    switch (command) {
    case WAKE:
        s->ready = s->asleep ? now + pintle_priv_sim_conversion(chip, 180, 240) : s->ready;
        s->asleep = 0;
        return 1;
    case SLEEP:
        s->asleep = 1;
        return 1;
    case RESET:
        power_up(chip);
        return 1;
    case READ_ID:
        pintle_priv_sim_put_word(s->out, &s->out_count, 0x0887);
        return 1;
    case 0x7866:
    case 0x58e0:
    case 0x609c:
    case 0x401a:
        s->measured = command;
        s->measuring = 1;
        s->ready = now
                   + (is_quick(command) ? pintle_priv_sim_conversion(chip, 700, 800)
                                        : pintle_priv_sim_conversion(chip, 10800, 12100));
        return 1;
    default:
        return 0;
    }
}

static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    struct shtc3 *s = self(chip);
    catch_up(chip);
    s->got = 0;
    s->out_at = 0;
    if (chip->sim->now_us < s->ready) {
        return 0; /* it measures, or starts */
    }
    return reading ? s->out_count > 0 && !s->asleep : 1;
}

static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct shtc3 *s = self(chip);
    if (s->got == 2) {
        return 0;
    }
    s->command[s->got++] = byte;
    return s->got < 2 || obey(chip, (uint16_t)(s->command[0] << 8 | s->command[1]));
}

static uint8_t read(struct pintle_sim_chip *chip)
{
    struct shtc3 *s = self(chip);
    return s->out_at < s->out_count ? s->out[s->out_at++] : 0xff;
}

/* What was read is gone. */
static void stop(struct pintle_sim_chip *chip)
{
    struct shtc3 *s = self(chip);
    s->out_count = s->out_at > 0 ? 0 : s->out_count;
}

const struct pintle_sim_model pintle_twin_shtc3 = {
    .name = "SHTC3",
    .inputs = { "temperature", "humidity" },
    .errors = { 0.14, 1.8 },
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
