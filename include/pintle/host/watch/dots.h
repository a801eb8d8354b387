/* host/watch/dots.h: small drawings of dots, two across and four up in a terminal's cell.
 */
#ifndef PINTLE_HOST_WATCH_DOTS_H
#define PINTLE_HOST_WATCH_DOTS_H

#include <stdbool.h>
#include <stdint.h>

#include "pintle/host/watch/trail.h"

PINTLE_C_BEGIN

struct pintle_dots {
    unsigned columns, rows; /* cells */
    uint8_t *cell;          /* bit n is dot n of a Braille pattern (ISO/IEC 10646, U+2800) */
};

void pintle_dots_init(struct pintle_dots *dots, unsigned columns, unsigned rows);
void pintle_dots_free(struct pintle_dots *dots);

/* A dot, counted from the upper left one; one outside is left out. */
void pintle_dots_set(struct pintle_dots *dots, int x, int y);
void pintle_dots_line(struct pintle_dots *dots, double x0, double y0, double x1, double y1);

/* The good values of a trail from a moment to its end, from `low` at the bottom to `high`. Gaps
 * stay open: further apart than `gap` seconds they are no neighbours. */
void pintle_dots_trail(struct pintle_dots *dots, const struct pintle_trail *trail, double since,
                       double low, double high, double gap);

/* A cell as text: a Braille pattern in UTF-8 or, where there are none, one of " .':" by its halves.
 */
void pintle_dots_text(uint8_t cell, bool braille, char text[4]);

/* A hull seen from astern, heeled (to starboard, degrees), or from starboard, with its bow up. */
void pintle_dots_hull(struct pintle_dots *dots, double degrees, bool from_astern);

PINTLE_C_END

#endif
