/* host/check/hint.h: from what is seen to what is likely wrong, and what to do next.
 *
 * All in one place: 'pintle scan' tells its findings in these words, 'pintle explain' lists them,
 * and docs/troubleshooting.md is made from them.
 */
#ifndef PINTLE_HOST_CHECK_HINT_H
#define PINTLE_HOST_CHECK_HINT_H

#include <stddef.h>

#include "pintle/part.h"
#include "pintle/reading.h"
#include "pintle/status.h"

PINTLE_C_BEGIN

/* Bits for the kinds of bus that a hint is for. */
#define PINTLE_ON_I2C (1 << PINTLE_BUS_I2C)
#define PINTLE_ON_SPI (1 << PINTLE_BUS_SPI)
#define PINTLE_ON_ONEWIRE (1 << PINTLE_BUS_ONEWIRE)
#define PINTLE_ON_STREAM (1 << PINTLE_BUS_STREAM)
#define PINTLE_ON_ALL (PINTLE_ON_I2C | PINTLE_ON_SPI | PINTLE_ON_ONEWIRE | PINTLE_ON_STREAM)

enum pintle_hint {
    PINTLE_HINT_SWITCHED_OFF,
    PINTLE_HINT_UNABLE,
    PINTLE_HINT_DENIED,
    PINTLE_HINT_SYSTEM_FAILS,
    PINTLE_HINT_HELD,
    PINTLE_HINT_HELD_SWITCH,
    PINTLE_HINT_ALL_LATE,
    PINTLE_HINT_TOUCHING,
    PINTLE_HINT_BOTH_LOW,
    PINTLE_HINT_CLOCK_LOW,
    PINTLE_HINT_DATA_LOW,
    PINTLE_HINT_NO_RISE,
    PINTLE_HINT_SLOW_RISE,
    PINTLE_HINT_LOW_WHILE_TALKING,
    PINTLE_HINT_CLOCK_STUCK,
    PINTLE_HINT_EVERYBODY,
    PINTLE_HINT_ON_OTHER_BUS,
    PINTLE_HINT_OTHER_STRAP,
    PINTLE_HINT_MAYBE_THERE,
    PINTLE_HINT_NOBODY,
    PINTLE_HINT_ONE_MISSING,
    PINTLE_HINT_OTHER_PART,
    PINTLE_HINT_MAYBE_OTHER,
    PINTLE_HINT_NO_PROOF,
    PINTLE_HINT_STRANGER,
    PINTLE_HINT_UNPROVEN_STRANGER,
    PINTLE_HINT_ACTING_STRANGER,
    PINTLE_HINT_UNKNOWN_STRANGER,
    PINTLE_HINT_ALL_ONES,
    PINTLE_HINT_ALL_ZEROS,
    PINTLE_HINT_OTHER_SELECT,
    PINTLE_HINT_ONE_BIT_LATE,
    PINTLE_HINT_UNSTEADY,
    PINTLE_HINT_LINE_LOW,
    PINTLE_HINT_LINE_SHORTED,
    PINTLE_HINT_LINE_FLOATS,
    PINTLE_HINT_LINE_KEPT,
    PINTLE_HINT_NO_PRESENCE,
    PINTLE_HINT_NO_CODE,
    PINTLE_HINT_GARBLED_CODE,
    PINTLE_HINT_PARTIAL_CODE,
    PINTLE_HINT_ZERO_CODE,
    PINTLE_HINT_FLICKERING,
    PINTLE_HINT_CODE_MISSING,
    PINTLE_HINT_UNKNOWN_FAMILY,
    PINTLE_HINT_NEEDS_POWER,
    PINTLE_HINT_SILENT_LINE,
    PINTLE_HINT_GARBLED_LINE,
    PINTLE_HINT_DEAF_LINE,
    PINTLE_HINT_COUNT
};

struct pintle_hint_text {
    const char *word;     /* to look it up by */
    unsigned buses;       /* PINTLE_ON_... */
    const char *evidence; /* what is seen */
    const char *text;     /* what is told, likeliest cause first; may hold the names below */
};

/* Null for PINTLE_HINT_COUNT and beyond. */
const struct pintle_hint_text *pintle_hint_at(size_t index);

/* What {part}, {other}, {place}, {bus}, {strap} and {proof} in a text stand for; null ones: "?". */
struct pintle_hint_names {
    const char *part, *other, *place, *bus, *strap, *proof;
};

/* The text with the names in their places. */
void pintle_hint_tell(enum pintle_hint hint, const struct pintle_hint_names *names, char *text,
                      size_t room);

/* The likely causes of a status on a bus of this kind, the likeliest first; "" where there is
 * nothing to look for. */
const char *pintle_hint_causes(enum pintle_status status, enum pintle_bus_kind kind);

/* A quality mark: its word and meaning are those of reading.h. */
struct pintle_mark_text {
    pintle_marks bit;   /* enum pintle_quality */
    const char *causes; /* the likeliest first */
    const char *remedy;
    const char *until; /* when readings of this channel are believed again */
};

/* In the order of the bits; null beyond the last. */
const struct pintle_mark_text *pintle_hint_mark(size_t index);

PINTLE_C_END

#endif
