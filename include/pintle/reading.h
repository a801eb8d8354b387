/* reading.h: what a measurement yields, and judging it against the one before.
 */
#ifndef PINTLE_READING_H
#define PINTLE_READING_H

#include <stdint.h>

#include "pintle/config.h"
#include "pintle/quality.h"

#if PINTLE_WHOLE
typedef int32_t pintle_value; /* times 10 to the power of the channel's decimals; INT32_MIN: none */
#else
typedef float pintle_value;
#endif

/* One channel's reading, in the base unit of its quantity (unit.h).
 * For PINTLE_QUANTITY_TIME `raw`, taken as unsigned, counts seconds since 2000-01-01T00:00:00Z and
 * is the exact figure; `value` is the same as a float, too coarse to tell minutes. */
struct pintle_reading {
    pintle_value value;
    int32_t raw; /* the integer assembled from the raw bytes, before any formula; of a part whose
                    integers have no sign and 32 bits it is taken as unsigned */
    uint16_t quality; /* a set of enum pintle_quality */
};

/* Is there a value, and nothing against it? */
static inline uint8_t pintle_reading_good(const struct pintle_reading *reading)
{
    return (reading->quality & PINTLE_QUALITY_SUSPECT) == 0;
}

/* All of one measurement. */
struct pintle_sample {
    int64_t time_us; /* UTC, microseconds since 1970; 0 where the port has no wall clock */
    uint8_t raw[PINTLE_RAW_MAX];
    struct pintle_reading channel[PINTLE_CHANNELS_MAX];
};

/* Watches one channel for jumps and frozen values. Zero it, set the limits, keep it between
 * readings. */
struct pintle_judge {
    pintle_value jump; /* largest believable step from one reading to the next, base unit */
    pintle_value rate; /* and besides, what the quantity can move by in a second; both 0: not
                          watched */
    uint16_t frozen; /* readings in a row with one raw value before it is marked; 0: not watched */
    uint16_t same;   /* state: how many in a row so far */
    int32_t raw;     /* state */
    pintle_value good; /* state: the last good value, */
    uint32_t good_ms;  /* when it was, */
    uint8_t since;     /* and how many readings ago; 0: there was none */
    uint8_t seen;      /* state: raw is set */
};

/* Add JUMP or FROZEN to the reading's quality where it deserves them. A reading that is suspect
 * already is not remembered. How far one may be from the last good one grows by `jump` with every
 * reading since then, and by `rate` with every second: a spike is marked for as long as it lasts,
 * and a real step is believed after as many readings as it takes in believable ones. `now_ms` is
 * from any clock that goes on evenly. */
void pintle_judge_reading(struct pintle_judge *judge, struct pintle_reading *reading,
                          uint32_t now_ms);

#endif
