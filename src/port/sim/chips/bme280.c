/* A simulated BME280, from datasheet BST-BME280-DS002. Where the driver runs the integer formulas
 * forwards, this runs the floating-point ones of appendix 8.1 backwards: it looks for the converter
 * code whose compensated value is what the chip feels. */
#include <math.h>

#include "port/sim/bench.h"

enum { TEMPERATURE, PRESSURE, HUMIDITY };

struct trim {
    double t[4]; /* dig_T1 to dig_T3, from index 1 on, as the datasheet counts */
    double p[10];
    double h[7];
};

/* One specimen's trim; the pressure and temperature numbers are those of the worked example in
 * the BMP280's datasheet, which has the same formulas. */
static const struct trim trim = {
    .t = { 0, 27504, 26435, -1000 },
    .p = { 0, 36477, -10685, 3024, 2855, 140, -7, 15500, -14600, 6000 },
    .h = { 0, 75, 367, 0, 313, 50, 30 },
};

struct bme280 {
    uint8_t pointer;
    uint8_t addressed; /* the pointer of this write is in */
    uint8_t ctrl_hum;
    uint8_t osrs_h; /* ctrl_hum as the last write of ctrl_meas took it over */
    uint8_t ctrl_meas;
    uint8_t config;
    uint8_t data[8];
    uint8_t measuring;
    uint64_t ready; /* the end of the measurement, or of the start-up */
    double smooth_t, smooth_p;
    uint8_t filled;
};
SIM_STATE_FITS(struct bme280);

static struct bme280 *self(struct pintle_sim_chip *chip)
{
    return (struct bme280 *)(void *)chip->state.bytes;
}

static void power_up(struct pintle_sim_chip *chip)
{
    *self(chip) = (struct bme280){ .data = { 0x80, 0, 0, 0x80, 0, 0, 0x80, 0 },
                                   .ready = chip->sim->now_us + 2000 };
}

/* Appendix 8.1, in double precision. */
static double t_fine_of(double adc)
{
    double var1 = (adc / 16384.0 - trim.t[1] / 1024.0) * trim.t[2];
    double rest = adc / 131072.0 - trim.t[1] / 8192.0;
    return var1 + rest * rest * trim.t[3];
}

static double celsius_of(double adc, double unused)
{
    (void)unused;
    return t_fine_of(adc) / 5120.0;
}

static double pascal_of(double adc, double t_fine)
{
    double var1 = t_fine / 2.0 - 64000.0;
    double var2 = var1 * var1 * trim.p[6] / 32768.0 + var1 * trim.p[5] * 2.0;
    var2 = var2 / 4.0 + trim.p[4] * 65536.0;
    var1 = (trim.p[3] * var1 * var1 / 524288.0 + trim.p[2] * var1) / 524288.0;
    var1 = (1.0 + var1 / 32768.0) * trim.p[1];
    double p = (1048576.0 - adc - var2 / 4096.0) * 6250.0 / var1;
    return p + (trim.p[9] * p * p / 2147483648.0 + p * trim.p[8] / 32768.0 + trim.p[7]) / 16.0;
}

static double percent_of(double adc, double t_fine)
{
    double x = t_fine - 76800.0;
    double slope = 1.0 + trim.h[3] / 67108864.0 * x;
    slope = trim.h[2] / 65536.0 * (1.0 + trim.h[6] / 67108864.0 * x * slope);
    x = (adc - (trim.h[4] * 64.0 + trim.h[5] / 16384.0 * x)) * slope;
    return x * (1.0 - trim.h[1] * x / 524288.0);
}

/* The code from 0 to `top` whose value is nearest to `value`; `rising` says which way the values
 * run with the code. */
static uint32_t search(double (*of)(double, double), double t_fine, uint32_t top, double value,
                       int rising)
{
    uint32_t low = 0;
    uint32_t high = top;
    while (high - low > 1) {
        uint32_t middle = (low + high) / 2;
        if ((of(middle, t_fine) < value) == rising) {
            low = middle;
        } else {
            high = middle;
        }
    }
    return fabs(of(low, t_fine) - value) < fabs(of(high, t_fine) - value) ? low : high;
}

static double samples(uint8_t osrs)
{
    static const double counts[8] = { 0, 1, 2, 4, 8, 16, 16, 16 };
    return counts[osrs & 7];
}

/* Appendix 9.1, typical. */
static double measuring_us(const struct bme280 *s)
{
    double t = samples(s->ctrl_meas >> 5);
    double p = samples((s->ctrl_meas >> 2) & 7);
    double h = samples(s->osrs_h);
    return 1000 + 2000 * t + (p > 0 ? 2000 * p + 500 : 0) + (h > 0 ? 2000 * h + 500 : 0);
}

/* Section 3.4.4. */
static double smooth(double *memory, double value, uint8_t config, uint8_t filled)
{
    static const double coefficients[8] = { 1, 2, 4, 8, 16, 16, 16, 16 };
    double c = coefficients[(config >> 2) & 7];
    *memory = filled ? (*memory * (c - 1) + value) / c : value;
    return *memory;
}

static void put_twenty(uint8_t *to, uint32_t code)
{
    to[0] = (uint8_t)(code >> 12);
    to[1] = (uint8_t)(code >> 4);
    to[2] = (uint8_t)(code << 4);
}

static void finish(struct pintle_sim_chip *chip)
{
    struct bme280 *s = self(chip);
    double t = smooth(&s->smooth_t, sim_sense(chip, TEMPERATURE), s->config, s->filled);
    double p = smooth(&s->smooth_p, sim_sense(chip, PRESSURE), s->config, s->filled);
    uint32_t adc_T = search(celsius_of, 0, 0xfffff, t, 1);
    double t_fine = t_fine_of(adc_T);
    uint32_t adc_P = search(pascal_of, t_fine, 0xfffff, p, 0);
    uint32_t adc_H = search(percent_of, t_fine, 0xffff, sim_sense(chip, HUMIDITY), 1);
    s->filled = 1;
    put_twenty(s->data, (s->ctrl_meas & 0x1c) ? adc_P : 0x80000);
    put_twenty(s->data + 3, (s->ctrl_meas & 0xe0) ? adc_T : 0x80000);
    adc_H = (s->osrs_h & 7) ? adc_H : 0x8000;
    s->data[6] = (uint8_t)(adc_H >> 8);
    s->data[7] = (uint8_t)adc_H;
    s->ctrl_meas &= 0xfc; /* back to sleep */
    s->measuring = 0;
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct bme280 *s = self(chip);
    if (s->measuring && chip->sim->now_us >= s->ready) {
        finish(chip);
    }
}

/* Table 16: the trim from 88h and from E1h on. */
static uint8_t trim_byte(uint8_t reg)
{
    if (reg < 0x8e) {
        int value = (int)trim.t[1 + (reg - 0x88) / 2];
        return (uint8_t)(reg & 1 ? value >> 8 : value);
    }
    if (reg < 0xa0) {
        int value = (int)trim.p[1 + (reg - 0x8e) / 2];
        return (uint8_t)(reg & 1 ? value >> 8 : value);
    }
    int h2 = (int)trim.h[2];
    int h4 = (int)trim.h[4];
    int h5 = (int)trim.h[5];
    switch (reg) {
    case 0xa1:
        return (uint8_t)trim.h[1];
    case 0xe1:
        return (uint8_t)h2;
    case 0xe2:
        return (uint8_t)(h2 >> 8);
    case 0xe3:
        return (uint8_t)trim.h[3];
    case 0xe4:
        return (uint8_t)(h4 >> 4);
    case 0xe5:
        return (uint8_t)((h4 & 15) | (h5 & 15) << 4);
    case 0xe6:
        return (uint8_t)(h5 >> 4);
    case 0xe7:
        return (uint8_t)(int)trim.h[6];
    default:
        return 0;
    }
}

static uint8_t reg_byte(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct bme280 *s = self(chip);
    if ((reg >= 0x88 && reg <= 0xa1) || (reg >= 0xe1 && reg <= 0xe7)) {
        return trim_byte(reg);
    }
    if (reg >= 0xf7 && reg <= 0xfe) {
        return s->data[reg - 0xf7];
    }
    switch (reg) {
    case 0xd0:
        return 0x60;
    case 0xf2:
        return s->ctrl_hum;
    case 0xf3: {
        int starting = !s->measuring && chip->sim->now_us < s->ready;
        return (uint8_t)((s->measuring ? 8 : 0) | (starting ? 1 : 0));
    }
    case 0xf4:
        return s->ctrl_meas;
    case 0xf5:
        return s->config;
    default:
        return 0;
    }
}

static void write_reg(struct pintle_sim_chip *chip, uint8_t reg, uint8_t value)
{
    struct bme280 *s = self(chip);
    if (reg == 0xe0 && value == 0xb6) {
        power_up(chip);
    } else if (reg == 0xf2) {
        s->ctrl_hum = value & 7;
    } else if (reg == 0xf5) {
        s->config = value & 0xfd;
    } else if (reg == 0xf4) {
        s->ctrl_meas = value;
        s->osrs_h = s->ctrl_hum;
        if ((value & 3) == 1 || (value & 3) == 2) {
            s->measuring = 1;
            s->ready = chip->sim->now_us + (uint64_t)measuring_us(s);
        }
    }
}

static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    catch_up(chip);
    if (!reading) {
        self(chip)->addressed = 0;
    }
    return 1;
}

/* Section 6.2.1: pairs of register address and data. */
static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct bme280 *s = self(chip);
    if (!s->addressed) {
        s->pointer = byte;
        s->addressed = 1;
        return 1;
    }
    write_reg(chip, s->pointer, byte);
    s->addressed = 0;
    return 1;
}

static uint8_t read(struct pintle_sim_chip *chip)
{
    return reg_byte(chip, self(chip)->pointer++);
}

static void stop(struct pintle_sim_chip *chip)
{
    (void)chip;
}

const struct pintle_sim_model sim_bme280 = {
    .name = "BME280",
    .inputs = { "temperature", "pressure", "humidity" },
    .errors = { 0.5, 60, 1.5 },
    .noises = { 0.005, 1.0, 0.02 },
    .power_up = power_up,
    .start = start,
    .write = write,
    .read = read,
    .stop = stop,
};
