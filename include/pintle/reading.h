/* reading.h: what a measurement yields: a value, and what is known against it (its quality).
 * Judge.h judges it against those before.
 *
 * Each value carries a set of marks, enum pintle_quality. A value with any suspect bit is kept and
 * marked; nothing acts on it, and summaries leave it out and count it. UNCORRECTED, GAP, WARMING
 * and SMOOTHED are remarks only: no correction from a calibration was applied; samples before it,
 * or readings in its window, are missing; it may be its own heat that it measures; it was filtered.
 *
 * Stable.
 */
#ifndef PINTLE_READING_H
#define PINTLE_READING_H

#include <math.h>
#include <stdint.h>

#include "pintle/config.h"

PINTLE_C_BEGIN

/* A set of them. */
typedef uint32_t pintle_marks;

/* X(NAME, bit, "word", "sentence") */
#define PINTLE_QUALITY_LIST(X)                                                                     \
    X(FIRST, 0, "first", "the first reading after power-up, or a window that is not full")         \
    X(POWER_ON, 1, "power-on", "the register still holds its power-on value")                      \
    X(RANGE, 2, "range", "outside the range of the part, or of the formula")                       \
    X(SATURATED, 3, "saturated", "at the end of the scale")                                        \
    X(FROZEN, 4, "frozen", "the same raw value too many times in a row")                           \
    X(JUMP, 5, "jump", "further from the last good reading than can be")                           \
    X(BUS, 6, "bus", "no data: the bus or the chip failed")                                        \
    X(UNCORRECTED, 7, "uncorrected", "no calibration is applied")                                  \
    X(STALE, 8, "stale", "not a new measurement: the one before, once more")                       \
    X(IDLE, 9, "idle", "not measured: no one asked for it")                                        \
    X(GAP, 10, "gap", "samples before this one are missing, or readings in its window")            \
    X(SPAN, 11, "span", "where its correction does not hold")                                      \
    X(APART, 12, "apart", "further from its twin than the two may differ")                         \
    X(WARMING, 13, "warming", "rising since power-up as by its own heat")                          \
    X(SMOOTHED, 14, "smoothed", "the median of the last good values")

enum pintle_quality {
#define PINTLE_QUALITY_VALUE(name, bit, word, sentence) PINTLE_QUALITY_##name = 1 << bit,
    PINTLE_QUALITY_LIST(PINTLE_QUALITY_VALUE)
#undef PINTLE_QUALITY_VALUE
};

/* All of them but the remarks. */
#define PINTLE_QUALITY_SUSPECT 0x1b7f

/* The word and the sentence of one single bit; "unknown" for anything else. They lie
 * in tables (table.h). */
const char *pintle_quality_word(pintle_marks bit);
const char *pintle_quality_sentence(pintle_marks bit);

#if PINTLE_WHOLE
typedef int32_t pintle_value; /* times 10 to the power of the channel's decimals */
#else
typedef float pintle_value;
#endif

/* What `value` is where there is none: marked BUS or IDLE. */
#if PINTLE_WHOLE
#define PINTLE_NO_VALUE INT32_MIN
#else
#define PINTLE_NO_VALUE NAN
#endif

/* One channel's reading, in the base unit of its quantity (unit.h).
 * For PINTLE_QUANTITY_TIME `raw`, taken as unsigned, counts seconds since 2000-01-01T00:00:00Z and
 * is the exact figure; `value` is the same as a float, too coarse to tell minutes. */
struct pintle_reading {
    pintle_value value;
    int32_t raw; /* the integer assembled from the raw bytes, before any formula; of a part whose
                    integers have no sign and 32 bits it is taken as unsigned */
    pintle_marks quality; /* a set of enum pintle_quality */
};

/* Is there a value, and nothing against it? */
static inline uint8_t pintle_reading_good(const struct pintle_reading *reading)
{
    return (reading->quality & PINTLE_QUALITY_SUSPECT) == 0;
}

PINTLE_C_END

#endif
