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
    uint16_t marks[PINTLE_CHANNELS_MAX];
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
    a->marks[0] = (uint16_t)(beyond(celsius, -40, 85) | (cold ? POWER_ON : 0));
    a->marks[1] = (uint16_t)(a->marks[0] | beyond(p, 30000, 110000));
    a->marks[1] |= adc_P == 0x80000 ? POWER_ON : 0;
    a->marks[2] = (uint16_t)(a->marks[0] | (adc_H == 0x8000 ? POWER_ON : 0));
    a->unsure |= fabs(celsius + 40) < 0.02 || fabs(celsius - 85) < 0.02 ? 7 : 0;
    a->unsure |= fabs(p - 30000) < 30 || fabs(p - 110000) < 110 ? 2 : 0;
}

static bool is_bcd(int byte, int lowest, int highest)
{
    int value = byte / 16 * 10 + byte % 16;
    return byte % 16 < 10 && byte / 16 < 10 && value >= lowest && value <= highest;
}

/* 19-5170 figure 1: what no register of a clock can hold. GLib knows the calendar. */
static void ds3231(struct asked *a)
{
    const uint8_t *r = a->raw + 4;
    int code = (int)floor(be16(a->raw + 2) / 64.0);
    bool memory = r[3] == 0 || r[4] == 0 || (r[5] & 0x1f) == 0;
    bool hour = r[2] & 0x40 ? !(r[2] & 0x80) && is_bcd(r[2] & 0x1f, 1, 12) : is_bcd(r[2], 0, 23);
    int month = (r[5] & 0x7f) / 16 * 10 + r[5] % 16;
    int day = r[4] / 16 * 10 + r[4] % 16;
    int year = 2000 + r[6] / 16 * 10 + r[6] % 16 + (r[5] & 0x80 ? 100 : 0);
    bool date = is_bcd(r[4], 1, 31) && is_bcd(r[5] & 0x7f, 1, 12) && is_bcd(r[6], 0, 99)
                && g_date_valid_dmy((GDateDay)day, (GDateMonth)month, (GDateYear)year)
                && (year < 2100 || (year == 2100 && month < 3));
    bool time = is_bcd(r[0], 0, 59) && is_bcd(r[1], 0, 59) && hour && date;
    a->marks[0] = beyond(code / 4.0, -40, 85);
    a->marks[0] |= code == -512 || code == 511 ? SATURATED : 0;
    a->marks[0] |= (a->raw[0] & 4) && a->raw[2] == 0 && a->raw[3] == 0 ? POWER_ON : 0;
    a->marks[0] |= memory || (a->raw[3] & 0x3f) ? BUS : 0;
    a->marks[1] = time ? (a->raw[0] & 0x80 ? POWER_ON : 0) : RANGE;
    a->marks[1] |= memory ? BUS : 0;
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
static void icm20948(struct asked *a)
{
    bool silent = all(a->raw, 12, 0) || all(a->raw, 12, 0xff);
    for (int c = 0; c < 6; c++) {
        int code = be16(a->raw + 2 * c);
        a->marks[c] = code == -32768 || code == 32767 ? SATURATED : 0;
        a->marks[c] |= silent ? BUS : 0;
    }
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
    } rows[] = { { "BME280", bme280 },     { "DS18B20", ds18b20 },     { "DS3231", ds3231 },
                 { "ICM20948", icm20948 }, { "LIS331DLH", lis331dlh }, { "LIS331HH", lis331hh },
                 { "MCP3008", mcp3008 },   { "MCP9808", mcp9808 },     { "SHT31", sht31 },
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
static void plausible_date(uint8_t *raw)
{
    raw[0] &= 0x8f;
    raw[4] = (uint8_t)((rand() % 6 << 4) | rand() % 10);
    raw[5] = (uint8_t)((rand() % 6 << 4) | rand() % 10);
    raw[6] = (uint8_t)((rand() % 3 << 4) | rand() % 10 | (rand() % 8 ? 0 : 0x40));
    raw[7] = (uint8_t)(1 + rand() % 7);
    raw[8] = (uint8_t)((rand() % 4 << 4) | rand() % 10);
    raw[9] = (uint8_t)((rand() % 2 << 4) | rand() % 10 | (rand() % 8 ? 0 : 0x80));
    raw[10] = (uint8_t)((rand() % 10 << 4) | rand() % 10);
}

/* A specimen's trim, as a BME280's driver would read it. */
static void real_trim(uint8_t *trim, unsigned seed)
{
    struct bench bench;
    bench_make_seeded(&bench, &pintle_bme280, 0x76, seed);
    for (unsigned i = 0; i < 26; i++) {
        trim[i] = (uint8_t)pintle_sim_peek(bench.chip, (uint16_t)(0x88 + i), 1);
    }
    for (unsigned i = 0; i < 7; i++) {
        trim[26 + i] = (uint8_t)pintle_sim_peek(bench.chip, (uint16_t)(0xe1 + i), 1);
    }
}

struct question {
    uint8_t raw[PINTLE_RAW_MAX], trim[64], settings[PINTLE_SETTINGS_MAX];
};

static void make_question(const struct pintle_part *part, unsigned seed, struct question *q)
{
    memset(q, 0, sizeof *q);
    random_bytes(q->raw, part->raw_size);
    for (uint8_t s = 0; s < part->setting_count; s++) {
        q->settings[s] = (uint8_t)(rand() % part->settings[s].count);
    }
    if (part->trim_size) {
        real_trim(q->trim, seed % 40);
    }
    if (strcmp(part->name, "DS3231") == 0 && seed % 2) {
        plausible_date(q->raw);
    }
    if (strcmp(part->name, "DS18B20") == 0 && seed % 2) {
        q->raw[4] = (uint8_t)(q->raw[4] & 0x60) | 0x1f;
    }
}

static void marks_are_the_datasheets(void)
{
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_part *part = pintle_sheet_at(p)->part;
        void (*oracle)(struct asked *) = oracle_of(part->name);
        unsigned wrong = 0;
        unsigned marked = 0;
        EXPECT(oracle != NULL, "%s has no oracle", part->name);
        srand(31);
        for (unsigned i = 0; oracle && i < 20000; i++) {
            struct question q;
            struct pintle_sample sample = { 0 };
            make_question(part, i, &q);
            struct asked asked = { .raw = q.raw, .trim = q.trim, .settings = q.settings };
            const struct pintle_block block = { .raw = q.raw,
                                                .trim = q.trim,
                                                .settings = q.settings };
            oracle(&asked);
            pintle_part_decode(part, &block, &sample);
            for (unsigned c = 0; c < part->channel_count; c++) {
                uint16_t differs = sample.channel[c].quality ^ asked.marks[c];
                differs &= asked.unsure >> c & 1 ? (uint16_t)~RANGE : UINT16_MAX;
                marked += asked.marks[c] != 0;
                if (differs && wrong++ < 3) {
                    EXPECT(0, "%s, channel %u, question %u: %02x, and the datasheet says %02x",
                           part->name, c, i, sample.channel[c].quality, asked.marks[c]);
                }
            }
        }
        EXPECT(wrong == 0 && marked > 100, "%s: %u are wrong, %u marked", part->name, wrong,
               marked);
    }
}

/* The bytes as the command wants them, checksums included where the part sends them. */
static char *hex_of(const struct pintle_part *part, uint8_t *raw)
{
    GString *text = g_string_new(NULL);
    if (part->flags & PINTLE_PART_CRC_WORDS) {
        raw[2] = pintle_crc8_31(raw, 2);
        raw[5] = pintle_crc8_31(raw + 3, 2);
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
    for (size_t p = 0; p < pintle_sheet_count(); p++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(p);
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
