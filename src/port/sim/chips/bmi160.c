/* A simulated BMI160, from datasheet BST-BMI160-DS000. */
#include <math.h>

#include "port/sim/bench.h"

#define PMU_STATUS 0x03
#define DATA 0x0c
#define STATUS 0x1b
#define TEMPERATURE 0x20
#define FIFO_LENGTH 0x22
#define FIFO_DATA 0x24
#define ACC_CONF 0x40
#define ACC_RANGE 0x41
#define GYR_CONF 0x42
#define GYR_RANGE 0x43
#define FIFO_CONFIG_1 0x47
#define CMD 0x7e

#define R PINTLE_SIM_READS
#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* Section 2.11. */
static const struct pintle_sim_register registers[] = {
    { 0x00, 1, R, 0xd1, 0, 0 },
    { PMU_STATUS, 1, R, 0, 0, 0 },
    { 0x0c, 2, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { 0x0e, 2, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { 0x10, 2, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { 0x12, 2, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { 0x14, 2, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { 0x16, 2, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { STATUS, 1, R, 0, 0, 0 },
    { TEMPERATURE, 2, R, 0x8000, 0, 0 },
    { FIFO_LENGTH, 2, R, 0, 0, 0 },
    { FIFO_DATA, 1, R | PINTLE_SIM_CLEARS, 0x80, 0, 0 },
    { ACC_CONF, 1, RW, 0x28, 0xff, 0 },
    { ACC_RANGE, 1, RW, 0x03, 0x0f, 0 },
    { GYR_CONF, 1, RW, 0x28, 0x3f, 0 },
    { GYR_RANGE, 1, RW, 0x00, 0x07, 0 },
    { FIFO_CONFIG_1, 1, RW, 0x10, 0xfe, 0 },
    { CMD, 1, PINTLE_SIM_WRITES, 0, 0, 0 },
    { 0 },
};

/* One setting, two registers: the accelerometer's is looked at here, the gyroscope's besides. */
static const struct pintle_sim_choice choices[] = {
    { "accel-range", "2g", ACC_RANGE, 0x0f, 3 },
    { "accel-range", "4g", ACC_RANGE, 0x0f, 5 },
    { "accel-range", "8g", ACC_RANGE, 0x0f, 8 },
    { "accel-range", "16g", ACC_RANGE, 0x0f, 12 },
    { "gyro-range", "2000deg/s", GYR_RANGE, 0x07, 0 },
    { "gyro-range", "1000deg/s", GYR_RANGE, 0x07, 1 },
    { "gyro-range", "500deg/s", GYR_RANGE, 0x07, 2 },
    { "gyro-range", "250deg/s", GYR_RANGE, 0x07, 3 },
    { "gyro-range", "125deg/s", GYR_RANGE, 0x07, 4 },
    { "rate", "25Hz", GYR_CONF, 0x3f, 0x26 },
    { "rate", "50Hz", GYR_CONF, 0x3f, 0x27 },
    { "rate", "100Hz", GYR_CONF, 0x3f, 0x28 },
    { "rate", "200Hz", GYR_CONF, 0x3f, 0x29 },
    { "rate", "400Hz", GYR_CONF, 0x3f, 0x2a },
    { "rate", "800Hz", GYR_CONF, 0x3f, 0x2b },
    { "rate", "1600Hz", GYR_CONF, 0x3f, 0x2c },
    { 0 },
};

static const struct pintle_sim_map map = {
    .registers = registers, .choices = choices, .low_first = 1, .last = 0x7f, .stays = FIFO_DATA
};

#define FIFO_BYTES 1024

struct bmi160 {
    uint8_t regs[128];
    uint64_t accel_ns, gyro_ns; /* their next samples; 0: suspended */
    uint64_t deaf_us;           /* a reset is under way until then */
    struct pintle_sim_fifo fifo;
};
SIM_STATE(bmi160)

static void power_up(struct pintle_sim_chip *chip)
{
    struct bmi160 *s = self(chip);
    memset(s, 0, sizeof *s);
    s->fifo.size = FIFO_BYTES;
    pintle_priv_sim_fill(chip, 0, s->regs, sizeof s->regs);
}

/* 100 Hz at 8, doubling; without a rate at all, the slowest. */
static uint64_t period_us(uint8_t conf)
{
    unsigned odr = conf & 15;
    return (uint64_t)(10000.0 * pow(2, 8.0 - (odr ? odr : 1)));
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    uint64_t accel = period_us(state(chip)->regs[ACC_CONF]);
    uint64_t gyro = period_us(state(chip)->regs[GYR_CONF]);
    return (uint32_t)(accel > gyro ? accel : gyro);
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    return 55000 + 4000 + 82000 + 3 * longest_us(chip);
}

static void put_word(struct bmi160 *s, int reg, double counts)
{
    int16_t code = (int16_t)fmin(fmax(floor(counts + 0.5), -32768), 32767);
    s->regs[reg] = (uint8_t)code;
    s->regs[reg + 1] = (uint8_t)((uint16_t)code >> 8);
}

/* Table 2; an accelerometer's range that is none of the four is 2 g. */
static double per_g(const struct bmi160 *s)
{
    switch (s->regs[ACC_RANGE] & 15) {
    case 5:
        return 8192;
    case 8:
        return 4096;
    case 12:
        return 2048;
    default:
        return 16384;
    }
}

static void sample_accel(struct pintle_sim_chip *chip)
{
    struct bmi160 *s = self(chip);
    for (int axis = 0; axis < 3; axis++) {
        double g = pintle_sim_sense(chip, 3 + axis) / 9.80665;
        put_word(s, DATA + 6 + 2 * axis, g * per_g(s));
    }
    put_word(s, TEMPERATURE, (pintle_sim_sense(chip, 6) - 23) * 512);
    s->regs[STATUS] |= 0x80;
}

static void sample_gyro(struct pintle_sim_chip *chip)
{
    static const double per_deg_s[] = { 16.4, 32.8, 65.6, 131.2, 262.4, 262.4, 262.4, 262.4 };
    struct bmi160 *s = self(chip);
    for (int axis = 0; axis < 3; axis++) {
        double deg_s = pintle_sim_sense(chip, axis) * 57.29577951308232;
        put_word(s, DATA + 2 * axis, deg_s * per_deg_s[s->regs[GYR_RANGE] & 7]);
    }
    s->regs[STATUS] |= 0x40;
}

/* Section 2.5: without headers, frames of what is enabled, the gyroscope first, at the rate that
 * both have; the oldest frame makes room. Where the rates differ, that isn't allowed. */
static void keep(struct pintle_sim_chip *chip)
{
    struct bmi160 *s = self(chip);
    uint8_t frame[12];
    uint8_t count = 0;
    uint8_t odd = (s->regs[ACC_CONF] & 15) != (s->regs[GYR_CONF] & 15);
    for (uint8_t part = 0; part < 2; part++) {
        if (s->regs[FIFO_CONFIG_1] & (part ? 0x40 : 0x80)) {
            memcpy(frame + count, &s->regs[DATA + 6 * part], 6);
            count = (uint8_t)(count + 6);
        }
    }
    if (count && !odd && !(s->regs[FIFO_CONFIG_1] & 0x10)) {
        s->fifo.size = (uint16_t)(FIFO_BYTES / count * count);
        (void)pintle_priv_sim_fifo_put(chip, &s->fifo, frame, count, 1);
    }
}

/* Both are sampled at one moment when their rates are equal. */
static void sample_both(struct pintle_sim_chip *chip)
{
    sample_gyro(chip);
    sample_accel(chip);
    keep(chip);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct bmi160 *s = self(chip);
    uint64_t now_ns = chip->sim->now_us * 1000;
    uint64_t accel_ns = 1000 * period_us(s->regs[ACC_CONF]);
    uint64_t gyro_ns = 1000 * period_us(s->regs[GYR_CONF]);
    s->regs[PMU_STATUS] |= s->accel_ns && now_ns >= s->accel_ns ? 0x10 : 0;
    s->regs[PMU_STATUS] |= s->gyro_ns && now_ns >= s->gyro_ns ? 0x04 : 0;
    if (s->accel_ns && s->gyro_ns && accel_ns == gyro_ns) {
        s->accel_ns = s->gyro_ns;
        pintle_priv_sim_each(chip, &s->gyro_ns, gyro_ns, 100, sample_both);
        s->accel_ns = s->gyro_ns;
    } else {
        if (s->accel_ns) {
            pintle_priv_sim_each(chip, &s->accel_ns, accel_ns, 1, sample_accel);
        }
        if (s->gyro_ns) {
            pintle_priv_sim_each(chip, &s->gyro_ns, gyro_ns, 1, sample_gyro);
        }
    }
    s->regs[FIFO_LENGTH] = (uint8_t)s->fifo.count;
    s->regs[FIFO_LENGTH + 1] = (uint8_t)(s->fifo.count >> 8);
}

/* The FIFO's register gives a frame that was begun from its beginning when it isn't read whole;
 * nobody does that here. An empty one gives 8000h. */
static uint8_t take(struct pintle_sim_chip *chip)
{
    struct bmi160 *s = self(chip);
    return s->fifo.count ? pintle_priv_sim_fifo_take(chip, &s->fifo) : 0x80;
}

/* Reading the data takes the flags down. */
static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct bmi160 *s = self(chip);
    reg &= 127;
    if (reg >= DATA && reg < DATA + 12) {
        s->regs[STATUS] &= (uint8_t) ~(reg < DATA + 6 ? 0x40 : 0x80);
    }
    return reg == CMD ? 0 : reg == FIFO_DATA ? take(chip) : s->regs[reg];
}

/* Section 2.11.38 and table 2: starting takes up to 3.8 and 80 ms. */
static void obey(struct pintle_sim_chip *chip, uint8_t command)
{
    struct bmi160 *s = self(chip);
    uint64_t now = chip->sim->now_us;
    if (command == 0xb6) {
        power_up(chip);
        s->deaf_us = now + pintle_priv_sim_conversion(chip, 1000, 50000);
    } else if (command == 0x11) {
        s->accel_ns = 1000 * (now + pintle_priv_sim_conversion(chip, 3200, 3800));
    } else if (command == 0x15) {
        s->gyro_ns = 1000 * (now + pintle_priv_sim_conversion(chip, 55000, 80000));
    } else if (command == 0xb0) {
        s->fifo.count = 0;
    } else if (command == 0x10) {
        s->accel_ns = 0;
        s->regs[PMU_STATUS] &= 0x0f;
    } else if (command == 0x14) {
        s->gyro_ns = 0;
        s->regs[PMU_STATUS] &= 0x33;
    }
}

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct bmi160 *s = self(chip);
    reg &= 127;
    uint8_t keeps = (uint8_t)pintle_priv_sim_keeps(chip, reg);
    if (chip->sim->now_us < s->deaf_us) {
        return;
    }
    if (reg == CMD) {
        obey(chip, (uint8_t)value);
    } else if (keeps) {
        s->regs[reg] = (uint8_t)value & keeps;
    }
}

const struct pintle_sim_model pintle_twin_bmi160 = {
    .name = "BMI160",
    .inputs = { "rate-x", "rate-y", "rate-z", "accel-x", "accel-y", "accel-z", "temperature" },
    .errors = { 0.05, 0.05, 0.05, 0.35, 0.35, 0.35, 1 },
    .noises = { 0.0005, 0.0005, 0.0005, 0.01, 0.01, 0.01, 0.05 },
    .power_up = power_up,
    .map = &map,
    .memory = FIFO_BYTES,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
