/* BME280, datasheet BST-BME280-DS002, and BMP280, BST-BMP280-DS001, which is the same without
 * humidity. Compensation: section 4.2.3 (of the BMP280 3.11.3), the 32-bit integer formulas for
 * temperature and humidity and the 64-bit one for pressure. Products that only impossible trim
 * could make overflow wrap around, as the datasheet's code does on its own machine. */
#include "pintle/parts/bme280.h"

#define ID 0xd0
#define RESET 0xe0
#define CTRL_HUM 0xf2
#define STATUS 0xf3
#define CTRL_MEAS 0xf4
#define CONFIG 0xf5
#define PRESS_MSB 0xf7
#define TRIM_LOW 0x88  /* dig_T1 to dig_H1, with one reserved byte */
#define TRIM_HIGH 0xe1 /* dig_H2 to dig_H6 */

#define IM_UPDATE 0x01
#define MEASURING 0x08
#define FORCED 0x01

static const uint8_t addresses[] PINTLE_TABLE = { 0x76, 0x77 };

/* Appendix 9.1: the longest measurement is 1.25 + 2.3 T + (2.3 P + 0.575) + (2.3 H + 0.575) ms. */
#define BASE_US (1250 + 575 + 575)

PINTLE_OPTIONS(oversampling, PINTLE_BME280_OVERSAMPLING_OPTIONS);
PINTLE_OPTIONS(filters, PINTLE_BME280_FILTER_OPTIONS);

static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_BME280_TEMPERATURE_OVERSAMPLING] = { CTRL_MEAS, 5, 5, PINTLE_BME280_X1, oversampling,
                                                 NULL },
    [PINTLE_BME280_PRESSURE_OVERSAMPLING] = { CTRL_MEAS, 2, 5, PINTLE_BME280_X1, oversampling,
                                              NULL },
    [PINTLE_BME280_HUMIDITY_OVERSAMPLING] = { CTRL_HUM, 0, 5, PINTLE_BME280_X1, oversampling,
                                              NULL },
    [PINTLE_BME280_FILTER] = { CONFIG, 2, 5, PINTLE_BME280_FILTER_OFF, filters, NULL },
};

static const struct pintle_setting bmp_settings[] PINTLE_TABLE = {
    [PINTLE_BMP280_TEMPERATURE_OVERSAMPLING] = { CTRL_MEAS, 5, 5, PINTLE_BME280_X1, oversampling,
                                                 NULL },
    [PINTLE_BMP280_PRESSURE_OVERSAMPLING] = { CTRL_MEAS, 2, 5, PINTLE_BME280_X1, oversampling,
                                              NULL },
    [PINTLE_BMP280_FILTER] = { CONFIG, 2, 5, PINTLE_BME280_FILTER_OFF, filters, NULL },
};

static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(ID, 1, 0xff, 0x60),
    PINTLE_END(),
};
static const struct pintle_step bmp_identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(ID, 1, 0xff, 0x58),
    PINTLE_END(),
};

#define RESTART                                                                                    \
    PINTLE_WRITE_PLAIN(RESET, 1, 0xb6), PINTLE_WAIT(2000), PINTLE_POLL(STATUS, IM_UPDATE, 0, 50)
static const struct pintle_step setup[] PINTLE_TABLE = {
    RESTART,
    PINTLE_TRIM(TRIM_LOW, 26),
    PINTLE_TRIM(TRIM_HIGH, 7),
    PINTLE_WRITE(CONFIG, 1, 0),
    PINTLE_WRITE(CTRL_HUM, 1, 0), /* takes effect with the next write of CTRL_MEAS */
    PINTLE_END(),
};
static const struct pintle_step bmp_setup[] PINTLE_TABLE = {
    RESTART,
    PINTLE_TRIM(TRIM_LOW, PINTLE_BMP280_TRIM),
    PINTLE_WRITE(CONFIG, 1, 0),
    PINTLE_END(),
};

/* Behind it CTRL_MEAS holds the oversampling; after power-up it holds none. */
#define MEASURE(base_us, bytes)                                                                    \
    {                                                                                              \
        PINTLE_WRITE(CTRL_MEAS, 1, FORCED), PINTLE_WAIT_SETTINGS(base_us),                         \
            PINTLE_POLL(STATUS, MEASURING, 0, 100), PINTLE_READ(PRESS_MSB, bytes),                 \
            PINTLE_EXPECT(CTRL_MEAS, 1, 0xfc, 0), PINTLE_VACANT(), PINTLE_END()                    \
    }
static const struct pintle_step measure[] PINTLE_TABLE = MEASURE(BASE_US, 8);
static const struct pintle_step bmp_measure[] PINTLE_TABLE = MEASURE(BASE_US - 575, 6);

static uint16_t u16(const uint8_t *at)
{
    return (uint16_t)(at[0] | (uint16_t)at[1] << 8);
}

static int32_t s16(const uint8_t *at)
{
    return (int16_t)u16(at);
}

static int32_t s8(uint8_t bits)
{
    return (int32_t)bits - ((bits & 0x80) ? 0x100 : 0);
}

static int32_t s12(uint16_t bits)
{
    return (int32_t)bits - ((bits & 0x800) ? 0x1000 : 0);
}

static int32_t mul(int32_t a, int32_t b)
{
    return (int32_t)((uint32_t)a * (uint32_t)b);
}

static int32_t add(int32_t a, int32_t b)
{
    return (int32_t)((uint32_t)a + (uint32_t)b);
}

static int32_t sub(int32_t a, int32_t b)
{
    return (int32_t)((uint32_t)a - (uint32_t)b);
}

static int64_t mul64(int64_t a, int64_t b)
{
    return (int64_t)((uint64_t)a * (uint64_t)b);
}

static int64_t add64(int64_t a, int64_t b)
{
    return (int64_t)((uint64_t)a + (uint64_t)b);
}

/* Left-justified 20 bits in three bytes. */
static int32_t twenty(const uint8_t *at)
{
    return (int32_t)((uint32_t)at[0] << 12 | (uint32_t)at[1] << 4 | at[2] >> 4);
}

/* Returns t_fine. */
static int32_t temperature(const struct pintle_block *block, int32_t adc_T)
{
    int32_t dig_T1 = u16(block->trim);
    int32_t dig_T2 = s16(block->trim + 2);
    int32_t dig_T3 = s16(block->trim + 4);
    int32_t var1 = mul((adc_T >> 3) - dig_T1 * 2, dig_T2) >> 11;
    int32_t rest = (adc_T >> 4) - dig_T1;
    int32_t var2 = mul(mul(rest, rest) >> 12, dig_T3) >> 14;
    PINTLE_NOTE(block->notes, "adc_T", adc_T);
    PINTLE_NOTE(block->notes, "dig_T1", dig_T1);
    PINTLE_NOTE(block->notes, "dig_T2", dig_T2);
    PINTLE_NOTE(block->notes, "dig_T3", dig_T3);
    PINTLE_NOTE(block->notes, "var1 (T)", var1);
    PINTLE_NOTE(block->notes, "var2 (T)", var2);
    PINTLE_NOTE(block->notes, "t_fine", var1 + var2);
    return var1 + var2;
}

/* Returns the pressure in Pa as Q24.8, or 0 where it cannot be worked out. */
static int64_t pressure(const struct pintle_block *block, int32_t adc_P, int32_t t_fine)
{
    const uint8_t *p = block->trim + 6;
    int64_t var1 = (int64_t)t_fine - 128000;
    int64_t var2 = var1 * var1 * s16(p + 10);
    var2 += var1 * s16(p + 8) * ((int64_t)1 << 17);
    var2 += s16(p + 6) * ((int64_t)1 << 35);
    var1 = ((var1 * var1 * s16(p + 4)) >> 8) + var1 * s16(p + 2) * ((int64_t)1 << 12);
    var1 = mul64(((int64_t)1 << 47) + var1, u16(p)) >> 33;
    PINTLE_NOTE(block->notes, "adc_P", adc_P);
#if PINTLE_WORKING
    static const char *const names[] = { "dig_P1", "dig_P2", "dig_P3", "dig_P4", "dig_P5",
                                         "dig_P6", "dig_P7", "dig_P8", "dig_P9" };
    for (int i = 0; i < 9; i++) {
        PINTLE_NOTE(block->notes, names[i], i == 0 ? (int64_t)u16(p) : s16(p + 2 * i));
    }
#endif
    PINTLE_NOTE(block->notes, "var1 (P)", var1);
    PINTLE_NOTE(block->notes, "var2 (P)", var2);
    if (var1 <= 0) {
        return 0;
    }
    int64_t result = mul64((int64_t)(1048576 - adc_P) * ((int64_t)1 << 31) - var2, 3125) / var1;
    var1 = mul64(mul64(s16(p + 16), result >> 13), result >> 13) >> 25;
    var2 = mul64(s16(p + 14), result) >> 19;
    PINTLE_NOTE(block->notes, "p (before the last terms)", result);
    PINTLE_NOTE(block->notes, "var1 (P, last)", var1);
    PINTLE_NOTE(block->notes, "var2 (P, last)", var2);
    result = (add64(add64(result, var1), var2) >> 8) + s16(p + 12) * 16;
    PINTLE_NOTE(block->notes, "p (Q24.8)", result);
    return result;
}

/* Returns the relative humidity in %RH as Q22.10. */
static int32_t humidity(const struct pintle_block *block, int32_t adc_H, int32_t t_fine)
{
    const uint8_t *high = block->trim + 26;
    int32_t dig_H1 = block->trim[25];
    int32_t dig_H2 = s16(high);
    int32_t dig_H3 = high[2];
    int32_t dig_H4 = s12((uint16_t)(high[3] << 4 | (high[4] & 0x0f)));
    int32_t dig_H5 = s12((uint16_t)(high[5] << 4 | high[4] >> 4));
    int32_t dig_H6 = s8(high[6]);
    int32_t v = t_fine - 76800;
    int32_t left = sub(sub(adc_H * 16384, mul(dig_H4, 1048576)), mul(dig_H5, v));
    int32_t right = mul(mul(v, dig_H6) >> 10, add(mul(v, dig_H3) >> 11, 32768)) >> 10;
    right = add(mul(add(right, 2097152), dig_H2), 8192) >> 14;
    PINTLE_NOTE(block->notes, "adc_H", adc_H);
    PINTLE_NOTE(block->notes, "dig_H1", dig_H1);
    PINTLE_NOTE(block->notes, "dig_H2", dig_H2);
    PINTLE_NOTE(block->notes, "dig_H3", dig_H3);
    PINTLE_NOTE(block->notes, "dig_H4", dig_H4);
    PINTLE_NOTE(block->notes, "dig_H5", dig_H5);
    PINTLE_NOTE(block->notes, "dig_H6", dig_H6);
    v = mul(add(left, 16384) >> 15, right);
    int32_t square = mul(v >> 15, v >> 15);
    v = sub(v, mul(square >> 7, dig_H1) >> 4);
    v = v < 0 ? 0 : v;
    v = v > 419430400 ? 419430400 : v;
    PINTLE_NOTE(block->notes, "v_x1_u32r", v);
    PINTLE_NOTE(block->notes, "h (Q22.10)", v >> 12);
    return v >> 12;
}

/* Sections 3.3 and 5.4: what a data register holds before the first measurement, and whenever its
 * quantity is skipped, because the chip has lost its settings. A true reading of just that is
 * marked too; that costs one reading. */
static pintle_marks skipped(int32_t adc, int32_t code)
{
    return adc == code ? PINTLE_QUALITY_POWER_ON : 0;
}

/* A float of a 64-bit integer would pull double precision into small machines. No pressure that the
 * formula yields for true trim is beyond this. */
static int32_t small(int64_t q)
{
    return q < 0 ? 0 : q > INT32_MAX ? INT32_MAX : (int32_t)q;
}

/* An erased or a lost trim: nothing but ones, or zeros. */
static pintle_marks erased(const uint8_t *trim)
{
    uint8_t i = 1;
    while (i < PINTLE_BMP280_TRIM && trim[i] == trim[0]) {
        i++;
    }
    return i == PINTLE_BMP280_TRIM && (trim[0] == 0x00 || trim[0] == 0xff) ? PINTLE_QUALITY_BUS : 0;
}

#define LOWEST (-4000) /* 0.01 degC */
#define HIGHEST 8500

/* Temperature and pressure. Returns t_fine; *quality: the others hang on the temperature. */
static int32_t decode_both(const struct pintle_block *block, struct pintle_reading *readings,
                           pintle_marks *quality)
{
    int32_t adc_P = twenty(block->raw);
    int32_t adc_T = twenty(block->raw + 3);
    int32_t t_fine = temperature(block, adc_T);
    int32_t T = (t_fine * 5 + 128) >> 8;
    PINTLE_NOTE(block->notes, "T (0.01 degC)", T);
    int64_t p = pressure(block, adc_P, t_fine);
    *quality = erased(block->trim) | skipped(adc_T, 0x80000);
    *quality |= T < LOWEST || T > HIGHEST ? PINTLE_QUALITY_RANGE : 0;
    readings[PINTLE_BME280_TEMPERATURE] =
        (struct pintle_reading){ pintle_part_value(T, 100, 2), adc_T, *quality };
    readings[PINTLE_BME280_PRESSURE] =
        (struct pintle_reading){ pintle_part_value(small(p), 256, 1), adc_P,
                                 *quality | skipped(adc_P, 0x80000) };
    return t_fine;
}

static void decode(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings)
{
    (void)part;
    pintle_marks quality = 0;
    int32_t t_fine = decode_both(block, readings, &quality);
    int32_t adc_H = (int32_t)((uint16_t)block->raw[6] << 8 | block->raw[7]);
    int32_t h = humidity(block, adc_H, t_fine);
    readings[PINTLE_BME280_HUMIDITY] =
        (struct pintle_reading){ pintle_part_value(h, 1024, 2), adc_H,
                                 quality | skipped(adc_H, 0x8000) };
}

static void bmp_decode(const struct pintle_part *part, const struct pintle_block *block,
                       struct pintle_reading *readings)
{
    (void)part;
    pintle_marks quality = 0;
    (void)decode_both(block, readings, &quality);
}

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("temperature", TEMPERATURE, 2, -40, 85, NULL, .at = 3),
    PINTLE_CHANNEL("pressure", PRESSURE, 1, 30000, 110000, NULL, .at = 0),
    PINTLE_CHANNEL("humidity", HUMIDITY, 2, 0, 100, NULL, .at = 6),
};

const struct pintle_part pintle_bme280 PINTLE_TABLE = {
    .name = "BME280",
    .flags = PINTLE_PART_FIRST_SUSPECT | PINTLE_PART_FORGETS,
    .raw_size = 8,
    .trim_size = PINTLE_BME280_TRIM,
    .channel_count = 3,
    .setting_count = 4,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .settings = settings,
    .channels = channels,
    .decode = decode,
};

const struct pintle_part pintle_bmp280 PINTLE_TABLE = {
    .name = "BMP280",
    .flags = PINTLE_PART_FIRST_SUSPECT | PINTLE_PART_FORGETS,
    .raw_size = 6,
    .trim_size = PINTLE_BMP280_TRIM,
    .channel_count = 2,
    .setting_count = 3,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = bmp_identity,
    .setup = bmp_setup,
    .measure = bmp_measure,
    .rare = pintle_part_steps_rare,
    .settings = bmp_settings,
    .channels = channels,
    .decode = bmp_decode,
};
