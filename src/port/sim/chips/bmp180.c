/* A simulated BMP180, from datasheet BST-BMP180-DS000. Where the driver runs the integer formulas
 * of section 3.5 forwards, this runs them backwards as real numbers: it looks for the converter
 * code whose compensated value is what the chip feels. */
#include <math.h>

#include "port/sim/bench.h"

enum { TEMPERATURE, PRESSURE };
enum { AC1, AC2, AC3, AC4, AC5, AC6, B1, B2, MB, MC, MD, WORDS };

struct bmp180 {
    double trim[WORDS];
    uint8_t drawn;
    uint8_t ctrl;
    uint8_t out[3];
    uint8_t measuring;
    uint64_t ready;
};
SIM_STATE(bmp180)

#define R PINTLE_SIM_READS

/* Section 4, table 6. SCO goes down by itself. */
static const struct pintle_sim_register registers[] = {
    { 0xd0, 1, R, 0x55, 0, 0 },
    { 0xe0, 1, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0xf4, 1, R | PINTLE_SIM_WRITES, 0x00, 0xdf, 0 },
    { 0xf6, 1, R, 0x80, 0, 0 },
    { 0xf7, 1, R, 0x00, 0, 0 },
    { 0xf8, 1, R, 0x00, 0, 0 },
    { 0 },
};

/* Table 8. */
static const struct pintle_sim_choice choices[] = {
    { "oversampling", "x1", 0xf4, 0xdf, 0x14 },
    { "oversampling", "x2", 0xf4, 0xdf, 0x54 },
    { "oversampling", "x4", 0xf4, 0xdf, 0x94 },
    { "oversampling", "x8", 0xf4, 0xdf, 0xd4 },
    { 0 },
};

static const struct pintle_sim_map map = { .registers = registers, .choices = choices, .pairs = 0 };

static double b5(const double *t, double ut)
{
    double x1 = (ut - t[AC6]) * t[AC5] / 32768;
    return x1 + t[MC] * 2048 / (x1 + t[MD]);
}

static double celsius(const double *t, double ut, double unused)
{
    (void)unused;
    return (b5(t, ut) + 8) / 160;
}

/* With a code of 19 bits and fractions, whatever the oversampling: UP at x1. */
static double pascal(const double *t, double up, double b)
{
    double b6 = b - 4000;
    double b3 = (t[AC1] * 4 + t[B2] * b6 * b6 / 4096 / 2048 + t[AC2] * b6 / 2048 + 2) / 4;
    double x3 = (t[AC3] * b6 / 8192 + t[B1] * b6 * b6 / 4096 / 65536 + 2) / 4;
    double b4 = t[AC4] * (x3 + 32768) / 32768;
    double p = (up - b3) * 50000 * 2 / b4;
    return p + (p / 256 * p / 256 * 3038 / 65536 - 7357 * p / 65536 + 3791) / 16;
}

/* Where a rising function reaches a value. */
static double search(double (*of)(const double *, double, double), const double *t, double b,
                     double value)
{
    double low = 0;
    double high = 65536;
    for (int i = 0; i < 40; i++) {
        double middle = (low + high) / 2;
        if (of(t, middle, b) < value) {
            low = middle;
        } else {
            high = middle;
        }
    }
    return low;
}

/* About the example of section 3.5, with the signs that the words' types allow. */
static void draw(struct pintle_sim *sim, double *t)
{
    static const double about[WORDS][2] = { { 7000, 1800 },   { -1000, 400 }, { -14400, 400 },
                                            { 33000, 900 },   { 25500, 900 }, { 18000, 4000 },
                                            { 6000, 700 },    { 30, 26 },     { -32768, 0 },
                                            { -10900, 1200 }, { 2500, 250 } };
    for (int i = 0; i < WORDS; i++) {
        t[i] = pintle_priv_sim_about(sim, about[i][0], about[i][1]);
    }
}

/* Does the specimen reach both ends of its ranges within its codes, and always upwards? */
static int is_plausible(const double *t)
{
    if (t[AC5] == 0 || search(celsius, t, 0, -42) < 200 || search(celsius, t, 0, 87) > 65000) {
        return 0;
    }
    for (int c = -40; c <= 85; c += 25) {
        double b = b5(t, search(celsius, t, 0, c));
        if (search(pascal, t, b, 29000) < 200 || search(pascal, t, b, 111000) > 65000) {
            return 0;
        }
    }
    double x1 = (200 - t[AC6]) * t[AC5] / 32768;
    return x1 + t[MD] > 0 || search(celsius, t, 0, -42) > t[AC6] - t[MD] * 32768 / t[AC5] + 200;
}

/* The trim is the factory's. Table 1: 10 ms of start-up. */
static void power_up(struct pintle_sim_chip *chip)
{
    struct bmp180 *s = self(chip);
    struct bmp180 fresh = { .drawn = 1, .out = { 0x80, 0, 0 } };
    while (!s->drawn && !is_plausible(s->trim)) {
        draw(chip->sim, s->trim);
    }
    memcpy(fresh.trim, s->trim, sizeof fresh.trim);
    *s = fresh;
    s->ready = chip->sim->now_us + (uint64_t)pintle_priv_sim_conversion(chip, 5000, 10000);
}

static double longest(uint8_t ctrl)
{
    static const double times[] = { 4500, 7500, 13500, 25500 };
    return (ctrl & 0x1f) == 0x14 ? times[ctrl >> 6] : 4500;
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return 4500 + (uint32_t)longest((uint8_t)(state(chip)->ctrl | 0x14));
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 10000;
}

/* The result is left-justified: UT in 16 bits, UP in 16 + oss of them. */
static void catch_up(struct pintle_sim_chip *chip)
{
    struct bmp180 *s = self(chip);
    uint8_t oss = s->ctrl >> 6;
    if (!s->measuring || chip->sim->now_us < s->ready) {
        return;
    }
    double t = pintle_sim_sense(chip, TEMPERATURE);
    double code = search(celsius, s->trim, 0, t);
    s->measuring = 0;
    if ((s->ctrl & 0x1f) == 0x0e) {
        oss = 0;
    } else {
        code = search(pascal, s->trim, b5(s->trim, code), pintle_sim_sense(chip, PRESSURE));
    }
    uint32_t whole = (uint32_t)floor(code * (1 << oss) + 0.5) << (8 - oss);
    s->out[0] = (uint8_t)(whole >> 16);
    s->out[1] = (uint8_t)(whole >> 8);
    s->out[2] = (uint8_t)whole;
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    const struct bmp180 *s = self(chip);
    if (reg >= 0xaa && reg <= 0xbf) {
        uint16_t word = (uint16_t)(int32_t)s->trim[(reg - 0xaa) / 2];
        return reg & 1 ? word & 0xff : word >> 8;
    }
    if (reg >= 0xf6 && reg <= 0xf8) {
        return s->out[reg - 0xf6];
    }
    return reg == 0xd0 ? 0x55 : reg == 0xf4 ? (uint32_t)(s->ctrl & 0xdf) | s->measuring * 0x20u : 0;
}

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct bmp180 *s = self(chip);
    if (reg == 0xe0 && value == 0xb6) {
        power_up(chip);
    } else if (reg == 0xf4) {
        uint8_t what = value & 0x1f;
        s->ctrl = (uint8_t)value;
        if ((value & 0x20) && (what == 0x0e || what == 0x14)) {
            s->measuring = 1;
            s->ready =
                chip->sim->now_us
                + pintle_priv_sim_conversion(chip, 0.67 * longest(s->ctrl), longest(s->ctrl));
        }
    }
}

const struct pintle_sim_model pintle_twin_bmp180 = {
    .name = "BMP180",
    .inputs = { "temperature", "pressure" },
    .errors = { 0.5, 60 },
    .noises = { 0.02, 2 },
    .power_up = power_up,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
