/* ability.h: what a chip can do besides measuring.
 *
 * A part names its abilities; each is a table that the header of its own explains, for calls that
 * any such part understands. Firmware that doesn't make those calls doesn't link them.
 *
 * May still change.
 */
#ifndef PINTLE_ABILITY_H
#define PINTLE_ABILITY_H

struct pintle_lines;
struct pintle_store;
struct pintle_timekeeper;
struct pintle_screen;
struct pintle_fifo;
struct pintle_limit_rules;

/* Null: it cannot. All are tables (table.h). */
struct pintle_abilities {
    const struct pintle_lines *lines;           /* outputs.h: pins to set and to read */
    const struct pintle_store *store;           /* store.h: memory */
    const struct pintle_timekeeper *timekeeper; /* time.h: a clock */
    const struct pintle_screen *screen;         /* screen.h: a display */
    const struct pintle_fifo *fifo;             /* burst.h: samples that wait to be fetched */
    const struct pintle_limit_rules *limits;    /* limits.h: it watches its value by itself */
};

#endif
