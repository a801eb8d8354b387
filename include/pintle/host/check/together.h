/* host/check/together.h: can these parts share a board? Addresses, buses and supplies for a
 * shopping list. */
#ifndef PINTLE_HOST_CHECK_TOGETHER_H
#define PINTLE_HOST_CHECK_TOGETHER_H

#include "pintle/sheet.h"

PINTLE_C_BEGIN

#define PINTLE_TOGETHER_PARTS 64
#define PINTLE_TOGETHER_BUSES 8 /* of I2C */

/* Where one of them goes. */
struct pintle_together_part {
    const struct pintle_sheet *sheet;
    unsigned bus; /* counted from 0, of its kind */
    int strap;    /* I2C: of the sheet's; SPI: its select line, counted from 0 */
};

struct pintle_together {
    struct pintle_together_part place[PINTLE_TOGETHER_PARTS];
    unsigned count;
    unsigned buses[4]; /* that it takes, by enum pintle_bus_kind */
    /* Of the parts that one I2C bus more is for: those that have too few addresses between them,
     * and those addresses; a set of places each, and of 7-bit addresses. */
    uint64_t crowd[PINTLE_TOGETHER_BUSES];
    float supply_v;   /* that suits most of them */
    uint64_t other_v; /* those that it doesn't suit */
};

/* Place `count` parts, up to PINTLE_TOGETHER_PARTS, on as few buses as will do. False: that many of
 * one address fit on no PINTLE_TOGETHER_BUSES buses. */
int pintle_together_place(const struct pintle_sheet *const *parts, unsigned count,
                          struct pintle_together *fit);

PINTLE_C_END

#endif
