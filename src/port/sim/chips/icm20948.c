/* A simulated ICM-20948, from datasheet DS-000189: registers in four banks over SPI, the
 * accelerometer, the gyroscope and the thermometer, the FIFO, and the master of the bus inside, on
 * which the magnetometer is. */
#include <math.h>

#include "port/sim/bench.h"
#include "port/sim/chips/ak09916.h"

#define WHO_AM_I 0x00
#define PWR_MGMT_1 0x06
#define USER_CTRL 0x03
#define I2C_MST_STATUS 0x17
#define INT_PIN_CFG 0x0f
#define INT_ENABLE_1 0x11
#define INT_ENABLE_2 0x12
#define INT_STATUS_1 0x1a
#define INT_STATUS_2 0x1b
#define ACCEL_XOUT_H 0x2d
#define EXT_SLV_SENS 0x3b
#define FIFO_EN_2 0x67
#define FIFO_RST 0x68
#define FIFO_MODE 0x69
#define FIFO_COUNTH 0x70
#define FIFO_R_W 0x72
#define REG_BANK_SEL 0x7f
#define GYRO_SMPLRT_DIV 0x00 /* bank 2 */
#define GYRO_CONFIG_1 0x01
#define ACCEL_CONFIG 0x14
#define MST_DELAY 0x02 /* bank 3 */
#define SLV0 0x03      /* address, register, control */
#define SLV4 0x13      /* address, register, control, byte out, byte in */

#define PWR_MGMT_2 0x07
#define XG_OFFS_USRH 0x03 /* bank 2, two bytes an axis */

#define RESET 0x80
#define SLEEP 0x40
#define CLKSEL 0x07 /* 7: stopped */
#define R PINTLE_SIM_READS
#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* Sections 8 to 10. Resets in USER_CTRL and PWR_MGMT_1 end by themselves. */
static const struct pintle_sim_register registers[] = {
    { 0x0000, 1, R, 0xea, 0, 0 },
    { 0x0003, 1, RW, 0x00, 0xf0, 0 },
    { 0x0005, 1, RW, 0x40, 0x70, 0 },
    { 0x0006, 1, RW, 0x41, 0x6f, 0 },
    { 0x0007, 1, RW, 0x00, 0x3f, 0 },
    { 0x000f, 1, RW, 0x00, 0xfe, 0 },
    { 0x0011, 1, RW, 0x00, 0x01, 0 },
    { 0x0012, 1, RW, 0x00, 0x1f, 0 },
    { 0x0017, 1, R | PINTLE_SIM_CLEARS, 0x00, 0, 0 },
    { 0x001a, 1, R | PINTLE_SIM_CLEARS, 0x00, 0, 0 },
    { 0x001b, 1, R | PINTLE_SIM_CLEARS, 0x00, 0, 0 },
    { 0x002d, 2, R, 0x0000, 0, 0 },
    { 0x002f, 2, R, 0x0000, 0, 0 },
    { 0x0031, 2, R, 0x0000, 0, 0 },
    { 0x0033, 2, R, 0x0000, 0, 0 },
    { 0x0035, 2, R, 0x0000, 0, 0 },
    { 0x0037, 2, R, 0x0000, 0, 0 },
    { 0x0039, 2, R, 0x0000, 0, 0 },
    { 0x003b, 4, R, 0x00, 0, 0 },
    { 0x003f, 4, R, 0x00, 0, 0 },
    { 0x0043, 1, R, 0x00, 0, 0 },
    { 0x0067, 1, RW, 0x00, 0x1f, 0 },
    { 0x0068, 1, RW, 0x00, 0x1f, 0 },
    { 0x0069, 1, RW, 0x00, 0x1f, 0 },
    { 0x0070, 2, R, 0x0000, 0, 0 },
    { 0x0072, 1, R | PINTLE_SIM_CLEARS, 0x00, 0, 0 },
    { 0x0200, 1, RW, 0x00, 0xff, 0 },
    { 0x0201, 1, RW, 0x01, 0x3f, 0 },
    { 0x0203, 2, RW, 0x0000, 0xffff, 0 },
    { 0x0205, 2, RW, 0x0000, 0xffff, 0 },
    { 0x0207, 2, RW, 0x0000, 0xffff, 0 },
    { 0x0210, 1, RW, 0x00, 0x0f, 0 },
    { 0x0211, 1, RW, 0x00, 0xff, 0 },
    { 0x0214, 1, RW, 0x01, 0x3f, 0 },
    { 0x0301, 1, RW, 0x00, 0x1f, 0 },
    { 0x0302, 1, RW, 0x00, 0x9f, 0 },
    { 0x0303, 1, RW, 0x00, 0xff, 0 },
    { 0x0304, 1, RW, 0x00, 0xff, 0 },
    { 0x0305, 1, RW, 0x00, 0xff, 0 },
    { 0x0313, 1, RW, 0x00, 0xff, 0 },
    { 0x0314, 1, RW, 0x00, 0xff, 0 },
    { 0x0315, 1, RW, 0x00, 0x7f, 0 },
    { 0x0316, 1, RW, 0x00, 0xff, 0 },
    { 0x0317, 1, R, 0x00, 0, 0 },
    { 0 },
};

/* Tables 16 to 18, with the filter on (FCHOICE). */
#define RANGE(setting, option, reg, code)                                                          \
    {                                                                                              \
        setting, option, reg, 0x07, (code) << 1 | 1                                                \
    }
#define FILTER(setting, option, reg, code)                                                         \
    {                                                                                              \
        setting, option, reg, 0x39, (code) << 3 | 1                                                \
    }
static const struct pintle_sim_choice choices[] = {
    RANGE("accel-range", "2g", 0x0214, 0),       RANGE("accel-range", "4g", 0x0214, 1),
    RANGE("accel-range", "8g", 0x0214, 2),       RANGE("accel-range", "16g", 0x0214, 3),
    FILTER("accel-filter", "473Hz", 0x0214, 7),  FILTER("accel-filter", "246Hz", 0x0214, 1),
    FILTER("accel-filter", "111Hz", 0x0214, 2),  FILTER("accel-filter", "50Hz", 0x0214, 3),
    FILTER("accel-filter", "24Hz", 0x0214, 4),   FILTER("accel-filter", "11.5Hz", 0x0214, 5),
    FILTER("accel-filter", "5.7Hz", 0x0214, 6),  RANGE("gyro-range", "250deg/s", 0x0201, 0),
    RANGE("gyro-range", "500deg/s", 0x0201, 1),  RANGE("gyro-range", "1000deg/s", 0x0201, 2),
    RANGE("gyro-range", "2000deg/s", 0x0201, 3), FILTER("gyro-filter", "361Hz", 0x0201, 7),
    FILTER("gyro-filter", "152Hz", 0x0201, 1),   FILTER("gyro-filter", "120Hz", 0x0201, 2),
    FILTER("gyro-filter", "51Hz", 0x0201, 3),    FILTER("gyro-filter", "24Hz", 0x0201, 4),
    FILTER("gyro-filter", "11.6Hz", 0x0201, 5),  FILTER("gyro-filter", "5.7Hz", 0x0201, 6),
    { "rate", "1125Hz", 0x0200, 0xff, 0 },       { "rate", "562.5Hz", 0x0200, 0xff, 1 },
    { "rate", "225Hz", 0x0200, 0xff, 4 },        { "rate", "112.5Hz", 0x0200, 0xff, 9 },
    { "rate", "56.25Hz", 0x0200, 0xff, 19 },     { 0 },
};

static const struct pintle_sim_map map = { .registers = registers,
                                           .choices = choices,
                                           .read_bit = 0x80,
                                           .bank_reg = REG_BANK_SEL,
                                           .stays = FIFO_R_W };
#define SAMPLE_NS 888889 /* 1.125 kHz */
#define FIFO_BYTES 512
#define LATEST 64 /* samples that can still be seen: the delay of the bus inside is up to 32 */
#define GYRO_START_US 35000

struct icm20948 {
    uint8_t regs[4][128];
    uint8_t bank;
    uint64_t awake_us, ready_us;
    uint64_t next_ns; /* sample */
    uint64_t last_us; /* sample */
    uint8_t turn;     /* of the delay of the bus inside */
    struct pintle_sim_fifo fifo;
    struct pintle_sim_ak09916 ak;
};
SIM_STATE(icm20948)

/* Sections 7 to 10: what registers hold after a reset; the others 0. */
static void power_up(struct pintle_sim_chip *chip)
{
    struct icm20948 *s = self(chip);
    memset(s, 0, sizeof *s);
    s->fifo.size = FIFO_BYTES;
    pintle_priv_sim_ak09916_reset(&s->ak);
    for (uint8_t bank = 0; bank < 4; bank++) {
        pintle_priv_sim_fill(chip, bank, s->regs[bank], sizeof s->regs[bank]);
    }
    /* table 3; at the world's beginning it has been on for long */
    s->ready_us =
        chip->sim->now_us ? chip->sim->now_us + pintle_priv_sim_conversion(chip, 11000, 100000) : 0;
}

static void put_count(struct icm20948 *s, int at, double counts)
{
    int value = (int)fmin(fmax(floor(counts + 0.5), -32768), 32767);
    s->regs[0][ACCEL_XOUT_H + at] = (uint8_t)((unsigned)value >> 8);
    s->regs[0][ACCEL_XOUT_H + at + 1] = (uint8_t)value;
}

/* Section 10.3: the user's offset of the gyroscope, 0.0305 degrees per second each. */
static double offset(const struct icm20948 *s, int axis)
{
    const uint8_t *at = &s->regs[2][XG_OFFS_USRH + 2 * axis];
    int value = at[0] << 8 | at[1];
    return 0.0305 * (value < 0x8000 ? value : value - 0x10000);
}

/* Tables 1 and 2. The gyroscope's scale factors are printed as 131, 65.5, 32.8, 16.4. What is
 * switched off in PWR_MGMT_2 keeps what it had. */
static void sample(struct pintle_sim_chip *chip)
{
    static const double per_degree[] = { 131, 65.5, 32.8, 16.4 };
    struct icm20948 *s = self(chip);
    int range = s->regs[2][ACCEL_CONFIG] >> 1 & 3;
    double degree = per_degree[s->regs[2][GYRO_CONFIG_1] >> 1 & 3];
    for (int axis = 0; axis < 3; axis++) {
        double rate = pintle_sim_sense(chip, 3 + axis) * 57.29577951308232 + offset(s, axis);
        if (!(s->regs[0][PWR_MGMT_2] & 0x38)) {
            put_count(s, 2 * axis, pintle_sim_sense(chip, axis) / 9.80665 * (16384 >> range));
        }
        if (!(s->regs[0][PWR_MGMT_2] & 0x07)) {
            put_count(s, 6 + 2 * axis, rate * degree);
        }
    }
    put_count(s, 12, (pintle_sim_sense(chip, 6) - 21) * 333.87); /* section 3.4 */
    s->regs[0][INT_STATUS_1] = 1;
    s->last_us = chip->sim->now_us;
}

/* Section 8.56 and on: what FIFO_EN_2 names goes in, in the order of the registers. In stream mode
 * the oldest bytes are lost, in snapshot mode the newest sample. */
static void keep(struct pintle_sim_chip *chip)
{
    static const uint8_t places[][3] = {
        { 0x10, 0, 6 }, { 0x02, 6, 2 }, { 0x04, 8, 2 }, { 0x08, 10, 2 }, { 0x01, 12, 2 }
    };
    struct icm20948 *s = self(chip);
    uint8_t told = s->regs[0][INT_ENABLE_2];
    for (size_t i = 0; i < sizeof places / sizeof places[0]; i++) {
        const uint8_t *from = &s->regs[0][ACCEL_XOUT_H + places[i][1]];
        if (!(s->regs[0][FIFO_EN_2] & places[i][0])) {
            continue;
        }
        if (s->regs[0][FIFO_MODE] && s->fifo.count + places[i][2] > FIFO_BYTES) {
            s->regs[0][INT_STATUS_2] |= told;
        } else if (pintle_priv_sim_fifo_put(chip, &s->fifo, from, places[i][2], 0)) {
            s->regs[0][INT_STATUS_2] |= told;
        }
    }
}

/* Section 11: behind each sample slave 0, or each so many, and once slave 4. */
static void ask_slaves(struct pintle_sim_chip *chip)
{
    struct icm20948 *s = self(chip);
    uint8_t *mst = s->regs[3];
    uint8_t delay = mst[MST_DELAY] & 1 ? mst[SLV4 + 2] & 0x1f : 0;
    uint8_t *status = &s->regs[0][I2C_MST_STATUS];
    if ((mst[SLV0 + 2] & 0x80) && s->turn++ >= delay) {
        s->turn = 0;
        for (uint8_t i = 0; i < (mst[SLV0 + 2] & 15); i++) {
            if (!pintle_priv_sim_ak09916_read(chip, &s->ak, mst[SLV0], (uint8_t)(mst[SLV0 + 1] + i),
                                              &s->regs[0][EXT_SLV_SENS + i])) {
                *status |= 0x01;
            }
        }
    }
    if (mst[SLV4 + 2] & 0x80) {
        uint8_t there = mst[SLV4] & 0x80
                            ? pintle_priv_sim_ak09916_read(chip, &s->ak, mst[SLV4], mst[SLV4 + 1],
                                                           &mst[SLV4 + 4])
                            : pintle_priv_sim_ak09916_write(chip, &s->ak, mst[SLV4], mst[SLV4 + 1],
                                                            mst[SLV4 + 3]);
        mst[SLV4 + 2] &= 0x7f;
        *status |= there ? 0x40 : 0x50;
    }
}

static void tick(struct pintle_sim_chip *chip)
{
    struct icm20948 *s = self(chip);
    sample(chip);
    if (s->regs[0][USER_CTRL] & 0x40) {
        keep(chip);
    }
    if (s->regs[0][USER_CTRL] & 0x20) {
        ask_slaves(chip);
    }
}

static uint64_t period_ns(const struct pintle_sim_chip *chip)
{
    const struct icm20948 *s = state(chip);
    return (uint64_t)SAMPLE_NS * (s->regs[2][GYRO_SMPLRT_DIV] + 1u);
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return (uint32_t)(period_ns(chip) / 1000) + 1;
}

/* Table 3: start-up of the registers, which can be asked, and of the gyroscope; and the
 * magnetometer, which is talked to meanwhile. */
static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    return (uint32_t)pintle_priv_sim_conversion(chip, 11000, 100000) + GYRO_START_US + 40000
           + 3 * longest_us(chip);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct icm20948 *s = self(chip);
    uint64_t now = chip->sim->now_us;
    uint8_t power = s->regs[0][PWR_MGMT_1];
    uint8_t asleep = power & SLEEP || (power & CLKSEL) == CLKSEL;
    if (!asleep && now >= s->awake_us + GYRO_START_US) {
        uint64_t first = (s->awake_us + GYRO_START_US) * 1000;
        s->next_ns = s->next_ns < first ? first : s->next_ns;
        uint32_t most = s->regs[0][USER_CTRL] & 0x40 ? FIFO_BYTES : LATEST;
        pintle_priv_sim_each(chip, &s->next_ns, period_ns(chip), most, tick);
    }
    s->regs[0][FIFO_COUNTH] = (uint8_t)(s->fifo.count >> 8);
    s->regs[0][FIFO_COUNTH + 1] = (uint8_t)s->fifo.count;
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct icm20948 *s = self(chip);
    reg &= 0x7f;
    if (chip->sim->now_us < s->ready_us && reg != WHO_AM_I) {
        return 0; /* still coming out of reset */
    }
    if (reg == REG_BANK_SEL) {
        return (uint32_t)s->bank << 4;
    }
    uint8_t value = s->regs[s->bank][reg];
    return s->bank == 0 && reg == FIFO_R_W ? pintle_priv_sim_fifo_first(chip, &s->fifo) : value;
}

static void seen(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct icm20948 *s = self(chip);
    reg &= 0x7f;
    if (s->bank == 0 && reg == FIFO_R_W) {
        (void)pintle_priv_sim_fifo_take(chip, &s->fifo);
    } else if (s->bank == 0
               && (reg == INT_STATUS_1 || reg == INT_STATUS_2 || reg == I2C_MST_STATUS)) {
        s->regs[0][reg] = 0;
    }
}

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct icm20948 *s = self(chip);
    reg &= 0x7f;
    uint8_t *at = &s->regs[s->bank][reg];
    uint32_t keeps = pintle_priv_sim_keeps(chip, (uint16_t)(s->bank << 8 | reg));
    if (chip->sim->now_us < s->ready_us) {
        return; /* nor does it take anything */
    }
    if (reg == REG_BANK_SEL) {
        s->bank = value >> 4 & 3;
    } else if (s->bank == 0 && reg == PWR_MGMT_1 && (value & RESET)) {
        power_up(chip);
    } else {
        if (s->bank == 0 && reg == PWR_MGMT_1 && (*at & SLEEP)) {
            s->awake_us = chip->sim->now_us;
        }
        uint8_t once = s->bank == 3 && reg == SLV4 + 2 ? 0x80 : 0; /* it ends by itself */
        *at = (uint8_t)((value & (keeps | once)) | (*at & ~(keeps | once)));
        if (s->bank == 0 && reg == FIFO_RST && (value & 0x1f)) {
            s->fifo.count = 0;
        }
    }
}

/* Section 8.7: for 50 us, or until the status is read; active high, or low. */
static uint8_t pin(struct pintle_sim_chip *chip)
{
    struct icm20948 *s = self(chip);
    uint8_t told = s->regs[0][INT_STATUS_1] & s->regs[0][INT_ENABLE_1];
    uint8_t latched = s->regs[0][INT_PIN_CFG] & 0x20;
    told = told && (latched || chip->sim->now_us < s->last_us + 50);
    return s->regs[0][INT_PIN_CFG] & 0x80 ? !told : told;
}

/* Tables 1 to 3: within 5 deg/s, 25 mg, 300 uT. */
const struct pintle_sim_model pintle_twin_icm20948 = {
    .name = "ICM20948",
    .inputs = { "accel-x", "accel-y", "accel-z", "rate-x", "rate-y", "rate-z", "temperature",
                "mag-x", "mag-y", "mag-z" },
    .errors = { 0.2, 0.2, 0.2, 0.06, 0.06, 0.06, 1.7, 250e-6, 250e-6, 250e-6 },
    .noises = { 0.006, 0.006, 0.006, 0.0006, 0.0006, 0.0006, 0.05, 0.2e-6, 0.2e-6, 0.2e-6 },
    .power_up = power_up,
    .pin = pin,
    .map = &map,
    .memory = FIFO_BYTES,
    .longest_us = longest_us,
    .settles_us = settles_us,
    .modes = 1 << 0 | 1 << 3,
    .top_hz = 7000000,
    .seen = seen,
    PINTLE_SIM_SPI_REGISTERS,
};
