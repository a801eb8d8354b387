/* Which bytes are no measurement: an oracle for each part, written once more from its datasheet,
 * says what must be marked, and random bytes ask both. A part without one fails. */
#include "support.h"

#include "pintle/sheet.h"

#define POWER_ON PINTLE_QUALITY_POWER_ON
#define RANGE PINTLE_QUALITY_RANGE
#define SATURATED PINTLE_QUALITY_SATURATED
#define BUS PINTLE_QUALITY_BUS
#define STALE PINTLE_QUALITY_STALE

struct asked {
    const uint8_t *raw, *trim, *settings;
    pintle_marks marks[PINTLE_MOST_CHANNELS];
    uint16_t unsure; /* a channel's bit: its value is too near an end of its range to be sure */
};

static int be16(const uint8_t *at)
{
    int word = at[0] * 256 + at[1];
    return word < 32768 ? word : word - 65536;
}

static int le16(const uint8_t *at)
{
    const uint8_t swapped[2] = { at[1], at[0] };
    return be16(swapped);
}

static uint16_t beyond(double value, double lowest, double highest)
{
    return value < lowest || value > highest ? RANGE : 0;
}

static bool all(const uint8_t *bytes, unsigned count, uint8_t value)
{
    for (unsigned i = 0; i < count; i++) {
        if (bytes[i] != value) {
            return false;
        }
    }
    return true;
}

/* SLOS854 8.5.2: the low bits of the word tell the formats apart, 0 is what comes first. */
static void tmp102(struct asked *a)
{
    bool wide = a->settings[1] == 1;
    int low = a->raw[1] & (wide ? 7 : 15);
    int code = (int)floor(be16(a->raw) / (wide ? 8.0 : 16.0));
    int end = wide ? 4096 : 2048;
    a->marks[0] = beyond(code / 16.0, -40, 125);
    a->marks[0] |= low != (wide ? 1 : 0) || code == 0 ? POWER_ON : 0;
    a->marks[0] |= code <= -end || code >= end - 1 ? SATURATED : 0;
}

/* DS25095 register 5-4. */
static void mcp9808(struct asked *a)
{
    int code = (a->raw[0] & 0x0f) * 256 + a->raw[1] - (a->raw[0] & 0x10 ? 4096 : 0);
    a->marks[0] = beyond(code / 16.0, -40, 125);
    a->marks[0] |= code == 0 ? POWER_ON : 0;
    a->marks[0] |= code == -4096 || code == 4095 ? SATURATED : 0;
}

/* SHT3x-DIS 4.13. */
static void sht31(struct asked *a)
{
    int code = a->raw[0] * 256 + a->raw[1];
    a->marks[0] = beyond(-45 + 175 * code / 65535.0, -40, 125);
    a->marks[0] |= code == 0 || code == 65535 ? SATURATED : 0;
    a->marks[1] = 0;
}

/* SHTC3 5.11: likewise, of 2^16. */
static void shtc3(struct asked *a)
{
    int code = a->raw[0] * 256 + a->raw[1];
    a->marks[0] = beyond(-45 + 175 * code / 65536.0, -40, 125);
    a->marks[0] |= code == 0 || code == 65535 ? SATURATED : 0;
    a->marks[1] = 0;
}

/* BST-BME280-DS002 5.4, and appendix 8.1 for the ranges. */
static void bme280(struct asked *a)
{
    const uint8_t *t = a->trim;
    double adc_P = a->raw[0] * 4096 + a->raw[1] * 16 + a->raw[2] / 16;
    double adc_T = a->raw[3] * 4096 + a->raw[4] * 16 + a->raw[5] / 16;
    int adc_H = a->raw[6] * 256 + a->raw[7];
    double T1 = t[0] + t[1] * 256, T2 = le16(t + 2), T3 = le16(t + 4);
    double x = adc_T / 16384 - T1 / 1024;
    double y = adc_T / 131072 - T1 / 8192;
    double t_fine = x * T2 + y * y * T3;
    double v1 = t_fine / 2 - 64000;
    double v2 = v1 * v1 * le16(t + 16) / 32768 + v1 * le16(t + 14) * 2;
    v2 = v2 / 4 + le16(t + 12) * 65536.0;
    v1 = (le16(t + 10) * v1 * v1 / 524288 + le16(t + 8) * v1) / 524288;
    v1 = (1 + v1 / 32768) * (t[6] + t[7] * 256);
    double p = (1048576 - adc_P - v2 / 4096) * 6250 / v1;
    p += (le16(t + 22) * p * p / 2147483648.0 + p * le16(t + 20) / 32768 + le16(t + 18)) / 16;
    double celsius = t_fine / 5120;
    bool cold = adc_T == 0x80000;
    /* The others are worked out with the temperature; humidity's formula ends at 0 and 100 %RH. */
    a->marks[0] = (pintle_marks)(beyond(celsius, -40, 85) | (cold ? POWER_ON : 0));
    a->marks[1] = (pintle_marks)(a->marks[0] | beyond(p, 30000, 110000));
    a->marks[1] |= adc_P == 0x80000 ? POWER_ON : 0;
    a->marks[2] = (pintle_marks)(a->marks[0] | (adc_H == 0x8000 ? POWER_ON : 0));
    a->unsure |= fabs(celsius + 40) < 0.02 || fabs(celsius - 85) < 0.02 ? 7 : 0;
    a->unsure |= fabs(p - 30000) < 30 || fabs(p - 110000) < 110 ? 2 : 0;
}

static void bmp280(struct asked *a)
{
    uint8_t raw[8] = { 0 };
    memcpy(raw, a->raw, 6);
    struct asked both = { .raw = raw, .trim = a->trim, .settings = a->settings };
    bme280(&both);
    a->marks[0] = both.marks[0];
    a->marks[1] = both.marks[1];
    a->unsure = both.unsure & 3;
}

static int be_trim(const struct asked *a, int word)
{
    return be16(a->trim + 2 * word);
}

/* BST-BMP180-DS000 3.5, as real numbers; 0 stands where nothing was converted. */
static void bmp180(struct asked *a)
{
    int oss = a->settings[0];
    double UT = a->raw[0] * 256 + a->raw[1];
    double UP = floor((a->raw[2] * 65536 + a->raw[3] * 256 + a->raw[4]) / pow(2, 8 - oss));
    double ac4 = be_trim(a, 3) & 0xffff, ac5 = be_trim(a, 4) & 0xffff, ac6 = be_trim(a, 5) & 0xffff;
    double x1 = (UT - ac6) * ac5 / 32768;
    double b5 = x1 + be_trim(a, 9) * 2048.0 / (x1 + be_trim(a, 10));
    double b6 = b5 - 4000;
    double b3 = be_trim(a, 0) * 4 + be_trim(a, 7) * b6 * b6 / 8388608 + be_trim(a, 1) * b6 / 2048;
    b3 = (b3 * (1 << oss) + 2) / 4;
    double x3 = be_trim(a, 2) * b6 / 8192 + be_trim(a, 6) * b6 * b6 / 268435456;
    double b4 = ac4 * ((x3 + 2) / 4 + 32768) / 32768;
    double p = (UP - b3) * (50000 >> oss) * 2 / b4;
    p += (p / 256 * p / 256 * 3038 / 65536 - 7357 * p / 65536 + 3791) / 16;
    double celsius = (b5 + 8) / 160;
    a->marks[0] = (pintle_marks)(beyond(celsius, -40, 85) | (UT == 0x8000 ? POWER_ON : 0));
    a->marks[1] = (pintle_marks)(a->marks[0] | beyond(p, 30000, 110000));
    a->marks[1] |= a->raw[2] == 0x80 && a->raw[3] == 0 ? POWER_ON : 0;
    a->marks[1] |=
        a->raw[2] == a->raw[0] && a->raw[3] == a->raw[1] ? POWER_ON : 0; /* one register */
    a->unsure |= fabs(celsius + 40) < 0.2 || fabs(celsius - 85) < 0.2 ? 3 : 0;
    a->unsure |= fabs(p - 30000) < 60 || fabs(p - 110000) < 150 ? 2 : 0;
    a->unsure |= fabs(x1 + be_trim(a, 10)) < 300 ? 3 : 0; /* where it divides by next to nothing */
    a->unsure |=
        !(fabs(b6) < 30000) || UP < b3 || p > 300000 ? 2 : 0; /* the integers wrap around */
}

/* Sixteen bits each; a thermometer for itself. */
static uint16_t sixteen(int code)
{
    return code == -32768 || code == 32767 ? SATURATED : 0;
}

/* What nobody sends who measures: every bit the same. */
static uint16_t silence(const uint8_t *raw, int count)
{
    int zeros = 0;
    int ones = 0;
    for (int i = 0; i < count; i++) {
        zeros += raw[i] == 0;
        ones += raw[i] == 0xff;
    }
    return zeros == count || ones == count ? BUS : 0;
}

/* RM 4.16: bit 0 of the byte in front says that the data are new. */
static void mpu6050(struct asked *a)
{
    for (int c = 0; c < 7; c++) {
        a->marks[c] = (pintle_marks)(sixteen(be16(a->raw + 1 + 2 * c)) | (a->raw[0] & 1 ? 0 : STALE)
                                     | silence(a->raw + 1, 14));
    }
    a->marks[3] |= beyond(be16(a->raw + 7) / 340.0 + 36.53, -40, 85);
}

static void bmi160(struct asked *a)
{
    for (int c = 0; c < 7; c++) {
        a->marks[c] = (pintle_marks)(sixteen(le16(a->raw + 2 * c)) | silence(a->raw, 14));
    }
    int t = le16(a->raw + 12);
    a->marks[6] |= beyond(23 + t / 512.0, -40, 85);
    a->marks[6] |= t == -32768 ? POWER_ON : 0;
}

/* SBAS444 9.6.2: both ends of the scale; the inputs' own limits. */
static void ads1115(struct asked *a)
{
    static const double scales[] = { 6.144, 4.096, 2.048, 1.024, 0.512, 0.256 };
    for (int c = 0; c < 6; c++) {
        int code = be16(a->raw + 2 * c);
        double volts = code / 32768.0 * scales[a->settings[0]];
        a->marks[c] = beyond(volts, c < 4 ? -0.3 : -5.8, 5.8);
        a->marks[c] |= code == -32768 || code == 32767 ? SATURATED : 0;
        bool at_end = fabs(fabs(volts) - 0.3) < 1e-4 || fabs(fabs(volts) - 5.8) < 1e-4;
        a->unsure |= (uint16_t)(at_end ? 1u << c : 0u);
    }
}

/* Rev. G, table 1: ten bits, or 256 counts per g up to 16 g. */
static void adxl345(struct asked *a)
{
    int range = a->settings[1];
    int end = a->settings[0] ? 512 << range : 512;
    double per_g = a->settings[0] ? 256 : 256 >> range;
    for (int c = 0; c < 3; c++) {
        int code = le16(a->raw + 2 * c);
        a->marks[c] = beyond(code / per_g, -16, 16);
        a->marks[c] |= code <= -end || code >= end - 1 ? SATURATED : 0;
        a->marks[c] |= silence(a->raw, 6);
        a->unsure |= (uint16_t)(fabs(fabs(code / per_g) - 16) < 0.01 ? 1u << c : 0u);
    }
}

/* SBOS448 8.6: where the scales end, and what CNVR and OVF say. */
static void ina219(struct asked *a)
{
    int bus = (a->raw[0] * 256 + a->raw[1]) / 8;
    int shunt = be16(a->raw + 2);
    bool over = (a->raw[1] & 1) || bus >= (a->settings[0] ? 8000 : 4000);
    uint16_t old = (uint16_t)((a->raw[1] & 2 ? 0 : STALE) | (a->raw[1] & 4 ? BUS : 0));
    bool full = abs(shunt) >= 4000 << a->settings[1];
    a->marks[0] = (pintle_marks)(beyond(bus * 0.004, 0, 26) | old | (over ? SATURATED : 0));
    a->marks[1] = (pintle_marks)(old | (full ? SATURATED : 0));
    a->marks[2] = (pintle_marks)(beyond(bus * 0.004, 0, 26) | old | (full || over ? SATURATED : 0));
    a->marks[3] = (pintle_marks)(old | beyond(shunt * 1e-5, -0.32, 0.32) | (full ? SATURATED : 0));
    a->unsure |= abs(shunt) == 32000 ? 8 : 0;
    a->unsure |= bus == 6500 ? 5 : 0;
}

/* 84323: the formula above 1000 lx. */
static void veml7700(struct asked *a)
{
    static const double gains[] = { 1, 2, 0.125, 0.25 };
    static const double times[] = { 25, 50, 100, 200, 400, 800 };
    int code = a->raw[0] + 256 * a->raw[1];
    double x = code * 0.0036 * 800 / times[a->settings[1]] * 2 / gains[a->settings[0]];
    double lux =
        x <= 1000 ? x
                  : 6.0135e-13 * pow(x, 4) - 9.3924e-9 * pow(x, 3) + 8.1488e-5 * x * x + 1.0023 * x;
    a->marks[0] = beyond(lux, 0, 120000);
    a->marks[0] |= code == 65535 ? SATURATED : 0;
    a->marks[1] = a->raw[2] == 255 && a->raw[3] == 255 ? SATURATED : 0;
    a->unsure |= fabs(lux - 120000) < 5 || fabs(x - 1000) < 0.01 ? 1 : 0;
}

/* R36DS0010 6.7, table 7. */
static void hs3001(struct asked *a)
{
    int status = a->raw[0] / 64;
    uint16_t both = status == 1 ? STALE : status > 1 ? BUS : 0;
    bool same = a->raw[0] % 64 == a->raw[4] % 64 && a->raw[1] == a->raw[5] && a->raw[2] == a->raw[6]
                && a->raw[3] / 4 == a->raw[7] / 4;
    both |= same ? 0 : BUS;
    both |= a->raw[0] ? 0 : silence(a->raw, 8);
    int t = (a->raw[2] * 256 + a->raw[3]) / 4;
    a->marks[0] = both | (t == 0 || t == 16383 ? SATURATED : 0);
    a->marks[1] = both;
}

/* SHT4x 4.6. */
static void sht40(struct asked *a)
{
    int t = a->raw[0] * 256 + a->raw[1];
    int h = a->raw[3] * 256 + a->raw[4];
    a->marks[0] = beyond(-45 + 175 * t / 65535.0, -40, 125);
    a->marks[0] |= t == 0 || t == 65535 ? SATURATED : 0;
    a->marks[1] = h == 0 || h == 65535 ? SATURATED : 0;
}

static bool is_bcd(int byte, int lowest, int highest)
{
    int value = byte / 16 * 10 + byte % 16;
    return byte % 16 < 10 && byte / 16 < 10 && value >= lowest && value <= highest;
}

/* Do seven registers of a clock hold a time? GLib knows the calendar. */
static bool is_time(const uint8_t *r, int century, int last_year, int last_month)
{
    bool hour = r[2] & 0x40 ? !(r[2] & 0x80) && is_bcd(r[2] & 0x1f, 1, 12) : is_bcd(r[2], 0, 23);
    int month = (r[5] & ~century) / 16 * 10 + r[5] % 16;
    int day = r[4] / 16 * 10 + r[4] % 16;
    int year = 2000 + r[6] / 16 * 10 + r[6] % 16 + (r[5] & century ? 100 : 0);
    bool date = is_bcd(r[4], 1, 31) && is_bcd((uint8_t)(r[5] & ~century), 1, 12)
                && is_bcd(r[6], 0, 99)
                && g_date_valid_dmy((GDateDay)day, (GDateMonth)month, (GDateYear)year)
                && (year < last_year || (year == last_year && month <= last_month));
    return is_bcd(r[0], 0, 59) && is_bcd(r[1], 0, 59) && hour && date;
}

/* 19-5170 figure 1: what no register of a clock can hold. */
static void ds3231(struct asked *a)
{
    const uint8_t *r = a->raw + 4;
    int code = (int)floor(be16(a->raw + 2) / 64.0);
    bool memory = r[3] == 0 || r[4] == 0 || (r[5] & 0x1f) == 0;
    a->marks[0] = beyond(code / 4.0, -40, 85);
    a->marks[0] |= code == -512 || code == 511 ? SATURATED : 0;
    a->marks[0] |= (a->raw[0] & 4) && a->raw[2] == 0 && a->raw[3] == 0 ? POWER_ON : 0;
    a->marks[0] |= memory || (a->raw[3] & 0x3f) ? BUS : 0;
    a->marks[1] = is_time(r, 0x80, 2100, 2) ? (a->raw[0] & 0x80 ? POWER_ON : 0) : RANGE;
    a->marks[1] |= memory || r[6] != r[7] ? BUS : 0;
}

/* 19-5046 table 2: CH beside the seconds. */
static void ds1307(struct asked *a)
{
    uint8_t r[7];
    memcpy(r, a->raw, sizeof r);
    r[0] &= 0x7f;
    a->marks[0] = is_time(r, 0, 2099, 12) ? (a->raw[0] & 0x80 ? POWER_ON : 0) : RANGE;
    a->marks[0] |= a->raw[6] != a->raw[7] ? BUS : 0;
}

/* Manual, section 4: "L=740mm", up to nine digits; 2000 is nothing seen. */
static void tof10120(struct asked *a)
{
    char digits[12] = "";
    unsigned used = 0;
    memcpy(digits, a->raw + 2, 10);
    bool ok = true;
    unsigned sign = digits[0] == '-';
    while (g_ascii_isdigit(digits[sign + used]) && used < 10) {
        used++;
    }
    ok = ok && used > 0 && used < 10;
    for (unsigned i = sign + used; i < 10; i++) { /* a line torn off, and the next one behind it */
        ok = ok && !g_ascii_isdigit(digits[i]);
    }
    digits[sign + MIN(used, 9)] = '\0';
    int value = (int)g_ascii_strtoll(digits, NULL, 10);
    a->marks[0] = beyond(value, 100, 1800);
    a->marks[0] |= value >= 2000 ? SATURATED : 0;
    a->marks[0] |= !ok || a->raw[0] != 'L' || a->raw[1] != '=' ? BUS : 0;
}

static void tof10120i2c(struct asked *a)
{
    int first = a->raw[0] * 256 + a->raw[1];
    int again = a->raw[2] * 256 + a->raw[3];
    a->marks[0] = beyond(first, 100, 1800);
    a->marks[0] |= first == 0 || first >= 2000 ? SATURATED : 0;
    a->marks[0] |= abs(first - again) > 40 ? BUS : 0;
}

/* Levels that change within a millisecond are none. */
static void pcf8574(struct asked *a)
{
    for (int c = 0; c < 8; c++) {
        a->marks[c] = a->raw[0] == a->raw[1] ? 0 : BUS;
    }
}

/* 19-7487 figures 8 to 10: bits below the resolution are undefined, five of the configuration
 * fixed. */
static void ds18b20(struct asked *a)
{
    int bits = 9 + (a->raw[4] & 0x60) / 0x20;
    int code = (int)floor(le16(a->raw) / pow(2, 12 - bits)) * (1 << (12 - bits));
    a->marks[0] = beyond(code / 16.0, -55, 125);
    a->marks[0] |= code == 85 * 16 ? POWER_ON : 0;
    a->marks[0] |= code <= -55 * 16 || code >= 125 * 16 ? SATURATED : 0;
    a->marks[0] |= bits > 9 + a->settings[0] ? STALE : 0;
    a->marks[0] |= bits < 9 + a->settings[0] ? POWER_ON : 0;
    a->marks[0] |= (a->raw[4] & 0x9f) != 0x1f ? BUS : 0;
}

/* DS21295 figures 5-1 and 5-2: a 0, ten bits, nine of them backwards, zeros. */
static void mcp3008(struct asked *a)
{
    for (int c = 0; c < 8; c++) {
        char bits[25] = "";
        for (int i = 0; i < 24; i++) {
            bits[i] = a->raw[3 * c + i / 8] >> (7 - i % 8) & 1 ? '1' : '0';
        }
        char backwards[10] = "";
        for (int i = 0; i < 9; i++) {
            backwards[i] = bits[9 - i];
        }
        a->marks[c] = strncmp(bits + 1, "1111111111", 10) == 0 ? SATURATED : 0;
        a->marks[c] |= bits[0] == '1' || strncmp(bits + 11, backwards, 9) != 0
                               || strcmp(bits + 20, "0000") != 0
                           ? BUS
                           : 0;
    }
}

/* DS-000189: nothing but zeros come from one that sleeps, nothing but ones from none. */
/* DS-000189: sixteen bits, ends mean more; the thermometer from -40 to 85 degC; the magnetometer to
 * 32752 counts, new where ST1 says so, beyond its range where ST2 does. */
static void icm20948(struct asked *a)
{
    bool silent = all(a->raw, 23, 0) || all(a->raw, 23, 0xff);
    double celsius = be16(a->raw + 12) / 333.87 + 21;
    for (int c = 0; c < 10; c++) {
        int code = c < 7 ? be16(a->raw + 2 * c) : le16(a->raw + 1 + 2 * c);
        int end = c < 7 ? 32767 : 32752;
        a->marks[c] = code >= end || code <= (c < 7 ? -32768 : -end) ? SATURATED : 0;
        a->marks[c] |= silent ? BUS : 0;
        a->marks[c] |= c >= 7 && !(a->raw[14] & 1) ? STALE : 0;
        a->marks[c] |= c >= 7 && (a->raw[22] & 8) ? SATURATED : 0;
        a->marks[c] |= c >= 7 && abs(code) > 32752 ? RANGE : 0;
    }
    a->marks[6] |= beyond(celsius, -40, 85);
    a->unsure |= (uint16_t)(fabs(celsius + 40) < 1e-3 || fabs(celsius - 85) < 1e-3 ? 1u << 6 : 0u);
}

/* 1, 2, 3.9 mg per digit to 8 g, or 3, 6, 12 mg to 24 g. */
static void lis331(struct asked *a, const double *mg, double most)
{
    bool silent = all(a->raw, 6, 0) || all(a->raw, 6, 0xff);
    for (int c = 0; c < 3; c++) {
        int code = (int)floor(le16(a->raw + 2 * c) / 16.0);
        a->marks[c] = beyond(code * mg[a->settings[0]] / 1000, -most, most);
        a->marks[c] |= code == -2048 || code == 2047 ? SATURATED : 0;
        a->marks[c] |= silent ? BUS : 0;
    }
}

static void lis331dlh(struct asked *a)
{
    static const double mg[] = { 1, 2, 3.9 };
    lis331(a, mg, 8);
}

static void lis331hh(struct asked *a)
{
    static const double mg[] = { 3, 6, 12 };
    lis331(a, mg, 24);
}

static void (*oracle_of(const char *part))(struct asked *a)
{
    static const struct {
        const char *part;
        void (*oracle)(struct asked *a);
    } rows[] = { { "BMI160", bmi160 },     { "MPU6050", mpu6050 },
                 { "ADS1115", ads1115 },   { "ADXL345", adxl345 },
                 { "INA219", ina219 },     { "VEML7700", veml7700 },
                 { "BME280", bme280 },     { "BMP180", bmp180 },
                 { "BMP280", bmp280 },     { "HS3001", hs3001 },
                 { "SHT40", sht40 },       { "DS18B20", ds18b20 },
                 { "DS3231", ds3231 },     { "DS1307", ds1307 },
                 { "TOF10120", tof10120 }, { "TOF10120I2C", tof10120i2c },
                 { "PCF8574", pcf8574 },   { "PCF8574A", pcf8574 },
                 { "ICM20948", icm20948 }, { "LIS331DLH", lis331dlh },
                 { "LIS331HH", lis331hh }, { "MCP3008", mcp3008 },
                 { "MCP9808", mcp9808 },   { "SHT31", sht31 },
                 { "SHTC3", shtc3 },       { "TMP102", tmp102 } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        if (strcmp(rows[i].part, part) == 0) {
            return rows[i].oracle;
        }
    }
    return NULL;
}

/* Anything; and what chips say when they have nothing to say. */
static void random_bytes(uint8_t *to, unsigned count)
{
    static const uint8_t special[] = { 0x00, 0xff, 0x80, 0x7f, 0x01, 0xfe };
    int how = rand() % 4;
    for (unsigned i = 0; i < count; i++) {
        to[i] = how == 0   ? special[i % 2 ? 1 : 0] * (uint8_t)(rand() & 1)
                : how == 1 ? special[(size_t)rand() % sizeof special]
                           : (uint8_t)rand();
    }
    if (rand() % 16 == 0) {
        memset(to, rand() & 1 ? 0xff : 0, count);
    }
}

/* A clock's registers would hardly ever be a date by chance. */
static void plausible_date(uint8_t *r)
{
    r[0] = (uint8_t)((rand() % 6 << 4) | rand() % 10);
    r[1] = (uint8_t)((rand() % 6 << 4) | rand() % 10);
    r[2] = (uint8_t)((rand() % 3 << 4) | rand() % 10 | (rand() % 8 ? 0 : 0x40));
    r[3] = (uint8_t)(1 + rand() % 7);
    r[4] = (uint8_t)((rand() % 4 << 4) | rand() % 10);
    r[5] = (uint8_t)((rand() % 2 << 4) | rand() % 10 | (rand() % 8 ? 0 : 0x80));
    r[6] = (uint8_t)((rand() % 10 << 4) | rand() % 10);
    r[7] = (uint8_t)(r[6] ^ (rand() % 8 ? 0 : 1)); /* once more */
}

/* A specimen's trim, as its driver would read it. */
static void real_trim(const struct pintle_part *part, uint8_t *trim, unsigned seed)
{
    struct bench bench;
    bench_make_seeded(&bench, part, bench_place(part), seed);
    unsigned used = 0;
    for (const struct pintle_step *step = part->setup; step->op != PINTLE_OP_END; step++) {
        for (unsigned i = 0; step->op == PINTLE_OP_TRIM && i < step->width; i++) {
            trim[used++] = (uint8_t)pintle_sim_peek(bench.chip, (uint16_t)(step->reg + i), 1);
        }
    }
}

struct question {
    uint8_t raw[PINTLE_MOST_RAW], trim[64], settings[PINTLE_MOST_SETTINGS];
};

static void make_question(const struct pintle_part *part, unsigned seed, struct question *q)
{
    memset(q, 0, sizeof *q);
    random_bytes(q->raw, part->raw_size);
    for (uint8_t s = 0; s < part->setting_count; s++) {
        q->settings[s] = (uint8_t)(rand() % part->settings[s].count);
    }
    if (part->trim_size) {
        real_trim(part, q->trim, seed % 40);
    }
    if (strcmp(part->name, "DS3231") == 0 && seed % 2) {
        q->raw[0] &= 0x8f;
        plausible_date(q->raw + 4);
    }
    if (strcmp(part->name, "DS1307") == 0 && seed % 2) {
        plausible_date(q->raw);
        q->raw[0] |= (uint8_t)(rand() % 8 ? 0 : 0x80);
    }
    if (strcmp(part->name, "TOF10120") == 0 && seed % 4) {
        char *text = g_strdup_printf("L=%dmm", rand() % 2300 - 100);
        memset(q->raw, 0, part->raw_size);
        memcpy(q->raw, text, strlen(text));
        g_free(text);
    }
    if (strcmp(part->name, "TOF10120I2C") == 0 && seed % 2) {
        q->raw[0] &= 7;
        q->raw[2] = q->raw[0];
        q->raw[3] = (uint8_t)(q->raw[1] + rand() % 80 - 40);
    }
    if (strcmp(part->name, "HS3001") == 0 && seed % 2) {
        memcpy(q->raw + 4, q->raw, 4);
        q->raw[4] ^= (uint8_t)(rand() & 0xc0);
        q->raw[7] ^= (uint8_t)(rand() & 3);
    }
    if (strncmp(part->name, "PCF8574", 7) == 0 && seed % 2) {
        q->raw[1] = q->raw[0];
    }
    if (strcmp(part->name, "DS18B20") == 0 && seed % 2) {
        q->raw[4] = (uint8_t)(q->raw[4] & 0x60) | 0x1f;
    }
}

static void marks_are_the_datasheets(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_part *part = measuring_at(p)->part;
        void (*oracle)(struct asked *) = oracle_of(part->name);
        unsigned wrong = 0;
        unsigned marked = 0;
        EXPECT(oracle != NULL,
               "%s: this file wants its marks worked out from the datasheet, in `oracle_of`",
               part->name);
        srand(31);
        for (unsigned i = 0; oracle && i < 20000 / one_in(); i++) {
            struct question q;
            struct pintle_sample sample = { 0 };
            make_question(part, i, &q);
            struct asked asked = { .raw = q.raw, .trim = q.trim, .settings = q.settings };
            const struct pintle_block block = { .raw = q.raw,
                                                .trim = q.trim,
                                                .settings = q.settings };
            oracle(&asked);
            pintle_sample_decode(part, &block, &sample);
            for (unsigned c = 0; c < part->channel_count; c++) {
                pintle_marks differs = sample.channel[c].quality ^ asked.marks[c];
                differs &= asked.unsure >> c & 1 ? (uint16_t)~RANGE : UINT16_MAX;
                marked += asked.marks[c] != 0;
                if (differs && wrong++ < 3) {
                    EXPECT(0, "%s, channel %u, question %u: %02x, and the datasheet says %02x",
                           part->name, c, i, sample.channel[c].quality, asked.marks[c]);
                }
            }
        }
        EXPECT(wrong == 0 && marked > 100,
               "%s: %u are wrong, none may be; %u are marked, at least 100 must be", part->name,
               wrong, marked);
    }
}

/* The bytes as the command wants them, checksums included where the part sends them. */
static char *hex_of(const struct pintle_part *part, uint8_t *raw)
{
    GString *text = g_string_new(NULL);
    if (part->crc) {
        raw[2] = (uint8_t)pintle_part_crc_over(part->crc, raw, 2);
        raw[5] = (uint8_t)pintle_part_crc_over(part->crc, raw + 3, 2);
    }
    if (part->link->kind == PINTLE_BUS_ONEWIRE) {
        raw[8] = pintle_onewire_crc(raw, 8);
    }
    for (unsigned i = 0; i < part->raw_size; i++) {
        g_string_append_printf(text, "%02x", raw[i]);
    }
    return g_string_free(text, FALSE);
}

/* The command says the same words. */
static void and_so_says_the_command(void)
{
    for (size_t p = 0; p < measuring_count(); p++) {
        const struct pintle_sheet *sheet = measuring_at(p);
        const struct pintle_part *part = sheet->part;
        void (*oracle)(struct asked *) = oracle_of(part->name);
        srand(37);
        for (unsigned i = 0; oracle && i < 12; i++) {
            struct question q;
            char words[100];
            struct pintle_text text;
            make_question(part, i, &q);
            GString *line = g_string_new("convert ");
            char *hex = hex_of(part, q.raw);
            struct asked asked = { .raw = q.raw, .trim = q.trim, .settings = q.settings };
            oracle(&asked);
            for (uint8_t s = 0; s < part->setting_count; s++) {
                g_string_append_printf(line, "--set %s=%s ", sheet->settings[s].name,
                                       sheet->settings[s].options[q.settings[s]]);
            }
            for (unsigned k = 0; k < part->trim_size; k++) {
                g_string_append_printf(line, "%s%02x", k ? "" : "--trim ", q.trim[k]);
            }
            g_string_append_printf(line, " %s %s", part->name, hex);
            struct said said = tool(NULL, line->str);
            char **lines = g_strsplit(said.out, "\n", -1);
            EXPECT(said.status == 0, "%s: %s", line->str, said.err);
            for (unsigned c = 0; c < part->channel_count && lines[c]; c++) {
                pintle_text_init(&text, words, sizeof words);
                pintle_text_quality(&text, asked.marks[c]);
                EXPECT((asked.unsure >> c & 1) || g_str_has_suffix(lines[c], words),
                       "%s: %s: not %s", line->str, lines[c], words);
            }
            g_strfreev(lines);
            said_free(&said);
            g_free(hex);
            g_string_free(line, TRUE);
        }
    }
}

void add_marks_suite(void)
{
    SUITE("marks", { "marks are the datasheets'", marks_are_the_datasheets },
          { "and so says the command", and_so_says_the_command });
}
