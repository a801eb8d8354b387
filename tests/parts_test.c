/* The parts' computation, from raw bytes, against their datasheets' tables and examples. */
#include "support.h"

static struct pintle_sample decode(const struct pintle_part *part, const uint8_t *settings,
                                   const uint8_t *raw, const uint8_t *trim)
{
    uint8_t initial[PINTLE_MOST_SETTINGS] = { 0 };
    uint8_t whole[PINTLE_MOST_RAW] = { 0 };
    const struct pintle_sheet *sheet = pintle_sheet_find(part->name);
    memcpy(whole, raw, part->raw_size - sheet->repeats);
    repeat_end(sheet, whole);
    const struct pintle_block block = { .raw = whole,
                                        .trim = trim,
                                        .settings = settings ? settings : initial };
    struct pintle_sample sample;
    memset(&sample, 0, sizeof sample);
    pintle_part_initial(part, initial);
    pintle_sample_decode(part, &block, &sample);
    return sample;
}

/* SLOS854 tables 8-1 (12 bits) and 8-2 (13 bits). The 12-bit table gives 128 degC the code of
 * 127.9375, which is the end of the scale. */
static void tmp102_tables(void)
{
    static const struct {
        double celsius;
        uint16_t code;
        uint8_t bits;
        uint8_t quality;
    } rows[] = {
        { 127.9375, 0x7ff, 12, PINTLE_QUALITY_RANGE | PINTLE_QUALITY_SATURATED },
        { 100, 0x640, 12, 0 },
        { 80, 0x500, 12, 0 },
        { 75, 0x4b0, 12, 0 },
        { 50, 0x320, 12, 0 },
        { 25, 0x190, 12, 0 },
        { 0.25, 0x004, 12, 0 },
        { 0, 0x000, 12, PINTLE_QUALITY_POWER_ON },
        { -0.25, 0xffc, 12, 0 },
        { -25, 0xe70, 12, 0 },
        { -55, 0xc90, 12, PINTLE_QUALITY_RANGE },
        { 150, 0x0960, 13, PINTLE_QUALITY_RANGE },
        { 128, 0x0800, 13, PINTLE_QUALITY_RANGE },
        { 127.9375, 0x07ff, 13, PINTLE_QUALITY_RANGE },
        { 100, 0x0640, 13, 0 },
        { 25, 0x0190, 13, 0 },
        { 0.25, 0x0004, 13, 0 },
        { -0.25, 0x1ffc, 13, 0 },
        { -25, 0x1e70, 13, 0 },
        { -55, 0x1c90, 13, PINTLE_QUALITY_RANGE },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
        uint16_t word = (uint16_t)(rows[i].bits == 12 ? rows[i].code << 4 : rows[i].code << 3 | 1);
        const uint8_t raw[] = { (uint8_t)(word >> 8), (uint8_t)word };
        settings[PINTLE_TMP102_FORMAT] = rows[i].bits == 13;
        struct pintle_sample sample = decode(&pintle_tmp102, settings, raw, NULL);
        EXPECT((double)sample.channel[0].value == rows[i].celsius, "%g degC in %u bits: %g",
               rows[i].celsius, rows[i].bits, (double)sample.channel[0].value);
        EXPECT(sample.channel[0].quality == rows[i].quality, "%g degC in %u bits: quality %02x",
               rows[i].celsius, rows[i].bits, sample.channel[0].quality);
    }
}

/* DS25095 section 5.1.3.1: equations 5-1, the flags not being part of the value; the examples of
 * the limits of its range worked out by them. */
static void mcp9808_values(void)
{
    static const struct {
        uint16_t word;
        double celsius;
        uint8_t quality;
    } rows[] = {
        { 0xc194, 25.25, 0 },
        { 0x0194, 25.25, 0 },
        { 0xc7d0, 125, 0 },
        { 0x3fff, -0.0625, 0 },
        { 0x1d80, -40, 0 },
        { 0x1c90, -55, PINTLE_QUALITY_RANGE },
        { 0xe000, 0, PINTLE_QUALITY_POWER_ON },
        { 0x0fff, 255.9375, PINTLE_QUALITY_RANGE | PINTLE_QUALITY_SATURATED },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        const uint8_t raw[] = { (uint8_t)(rows[i].word >> 8), (uint8_t)rows[i].word };
        struct pintle_sample sample = decode(&pintle_mcp9808, NULL, raw, NULL);
        EXPECT((double)sample.channel[0].value == rows[i].celsius, "%04x: %g", rows[i].word,
               (double)sample.channel[0].value);
        EXPECT(sample.channel[0].quality == rows[i].quality, "%04x: quality %02x", rows[i].word,
               sample.channel[0].quality);
    }
}

/* SHT3x-DIS section 4.12: CRC(0xBEEF) = 0x92; the others were worked out apart from this code. */
static void sht31_checksum(void)
{
    static const struct {
        uint8_t bytes[2];
        uint8_t crc;
    } rows[] = { { { 0xbe, 0xef }, 0x92 }, { { 0x00, 0x00 }, 0x81 }, { { 0xff, 0xff }, 0xac } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        EXPECT(pintle_part_crc_over(&pintle_crc8_words, rows[i].bytes, 2) == rows[i].crc,
               "%02x %02x", rows[i].bytes[0], rows[i].bytes[1]);
    }
}

/* SHT3x-DIS section 4.13, worked out in rational numbers. */
/* SHT3x-DIS section 4.13, of 2^16 - 1 steps; SHTC3 section 5.11, of 2^16. */
static void word_values(void)
{
#define BOTH_ENDS (PINTLE_QUALITY_RANGE | PINTLE_QUALITY_SATURATED)
    static const struct {
        const struct pintle_part *part;
        uint16_t st, srh;
        double celsius, percent;
        uint8_t quality[2];
    } rows[] = {
        { &pintle_sht31, 0x0000, 0x0000, -45, 0, { BOTH_ENDS, 0 } },
        { &pintle_sht31, 0xffff, 0xffff, 130, 100, { BOTH_ENDS, 0 } },
        { &pintle_sht31, 0x6666, 0x8000, 25, 50.000763, { 0, 0 } },
        { &pintle_sht31, 0x41d5, 0x3333, 0.0030518, 20, { 0, 0 } },
        { &pintle_shtc3, 0x0000, 0x0000, -45, 0, { BOTH_ENDS, 0 } },
        { &pintle_shtc3, 0xffff, 0xffff, 129.99733, 99.998474, { BOTH_ENDS, 0 } },
        { &pintle_shtc3, 0x6666, 0x8000, 24.998932, 50, { 0, 0 } },
        { &pintle_shtc3, 0x8000, 0x4000, 42.5, 25, { 0, 0 } },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        const uint8_t raw[6] = { (uint8_t)(rows[i].st >> 8),  (uint8_t)rows[i].st,  0,
                                 (uint8_t)(rows[i].srh >> 8), (uint8_t)rows[i].srh, 0 };
        struct pintle_sample sample = decode(rows[i].part, NULL, raw, NULL);
        EXPECT_NEAR(sample.channel[0].value, rows[i].celsius, 2e-5, "temperature");
        EXPECT_NEAR(sample.channel[1].value, rows[i].percent, 2e-5, "humidity");
        EXPECT(sample.channel[0].quality == rows[i].quality[0], "row %zu: T quality %02x", i,
               sample.channel[0].quality);
        EXPECT(sample.channel[1].quality == rows[i].quality[1], "row %zu: RH quality %02x", i,
               sample.channel[1].quality);
    }
}

/* The BMP280's datasheet (BST-BMP280-DS001 section 3.12) works an example in double precision
 * whose formulas the BME280 shares: t_fine = 128422, T = 25.08 degC, p = 100653.27 Pa. The 64-bit
 * integer formula of the same datasheet, worked out in unbounded integers apart from this code,
 * gives 25767233 / 256 = 100653.254 Pa: less than a tenth of the chip's resolution away.
 * The humidity trim is dig_H = 75, 367, 0, 313, 50, 30. */
static const uint8_t example_trim[PINTLE_BME280_TRIM] = {
    0x70, 0x6b, 0x43, 0x67, 0x18, 0xfc, 0x7d, 0x8e, 0x43, 0xd6, 0xd0,
    0x0b, 0x27, 0x0b, 0x8c, 0x00, 0xf9, 0xff, 0x8c, 0x3c, 0xf8, 0xc6,
    0x70, 0x17, 0x00, 0x4b, 0x6f, 0x01, 0x00, 0x13, 0x29, 0x03, 0x1e,
};

static void bme280_example(void)
{
    const uint8_t raw[8] = { 0x65, 0x5a, 0xc0, 0x7e, 0xed, 0x00, 0x80, 0xe8 };
    struct pintle_sample sample = decode(&pintle_bme280, NULL, raw, example_trim);
    CU_ASSERT_EQUAL(sample.channel[PINTLE_BME280_TEMPERATURE].raw, 519888);
    CU_ASSERT_EQUAL(sample.channel[PINTLE_BME280_PRESSURE].raw, 415148);
    EXPECT_NEAR(sample.channel[PINTLE_BME280_TEMPERATURE].value, 25.08, 1e-6, "T");
    EXPECT_NEAR(sample.channel[PINTLE_BME280_PRESSURE].value, 100653.27, 0.021, "p");
}

/* Keeps what a computation reports of itself. */
struct keeper {
    struct pintle_notes notes;
    GString *text;
};

static void keep_whole(struct pintle_notes *notes, const char *symbol, int64_t value)
{
    struct keeper *keeper = (struct keeper *)(void *)notes;
    g_string_append_printf(keeper->text, "%s %lld; ", symbol, (long long)value);
}

/* BST-BMP180-DS000 section 3.5: AC1 = 408 to MD = 2868. */
static const uint8_t bmp180_trim[PINTLE_BMP180_TRIM] = {
    0x01, 0x98, 0xff, 0xb8, 0xc7, 0xd1, 0x7f, 0xe5, 0x7f, 0xf5, 0x5a,
    0x71, 0x18, 0x2e, 0x00, 0x04, 0x80, 0x00, 0xdd, 0xf9, 0x0b, 0x34,
};

/* Every intermediate value, worked out from the same bytes in unbounded integers elsewhere. */
static void every_note(void)
{
    static const struct {
        const char *part;
        uint8_t raw[12];
        const char *notes;
    } rows[] = {
        { "BME280",
          { 0x65, 0x5a, 0xc0, 0x7e, 0xed, 0x00, 0x80, 0xe8 },
          "adc_T 519888; dig_T1 27504; dig_T2 26435; dig_T3 -1000; var1 (T) 128793; var2 (T) -371; "
          "t_fine 128422; T (0.01 degC) 2508; adc_P 415148; dig_P1 36477; dig_P2 -10685; "
          "dig_P3 3024; dig_P4 2855; dig_P5 140; dig_P6 -7; dig_P7 15500; dig_P8 -14600; "
          "dig_P9 6000; var1 (P) 597560748; var2 (P) 98104795527812; "
          "p (before the last terms) 6600644165; var1 (P, last) 116089612; "
          "var2 (P, last) -183810053; p (Q24.8) 25767233; adc_H 33000; dig_H1 75; dig_H2 367; "
          "dig_H3 0; dig_H4 313; dig_H5 50; dig_H6 30; v_x1_u32r 304592593; h (Q22.10) 74363; " },
        { "BMP180",
          { 0x6c, 0xfa, 0x5d, 0x23, 0x00 },
          "UT 27898; AC5 32757; AC6 23153; MC -8711; MD 2868; X1 (T) 4743; X2 (T) -2344; B5 2399; "
          "UP 23843; B6 -1601; X3 (B3) 57; B3 422; X3 (B4) 717; B4 33457; B7 1171050000; "
          "p (before the last terms) 70003; X1 (p) 3454; X2 (p) -7859; T (0.1 degC) 150; "
          "p (Pa) 69964; " },
        { "BMP280",
          { 0x65, 0x5a, 0xc0, 0x7e, 0xed, 0x00 },
          "adc_T 519888; dig_T1 27504; dig_T2 26435; dig_T3 -1000; var1 (T) 128793; var2 (T) -371; "
          "t_fine 128422; T (0.01 degC) 2508; adc_P 415148; dig_P1 36477; dig_P2 -10685; "
          "dig_P3 3024; dig_P4 2855; dig_P5 140; dig_P6 -7; dig_P7 15500; dig_P8 -14600; "
          "dig_P9 6000; var1 (P) 597560748; var2 (P) 98104795527812; "
          "p (before the last terms) 6600644165; var1 (P, last) 116089612; "
          "var2 (P, last) -183810053; p (Q24.8) 25767233; " },
        { "INA219", { 0x5d, 0x82, 0x07, 0xd0 }, "BD 2992; SD 2000; " },
        { "DS18B20",
          { 0x91, 0x01, 0x4b, 0x46, 0x7f, 0xff, 0x0f, 0x10, 0x25 },
          "bits 12; TEMP (sixteenths) 401; " },
        { "DS3231",
          { 0x80, 0x00, 0x19, 0x40, 0x58, 0x31, 0x12, 0x05, 0x14, 0x06, 0x26, 0x26 },
          "stood still 1; year 2026; month 6; day 14; hour 12; minute 31; second 58; " },
        { "DS1307",
          { 0x58, 0x31, 0x12, 0x05, 0x14, 0x06, 0x26, 0x26 },
          "stood still 0; year 2026; month 6; day 14; hour 12; minute 31; second 58; " },
        { "PCF8574", { 0x5a, 0x5a }, "" },
        { "TOF10120I2C", { 2, 0x7b, 2, 0x7b }, "" },
        { "PCF8574A", { 0x5a, 0xa5 }, "" },
        { "HS3001", { 0x1f, 0xff, 0x64, 0x9b, 0x5f, 0xff, 0x64, 0x9b }, "" },
    };
    uint64_t seen = 0;
    for (size_t i = 0; i < COUNT(rows); i++) {
        const struct pintle_part *part = pintle_sheet_find(rows[i].part)->part;
        uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
        struct pintle_sample sample;
        struct keeper keeper = { { keep_whole }, g_string_new(NULL) };
        bool older = strcmp(rows[i].part, "BMP180") == 0;
        const struct pintle_block block = { .raw = rows[i].raw,
                                            .trim = older ? bmp180_trim : example_trim,
                                            .settings = settings,
                                            .notes = &keeper.notes };
        pintle_part_initial(part, settings);
        pintle_sample_decode(part, &block, &sample);
        EXPECT(strcmp(keeper.text->str, rows[i].notes) == 0, "%s: %s", rows[i].part,
               keeper.text->str);
        g_string_free(keeper.text, TRUE);
        part_seen(&seen, part);
    }
    for (size_t p = 0; p < pintle_sheet_count(); p++) { /* the others are linear */
        seen |= (uint64_t)!pintle_sheet_at(p)->part->decode << p;
    }
    expect_all_parts(seen, "notes");
}

/* The humidity formula of appendix 8.1, in double precision, written here once more from the
 * datasheet: an oracle for the integer one. */
static double humidity_oracle(int32_t adc_H, double t_fine)
{
    const double h1 = 75, h2 = 367, h3 = 0, h4 = 313, h5 = 50, h6 = 30;
    double var = t_fine - 76800;
    var = (adc_H - (h4 * 64 + h5 / 16384 * var))
          * (h2 / 65536 * (1 + h6 / 67108864 * var * (1 + h3 / 67108864 * var)));
    var = var * (1 - h1 * var / 524288);
    return var > 100 ? 100 : var < 0 ? 0 : var;
}

static void bme280_humidity(void)
{
    for (int32_t adc_H = 20000; adc_H < 50000; adc_H += 500) {
        const uint8_t raw[8] = { 0x65,          0x5a, 0xc0, 0x7e, 0xed, 0x00, (uint8_t)(adc_H >> 8),
                                 (uint8_t)adc_H };
        struct pintle_sample sample = decode(&pintle_bme280, NULL, raw, example_trim);
        EXPECT_NEAR(sample.channel[PINTLE_BME280_HUMIDITY].value, humidity_oracle(adc_H, 128422),
                    0.05, "humidity");
    }
}

/* Section 5.4: what the data registers hold after a reset and where a quantity is skipped. Without
 * the temperature nothing can be compensated. */
static void bme280_power_on(void)
{
    static const struct {
        const char *name;
        uint8_t raw[8];
        bool marked[3];
    } rows[] = {
        { "all three", { 0x80, 0, 0, 0x80, 0, 0, 0x80, 0 }, { true, true, true } },
        { "temperature", { 0x65, 0x5a, 0xc0, 0x80, 0, 0, 0x80, 0xe8 }, { true, true, true } },
        { "pressure", { 0x80, 0, 0, 0x7e, 0xed, 0, 0x80, 0xe8 }, { false, true, false } },
        { "humidity", { 0x65, 0x5a, 0xc0, 0x7e, 0xed, 0, 0x80, 0x00 }, { false, false, true } },
        { "none", { 0x80, 0, 0x10, 0x80, 0, 0x10, 0x80, 0x01 }, { false, false, false } },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_sample sample = decode(&pintle_bme280, NULL, rows[i].raw, example_trim);
        for (int c = 0; c < 3; c++) {
            bool marked = sample.channel[c].quality & PINTLE_QUALITY_POWER_ON;
            EXPECT(marked == rows[i].marked[c], "%s, channel %d", rows[i].name, c);
        }
    }
}

/* 19-5170: the register map; temperature in quarters of a degree. */
static void ds3231_blocks(void)
{
    static const struct {
        const char *name;
        uint8_t raw[12]; /* status, aging, temperature, seconds .. year */
        double celsius;
        const char *time;
        uint8_t quality;
    } rows[] = {
        { "plain",
          { 0, 0, 0x19, 0x40, 0x30, 0x59, 0x23, 5, 0x31, 0x12, 0x99 },
          25.25,
          "2099-12-31T23:59:30Z",
          0 },
        { "below zero",
          { 0, 0, 0xff, 0xc0, 0, 0, 0, 2, 0x29, 0x02, 0x24 },
          -0.25,
          "2024-02-29T00:00:00Z",
          0 },
        { "the next century",
          { 0, 0, 0, 0, 0, 0, 0, 1, 0x28, 0x82, 0x00 },
          0,
          "2100-02-28T00:00:00Z",
          0 },
        { "beyond what it counts right",
          { 0, 0, 0, 0, 0, 0, 0, 1, 0x01, 0x83, 0x00 },
          0,
          NULL,
          PINTLE_QUALITY_RANGE },
        { "30 February",
          { 0, 0, 0, 0, 0, 0, 0, 1, 0x30, 0x02, 0x26 },
          0,
          NULL,
          PINTLE_QUALITY_RANGE },
        { "31 April", { 0, 0, 0, 0, 0, 0, 0, 1, 0x31, 0x04, 0x26 }, 0, NULL, PINTLE_QUALITY_RANGE },
        { "29 February of no leap year",
          { 0, 0, 0, 0, 0, 0, 0, 1, 0x29, 0x02, 0x25 },
          0,
          NULL,
          PINTLE_QUALITY_RANGE },
        { "29 February of one",
          { 0, 0, 0, 0, 0, 0, 0, 1, 0x29, 0x02, 0x24 },
          0,
          "2024-02-29T00:00:00Z",
          0 },
        { "12 hours and bit 7",
          { 0, 0, 0, 0, 0, 0, 0xd2, 1, 1, 1, 0x26 },
          0,
          NULL,
          PINTLE_QUALITY_RANGE },
        { "nothing but memory", { 0 }, 0, NULL, PINTLE_QUALITY_RANGE | PINTLE_QUALITY_BUS },
        { "12 hours, noon",
          { 0, 0, 0, 0, 0, 0x30, 0x72, 1, 0x12, 0x06, 0x26 },
          0,
          "2026-06-12T12:30:00Z",
          0 },
        { "12 hours, midnight",
          { 0, 0, 0, 0, 0, 0x30, 0x52, 1, 0x12, 0x06, 0x26 },
          0,
          "2026-06-12T00:30:00Z",
          0 },
        { "12 hours, evening",
          { 0, 0, 0, 0, 0, 0, 0x71, 1, 0x12, 0x06, 0x26 },
          0,
          "2026-06-12T23:00:00Z",
          0 },
        { "stopped",
          { 0x88, 0, 0, 0, 0, 0, 0, 1, 1, 1, 0 },
          0,
          "2000-01-01T00:00:00Z",
          PINTLE_QUALITY_POWER_ON },
        { "no BCD", { 0, 0, 0, 0, 0x1f, 0, 0, 1, 1, 1, 0 }, 0, NULL, PINTLE_QUALITY_RANGE },
        { "month 13", { 0, 0, 0, 0, 0, 0, 0, 1, 1, 0x13, 0 }, 0, NULL, PINTLE_QUALITY_RANGE },
        { "12 hours, hour 0",
          { 0, 0, 0, 0, 0, 0, 0x40, 1, 1, 1, 0 },
          0,
          NULL,
          PINTLE_QUALITY_RANGE },
        { "a year past counting",
          { 0, 0, 0, 0, 0, 0, 0, 1, 1, 0x81, 0x40 },
          0,
          NULL,
          PINTLE_QUALITY_RANGE },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        char buffer[40];
        struct pintle_text text;
        struct pintle_sample sample = decode(&pintle_ds3231, NULL, rows[i].raw, NULL);
        const struct pintle_reading *time = &sample.channel[PINTLE_DS3231_TIME];
        pintle_text_init(&text, buffer, sizeof buffer);
        pintle_text_reading(&text, &pintle_ds3231.channels[PINTLE_DS3231_TIME], time);
        EXPECT((sample.channel[0].quality & PINTLE_QUALITY_BUS)
                   ? isnan(sample.channel[0].value)
                   : (double)sample.channel[0].value == rows[i].celsius,
               "%s: temperature", rows[i].name);
        EXPECT(!rows[i].time || strcmp(buffer, rows[i].time) == 0, "%s: %s", rows[i].name, buffer);
        EXPECT(time->quality == rows[i].quality, "%s: quality %02x", rows[i].name, time->quality);
    }
}

/* 19-7487 table 1: the datasheet's ten rows in 12 bits, then what is left of +25.0625 degC where
 * the lower bits are undefined (here: set). The resolution is the chip's (figure 10), whatever was
 * asked for; a finer one than that takes longer than was waited. */
static void ds18b20_table(void)
{
    static const struct {
        uint16_t word;
        uint8_t resolution; /* bit 7: asked for 12 bits; 6: for 9 */
        double celsius;
        pintle_marks quality;
    } rows[] = {
        { 0x07d0, 3, 125, PINTLE_QUALITY_SATURATED },
        { 0x0550, 3, 85, PINTLE_QUALITY_POWER_ON },
        { 0x0191, 3, 25.0625, 0 },
        { 0x00a2, 3, 10.125, 0 },
        { 0x0008, 3, 0.5, 0 },
        { 0x0000, 3, 0, 0 },
        { 0xfff8, 3, -0.5, 0 },
        { 0xff5e, 3, -10.125, 0 },
        { 0xfe6f, 3, -25.0625, 0 },
        { 0xfc90, 3, -55, PINTLE_QUALITY_SATURATED },
        { 0x07cf, 3, 124.9375, 0 },
        { 0xfc91, 3, -54.9375, 0 },
        { 0x0191, 2, 25, 0 },
        { 0x0193, 1, 25, 0 },
        { 0x0197, 0, 25, 0 },
        { 0x0198, 0, 25.5, 0 },
        { 0x0557, 0, 85, PINTLE_QUALITY_POWER_ON },
        { 0xff5f, 0, -10.5, 0 },
        { 0x07f0, 3, 127, PINTLE_QUALITY_RANGE | PINTLE_QUALITY_SATURATED },
        { 0xfc80, 3, -56, PINTLE_QUALITY_RANGE | PINTLE_QUALITY_SATURATED },
        { 0x0197, 0x80, 25, PINTLE_QUALITY_POWER_ON },
        { 0x0191, 0x43, 25.0625, PINTLE_QUALITY_STALE },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        uint8_t is = rows[i].resolution & 3;
        const uint8_t raw[9] = { [0] = (uint8_t)rows[i].word,
                                 [1] = (uint8_t)(rows[i].word >> 8),
                                 [4] = (uint8_t)(is << 5 | 0x1f) };
        uint8_t asked = rows[i].resolution & 0x80 ? 3 : rows[i].resolution & 0x40 ? 0 : is;
        const uint8_t settings[PINTLE_MOST_SETTINGS] = { asked };
        struct pintle_sample sample = decode(&pintle_ds18b20, settings, raw, NULL);
        EXPECT((double)sample.channel[0].value == rows[i].celsius, "%04x at %u: %g", rows[i].word,
               rows[i].resolution, (double)sample.channel[0].value);
        EXPECT(sample.channel[0].quality == rows[i].quality, "%04x: quality %02x", rows[i].word,
               sample.channel[0].quality);
    }
}

/* DS21295 equation 4-2 and figure 5-1: a null bit, ten bits of code, nine of them again. */
static void mcp3008_codes(void)
{
    static const struct {
        uint16_t code;
        uint8_t bytes[3];
        double volts; /* code x 3.3 V / 1024 */
        uint8_t quality;
    } rows[] = { { 0, { 0x00, 0x00, 0x00 }, 0, 0 },
                 { 1, { 0x00, 0x20, 0x00 }, 0.00322266, 0 },
                 { 310, { 0x26, 0xdb, 0x20 }, 0.99902344, 0 },
                 { 512, { 0x40, 0x00, 0x10 }, 1.65, 0 },
                 { 1022, { 0x7f, 0xdf, 0xf0 }, 3.29355469, 0 },
                 { 1023, { 0x7f, 0xff, 0xf0 }, 3.29677734, PINTLE_QUALITY_SATURATED },
                 { 310, { 0x26, 0xdb, 0x30 }, 0.99902344, PINTLE_QUALITY_BUS },
                 { 308, { 0x26, 0x9b, 0x20 }, 0.99257813, PINTLE_QUALITY_BUS },
                 { 310, { 0x26, 0xdb, 0x21 }, 0.99902344, PINTLE_QUALITY_BUS } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        for (unsigned channel = 0; channel < 8; channel++) {
            uint8_t raw[24] = { 0 };
            memcpy(raw + 3 * channel, rows[i].bytes, 3);
            struct pintle_sample sample = decode(&pintle_mcp3008, NULL, raw, NULL);
            if (rows[i].quality & PINTLE_QUALITY_BUS) {
                EXPECT(isnan(sample.channel[channel].value), "no volts");
            } else {
                EXPECT_NEAR(sample.channel[channel].value, rows[i].volts, 1e-6, "volts");
            }
            EXPECT(sample.channel[channel].raw == rows[i].code, "code %u: %d", rows[i].code,
                   sample.channel[channel].raw);
            EXPECT(sample.channel[channel].quality == rows[i].quality, "code %u: quality %02x",
                   rows[i].code, sample.channel[channel].quality);
            EXPECT(sample.channel[(channel + 1) % 8].raw == 0, "its neighbour is another");
        }
    }
}

/* Sensitivities as printed: DS-000189 tables 1 and 2, DocID15094 and DocID16366 table 3. */
static void inertial_scales(void)
{
    static const struct {
        const struct pintle_part *part;
        uint8_t setting, option, channel, at;
        uint8_t raw[2];
        double shown; /* g or deg/s */
        uint8_t quality;
    } rows[] = {
        { &pintle_icm20948, 0, 0, 0, 0, { 0x40, 0x00 }, 1, 0 },
        { &pintle_icm20948, 0, 1, 1, 2, { 0x20, 0x00 }, 1, 0 },
        { &pintle_icm20948, 0, 2, 2, 4, { 0x10, 0x00 }, 1, 0 },
        { &pintle_icm20948, 0, 3, 2, 4, { 0xf8, 0x00 }, -1, 0 },
        { &pintle_icm20948, 0, 0, 0, 0, { 0x7f, 0xff }, 1.99994, PINTLE_QUALITY_SATURATED },
        { &pintle_icm20948, 0, 0, 0, 0, { 0x80, 0x00 }, -2, PINTLE_QUALITY_SATURATED },
        { &pintle_icm20948, 2, 0, 3, 6, { 0x00, 0x83 }, 1, 0 },
        { &pintle_icm20948, 2, 1, 4, 8, { 0x02, 0x8f }, 10, 0 },
        { &pintle_icm20948, 2, 2, 5, 10, { 0x0c, 0xd0 }, 100, 0 },
        { &pintle_icm20948, 2, 3, 5, 10, { 0xbf, 0xf0 }, -1000, 0 },
        { &pintle_lis331dlh, 0, 0, 0, 0, { 0x80, 0x3e }, 1, 0 },
        { &pintle_lis331dlh, 0, 1, 1, 2, { 0x40, 0x1f }, 1, 0 },
        { &pintle_lis331dlh, 0, 2, 2, 4, { 0x00, 0x10 }, 0.9984, 0 },
        { &pintle_lis331dlh, 0, 0, 2, 4, { 0xf0, 0x7f }, 2.047, PINTLE_QUALITY_SATURATED },
        { &pintle_lis331hh, 0, 0, 0, 0, { 0xd0, 0x14 }, 0.999, 0 },
        { &pintle_lis331hh, 0, 1, 1, 2, { 0x60, 0x0a }, 0.996, 0 },
        { &pintle_lis331hh, 0, 2, 2, 4, { 0xd0, 0xfa }, -0.996, 0 },
        { &pintle_lis331hh,
          0,
          2,
          2,
          4,
          { 0x00, 0x80 },
          -24.576,
          PINTLE_QUALITY_SATURATED | PINTLE_QUALITY_RANGE },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        uint8_t raw[PINTLE_MOST_RAW] = { 0 };
        uint8_t settings[PINTLE_MOST_SETTINGS] = { 0 };
        memcpy(raw + rows[i].at, rows[i].raw, 2);
        settings[rows[i].setting] = rows[i].option;
        struct pintle_sample sample = decode(rows[i].part, settings, raw, NULL);
        const struct pintle_reading *reading = &sample.channel[rows[i].channel];
        enum pintle_quantity quantity =
            (enum pintle_quantity)rows[i].part->channels[rows[i].channel].quantity;
        double shown = (double)pintle_unit_show(pintle_quantity_unit(quantity), reading->value);
        EXPECT(fabs(shown - rows[i].shown) <= fabs(rows[i].shown) * 1e-3, "%s, row %u: %g",
               rows[i].part->name, (unsigned)i, shown);
        EXPECT(reading->quality == rows[i].quality, "%s, row %u: quality %02x", rows[i].part->name,
               (unsigned)i, reading->quality);
    }
}

/* Comes last. */
void add_parts_suite(void)
{
    SUITE("parts", { "TMP102: the datasheet's tables", tmp102_tables },
          { "MCP9808: values and flags", mcp9808_values },
          { "SHT31: the datasheet's CRC", sht31_checksum }, { "SHT31, SHTC3: values", word_values },
          { "BME280: the worked example", bme280_example },
          { "BME280: humidity against double precision", bme280_humidity },
          { "BME280: power-on values", bme280_power_on },
          { "DS3231: time and temperature", ds3231_blocks }, { "every note", every_note },
          { "DS18B20: the datasheet's table", ds18b20_table }, { "MCP3008: codes", mcp3008_codes },
          { "inertial scales", inertial_scales });
}
