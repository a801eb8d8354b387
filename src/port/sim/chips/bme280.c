/* A simulated BME280, from datasheet BST-BME280-DS002, and a BMP280, BST-BMP280-DS001: the same
 * with no humidity. Where the driver runs the integer formulas forwards, this runs the
 * floating-point ones of appendix 8.1 backwards: it looks for the converter code whose compensated
 * value is what the chip feels. */
#include <math.h>

#include "port/sim/bench.h"

enum { TEMPERATURE, PRESSURE, HUMIDITY };

struct trim {
    double t[4]; /* dig_T1 to dig_T3, from index 1 on, as the datasheet counts */
    double p[10];
    double h[7];
};

struct bme280 {
    struct trim trim;
    uint8_t drawn;
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
SIM_STATE(bme280)

#define RW (PINTLE_SIM_READS | PINTLE_SIM_WRITES)

/* Table 18, both chips' registers. */
#define COMMON(id)                                                                                 \
    { 0xd0, 1, PINTLE_SIM_READS, id, 0, 0 }, { 0xe0, 1, PINTLE_SIM_WRITES, 0, 0, 0 },              \
        { 0xf3, 1, PINTLE_SIM_READS, 0x00, 0, 0 }, { 0xf4, 1, RW, 0x00, 0xff, 0 },                 \
        { 0xf5, 1, RW, 0x00, 0xfd, 0 }, { 0xf7, 1, PINTLE_SIM_READS, 0x80, 0, 0 },                 \
        { 0xf8, 1, PINTLE_SIM_READS, 0x00, 0, 0 }, { 0xf9, 1, PINTLE_SIM_READS, 0x00, 0, 0 },      \
        { 0xfa, 1, PINTLE_SIM_READS, 0x80, 0, 0 }, { 0xfb, 1, PINTLE_SIM_READS, 0x00, 0, 0 },      \
    {                                                                                              \
        0xfc, 1, PINTLE_SIM_READS, 0x00, 0, 0                                                      \
    }
static const struct pintle_sim_register registers[] = {
    COMMON(0x60),
    { 0xf2, 1, RW, 0x00, 0x07, 0 },
    { 0xfd, 1, PINTLE_SIM_READS, 0x80, 0, 0 },
    { 0xfe, 1, PINTLE_SIM_READS, 0x00, 0, 0 },
    { 0 },
};
static const struct pintle_sim_register bmp_registers[] = { COMMON(0x58), { 0 } };

/* Tables 20, 23, 24 and 28. */
#define OVERSAMPLING(setting, reg, mask, one)                                                      \
    { setting, "x1", reg, mask, 1 * one }, { setting, "x2", reg, mask, 2 * one },                  \
        { setting, "x4", reg, mask, 3 * one }, { setting, "x8", reg, mask, 4 * one },              \
    {                                                                                              \
        setting, "x16", reg, mask, 5 * one                                                         \
    }
#define CHOICES                                                                                    \
    OVERSAMPLING("temperature-oversampling", 0xf4, 0xe0, 0x20),                                    \
        OVERSAMPLING("pressure-oversampling", 0xf4, 0x1c, 0x04),                                   \
        { "filter", "off", 0xf5, 0x1c, 0x00 }, { "filter", "2", 0xf5, 0x1c, 0x04 },                \
        { "filter", "4", 0xf5, 0x1c, 0x08 }, { "filter", "8", 0xf5, 0x1c, 0x0c },                  \
    {                                                                                              \
        "filter", "16", 0xf5, 0x1c, 0x10                                                           \
    }
static const struct pintle_sim_choice choices[] = {
    CHOICES,
    OVERSAMPLING("humidity-oversampling", 0xf2, 0x07, 0x01),
    { 0 },
};
static const struct pintle_sim_choice bmp_choices[] = { CHOICES, { 0 } };

static const struct pintle_sim_map map = {
    .registers = registers, .choices = choices, .low_first = 1, .pairs = 1
};
static const struct pintle_sim_map bmp_map = {
    .registers = bmp_registers, .choices = bmp_choices, .low_first = 1, .pairs = 1
};

static int is_bmp(const struct pintle_sim_chip *chip)
{
    return chip->model->map == &bmp_map;
}

/* Appendix 8.1, in double precision. */
static double t_fine_of(const struct trim *trim, double adc)
{
    double var1 = (adc / 16384.0 - trim->t[1] / 1024.0) * trim->t[2];
    double rest = adc / 131072.0 - trim->t[1] / 8192.0;
    return var1 + rest * rest * trim->t[3];
}

static double celsius_of(const struct trim *trim, double adc, double unused)
{
    (void)unused;
    return t_fine_of(trim, adc) / 5120.0;
}

static double pascal_of(const struct trim *trim, double adc, double t_fine)
{
    double var1 = t_fine / 2.0 - 64000.0;
    double var2 = var1 * var1 * trim->p[6] / 32768.0 + var1 * trim->p[5] * 2.0;
    var2 = var2 / 4.0 + trim->p[4] * 65536.0;
    var1 = (trim->p[3] * var1 * var1 / 524288.0 + trim->p[2] * var1) / 524288.0;
    var1 = (1.0 + var1 / 32768.0) * trim->p[1];
    double p = (1048576.0 - adc - var2 / 4096.0) * 6250.0 / var1;
    return p + (trim->p[9] * p * p / 2147483648.0 + p * trim->p[8] / 32768.0 + trim->p[7]) / 16.0;
}

static double percent_of(const struct trim *trim, double adc, double t_fine)
{
    double x = t_fine - 76800.0;
    double slope = 1.0 + trim->h[3] / 67108864.0 * x;
    slope = trim->h[2] / 65536.0 * (1.0 + trim->h[6] / 67108864.0 * x * slope);
    x = (adc - (trim->h[4] * 64.0 + trim->h[5] / 16384.0 * x)) * slope;
    return x * (1.0 - trim->h[1] * x / 524288.0);
}

/* The code from 0 to `top` whose value is nearest to `value`; `rising` says which way the values
 * run with the code. */
typedef double (*formula)(const struct trim *trim, double adc, double t_fine);

static uint32_t search(const struct trim *trim, formula of, double t_fine, uint32_t top,
                       double value, int rising)
{
    uint32_t low = 0;
    uint32_t high = top;
    while (high - low > 1) {
        uint32_t middle = (low + high) / 2;
        if ((of(trim, middle, t_fine) < value) == rising) {
            low = middle;
        } else {
            high = middle;
        }
    }
    return fabs(of(trim, low, t_fine) - value) < fabs(of(trim, high, t_fine) - value) ? low : high;
}

static void draw_trim(struct pintle_sim *sim, struct trim *trim)
{
    static const double t[][2] = { { 27504, 2500 }, { 26435, 2500 }, { 0, 4000 } };
    static const double p[][2] = { { 36477, 4000 }, { -10685, 1500 }, { 3024, 500 },
                                   { 2855, 12000 }, { 0, 2000 },      { 0, 120 },
                                   { 9900, 9900 },  { -10230, 8000 }, { 4285, 4285 } };
    static const double h[][2] = { { 75, 75 },   { 367, 90 }, { 60, 60 },
                                   { 313, 150 }, { 0, 400 },  { 0, 120 } };
    for (int i = 0; i < 3; i++) {
        trim->t[1 + i] = pintle_priv_sim_about(sim, t[i][0], t[i][1]);
    }
    for (int i = 0; i < 9; i++) {
        trim->p[1 + i] = pintle_priv_sim_about(sim, p[i][0], p[i][1]);
    }
    for (int i = 0; i < 6; i++) {
        trim->h[1 + i] = pintle_priv_sim_about(sim, h[i][0], h[i][1]);
    }
}

/* Can a quantity reach both ends of its range, well within the codes, and always in one direction?
 */
static int reaches(const struct trim *trim, formula of, double t_fine, double top, double low,
                   double high)
{
    double before = of(trim, top * 0.02, t_fine);
    double step = of(trim, top * 0.04, t_fine) - before;
    for (int i = 2; i < 50; i++) {
        double now = of(trim, top * i / 50, t_fine);
        if ((now - before) * step <= 0) {
            return 0;
        }
        before = now;
    }
    double a = of(trim, top * 0.02, t_fine);
    return fmin(a, before) < low && fmax(a, before) > high;
}

/* Could this be a chip's trim? Pressure and humidity are asked for at both ends of the temperature.
 */
static int is_plausible(const struct trim *trim)
{
    if (!reaches(trim, celsius_of, 0, 0xfffff, -42, 87)) {
        return 0;
    }
    for (int celsius = -40; celsius <= 85; celsius += 25) {
        double t_fine = t_fine_of(trim, search(trim, celsius_of, 0, 0xfffff, celsius, 1));
        if (!reaches(trim, pascal_of, t_fine, 0xfffff, 29000, 111000)
            || !reaches(trim, percent_of, t_fine, 0xffff, -2, 102)) {
            return 0;
        }
    }
    return 1;
}

/* The trim is the factory's: it is there before the power. */
static void power_up(struct pintle_sim_chip *chip)
{
    struct bme280 *s = self(chip);
    struct trim trim = s->trim;
    while (!s->drawn && !is_plausible(&trim)) {
        draw_trim(chip->sim, &trim);
    }
    *s = (struct bme280){ .trim = trim,
                          .drawn = 1,
                          .data = { 0x80, 0, 0, 0x80, 0, 0, 0x80, 0 },
                          .ready = chip->sim->now_us
                                   + (uint64_t)pintle_priv_sim_conversion(chip, 1500, 2000) };
}

static double samples(uint8_t osrs)
{
    static const double counts[8] = { 0, 1, 2, 4, 8, 16, 16, 16 };
    return counts[osrs & 7];
}

/* Appendix 9.1: typical with 1 ms, 2 ms a sample and 0.5 ms, longest with 1.25, 2.3 and 0.575. */
static double measuring_us(const struct bme280 *s, double base, double each, double more)
{
    double t = samples(s->ctrl_meas >> 5);
    double p = samples((s->ctrl_meas >> 2) & 7);
    double h = samples(s->osrs_h);
    return base + each * t + (p > 0 ? each * p + more : 0) + (h > 0 ? each * h + more : 0);
}

static uint32_t longest_us(const struct pintle_sim_chip *chip)
{
    return (uint32_t)measuring_us(state(chip), 1250, 2300, 575);
}

/* Table 1: start-up. */
static uint32_t settles_us(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 2000;
}

static void begin(struct pintle_sim_chip *chip, uint64_t at)
{
    struct bme280 *s = self(chip);
    s->measuring = 1;
    s->ready = at
               + pintle_priv_sim_conversion(chip, measuring_us(s, 1000, 2000, 500),
                                            measuring_us(s, 1250, 2300, 575));
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
    double t = smooth(&s->smooth_t, pintle_sim_sense(chip, TEMPERATURE), s->config, s->filled);
    double p = smooth(&s->smooth_p, pintle_sim_sense(chip, PRESSURE), s->config, s->filled);
    uint32_t adc_T = search(&s->trim, celsius_of, 0, 0xfffff, t, 1);
    double t_fine = t_fine_of(&s->trim, adc_T);
    uint32_t adc_P = search(&s->trim, pascal_of, t_fine, 0xfffff, p, 0);
    uint32_t adc_H = 0x8000;
    if (s->osrs_h & 7) {
        adc_H = search(&s->trim, percent_of, t_fine, 0xffff, pintle_sim_sense(chip, HUMIDITY), 1);
    }
    s->filled = 1;
    put_twenty(s->data, (s->ctrl_meas & 0x1c) ? adc_P : 0x80000);
    put_twenty(s->data + 3, (s->ctrl_meas & 0xe0) ? adc_T : 0x80000);
    s->data[6] = (uint8_t)(adc_H >> 8);
    s->data[7] = (uint8_t)adc_H;
    s->measuring = 0;
}

/* Section 3.3: after a forced measurement it sleeps, in normal mode it stands by (table 27) and
 * measures again. */
static void catch_up(struct pintle_sim_chip *chip)
{
    static const uint32_t standby_us[] = {
        500, 62500, 125000, 250000, 500000, 1000000, 10000, 20000
    };
    struct bme280 *s = self(chip);
    if (!s->measuring || chip->sim->now_us < s->ready) {
        return;
    }
    finish(chip);
    if ((s->ctrl_meas & 3) == 3) {
        begin(chip, chip->sim->now_us + standby_us[s->config >> 5]);
    } else {
        s->ctrl_meas &= 0xfc;
    }
}

/* Table 16: the trim from 88h and from E1h on. */
static uint8_t trim_byte(const struct trim *trim, uint8_t reg)
{
    if (reg < 0x8e) {
        int value = (int)trim->t[1 + (reg - 0x88) / 2];
        return (uint8_t)(reg & 1 ? value >> 8 : value);
    }
    if (reg < 0xa0) {
        int value = (int)trim->p[1 + (reg - 0x8e) / 2];
        return (uint8_t)(reg & 1 ? value >> 8 : value);
    }
    int h2 = (int)trim->h[2];
    int h4 = (int)trim->h[4];
    int h5 = (int)trim->h[5];
    switch (reg) {
    case 0xa1:
        return (uint8_t)(int)trim->h[1];
    case 0xe1:
        return (uint8_t)h2;
    case 0xe2:
        return (uint8_t)(h2 >> 8);
    case 0xe3:
        return (uint8_t)(int)trim->h[3];
    case 0xe4:
        return (uint8_t)(h4 >> 4);
    case 0xe5:
        return (uint8_t)((h4 & 15) | (h5 & 15) << 4);
    case 0xe6:
        return (uint8_t)(h5 >> 4);
    case 0xe7:
        return (uint8_t)(int)trim->h[6];
    default:
        return 0;
    }
}

static uint32_t get(struct pintle_sim_chip *chip, uint8_t reg)
{
    struct bme280 *s = self(chip);
    if ((reg >= 0x88 && reg <= 0x9f)
        || (!is_bmp(chip) && (reg == 0xa1 || (reg >= 0xe1 && reg <= 0xe7)))) {
        return trim_byte(&s->trim, reg);
    }
    if (reg >= 0xf7 && reg <= (is_bmp(chip) ? 0xfc : 0xfe)) {
        return s->data[reg - 0xf7];
    }
    switch (reg) {
    case 0xd0:
        return is_bmp(chip) ? 0x58 : 0x60;
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

static void put(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value)
{
    struct bme280 *s = self(chip);
    if (reg == 0xe0 && value == 0xb6) {
        power_up(chip);
    } else if (reg == 0xf2 && !is_bmp(chip)) {
        s->ctrl_hum = value & 7;
    } else if (reg == 0xf5) {
        s->config = value & 0xfd;
    } else if (reg == 0xf4) {
        s->ctrl_meas = (uint8_t)value;
        s->osrs_h = s->ctrl_hum;
        if (value & 3) {
            begin(chip, chip->sim->now_us);
        }
    }
}

const struct pintle_sim_model pintle_twin_bme280 = {
    .name = "BME280",
    .inputs = { "temperature", "pressure", "humidity" },
    .errors = { 0.5, 60, 1.5 },
    .noises = { 0.005, 1.0, 0.02 },
    .power_up = power_up,
    .map = &map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};

const struct pintle_sim_model pintle_twin_bmp280 = {
    .name = "BMP280",
    .inputs = { "temperature", "pressure" },
    .errors = { 0.5, 60 },
    .noises = { 0.005, 1.0 },
    .power_up = power_up,
    .map = &bmp_map,
    .longest_us = longest_us,
    .settles_us = settles_us,
    PINTLE_SIM_I2C_REGISTERS,
};
