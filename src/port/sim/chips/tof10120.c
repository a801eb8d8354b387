/* Simulated TOF10120, from its manual, version 1.2: it says a line by itself every 100 ms, and
 * answers commands; over I2C it has registers. */
#include <math.h>

#include "port/sim/bench.h"

#define BYTE_US 1042u   /* ten bits at 9600 baud */
#define FRESH_US 33000u /* how often it measures */

struct tof10120 {
    uint8_t out[48];
    uint8_t out_count, out_at;
    uint64_t next_byte_us; /* when the byte under way has arrived */
    uint64_t next_line_us;
    uint32_t interval_us;
    char command[16];
    uint8_t got;
    uint8_t realtime, measured;
    int offset_mm;
    uint64_t measured_us;
    double mm, mean_mm;
    uint8_t regs[8];
};
SIM_STATE(tof10120)

/* Sections 2 and 4; the last one stays where nothing comes back. */
static void measure(struct pintle_sim_chip *chip)
{
    struct tof10120 *s = self(chip);
    if (s->measured && chip->sim->now_us - s->measured_us < FRESH_US) {
        return;
    }
    double error = chip->error[0]; /* of 0.6 m, and in proportion */
    double mm = (pintle_sim_sense(chip, 0) - error) * (1 + error / 0.6) * 1000;
    uint8_t late = !s->measured || chip->sim->now_us - s->measured_us > 8 * FRESH_US;
    s->measured = 1;
    s->measured_us = chip->sim->now_us;
    s->mm = mm > 1950 ? 2000 : fmax(mm, 0);
    s->mean_mm = late ? s->mm : s->mean_mm + (s->mm - s->mean_mm) / 2;
}

static int distance(const struct tof10120 *s, uint8_t realtime)
{
    double mm = realtime ? s->mm : s->mean_mm;
    return mm >= 1999 ? 2000 : (int)floor(mm + 0.5) + s->offset_mm;
}

static void power_up(struct pintle_sim_chip *chip)
{
    struct tof10120 *s = self(chip);
    struct tof10120 before = *s;
    memset(s, 0, sizeof *s);
    s->interval_us = before.interval_us ? before.interval_us : 100000; /* settings are kept */
    s->offset_mm = before.offset_mm;
    s->realtime = before.realtime;
    s->next_line_us = chip->sim->now_us + pintle_priv_sim_conversion(chip, 100000, 400000);
}

static void say(struct pintle_sim_chip *chip, const char *text)
{
    struct tof10120 *s = self(chip);
    size_t length = strlen(text);
    if (s->out_at == s->out_count) {
        s->out_at = s->out_count = 0;
        s->next_byte_us = chip->sim->now_us + BYTE_US;
    }
    if (s->out_count + length <= sizeof s->out) {
        memcpy(s->out + s->out_count, text, length);
        s->out_count = (uint8_t)(s->out_count + length);
    }
}

static void say_number(struct pintle_sim_chip *chip, const char *head, int number, const char *unit)
{
    char digits[8];
    unsigned left = (unsigned)(number < 0 ? -number : number);
    size_t at = sizeof digits - 1;
    digits[at] = '\0';
    do {
        digits[--at] = (char)('0' + left % 10);
        left /= 10;
    } while (left > 0);
    const char *const words[] = { head, number < 0 ? "-" : "", digits + at, unit, "\r\n" };
    char text[32] = "";
    size_t used = 0;
    for (size_t w = 0; w < sizeof words / sizeof words[0]; w++) {
        for (const char *c = words[w]; *c && used + 1 < sizeof text; c++) {
            text[used++] = *c;
        }
    }
    say(chip, text);
}

/* What has arrived by now. Lines that nobody could have kept are left out. */
static void speak(struct pintle_sim_chip *chip)
{
    struct tof10120 *s = self(chip);
    uint64_t now = chip->sim->now_us;
    uint64_t behind = now > s->next_line_us ? now - s->next_line_us : 0;
    if (behind > 2 * (uint64_t)s->interval_us) {
        s->next_line_us += (behind / s->interval_us - 1) * s->interval_us;
    }
    while (s->next_line_us <= now || (s->out_at < s->out_count && s->next_byte_us <= now)) {
        if (s->out_at < s->out_count && s->next_byte_us <= now) {
            pintle_sim_arrive(chip, s->out[s->out_at++], s->next_byte_us);
            s->next_byte_us += BYTE_US;
        } else if (s->out_at == s->out_count) {
            uint64_t begins = s->next_line_us;
            measure(chip);
            say_number(chip, "", distance(s, s->realtime), "mm");
            s->next_byte_us = begins + BYTE_US;
            s->next_line_us += s->interval_us;
        } else {
            s->next_line_us += s->interval_us;
        }
    }
}

/* The number in "-12#", 12; in "--5#", -5. Returns 0 where there is none. */
static uint8_t number_in(const char *text, int *value)
{
    uint8_t negative = text[0] == '-' && text[1] == '-';
    const char *at = text + 1 + negative;
    *value = 0;
    while (*at >= '0' && *at <= '9' && *value < 100000) {
        *value = *value * 10 + (*at++ - '0');
    }
    *value = negative ? -*value : *value;
    return text[0] == '-' && *at == '#' && at > text + 1 + negative;
}

/* Section 4: "s1-x#" and so on; "r6#". */
static void obey(struct pintle_sim_chip *chip)
{
    struct tof10120 *s = self(chip);
    char kind = s->command[0];
    char what = s->command[1];
    int value = 0;
    uint8_t has = number_in(s->command + 2, &value);
    measure(chip);
    if (kind == 'r' && what == '6') {
        say_number(chip, "L=", distance(s, s->realtime), "mm");
    } else if (kind == 'r' && what == '1') {
        say_number(chip, "D=", s->offset_mm, "mm");
    } else if (kind == 's' && what == '1' && has && value >= -99 && value <= 99) {
        s->offset_mm = value;
        say(chip, "ok\r\n");
    } else if (kind == 's' && what == '2' && has && value >= 10 && value <= 9999) {
        s->interval_us = (uint32_t)value * 1000;
        say(chip, "ok\r\n");
    } else if (kind == 's' && what == '3' && has && value >= 0 && value <= 1) {
        s->realtime = (uint8_t)value;
        say(chip, "ok\r\n");
    } else {
        say(chip, "fail\r\n");
    }
}

static const struct pintle_sim_choice choices[] = {
    { "mode", "filtered", 0, 1, 0 },
    { "mode", "real-time", 0, 1, 1 },
    { 0 },
};

static uint32_t chosen(const struct pintle_sim_chip *chip)
{
    return (state(chip))->realtime;
}

static const struct pintle_sim_register no_registers[] = { { 0 } };
static const struct pintle_sim_map said = { .registers = no_registers,
                                            .choices = choices,
                                            .chosen = chosen };

static void hear(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct tof10120 *s = self(chip);
    if (s->got < sizeof s->command - 1) {
        s->command[s->got++] = (char)byte;
        s->command[s->got] = '\0';
    }
    if (byte == '#') {
        obey(chip);
        s->got = 0;
    }
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0; /* the last one is there */
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 400000;
}

/* --- over I2C, section 5 --- */

static const struct pintle_sim_register registers[] = {
    { 0x00, 2, PINTLE_SIM_READS | PINTLE_SIM_LIVE, 0, 0, 0 },
    { 0x04, 2, PINTLE_SIM_READS | PINTLE_SIM_LIVE, 0, 0, 0 },
    { 0 },
};
static const struct pintle_sim_map map = { .registers = registers, .last = 0x0f };

static void catch_up(struct pintle_sim_chip *chip)
{
    struct tof10120 *s = self(chip);
    measure(chip);
    for (uint8_t i = 0; i < 2; i++) {
        unsigned code = (unsigned)distance(s, !i) & 0xffffu;
        s->regs[4 * i] = (uint8_t)(code >> 8);
        s->regs[4 * i + 1] = (uint8_t)code;
    }
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    return reg < 8 ? self(chip)->regs[reg] : 0;
}

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    (void)chip;
    (void)reg;
    (void)value;
}

const struct pintle_sim_model pintle_twin_tof10120 = {
    .name = "TOF10120",
    .kind = PINTLE_SIM_STREAM,
    .top_hz = 9600,
    .inputs = { "distance" },
    .errors = { 0.03 },
    .noises = { 0.001 },
    .power_up = power_up,
    .map = &said,
    .longest_us = longest_us,
    .settles_us = settles_us,
    .hear = hear,
    .speak = speak,
};

const struct pintle_sim_model pintle_twin_tof10120i2c = {
    .name = "TOF10120I2C",
    .inputs = { "distance" },
    .errors = { 0.03 },
    .noises = { 0.001 },
    .power_up = power_up,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
