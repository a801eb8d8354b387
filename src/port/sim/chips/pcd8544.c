/* A simulated PCD8544, from the datasheet of 1999-04-12 (addressing: section 7.7, instructions:
 * table 1). Its dots lie in memory, a byte for eight below each other. */
#include "port/sim/bench.h"

#define WIDTH 84u
#define BANDS 6u

struct pcd8544 {
    struct pintle_sim_shifter shifter;
    uint8_t x, y;
    uint8_t extended, vertical, asleep;
    uint8_t display; /* bits D and E */
    uint8_t vop, bias, temperature;
};
SIM_STATE(pcd8544)

/* Table 1: an instruction is its upper bits, what it holds the lower ones. */
#define COMMAND(code, keeps)                                                                       \
    {                                                                                              \
        (code), 0, PINTLE_SIM_WRITES, 0, (keeps), 0                                                \
    }
static const struct pintle_sim_register registers[] = {
    COMMAND(0x20, 0x07),
    COMMAND(0x08, 0x05),
    COMMAND(0x40, 0x07),
    COMMAND(0x80, 0x7f),
    COMMAND(0x10, 0x07),
    COMMAND(0x04, 0x03),
    { 0 },
};

static const struct pintle_sim_choice choices[] = {
    { "contrast", "48", 0, 0x7f, 48 },
    { "contrast", "52", 0, 0x7f, 52 },
    { "contrast", "56", 0, 0x7f, 56 },
    { "contrast", "60", 0, 0x7f, 60 },
    { "contrast", "64", 0, 0x7f, 64 },
    { "contrast", "68", 0, 0x7f, 68 },
    { "contrast", "72", 0, 0x7f, 72 },
    { "bias", "1:48", 0, 0x700, 0x300 },
    { "bias", "1:40", 0, 0x700, 0x400 },
    { "bias", "1:65", 0, 0x700, 0x200 },
    { "colours", "dark-on-light", 0, 0x50000, 0x40000 },
    { "colours", "light-on-dark", 0, 0x50000, 0x50000 },
    { 0 },
};

/* Nothing can be read: what was told last. */
static uint32_t chosen(const struct pintle_sim_chip *chip)
{
    const struct pcd8544 *s = state(chip);
    return s->vop | (uint32_t)s->bias << 8 | (uint32_t)s->display << 16;
}

static const struct pintle_sim_map map = { .registers = registers,
                                           .choices = choices,
                                           .chosen = chosen };

/* Section 8.1, after a reset; its memory then holds anything. */
static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) = (struct pcd8544){ .asleep = 1 };
    for (unsigned i = 0; i < WIDTH * BANDS; i++) {
        chip->memory[i] = (uint8_t)pintle_priv_sim_random(chip->sim);
    }
}

static uint32_t at_once(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

static void select(struct pintle_sim_chip *chip, uint8_t on)
{
    (void)on;
    self(chip)->shifter = (struct pintle_sim_shifter){ 0 };
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
}

/* Section 7.7: along a band, or down a column. */
static void take_data(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct pcd8544 *s = self(chip);
    chip->memory[s->y * WIDTH + s->x] = byte;
    if (s->vertical) {
        s->y = (uint8_t)((s->y + 1) % BANDS);
        s->x = (uint8_t)((s->x + (s->y == 0 ? 1u : 0u)) % WIDTH);
    } else {
        s->x = (uint8_t)((s->x + 1) % WIDTH);
        s->y = (uint8_t)((s->y + (s->x == 0 ? 1u : 0u)) % BANDS);
    }
}

static void set_function(struct pcd8544 *s, uint8_t code)
{
    s->extended = code & 1;
    s->vertical = code >> 1 & 1;
    s->asleep = code >> 2 & 1;
}

static void take_extended(struct pcd8544 *s, uint8_t code)
{
    if (code & 0x80) {
        s->vop = code & 0x7f;
    } else if ((code & 0xf8) == 0x10) {
        s->bias = code & 7;
    } else if ((code & 0xfc) == 0x04) {
        s->temperature = code & 3;
    }
}

static void take_basic(struct pcd8544 *s, uint8_t code)
{
    if (code & 0x80) {
        s->x = (code & 0x7f) < WIDTH ? code & 0x7f : s->x;
    } else if ((code & 0xf8) == 0x40) {
        s->y = (code & 7) < BANDS ? code & 7 : s->y;
    } else if ((code & 0xfa) == 0x08) {
        s->display = code & 5;
    }
}

static void clock(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct pcd8544 *s = self(chip);
    uint8_t whole = pintle_priv_sim_shift(chip, &s->shifter, bit);
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    if (!whole) {
        return;
    }
    s->shifter.bits = 0;
    if (!chip->commanded) {
        take_data(chip, s->shifter.in);
    } else if ((s->shifter.in & 0xf8) == 0x20) {
        set_function(s, s->shifter.in);
    } else if (s->extended) {
        take_extended(s, s->shifter.in);
    } else {
        take_basic(s, s->shifter.in);
    }
}

/* Table 1, bits D and E: blank, as its memory says, all on, the other way round. */
static uint8_t dot(const struct pintle_sim_chip *chip, uint16_t x, uint16_t y)
{
    const struct pcd8544 *s = state(chip);
    if (s->asleep || x >= WIDTH || y >= BANDS * 8) {
        return 0;
    }
    uint8_t on = chip->memory[y / 8 * WIDTH + x] >> y % 8 & 1;
    switch (s->display) {
    case 4:
        return on;
    case 5:
        return !on;
    case 1:
        return 1;
    default:
        return 0;
    }
}

const struct pintle_sim_model pintle_twin_pcd8544 = {
    .name = "PCD8544",
    .kind = PINTLE_SIM_SPI,
    .power_up = power_up,
    .map = &map,
    .longest_us = at_once,
    .settles_us = at_once,
    .memory = WIDTH * BANDS,
    .modes = 1 << 0 | 1 << 3,
    .top_hz = 4000000,
    .select = select,
    .clock = clock,
    .dot = dot,
};
