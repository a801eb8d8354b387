/* A simulated ADXL345, from its datasheet, rev. G. Over I2C. */
#include <math.h>

#include "port/sim/bench.h"

#define OFSX 0x1e
#define BW_RATE 0x2c
#define POWER_CTL 0x2d
#define INT_ENABLE 0x2e
#define INT_MAP 0x2f
#define INT_SOURCE 0x30
#define DATA_FORMAT 0x31
#define DATAX0 0x32
#define FIFO_CTL 0x38
#define FIFO_STATUS 0x39

#define R PINTLE_SIM_READS
#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* Table 19. */
static const struct pintle_sim_register registers[] = {
    { 0x00, 1, R, 0xe5, 0, 0 },
    { OFSX, 1, RW, 0, 0xff, 0 },
    { OFSX + 1, 1, RW, 0, 0xff, 0 },
    { OFSX + 2, 1, RW, 0, 0xff, 0 },
    { BW_RATE, 1, RW, 0x0a, 0x1f, 0 },
    { POWER_CTL, 1, RW, 0, 0x3f, 0 },
    { INT_ENABLE, 1, RW, 0, 0xff, 0 },
    { INT_MAP, 1, RW, 0, 0xff, 0 },
    { INT_SOURCE, 1, R | PINTLE_SIM_CLEARS, 0x02, 0, 0 },
    { DATA_FORMAT, 1, RW, 0, 0xef, 0 },
    { DATAX0, 2, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { DATAX0 + 2, 2, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { DATAX0 + 4, 2, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { FIFO_CTL, 1, RW, 0, 0xff, 0 },
    { FIFO_STATUS, 1, R, 0, 0, 0 },
    { 0 },
};

/* Tables 7, 21 and DATA_FORMAT. */
static const struct pintle_sim_choice choices[] = {
    { "resolution", "10-bit", DATA_FORMAT, 0x08, 0x00 },
    { "resolution", "full", DATA_FORMAT, 0x08, 0x08 },
    { "range", "2g", DATA_FORMAT, 0x03, 0x00 },
    { "range", "4g", DATA_FORMAT, 0x03, 0x01 },
    { "range", "8g", DATA_FORMAT, 0x03, 0x02 },
    { "range", "16g", DATA_FORMAT, 0x03, 0x03 },
    { "rate", "12.5Hz", BW_RATE, 0x0f, 0x07 },
    { "rate", "25Hz", BW_RATE, 0x0f, 0x08 },
    { "rate", "50Hz", BW_RATE, 0x0f, 0x09 },
    { "rate", "100Hz", BW_RATE, 0x0f, 0x0a },
    { "rate", "200Hz", BW_RATE, 0x0f, 0x0b },
    { "rate", "400Hz", BW_RATE, 0x0f, 0x0c },
    { "rate", "800Hz", BW_RATE, 0x0f, 0x0d },
    { "rate", "1600Hz", BW_RATE, 0x0f, 0x0e },
    { "rate", "3200Hz", BW_RATE, 0x0f, 0x0f },
    { 0 },
};

static const struct pintle_sim_map map = {
    .registers = registers, .choices = choices, .low_first = 1, .last = 0x39
};

#define DEPTH 32

struct adxl345 {
    uint8_t regs[64];
    uint64_t next_ns; /* sample */
    int16_t fifo[DEPTH][3];
    uint8_t count; /* in the FIFO; in bypass 1: the registers hold a new one */
};
SIM_STATE(adxl345)

static void power_up(struct pintle_sim_chip *chip)
{
    struct adxl345 *s = self(chip);
    memset(s, 0, sizeof *s);
    pintle_priv_sim_fill(chip, 0, s->regs, sizeof s->regs);
}

/* Table 7: 3200 Hz and down by halves. */
static uint64_t period_ns(const struct pintle_sim_chip *chip)
{
    const struct adxl345 *s = state(chip);
    return 312500u << (15 - (s->regs[BW_RATE] & 15));
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return (uint32_t)(period_ns(chip) / 1000);
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    return 1100 + 3 * longest_us(chip);
}

/* DATA_FORMAT: 256 counts per g in full resolution, or 1024 over the whole range; left-justified
 * where it says so. */
static int16_t code_of(struct pintle_sim_chip *chip, int axis)
{
    struct adxl345 *s = self(chip);
    uint8_t format = s->regs[DATA_FORMAT];
    int range = format & 3;
    double end = format & 8 ? 512 << range : 512;
    double per_g = format & 8 ? 256 : 256 >> range;
    double g = pintle_sim_sense(chip, axis) / 9.80665;
    g += 0.0156 * (int8_t)s->regs[OFSX + axis] + (format & 0x80 ? 0.5 : 0);
    double code = fmin(fmax(floor(g * per_g + 0.5), -end), end - 1);
    return (int16_t)(format & 4 ? code * (32768 / end) : code);
}

/* Figure 39: what is oldest comes first; in fifo mode the newest is lost, in stream mode the
 * oldest.
 */
static void sample(struct pintle_sim_chip *chip)
{
    struct adxl345 *s = self(chip);
    uint8_t mode = s->regs[FIFO_CTL] >> 6;
    uint8_t depth = mode == 0 ? 1 : DEPTH;
    int16_t now[3];
    for (int axis = 0; axis < 3; axis++) {
        now[axis] = code_of(chip, axis);
    }
    if (s->count >= depth) {
        s->regs[INT_SOURCE] |= 1;
        if (mode == 1) {
            return;
        }
        memmove(s->fifo[0], s->fifo[1], (DEPTH - 1) * sizeof s->fifo[0]);
        s->count = (uint8_t)(depth - 1);
    }
    memcpy(s->fifo[s->count], now, sizeof now);
    s->count++;
}

static uint8_t stands_by(const struct adxl345 *s)
{
    return !(s->regs[POWER_CTL] & 8) || (s->regs[POWER_CTL] & 4);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct adxl345 *s = self(chip);
    if (!stands_by(s)) {
        pintle_priv_sim_each(chip, &s->next_ns, period_ns(chip), DEPTH + 1, sample);
    }
    if (s->count > 0) {
        memcpy(&s->regs[DATAX0], s->fifo[0], sizeof s->fifo[0]);
    }
}

/* The sample moves on when its last byte was read. */
static void drop(struct pintle_sim_chip *chip)
{
    struct adxl345 *s = self(chip);
    if (s->count > 0) {
        memmove(s->fifo[0], s->fifo[1], (DEPTH - 1) * sizeof s->fifo[0]);
        s->count--;
        s->regs[INT_SOURCE] &= 0xfe;
    }
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct adxl345 *s = self(chip);
    if (reg >= DATAX0 && reg < DATAX0 + 6) {
        uint8_t value = s->regs[reg];
        if (reg == DATAX0 + 5) {
            drop(chip);
        }
        return value;
    }
    switch (reg) {
    case INT_SOURCE: {
        uint8_t watermark = s->count >= (s->regs[FIFO_CTL] & 31);
        return (uint8_t)((s->regs[reg] & 0x7d) | (s->count > 0) << 7 | watermark << 1);
    }
    case FIFO_STATUS:
        return s->count;
    default:
        return reg < sizeof s->regs ? s->regs[reg] : 0;
    }
}

/* Leaving the bypass, or going back to it, empties the FIFO. */
static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct adxl345 *s = self(chip);
    uint8_t stood_by = stands_by(s);
    uint8_t keeps = (uint8_t)pintle_priv_sim_keeps(chip, reg);
    if (reg >= sizeof s->regs || !keeps) {
        return;
    }
    if (reg == FIFO_CTL && (s->regs[reg] >> 6 == 0) != (value >> 6 == 0)) {
        s->count = 0;
    }
    s->regs[reg] = (uint8_t)value & keeps;
    if (stood_by && !stands_by(s)) {
        s->next_ns = 1000 * (chip->sim->now_us + 1100) + period_ns(chip);
    }
}

/* INT1: of the sources that are enabled, those that INT_MAP doesn't send to the other pin. */
static uint8_t pin(struct pintle_sim_chip *chip)
{
    struct adxl345 *s = self(chip);
    uint8_t told = (get(chip, INT_SOURCE) & s->regs[INT_ENABLE] & (uint8_t)~s->regs[INT_MAP]) != 0;
    return s->regs[DATA_FORMAT] & 0x20 ? !told : told;
}

const struct pintle_sim_model pintle_twin_adxl345 = {
    .name = "ADXL345",
    .inputs = { "accel-x", "accel-y", "accel-z" },
    .errors = { 0.3, 0.3, 0.6 },
    .noises = { 0.01, 0.01, 0.015 },
    .power_up = power_up,
    .pin = pin,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
