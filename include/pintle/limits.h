/* limits.h: a low and a high limit that a chip watches by itself, with a pin that says so.
 *
 *     pintle_limits_set    write them into the chip and switch its pin on
 *     pintle_limits_ask    when the pin goes, or now and then: where is the value?
 *
 * A chip that lost its supply has lost its limits, and its pin is silent: ask now and then even
 * where the pin is watched. Not with PINTLE_WHOLE.
 *
 * Stable.
 */
#ifndef PINTLE_LIMITS_H
#define PINTLE_LIMITS_H

#include "pintle/sensor.h"

PINTLE_C_BEGIN

/* Where a part has no bit for "below" the low limit is where it stops to tell of the high one.
 *
 * A part's limits, of its channel 0. Registers are in the part's byte order. */
struct pintle_limit_rules {
    uint16_t low, high; /* registers of two bytes, with the channel's integer in its bits */
    uint16_t mask;      /* of it, bits that are kept */
    const struct pintle_step *on;    /* a table: switches the pin on */
    const struct pintle_step *check; /* is that still so? */
    uint16_t state;                  /* a register of two bytes, in which ... */
    uint16_t below, above;           /* ... these bits say so; 0: it doesn't say */
    uint8_t inverted;                /* 1: by being 0 */
};

#define PINTLE_LIMITS_BELOW 1
#define PINTLE_LIMITS_ABOVE 2

/* Only the calls below touch the members. */
struct pintle_limits {
    struct pintle_sensor *sensor;
    uint16_t low, high;
};

/* In the base unit. `sensor` must outlive it. The chip proves itself first; a measurement under way
 * ends. OUT_OF_RANGE: beyond what its registers hold, or low above high; NO_ABILITY: the part has
 * no limits; MISFIT: it doesn't keep them, or is set up to measure only when it is told to; a bus
 * status. */
PINTLE_MUST_CHECK enum pintle_status pintle_limits_set(struct pintle_limits *limits,
                                                       struct pintle_sensor *sensor, float low,
                                                       float high);

/* *beyond: a set of the above, by the chip's own comparison. MISFIT: the chip had lost the limits;
 * they are set again, and it knows nothing yet. */
PINTLE_MUST_CHECK enum pintle_status pintle_limits_ask(struct pintle_limits *limits,
                                                       uint8_t *beyond);

PINTLE_C_END

#endif
