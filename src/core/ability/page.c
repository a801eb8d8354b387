#include "pintle/page.h"

#include <string.h>

#include "pintle/table.h"

#define LETTER_WIDTH 3
#define LETTER_HEIGHT 5

/* Five rows of three dots, the topmost first, the left one in the highest bit of each digit. */
#define ROWS(a, b, c, d, e) (uint16_t)((a) << 12 | (b) << 9 | (c) << 6 | (d) << 3 | (e))

/* From the blank to the tilde. */
static const uint16_t letters[] PINTLE_TABLE = {
    ROWS(0, 0, 0, 0, 0), ROWS(2, 2, 2, 0, 2), ROWS(5, 5, 0, 0, 0), ROWS(5, 7, 5, 7, 5),
    ROWS(3, 6, 2, 3, 6), ROWS(5, 1, 2, 4, 5), ROWS(2, 5, 2, 5, 3), ROWS(2, 2, 0, 0, 0),
    ROWS(1, 2, 2, 2, 1), ROWS(4, 2, 2, 2, 4), ROWS(0, 5, 2, 5, 0), ROWS(0, 2, 7, 2, 0),
    ROWS(0, 0, 0, 2, 4), ROWS(0, 0, 7, 0, 0), ROWS(0, 0, 0, 0, 2), ROWS(1, 1, 2, 4, 4),
    ROWS(7, 5, 5, 5, 7), ROWS(2, 6, 2, 2, 7), ROWS(7, 1, 7, 4, 7), ROWS(7, 1, 3, 1, 7),
    ROWS(5, 5, 7, 1, 1), ROWS(7, 4, 7, 1, 7), ROWS(7, 4, 7, 5, 7), ROWS(7, 1, 1, 2, 2),
    ROWS(7, 5, 7, 5, 7), ROWS(7, 5, 7, 1, 7), ROWS(0, 2, 0, 2, 0), ROWS(0, 2, 0, 2, 4),
    ROWS(1, 2, 4, 2, 1), ROWS(0, 7, 0, 7, 0), ROWS(4, 2, 1, 2, 4), ROWS(7, 1, 3, 0, 2),
    ROWS(7, 5, 7, 4, 3), ROWS(2, 5, 7, 5, 5), ROWS(6, 5, 6, 5, 6), ROWS(3, 4, 4, 4, 3),
    ROWS(6, 5, 5, 5, 6), ROWS(7, 4, 6, 4, 7), ROWS(7, 4, 6, 4, 4), ROWS(3, 4, 5, 5, 3),
    ROWS(5, 5, 7, 5, 5), ROWS(7, 2, 2, 2, 7), ROWS(1, 1, 1, 5, 2), ROWS(5, 5, 6, 5, 5),
    ROWS(4, 4, 4, 4, 7), ROWS(5, 7, 7, 5, 5), ROWS(6, 5, 5, 5, 5), ROWS(2, 5, 5, 5, 2),
    ROWS(6, 5, 6, 4, 4), ROWS(2, 5, 5, 6, 3), ROWS(6, 5, 6, 5, 5), ROWS(3, 4, 2, 1, 6),
    ROWS(7, 2, 2, 2, 2), ROWS(5, 5, 5, 5, 7), ROWS(5, 5, 5, 5, 2), ROWS(5, 5, 7, 7, 5),
    ROWS(5, 5, 2, 5, 5), ROWS(5, 5, 2, 2, 2), ROWS(7, 1, 2, 4, 7), ROWS(6, 4, 4, 4, 6),
    ROWS(4, 4, 2, 1, 1), ROWS(3, 1, 1, 1, 3), ROWS(2, 5, 0, 0, 0), ROWS(0, 0, 0, 0, 7),
    ROWS(4, 2, 0, 0, 0), ROWS(0, 3, 5, 5, 3), ROWS(4, 6, 5, 5, 6), ROWS(0, 3, 4, 4, 3),
    ROWS(1, 3, 5, 5, 3), ROWS(0, 3, 7, 4, 3), ROWS(1, 2, 7, 2, 2), ROWS(0, 3, 5, 3, 6),
    ROWS(4, 6, 5, 5, 5), ROWS(2, 0, 2, 2, 2), ROWS(1, 0, 1, 5, 2), ROWS(4, 5, 6, 6, 5),
    ROWS(2, 2, 2, 2, 1), ROWS(0, 7, 7, 5, 5), ROWS(0, 6, 5, 5, 5), ROWS(0, 2, 5, 5, 2),
    ROWS(0, 6, 5, 6, 4), ROWS(0, 3, 5, 3, 1), ROWS(0, 3, 4, 4, 4), ROWS(0, 3, 6, 3, 6),
    ROWS(2, 7, 2, 2, 1), ROWS(0, 5, 5, 5, 3), ROWS(0, 5, 5, 5, 2), ROWS(0, 5, 5, 7, 7),
    ROWS(0, 5, 2, 2, 5), ROWS(0, 5, 5, 3, 6), ROWS(0, 7, 2, 4, 7), ROWS(3, 2, 6, 2, 3),
    ROWS(2, 2, 2, 2, 2), ROWS(6, 2, 3, 2, 6), ROWS(0, 1, 7, 4, 0),
};
#define BOX ROWS(7, 5, 5, 5, 7)

void pintle_page_init(struct pintle_page *page, uint8_t *dots, uint16_t width, uint16_t height)
{
    page->dots = dots;
    page->width = width;
    page->height = height;
    memset(dots, 0, PINTLE_PAGE_BYTES(width, height));
}

/* The byte that has it and the bit in it; null: it lies outside. */
static uint8_t *byte_of(const struct pintle_page *page, int16_t x, int16_t y, uint8_t *mask)
{
    if (x < 0 || y < 0 || (uint16_t)x >= page->width || (uint16_t)y >= page->height) {
        return NULL;
    }
    *mask = (uint8_t)(1u << (uint16_t)y % 8);
    return &page->dots[(size_t)((uint16_t)y / 8) * page->width + (uint16_t)x];
}

void pintle_page_dot(struct pintle_page *page, int16_t x, int16_t y, uint8_t on)
{
    uint8_t mask = 0;
    uint8_t *byte = byte_of(page, x, y, &mask);
    if (byte) {
        *byte = (uint8_t)(on ? *byte | mask : *byte & ~mask);
    }
}

uint8_t pintle_page_is(const struct pintle_page *page, int16_t x, int16_t y)
{
    uint8_t mask = 0;
    const uint8_t *byte = byte_of(page, x, y, &mask);
    return byte && (*byte & mask) ? 1 : 0;
}

static int16_t size_of(int16_t by)
{
    return (int16_t)(by < 0 ? -by : by);
}

/* In whole numbers: the other way is taken a step whenever what is owed reaches half of one. */
void pintle_page_line(struct pintle_page *page, int16_t x0, int16_t y0, int16_t x1, int16_t y1)
{
    int16_t wide = size_of((int16_t)(x1 - x0));
    int16_t tall = size_of((int16_t)(y1 - y0));
    int16_t right = x0 < x1 ? 1 : -1;
    int16_t down = y0 < y1 ? 1 : -1;
    int16_t long_way = wide > tall ? wide : tall;
    int16_t owed_x = (int16_t)(long_way / 2);
    int16_t owed_y = owed_x;
    for (int16_t i = 0; i <= long_way; i++) {
        pintle_page_dot(page, x0, y0, 1);
        owed_x = (int16_t)(owed_x + wide);
        owed_y = (int16_t)(owed_y + tall);
        if (owed_x >= long_way) {
            owed_x = (int16_t)(owed_x - long_way);
            x0 = (int16_t)(x0 + right);
        }
        if (owed_y >= long_way) {
            owed_y = (int16_t)(owed_y - long_way);
            y0 = (int16_t)(y0 + down);
        }
    }
}

void pintle_page_invert(struct pintle_page *page, int16_t x, int16_t y, int16_t width,
                        int16_t height)
{
    for (int16_t row = 0; row < height; row++) {
        for (int16_t column = 0; column < width; column++) {
            int16_t at_x = (int16_t)(x + column);
            int16_t at_y = (int16_t)(y + row);
            pintle_page_dot(page, at_x, at_y, !pintle_page_is(page, at_x, at_y));
        }
    }
}

static void put_letter(struct pintle_page *page, int16_t x, int16_t y, uint8_t scale, char letter)
{
    uint16_t rows = BOX;
    if (letter >= ' ' && letter <= '~') {
        pintle_table_copy(&rows, &letters[letter - ' '], sizeof rows);
    }
    for (uint8_t dot = 0; dot < LETTER_WIDTH * LETTER_HEIGHT; dot++) {
        if (!(rows >> (LETTER_WIDTH * LETTER_HEIGHT - 1 - dot) & 1)) {
            continue;
        }
        for (uint8_t part = 0; part < scale * scale; part++) {
            int16_t at_x = (int16_t)(x + dot % LETTER_WIDTH * scale + part % scale);
            int16_t at_y = (int16_t)(y + dot / LETTER_WIDTH * scale + part / scale);
            pintle_page_dot(page, at_x, at_y, 1);
        }
    }
}

int16_t pintle_page_text(struct pintle_page *page, int16_t x, int16_t y, uint8_t scale,
                         const char *text)
{
    for (; *text && x < (int16_t)page->width; text++) {
        put_letter(page, x, y, scale, *text);
        x = (int16_t)(x + PINTLE_PAGE_LETTER * scale);
    }
    return x;
}

int16_t pintle_page_width(const char *text, uint8_t scale)
{
    return (int16_t)((int16_t)strlen(text) * PINTLE_PAGE_LETTER * scale);
}

int16_t pintle_page_row(struct pintle_page *page, int16_t y, uint8_t scale, const char *name,
                        const char *value, uint8_t suspect)
{
    int16_t wide = pintle_page_width(value, scale);
    int16_t at = (int16_t)((int16_t)page->width - wide);
    int16_t next = (int16_t)(y + PINTLE_PAGE_LINE * scale);
    int16_t x = 0;
    for (; *name && x + PINTLE_PAGE_LETTER * scale < at; name++) {
        put_letter(page, x, y, scale, *name);
        x = (int16_t)(x + PINTLE_PAGE_LETTER * scale);
    }
    (void)pintle_page_text(page, at, y, scale, value);
    if (suspect) {
        pintle_page_invert(page, (int16_t)(at - 1), y, (int16_t)(wide + 1),
                           (int16_t)(LETTER_HEIGHT * scale + 1));
    }
    return next;
}

/* --- a trend --- */

static uint8_t is_there(const struct pintle_reading *reading)
{
#if PINTLE_WHOLE
    return pintle_reading_good(reading) && reading->value != INT32_MIN;
#else
    return pintle_reading_good(reading) && reading->value == reading->value; /* a number */
#endif
}

#if PINTLE_WHOLE
typedef int64_t height_value; /* a difference of any two */
#else
typedef float height_value;
#endif

/* The ends of what is drawn. */
struct ends {
    height_value low, high;
};

static uint8_t find_ends(const struct pintle_reading *readings, uint16_t count, height_value span,
                         struct ends *ends)
{
    uint8_t any = 0;
    for (uint16_t i = 0; i < count; i++) {
        if (is_there(&readings[i])) {
            height_value value = readings[i].value;
            ends->low = any && ends->low < value ? ends->low : value;
            ends->high = any && ends->high > value ? ends->high : value;
            any = 1;
        }
    }
    if (any && ends->high - ends->low < span) {
        height_value lacks = (span - (ends->high - ends->low)) / 2;
        ends->low -= lacks;
        ends->high += lacks;
    }
    return any;
}

void pintle_page_trend(struct pintle_page *page, int16_t x, int16_t y, int16_t width,
                       int16_t height, const struct pintle_reading *readings, uint16_t count,
                       pintle_value span)
{
    struct ends ends = { 0, 0 };
    uint8_t joined = 0;
    int16_t x0 = 0;
    int16_t y0 = 0;
    if (width < 1 || height < 3 || !find_ends(readings, count, span, &ends)) {
        ends.high = 0;
    }
    height_value all = ends.high > ends.low ? ends.high - ends.low : 1;
    int16_t lowest = (int16_t)(y + height - 1);
    int16_t tall = (int16_t)(height - 3); /* above the ticks and a row of air */
    for (uint16_t i = 0; i < count; i++) {
        int16_t x1 = (int16_t)(x + (count > 1 ? (int32_t)i * (width - 1) / (count - 1) : 0));
        if (!is_there(&readings[i])) {
            pintle_page_dot(page, x1, lowest, 1);
            joined = 0;
            continue;
        }
        height_value up = ((height_value)readings[i].value - ends.low) * tall / all;
        int16_t y1 = (int16_t)(y + tall - (int16_t)up);
        pintle_page_line(page, joined ? x0 : x1, joined ? y0 : y1, x1, y1);
        x0 = x1;
        y0 = y1;
        joined = 1;
    }
}
