/* Numbers, times, CSV and the texts of the lists. Oracles: the C library's printf and calendar. */
#include <time.h>

#include "support.h"

static void whole_numbers(void)
{
    static const struct {
        int64_t value;
        uint8_t digits;
        const char *text;
    } rows[] = {
        { 0, 1, "0" },
        { 0, 3, "000" },
        { 7, 2, "07" },
        { 7, 20, "00000000000000000007" },
        { -7, 255, "-00000000000000000007" }, /* more than there can be: 20 */
        { -7, 2, "-07" },
        { 1234567890123, 1, "1234567890123" },
        { INT64_MAX, 1, "9223372036854775807" },
        { INT64_MIN, 1, "-9223372036854775808" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        char buffer[32];
        struct pintle_text text;
        pintle_text_init(&text, buffer, sizeof buffer);
        pintle_text_whole(&text, rows[i].value, rows[i].digits);
        EXPECT(strcmp(buffer, rows[i].text) == 0, "%s: got %s", rows[i].text, buffer);
    }
}

static void fixed_is(float value, uint8_t decimals)
{
    char wanted[64];
    char buffer[64];
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_fixed(&text, value, decimals);
    snprintf(wanted, sizeof wanted, "%.*f", MIN(decimals, 7), (double)value);
    const char *same =
        wanted[0] == '-' && strspn(wanted, "-0.") == strlen(wanted) ? wanted + 1 : wanted;
    EXPECT(strcmp(buffer, same) == 0, "%.9g at %u places: %s, not %s", (double)value, decimals,
           buffer, same);
}

/* printf rounds the exact binary value, a tie to even: so must we, but for "-0.00". */
static void fixed_agrees_with_printf(void)
{
    static const float values[] = { 0.0f,     0.5f,    1.5f,     2.5f,   -0.5f,   0.05f,
                                    0.005f,   0.0005f, 1e-7f,    -1e-7f, 0.125f,  0.375f,
                                    -2.5f,    9.995f,  999.999f, 1e-40f, 123.45f, 100653.27f,
                                    -273.15f, 65535.f, 1e9f };
    for (size_t i = 0; i < COUNT(values); i++) {
        for (uint8_t d = 0; d <= 8; d++) { /* seven at most are printed */
            fixed_is(values[i], d);
        }
    }
    srand(1);
    for (int i = 0; i < 20000; i++) {
        float magnitude = ldexpf((float)rand() / (float)RAND_MAX, rand() % 60 - 25);
        fixed_is(rand() % 2 ? magnitude : -magnitude, (uint8_t)(rand() % 8));
    }
}

static void fixed_beyond_numbers(void)
{
    static const struct {
        float value;
        const char *text;
    } rows[] = {
        { NAN, "nan" },      { INFINITY, "inf" },   { -INFINITY, "-inf" },
        { 1.2e12f, "over" }, { -1.2e12f, "-over" }, { 1099511496704.0f, "1099511496704.0" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        char buffer[32];
        struct pintle_text text;
        pintle_text_init(&text, buffer, sizeof buffer);
        pintle_text_fixed(&text, rows[i].value, 1);
        EXPECT(strcmp(buffer, rows[i].text) == 0, "%s: got %s", rows[i].text, buffer);
    }
}

/* Every day from 1600 to 2400 and back, against the C library. */
static void calendar_agrees_with_the_c_library(void)
{
    for (int64_t day = -135140; day < 157054; day += 1) {
        time_t seconds = (time_t)(day * 86400 + (day * 7919) % 86400);
        struct tm tm;
        struct pintle_calendar c;
        gmtime_r(&seconds, &tm);
        pintle_calendar_from(&c, seconds);
        int weekday = tm.tm_wday ? tm.tm_wday : 7;
        int same = c.year == tm.tm_year + 1900 && c.month == tm.tm_mon + 1 && c.day == tm.tm_mday
                   && c.hour == tm.tm_hour && c.minute == tm.tm_min && c.second == tm.tm_sec
                   && c.weekday == weekday && pintle_calendar_seconds(&c) == seconds;
        if (!same) {
            EXPECT(0, "day %lld", (long long)day);
            return;
        }
    }
    EXPECT(1, "all days");
}

static void times(void)
{
    static const struct {
        int64_t us;
        int16_t offset;
        uint8_t decimals;
        const char *text;
    } rows[] = {
        { 0, 0, 0, "1970-01-01T00:00:00Z" },
        { 1781222400000000, 0, 0, "2026-06-12T00:00:00Z" },
        { 1781222400123456, 0, 3, "2026-06-12T00:00:00.123Z" },
        { 1781222400123456, 0, 6, "2026-06-12T00:00:00.123456Z" },
        { 1781222400000000, 120, 0, "2026-06-12T02:00:00+02:00" },
        { 1781222400000000, -210, 0, "2026-06-11T20:30:00-03:30" },
        { -1, 0, 6, "1969-12-31T23:59:59.999999Z" },
        { 951782400000000, 0, 0, "2000-02-29T00:00:00Z" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        char buffer[48];
        struct pintle_text text;
        pintle_text_init(&text, buffer, sizeof buffer);
        pintle_text_time(&text, rows[i].us, rows[i].offset, rows[i].decimals);
        EXPECT(strcmp(buffer, rows[i].text) == 0, "%s: got %s", rows[i].text, buffer);
    }
}

/* RFC 4180 section 2, rules 5 to 7. */
static void csv_fields(void)
{
    static const struct {
        const char *field;
        const char *csv;
    } rows[] = {
        { "plain", ",plain" },
        { "", "," },
        { "two words; more", ",two words; more" },
        { "a,b", ",\"a,b\"" },
        { "say \"ahoy\"", ",\"say \"\"ahoy\"\"\"" },
        { "two\r\nlines", ",\"two\r\nlines\"" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        char buffer[48];
        struct pintle_text text;
        pintle_text_init(&text, buffer, sizeof buffer);
        pintle_text_csv(&text, rows[i].field);
        EXPECT(strcmp(buffer, rows[i].csv) == 0, "%s: got %s", rows[i].csv, buffer);
    }
}

/* Every buffer size from 1 up: never a byte too many, always closed, no piece of what doesn't fit
 * ("-12" of -12.50 would pass for a number), nothing behind it, and `full`. */
static void a_full_buffer_stays_whole(void)
{
    const char *wanted = "2026-06-12T00:00:00Z,-12.50,\"a,b\"";
    static const size_t ends[] = { 0, 20, 21, 27, 33, 99 };
    unsigned fit = 0;
    for (size_t size = 1; size <= strlen(wanted) + 1; size++) {
        char *buffer = g_malloc(size);
        struct pintle_text text;
        pintle_text_init(&text, buffer, size);
        pintle_text_time(&text, 1781222400000000, 0, 0);
        pintle_text_char(&text, ',');
        pintle_text_fixed(&text, -12.5f, 2);
        pintle_text_csv(&text, "a,b");
        fit += ends[fit + 1] <= size - 1;
        EXPECT(strlen(buffer) == ends[fit] && strncmp(buffer, wanted, ends[fit]) == 0,
               "size %zu: %s", size, buffer);
        EXPECT(text.full == (size <= strlen(wanted)), "size %zu: full is %u", size, text.full);
        g_free(buffer);
    }
}

/* Every value of every list has texts of its own. */
static void the_lists_have_texts(void)
{
    GHashTable *words = g_hash_table_new(g_str_hash, g_str_equal);
    for (int s = 0; s < PINTLE_STATUS_COUNT; s++) {
        const char *word = pintle_status_word((enum pintle_status)s);
        EXPECT(g_hash_table_add(words, (char *)(uintptr_t)word), "status word %s is new", word);
        EXPECT(strlen(pintle_status_sentence((enum pintle_status)s)) > 3, "sentence of %s", word);
    }
    for (int bit = 1; bit <= PINTLE_QUALITY_STALE; bit *= 2) {
        const char *word = pintle_quality_word((pintle_marks)bit);
        EXPECT(g_hash_table_add(words, (char *)(uintptr_t)word), "quality word %s is new", word);
        EXPECT(strlen(pintle_quality_sentence((pintle_marks)bit)) > 10, "sentence of %s", word);
    }
    for (int q = 0; q < PINTLE_QUANTITY_COUNT; q++) {
        const char *word = pintle_quantity_word((enum pintle_quantity)q);
        EXPECT(g_hash_table_add(words, (char *)(uintptr_t)word), "quantity %s is new", word);
        EXPECT(pintle_quantity_symbol((enum pintle_quantity)q)[0], "symbol of %s", word);
        EXPECT(pintle_quantity_shown((enum pintle_quantity)q)[0], "shown unit of %s", word);
    }
    CU_ASSERT_STRING_EQUAL(pintle_status_word(PINTLE_STATUS_COUNT), "unknown");
    CU_ASSERT_STRING_EQUAL(pintle_status_sentence(PINTLE_STATUS_COUNT), "unknown");
    CU_ASSERT_STRING_EQUAL(pintle_quality_word(3), "unknown");
    CU_ASSERT_STRING_EQUAL(pintle_quality_sentence(0), "unknown");
    CU_ASSERT_STRING_EQUAL(pintle_quantity_word(PINTLE_QUANTITY_COUNT), "unknown");
    g_hash_table_destroy(words);
}

static void quality_words(void)
{
    static const struct {
        uint8_t quality;
        const char *text;
    } rows[] = {
        { 0, "good" },
        { PINTLE_QUALITY_UNCORRECTED, "good" },
        { PINTLE_QUALITY_FIRST, "first" },
        { PINTLE_QUALITY_RANGE | PINTLE_QUALITY_SATURATED, "range+saturated" },
        { 0xff, "first+power-on+range+saturated+frozen+jump+bus" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        char buffer[80];
        struct pintle_text text;
        pintle_text_init(&text, buffer, sizeof buffer);
        pintle_text_quality(&text, rows[i].quality);
        EXPECT(strcmp(buffer, rows[i].text) == 0, "%s: got %s", rows[i].text, buffer);
    }
}

/* A measurement as a line of CSV: several channels, marks, a failure, and no room. */
static void a_line(void)
{
    static const struct {
        const char *what, *line;
        bool fails, known;
        pintle_marks marks;
        size_t room;
    } rows[] = {
        { "good", "2026-06-12T00:00:00Z,25.08,good,100653.2,good,48.63,good\r\n", false, true, 0,
          120 },
        { "marked",
          "2026-06-12T00:00:00Z,25.08,first+saturated,100653.2,first+saturated,48.63,"
          "first+saturated\r\n",
          false, true, PINTLE_QUALITY_FIRST | PINTLE_QUALITY_SATURATED, 120 },
        { "no time", ",25.08,good,100653.2,good,48.63,good\r\n", false, false, 0, 120 },
        { "no answer", "2026-06-12T00:00:00Z,,no-answer,,no-answer,,no-answer\r\n", true, true, 0,
          120 },
        { "no room", "", false, true, 0, 40 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct bench bench;
        struct pintle_sample sample;
        struct pintle_text text;
        char buffer[120];
        bench_make(&bench, &pintle_bme280, 0x76);
        CU_ASSERT_EQUAL(bench_read(&bench, &sample), PINTLE_OK);
        const float values[] = { 25.08f, 100653.25f, 48.63f };
        for (unsigned c = 0; c < 3; c++) {
            bench.any.reading[c].value = values[c];
            bench.any.reading[c].quality = rows[i].marks;
        }
        if (rows[i].fails) {
            const struct pintle_sim_fault out = { .kind = PINTLE_SIM_UNPLUGGED,
                                                  .from_us = bench.sim.now_us,
                                                  .to_us = UINT64_MAX };
            CU_ASSERT_EQUAL(pintle_sim_add_fault(&bench.sim, &out), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_sensor_read(&bench.sensor), PINTLE_NO_ANSWER);
        }
        pintle_text_init(&text, buffer, rows[i].room);
        pintle_text_line(&text, &bench.sensor, rows[i].known ? 1781222400000000 : 0);
        EXPECT(strcmp(buffer, rows[i].line) == 0, "%s: %s", rows[i].what, buffer);
        EXPECT(text.full == (rows[i].line[0] == '\0'), "%s: full", rows[i].what);
    }
    char buffer[160];
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_columns(&text, &pintle_ds3231);
    CU_ASSERT_STRING_EQUAL(buffer,
                           "time,temperature Cel,temperature quality,time,time quality\r\n");
}

void add_text_suite(void)
{
    SUITE("text", { "a line", a_line }, { "whole numbers", whole_numbers },
          { "fixed numbers agree with printf", fixed_agrees_with_printf },
          { "fixed beyond numbers", fixed_beyond_numbers },
          { "calendar agrees with the C library", calendar_agrees_with_the_c_library },
          { "times as RFC 3339", times }, { "CSV fields as RFC 4180", csv_fields },
          { "a full buffer stays whole", a_full_buffer_stays_whole },
          { "every list has its texts", the_lists_have_texts },
          { "quality as words", quality_words });
}
