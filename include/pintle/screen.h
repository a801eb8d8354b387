/* screen.h: small displays, one bit a dot.
 *
 * A picture is the caller's, as the displays want it: a byte for eight dots below each other, the
 * topmost in the lowest bit, column after column of the topmost eight rows, then of the next eight.
 * pintle_screen_dot sets one dot of it; pintle_screen_show sends it, set-up and all, so that a
 * display that has lost its supply comes back with the next picture. Most displays never answer:
 * nobody but a person can tell what is on them.
 *
 * Stable.
 */
#ifndef PINTLE_SCREEN_H
#define PINTLE_SCREEN_H

#include "pintle/sensor.h"

PINTLE_C_BEGIN

/* What a part shows. */
struct pintle_screen {
    uint16_t width;
    uint16_t height; /* a multiple of 8 */
    uint8_t row;     /* the command that goes to a band of eight rows, with its number in it, */
    uint8_t column;  /* and the one that goes to a column */
};

/* Bytes of a picture that are enough for any part up to 128 x 64. */
#define PINTLE_PICTURE_MAX 1024

/* The part's screen: null where it has none. It lies in a table (table.h). */
const struct pintle_screen *pintle_screen_of(const struct pintle_part *part);

/* Set (on 1) or clear a dot, counted from the upper left corner; one outside is left out. */
void pintle_screen_dot(const struct pintle_part *part, uint8_t *picture, uint16_t x, uint16_t y,
                       uint8_t on);

/* Send a picture of width x height / 8 bytes. NO_ABILITY: the part shows nothing; a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_screen_show(struct pintle_sensor *sensor,
                                                        const uint8_t *picture);

PINTLE_C_END

#endif
