/* page.h: a page of values, a trend and marks for a small display, one bit a dot.
 *
 * The dots lie as screen.h wants them: a byte for eight dots below each other, the topmost in the
 * lowest bit, column after column of the topmost eight rows, then of the next eight. So a page goes
 * to a display with pintle_screen_show, and into a file on a machine that has some. Nothing here
 * needs a display, a heap or a part.
 *
 *     pintle_page_init     over the caller's dots, empty
 *     pintle_page_text     words in letters of 3 x 5 dots, once or several times as large
 *     pintle_page_row      a name, and a value at the other end; what is suspect is inverted
 *     pintle_page_trend    readings as a line; suspect ones leave a gap, and a tick beneath
 *     pintle_page_line, pintle_page_dot, pintle_page_invert
 *
 * What lies outside of the page is left out.
 *
 * Stable.
 */
#ifndef PINTLE_PAGE_H
#define PINTLE_PAGE_H

#include <stddef.h>
#include <stdint.h>

#include "pintle/reading.h"

PINTLE_C_BEGIN

struct pintle_page {
    uint8_t *dots;
    uint16_t width;  /* of dots, 1 to 2048 */
    uint16_t height; /* likewise; a multiple of 8 */
};

/* Bytes that a page of so many dots takes. */
#define PINTLE_PAGE_BYTES(width, height) ((size_t)(width) * (size_t)(height) / 8)

/* A letter's cell, a column and a row of air with it. */
#define PINTLE_PAGE_LETTER 4
#define PINTLE_PAGE_LINE 6

/* Begin an empty page. `dots` has PINTLE_PAGE_BYTES of them and must outlive it. */
void pintle_page_init(struct pintle_page *page, uint8_t *dots, uint16_t width, uint16_t height);

void pintle_page_dot(struct pintle_page *page, int16_t x, int16_t y, uint8_t on);
uint8_t pintle_page_is(const struct pintle_page *page, int16_t x, int16_t y);

void pintle_page_line(struct pintle_page *page, int16_t x0, int16_t y0, int16_t x1, int16_t y1);

/* Swap dark and light in a box. */
void pintle_page_invert(struct pintle_page *page, int16_t x, int16_t y, int16_t width,
                        int16_t height);

/* Letters from (x, y), their upper left corner, on, `scale` (1 to 8) times as large. What is no
 * printable ASCII is a box. Returns where the next letter would begin. */
int16_t pintle_page_text(struct pintle_page *page, int16_t x, int16_t y, uint8_t scale,
                         const char *text);

/* Dots that a text takes across. */
int16_t pintle_page_width(const char *text, uint8_t scale);

/* A line of the page at `y`: the name at the left, the value at the right, which wins where both
 * don't fit; inverted if it is suspect. Returns where the next line begins. */
int16_t pintle_page_row(struct pintle_page *page, int16_t y, uint8_t scale, const char *name,
                        const char *value, uint8_t suspect);

/* The readings of one channel, the oldest first, as a line that fills a box from its least to its
 * greatest good value; if these are nearer than `span`, that is what the box is high. The line has
 * gaps where readings are suspect, and a tick in the lowest row for each of those. */
void pintle_page_trend(struct pintle_page *page, int16_t x, int16_t y, int16_t width,
                       int16_t height, const struct pintle_reading *readings, uint16_t count,
                       pintle_value span);

PINTLE_C_END

#endif
