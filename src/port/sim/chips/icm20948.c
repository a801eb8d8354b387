/* A simulated ICM-20948, from datasheet DS-000189: registers in four banks over SPI, the
 * accelerometer and the gyroscope, reset and sleep. */
#include <math.h>

#include "port/sim/bench.h"

#define WHO_AM_I 0x00
#define PWR_MGMT_1 0x06
#define INT_STATUS_1 0x1a
#define ACCEL_XOUT_H 0x2d
#define DATA_BYTES 14
#define REG_BANK_SEL 0x7f
#define GYRO_CONFIG_1 0x01 /* bank 2 */
#define ACCEL_CONFIG 0x14  /* bank 2 */

#define RESET 0x80
#define SLEEP 0x40
#define SAMPLE_US 889 /* 1.125 kHz */
#define GYRO_START_US 35000

struct icm20948 {
    uint8_t regs[4][127];
    uint8_t bank;
    struct sim_shifter shifter;
    uint8_t address;
    uint8_t reading;
    uint8_t bytes; /* since the select */
    uint64_t awake_us, sampled_us, ready_us;
};
SIM_STATE_FITS(struct icm20948);

static struct icm20948 *self(struct pintle_sim_chip *chip)
{
    return (struct icm20948 *)(void *)chip->state.bytes;
}

/* Sections 7 to 10: what registers hold after a reset; the others 0. */
static void power_up(struct pintle_sim_chip *chip)
{
    struct icm20948 *s = self(chip);
    memset(s, 0, sizeof *s);
    s->regs[0][WHO_AM_I] = 0xea;
    s->regs[0][PWR_MGMT_1] = 0x41;
    s->regs[0][0x05] = 0x40; /* LP_CONFIG */
    s->regs[2][GYRO_CONFIG_1] = 0x01;
    s->regs[2][ACCEL_CONFIG] = 0x01;
    s->ready_us = chip->sim->now_us > 0 ? chip->sim->now_us + 1000 : 0;
}

static void put(struct icm20948 *s, int at, double counts)
{
    int value = (int)fmin(fmax(floor(counts + 0.5), -32768), 32767);
    s->regs[0][ACCEL_XOUT_H + at] = (uint8_t)((unsigned)value >> 8);
    s->regs[0][ACCEL_XOUT_H + at + 1] = (uint8_t)value;
}

/* Tables 1 and 2. The gyroscope's scale factors are printed as 131, 65.5, 32.8, 16.4. */
static void sample(struct pintle_sim_chip *chip)
{
    static const double per_degree[] = { 131, 65.5, 32.8, 16.4 };
    struct icm20948 *s = self(chip);
    int range = s->regs[2][ACCEL_CONFIG] >> 1 & 3;
    double degree = per_degree[s->regs[2][GYRO_CONFIG_1] >> 1 & 3];
    for (int axis = 0; axis < 3; axis++) {
        put(s, 2 * axis, sim_sense(chip, axis) / 9.80665 * (16384 >> range));
        put(s, 6 + 2 * axis, sim_sense(chip, 3 + axis) * 57.29577951308232 * degree);
    }
    put(s, 12, 0); /* 21 degC */
    s->regs[0][INT_STATUS_1] = 1;
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct icm20948 *s = self(chip);
    uint64_t now = chip->sim->now_us;
    uint8_t asleep = s->regs[0][PWR_MGMT_1] & SLEEP;
    if (!asleep && now >= s->awake_us + GYRO_START_US && now >= s->sampled_us + SAMPLE_US) {
        sample(chip);
        s->sampled_us = now;
    }
}

static uint8_t read_reg(struct pintle_sim_chip *chip)
{
    struct icm20948 *s = self(chip);
    uint8_t address = s->address & 0x7f;
    s->address++;
    if (chip->sim->now_us < s->ready_us && address != WHO_AM_I) {
        return 0; /* still coming out of reset */
    }
    if (address == REG_BANK_SEL) {
        return (uint8_t)(s->bank << 4);
    }
    uint8_t value = s->regs[s->bank][address];
    if (s->bank == 0 && address == INT_STATUS_1) {
        s->regs[0][INT_STATUS_1] = 0;
    }
    return value;
}

static void write_reg(struct pintle_sim_chip *chip, uint8_t value)
{
    struct icm20948 *s = self(chip);
    uint8_t address = s->address & 0x7f;
    s->address++;
    if (address == REG_BANK_SEL) {
        s->bank = value >> 4 & 3;
    } else if (s->bank == 0 && address == PWR_MGMT_1 && (value & RESET)) {
        struct sim_shifter shifter = s->shifter;
        power_up(chip);
        s->shifter = shifter;
    } else if (s->bank == 0 && (address == WHO_AM_I || address >= ACCEL_XOUT_H)) {
        return; /* read-only */
    } else {
        if (s->bank == 0 && address == PWR_MGMT_1 && (s->regs[0][PWR_MGMT_1] & SLEEP)) {
            s->awake_us = chip->sim->now_us;
        }
        s->regs[s->bank][address] = value;
    }
}

static void select(struct pintle_sim_chip *chip, uint8_t on)
{
    struct icm20948 *s = self(chip);
    s->bytes = 0;
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    s->shifter = (struct sim_shifter){ 0 };
    if (on) {
        catch_up(chip);
    }
}

static void clock(struct pintle_sim_chip *chip, uint8_t bit)
{
    struct icm20948 *s = self(chip);
    if (!sim_shift(chip, &s->shifter, bit)) {
        if (!s->reading || s->bytes == 0) {
            chip->shown = PINTLE_SIM_SHOWS_NOTHING;
        }
        return;
    }
    s->shifter.bits = 0;
    if (s->bytes == 0) {
        s->address = s->shifter.in & 0x7f;
        s->reading = s->shifter.in >> 7;
        s->bytes = 1;
    } else if (!s->reading) {
        write_reg(chip, s->shifter.in);
    }
    if (s->reading) {
        sim_show(chip, &s->shifter, read_reg(chip));
    } else {
        chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    }
}

/* Tables 1 and 2: within 5 deg/s and 25 mg. */
const struct pintle_sim_model sim_icm20948 = {
    .name = "ICM20948",
    .kind = PINTLE_SIM_SPI,
    .inputs = { "accel-x", "accel-y", "accel-z", "rate-x", "rate-y", "rate-z" },
    .errors = { 0.2, 0.2, 0.2, 0.06, 0.06, 0.06 },
    .noises = { 0.006, 0.006, 0.006, 0.0006, 0.0006, 0.0006 },
    .power_up = power_up,
    .modes = 1 << 0 | 1 << 3,
    .top_hz = 7000000,
    .select = select,
    .clock = clock,
};
