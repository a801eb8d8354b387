/* reading.h: what a measurement yields. Judge.h judges it against those before.
 */
#ifndef PINTLE_READING_H
#define PINTLE_READING_H

#include <math.h>
#include <stdint.h>

#include "pintle/config.h"
#include "pintle/quality.h"

PINTLE_C_BEGIN

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
