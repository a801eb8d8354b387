/* Pages for small displays, dot by dot; and on the catalogue's display, in simulation. */
#include "support.h"

#include "pintle/host/watch/course.h"
#include "pintle/page.h"

#define WIDE 24
#define TALL 16

static void begin(struct pintle_page *page, uint8_t dots[WIDE * TALL / 8])
{
    memset(dots, 0xff, WIDE * TALL / 8);
    pintle_page_init(page, dots, WIDE, TALL);
}

/* Rows of '#' and '.', as they are to be. */
static void expect_rows(const char *name, const struct pintle_page *page, const char *const *rows)
{
    for (int16_t y = 0; rows[y]; y++) {
        char row[WIDE + 1] = { 0 };
        for (int16_t x = 0; x < WIDE; x++) {
            row[x] = pintle_page_is(page, x, y) ? '#' : '.';
        }
        size_t length = strlen(rows[y]);
        EXPECT(strncmp(row, rows[y], length) == 0 && strchr(row + length, '#') == NULL,
               "%s, row %d: %s", name, y, row);
    }
}

static void letters(void)
{
    static const char *const a7[] = { ".#..###", "#.#...#", "###...#", "#.#..#.",
                                      "#.#..#.", "",        NULL };
    static const char *const large[] = { "######", "######", "....##", "....##", "....##", "....##",
                                         "..##..", "..##..", "..##..", "..##..", "",       NULL };
    struct pintle_page page;
    uint8_t dots[WIDE * TALL / 8];
    begin(&page, dots);
    CU_ASSERT_EQUAL(pintle_page_text(&page, 0, 0, 1, "A7"), 8);
    expect_rows("A7", &page, a7);
    begin(&page, dots);
    CU_ASSERT_EQUAL(pintle_page_text(&page, 0, 0, 2, "7"), 8);
    expect_rows("7, large", &page, large);
    begin(&page, dots);
    (void)pintle_page_text(&page, -2, -3, 1, "\x7f\xff\n"); /* boxes, half of them outside */
    CU_ASSERT_EQUAL(pintle_page_is(&page, 0, 1), 1);
    CU_ASSERT_EQUAL(pintle_page_is(&page, -1, 0), 0);
    begin(&page, dots);
    (void)pintle_page_text(&page, 22, 12, 8,
                           "W"); /* beyond the edge, and nothing else is touched */
    CU_ASSERT_EQUAL(pintle_page_width("17.4", 2), 32);
}

/* Every letter differs from every other, and has a dot. */
static void all_letters(void)
{
    uint8_t seen[95][WIDE * TALL / 8];
    for (int i = 0; i < 95; i++) {
        struct pintle_page page;
        char text[2] = { (char)(' ' + i), '\0' };
        pintle_page_init(&page, seen[i], WIDE, TALL);
        (void)pintle_page_text(&page, 0, 0, 1, text);
        bool any = false;
        for (size_t k = 0; k < sizeof seen[i]; k++) {
            any = any || seen[i][k];
        }
        EXPECT(any == (i > 0), "'%s' has dots", text);
        for (int k = 0; k < i; k++) {
            EXPECT(memcmp(seen[i], seen[k], sizeof seen[i]) != 0, "'%s' is '%c'", text, ' ' + k);
        }
    }
}

static void rows(void)
{
    struct pintle_page page;
    uint8_t dots[WIDE * TALL / 8];
    begin(&page, dots);
    CU_ASSERT_EQUAL(pintle_page_row(&page, 0, 1, "h", "1", 0), 6);
    CU_ASSERT_EQUAL(pintle_page_is(&page, 0, 0), 1);
    CU_ASSERT_EQUAL(pintle_page_is(&page, 21, 0), 1); /* the middle of the 1 */
    CU_ASSERT_EQUAL(pintle_page_is(&page, 20, 0), 0);
    begin(&page, dots);
    (void)pintle_page_row(&page, 0, 1, "h", "1", 1);
    CU_ASSERT_EQUAL(pintle_page_is(&page, 21, 0), 0); /* inverted */
    CU_ASSERT_EQUAL(pintle_page_is(&page, 20, 0), 1);
    CU_ASSERT_EQUAL(pintle_page_is(&page, 19, 5), 1);
    begin(&page, dots);
    (void)pintle_page_row(&page, 0, 1, "humidity", "99.9", 0); /* the value wins */
    CU_ASSERT_EQUAL(pintle_page_is(&page, 4, 0), 0);
}

static struct pintle_reading value_of(float value, pintle_marks quality)
{
    return (struct pintle_reading){ .value = value, .quality = quality };
}

static void trends(void)
{
    static const char *const wanted[] = { "......................##",
                                          "....................##..",
                                          "..................##....",
                                          "",
                                          "",
                                          "##......",
                                          "..##....",
                                          "....####",
                                          "",
                                          NULL };
    struct pintle_page page;
    uint8_t dots[WIDE * TALL / 8];
    struct pintle_reading r[24];
    begin(&page, dots);
    for (unsigned i = 0; i < 24; i++) {
        float value = i < 8 ? 2 - (float)MIN(i / 2, 2) : 5 + (float)((i - 18) / 2);
        r[i] = value_of(value, i >= 8 && i < 18 ? PINTLE_QUALITY_JUMP : 0);
    }
    pintle_page_trend(&page, 0, 0, 24, 10, r, 24, 0);
    expect_rows("a gap", &page, wanted);
    for (int16_t x = 0; x < 24; x++) {
        EXPECT(pintle_page_is(&page, x, 9) == (x >= 8 && x < 18), "a tick at %d", x);
    }
    begin(&page, dots); /* a flat line lies in the middle of its span */
    for (unsigned i = 0; i < 24; i++) {
        r[i] = value_of(18.25f, 0);
    }
    pintle_page_trend(&page, 0, 0, 24, 13, r, 24, 4);
    for (int16_t x = 0; x < 24; x++) {
        EXPECT(pintle_page_is(&page, x, 5) == 1, "flat at %d", x);
    }
    begin(&page, dots); /* nothing good, one reading, none at all, no room */
    r[0] = value_of(NAN, 0);
    pintle_page_trend(&page, 0, 0, 24, 13, r, 1, 4);
    pintle_page_trend(&page, 0, 0, 24, 13, r, 0, 4);
    pintle_page_trend(&page, 0, 0, 24, 2, r, 1, 4);
    r[0] = value_of(3, 0);
    pintle_page_trend(&page, 0, 0, 24, 13, r, 1, 0);
    CU_ASSERT_EQUAL(pintle_page_is(&page, 0, 10), 1);
}

/* On the display of the companionway, as somebody sees it: a value that is there, one that is not.
 */
static void on_a_display(void)
{
    char *folder = scratch_make();
    char *page = g_strdup_printf("show --rig %s --values cabin.temperature,baro.pressure "
                                 "--trend baro.pressure --at 22min --for 1min --write p.pbm "
                                 "--look seen.pbm",
                                 COMPANIONWAY);
    expect_said(folder, page, 0, "seen.pbm");
    char *made = file_text(folder, "p.pbm");
    char *seen = file_text(folder, "seen.pbm");
    gsize size = strlen("P4\n84 48\n") + (size_t)11 * 48;
    EXPECT(g_str_has_prefix(made, "P4\n84 48\n") && memcmp(made, seen, size) == 0,
           "what was made is what is seen");
    /* In the first line the right end is dark: the thermometer is out; in the second it isn't. */
    const uint8_t *rows = (const uint8_t *)made + strlen("P4\n84 48\n");
    EXPECT((rows[0 * 11 + 10] & 0x10) != 0, "the first value is inverted");
    EXPECT((rows[6 * 11 + 10] & 0x10) == 0, "the second is not");
    static const struct {
        const char *arguments;
        int status;
        const char *said;
    } mistakes[] = {
        { "show --demo --values cabin.temperature --size 84x48 --write a.pbm", 0, "a.pbm" },
        { "show --demo --values cabin.temperature --size 84x48", 2, "--write FILE" },
        { "show --demo --values cabin.temperature --size 84x50 --write a.pbm", 2,
          "--size is as in" },
        { "show --demo --values cabin.temperature --size 999x999 --write a.pbm", 2,
          "--size is as in" },
        { "show --demo --values rudder.angle --size 84x48 --write a.pbm", 2, "rudder" },
        { "show --demo --values cabin.temperature", 2, "has a display" },
        { "show --demo --values cabin.temperature --size 84x48 --write no/a.pbm", 3,
          "cannot write no/a.pbm" },
        { "show --demo --values cabin.temperature x y", 2, "a display at most" },
        { "show --demo --values cabin.temperature --run 1 --for 5s", 2, "measured now" },
        { "show --demo --values cabin.temperature --last 1h", 2, "give one with --run" },
        { "show --demo --values sea --size 84x48 --write a.pbm", 2, "as in sea.temperature" },
    };
    for (size_t i = 0; i < COUNT(mistakes); i++) {
        expect_said(folder, mistakes[i].arguments, mistakes[i].status, mistakes[i].said);
    }
    g_free(made);
    g_free(seen);
    g_free(page);
    scratch_remove(folder);
}

/* In few points: evenly over all of it, and what was suspect stays to be seen. */
static void courses(void)
{
    for (unsigned n = 1; n < 200; n++) {
        struct pintle_course course;
        pintle_course_init(&course, 8);
        for (unsigned i = 0; i < n; i++) {
            pintle_course_add(&course, i, i != 5 && i != 77 && i != 150);
        }
        unsigned stride = 1;
        while (8 * stride < n) {
            stride *= 2;
        }
        EXPECT(course.used == (n + stride - 1) / stride, "%u: %u points", n, course.used);
        EXPECT_NEAR(course.last.value, n - 1, 0, "the last one");
        for (unsigned p = 0; p < course.used; p++) {
            unsigned end = MIN((p + 1) * stride, n);
            bool bad = (p * stride <= 5 && 5 < end) || (p * stride <= 77 && 77 < end)
                       || (p * stride <= 150 && 150 < end);
            EXPECT_NEAR(course.point[p].value, p * stride, 0, "a point");
            EXPECT(pintle_reading_good(&course.point[p]) == !bad, "%u: point %u", n, p);
        }
        pintle_course_free(&course);
    }
}

/* However long a run is, its value is the last that was read. */
static void out_of_a_long_run(void)
{
    char *folder = scratch_make();
    char *pages[2];
    for (unsigned i = 0; i < 2; i++) {
        char *name = g_strdup_printf("%u", i);
        char *path = g_build_filename(folder, name, NULL);
        char *file = g_build_filename(name, "readings.csv", NULL);
        char *show =
            g_strdup_printf("show --run %s --values a.t --size 84x48 --write %u.pbm", path, i);
        char *made = g_strdup_printf("%u.pbm", i);
        GString *text = g_string_new("record,time,a.t/Cel,quality\r\n");
        for (unsigned r = 0; r < 30000 * i; r++) {
            g_string_append_printf(text, "%u,2026-06-12T%02u:%02u:%02uZ,5.00,good\r\n", r + 1,
                                   r / 3600, r / 60 % 60, r % 60);
        }
        g_string_append_printf(text, "%u,2026-06-12T09:00:00Z,9.25,good\r\n", 30000 * i + 1);
        g_mkdir_with_parents(path, 0755);
        file_write(folder, file, text->str);
        expect_said(folder, show, 0, ".pbm");
        pages[i] = file_text(folder, made);
        g_string_free(text, TRUE);
        g_free(made);
        g_free(show);
        g_free(file);
        g_free(path);
        g_free(name);
    }
    EXPECT(memcmp(pages[0], pages[1], strlen("P4\n84 48\n") + (size_t)11 * 48) == 0,
           "9.25 on both");
    g_free(pages[0]);
    g_free(pages[1]);
    scratch_remove(folder);
}

void add_page_suite(void)
{
    SUITE("page", { "letters", letters }, { "all letters", all_letters }, { "rows", rows },
          { "trends", trends }, { "on a display", on_a_display }, { "courses", courses },
          { "out of a long run", out_of_a_long_run });
}
