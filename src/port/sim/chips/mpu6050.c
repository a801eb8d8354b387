/* A simulated MPU6050, from RM-MPU-6000A-00 rev. 4.2 and PS-MPU-6000A-00 rev. 3.4. */
#include <math.h>

#include "port/sim/bench.h"

#define SMPLRT_DIV 0x19
#define CONFIG 0x1a
#define GYRO_CONFIG 0x1b
#define ACCEL_CONFIG 0x1c
#define FIFO_EN 0x23
#define INT_PIN_CFG 0x37
#define INT_ENABLE 0x38
#define INT_STATUS 0x3a
#define DATA 0x3b
#define USER_CTRL 0x6a
#define PWR_MGMT_1 0x6b
#define FIFO_COUNT 0x72
#define FIFO_R_W 0x74
#define WHO_AM_I 0x75

#define R PINTLE_SIM_READS
#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* RM, section 3. */
static const struct pintle_sim_register registers[] = {
    { SMPLRT_DIV, 1, RW, 0, 0xff, 0 },
    { CONFIG, 1, RW, 0, 0x3f, 0 },
    { GYRO_CONFIG, 1, RW, 0, 0xf8, 0 },
    { ACCEL_CONFIG, 1, RW, 0, 0xf8, 0 },
    { FIFO_EN, 1, RW, 0, 0xf8, 0 },
    { INT_PIN_CFG, 1, RW, 0, 0xfe, 0 },
    { INT_ENABLE, 1, RW, 0, 0x19, 0 },
    { INT_STATUS, 1, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { 0x3b, 2, R, 0, 0, 0 },
    { 0x3d, 2, R, 0, 0, 0 },
    { 0x3f, 2, R, 0, 0, 0 },
    { 0x41, 2, R, 0, 0, 0 },
    { 0x43, 2, R, 0, 0, 0 },
    { 0x45, 2, R, 0, 0, 0 },
    { 0x47, 2, R, 0, 0, 0 },
    { USER_CTRL, 1, RW, 0, 0x60, 0x05 },
    { PWR_MGMT_1, 1, RW, 0x40, 0x6f, 0x80 },
    { FIFO_COUNT, 2, R, 0, 0, 0 },
    { FIFO_R_W, 1, R | PINTLE_SIM_CLEARS, 0, 0, 0 },
    { WHO_AM_I, 1, R, 0x68, 0, 0 },
    { 0 },
};

static const struct pintle_sim_choice choices[] = {
    { "accel-range", "2g", ACCEL_CONFIG, 0x18, 0x00 },
    { "accel-range", "4g", ACCEL_CONFIG, 0x18, 0x08 },
    { "accel-range", "8g", ACCEL_CONFIG, 0x18, 0x10 },
    { "accel-range", "16g", ACCEL_CONFIG, 0x18, 0x18 },
    { "gyro-range", "250deg/s", GYRO_CONFIG, 0x18, 0x00 },
    { "gyro-range", "500deg/s", GYRO_CONFIG, 0x18, 0x08 },
    { "gyro-range", "1000deg/s", GYRO_CONFIG, 0x18, 0x10 },
    { "gyro-range", "2000deg/s", GYRO_CONFIG, 0x18, 0x18 },
    { "filter", "184Hz", CONFIG, 0x07, 0x01 },
    { "filter", "94Hz", CONFIG, 0x07, 0x02 },
    { "filter", "44Hz", CONFIG, 0x07, 0x03 },
    { "filter", "21Hz", CONFIG, 0x07, 0x04 },
    { "filter", "10Hz", CONFIG, 0x07, 0x05 },
    { "filter", "5Hz", CONFIG, 0x07, 0x06 },
    { "rate", "1000Hz", SMPLRT_DIV, 0xff, 0x00 },
    { "rate", "500Hz", SMPLRT_DIV, 0xff, 0x01 },
    { "rate", "200Hz", SMPLRT_DIV, 0xff, 0x04 },
    { "rate", "100Hz", SMPLRT_DIV, 0xff, 0x09 },
    { "rate", "50Hz", SMPLRT_DIV, 0xff, 0x13 },
    { 0 },
};

static const struct pintle_sim_map map = { .registers = registers,
                                           .choices = choices,
                                           .stays = FIFO_R_W };

#define FIFO_BYTES 1024

struct mpu6050 {
    uint8_t regs[128];
    uint64_t ready; /* the end of a reset */
    uint64_t next_ns, last_us;
    struct pintle_sim_fifo fifo;
};
SIM_STATE(mpu6050)

/* PS 6.3: 100 ms until its registers can be written. */
static void begin(struct pintle_sim_chip *chip, double typical, double longest)
{
    struct mpu6050 *s = self(chip);
    memset(s, 0, sizeof *s);
    s->fifo.size = FIFO_BYTES;
    pintle_priv_sim_fill(chip, 0, s->regs, sizeof s->regs);
    s->ready = chip->sim->now_us + pintle_priv_sim_conversion(chip, typical, longest);
}

static void power_up(struct pintle_sim_chip *chip)
{
    begin(chip, 20, 40);
}

/* RM 4.2: 8 kHz without the filter and at its reserved setting, 1 kHz with it. */
static uint64_t period_us(const struct pintle_sim_chip *chip)
{
    const struct mpu6050 *s = state(chip);
    unsigned filter = s->regs[CONFIG] & 7;
    return (filter == 0 || filter == 7 ? 125u : 1000u) * (1u + s->regs[SMPLRT_DIV]);
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return (uint32_t)period_us(chip);
}

static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    return 100000 + 36000 + 2 * longest_us(chip);
}

static void put_word(struct mpu6050 *s, int reg, double counts)
{
    int16_t code = (int16_t)fmin(fmax(floor(counts + 0.5), -32768), 32767);
    s->regs[reg] = (uint8_t)((uint16_t)code >> 8);
    s->regs[reg + 1] = (uint8_t)code;
}

/* RM 4.10 and 4.31: what FIFO_EN names goes in, in the order of the registers; full, the oldest
 * bytes are lost. */
static void keep(struct pintle_sim_chip *chip)
{
    static const uint8_t places[][3] = {
        { 0x08, DATA, 6 },      { 0x80, DATA + 6, 2 },  { 0x40, DATA + 8, 2 },
        { 0x20, DATA + 10, 2 }, { 0x10, DATA + 12, 2 },
    };
    struct mpu6050 *s = self(chip);
    uint8_t lost = 0;
    for (size_t i = 0; i < sizeof places / sizeof places[0]; i++) {
        if (s->regs[FIFO_EN] & places[i][0]) {
            lost |=
                pintle_priv_sim_fifo_put(chip, &s->fifo, &s->regs[places[i][1]], places[i][2], 0);
        }
    }
    s->regs[INT_STATUS] |= lost ? s->regs[INT_ENABLE] & 0x10 : 0;
}

/* PS 6.1, 6.2 and RM 4.18. Self-test pushes the axis. */
static void sample(struct pintle_sim_chip *chip)
{
    static const double per_deg_s[] = { 131, 65.5, 32.8, 16.4 };
    struct mpu6050 *s = self(chip);
    double per_g = 16384 >> (s->regs[ACCEL_CONFIG] >> 3 & 3);
    double per_deg = per_deg_s[s->regs[GYRO_CONFIG] >> 3 & 3];
    for (int axis = 0; axis < 3; axis++) {
        double pushed = s->regs[ACCEL_CONFIG] >> (7 - axis) & 1 ? 0.5 : 0;
        double turned = s->regs[GYRO_CONFIG] >> (7 - axis) & 1 ? 50 : 0;
        double g = pintle_sim_sense(chip, axis) / 9.80665 + pushed;
        double deg_s = pintle_sim_sense(chip, 4 + axis) * 57.29577951308232 + turned;
        put_word(s, DATA + 2 * axis, g * per_g);
        put_word(s, DATA + 8 + 2 * axis, deg_s * per_deg);
    }
    put_word(s, DATA + 6, (pintle_sim_sense(chip, 3) - 36.53) * 340);
    s->regs[INT_STATUS] |= 1;
    s->last_us = chip->sim->now_us;
    if (s->regs[USER_CTRL] & 0x40) {
        keep(chip);
    }
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct mpu6050 *s = self(chip);
    if (s->ready && chip->sim->now_us >= s->ready) {
        s->ready = 0;
    }
    if (!(s->regs[PWR_MGMT_1] & 0x40)) {
        uint32_t most = s->regs[USER_CTRL] & 0x40 ? FIFO_BYTES : 1;
        pintle_priv_sim_each(chip, &s->next_ns, 1000 * period_us(chip), most, sample);
    }
    s->regs[FIFO_COUNT] = (uint8_t)(s->fifo.count >> 8);
    s->regs[FIFO_COUNT + 1] = (uint8_t)s->fifo.count;
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct mpu6050 *s = self(chip);
    uint8_t value = s->regs[reg & 127];
    if ((reg & 127) == FIFO_R_W) {
        return pintle_priv_sim_fifo_take(chip, &s->fifo);
    }
    if ((reg & 127) == INT_STATUS) {
        s->regs[INT_STATUS] = 0;
    }
    if (s->ready && (reg & 127) == PWR_MGMT_1) {
        return 0x80; /* the reset is under way */
    }
    return value;
}

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct mpu6050 *s = self(chip);
    uint8_t slept = s->regs[PWR_MGMT_1] & 0x40;
    reg &= 127;
    uint8_t keeps = (uint8_t)pintle_priv_sim_keeps(chip, reg);
    if (reg == PWR_MGMT_1 && (value & 0x80)) {
        begin(chip, 20000, 100000);
        return;
    }
    if (!keeps || s->ready) {
        return;
    }
    s->regs[reg] = (uint8_t)((value & keeps) | (s->regs[reg] & ~keeps));
    if (reg == USER_CTRL && (value & 0x44) == 0x04) { /* RM 4.27: while it is off */
        s->fifo.count = 0;
    }
    if (reg == PWR_MGMT_1 && slept && !(value & 0x40)) {
        s->next_ns = 1000 * (chip->sim->now_us + pintle_priv_sim_conversion(chip, 30000, 35000));
    }
}

/* RM 4.24: for 50 us, or until the status is read; active high, or low. */
static uint8_t pin(struct pintle_sim_chip *chip)
{
    struct mpu6050 *s = self(chip);
    uint8_t told = s->regs[INT_STATUS] & s->regs[INT_ENABLE];
    uint8_t latched = s->regs[INT_PIN_CFG] & 0x20;
    told = told && (latched || chip->sim->now_us < s->last_us + 50);
    return s->regs[INT_PIN_CFG] & 0x80 ? !told : told;
}

const struct pintle_sim_model pintle_twin_mpu6050 = {
    .name = "MPU6050",
    .inputs = { "accel-x", "accel-y", "accel-z", "temperature", "rate-x", "rate-y", "rate-z" },
    .errors = { 0.4, 0.4, 0.7, 1, 0.3, 0.3, 0.3 },
    .noises = { 0.01, 0.01, 0.01, 0.02, 0.001, 0.001, 0.001 },
    .power_up = power_up,
    .pin = pin,
    .map = &map,
    .memory = FIFO_BYTES,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
