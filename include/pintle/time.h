/* time.h: clock chips: set them, ask whether they stood still, let them give an alarm.
 *
 * Their time is a channel like any other. It is marked power-on where the chip says that it stood
 * still since it was set, range where its registers hold no time.
 *
 * Stable.
 */
#ifndef PINTLE_TIME_H
#define PINTLE_TIME_H

#include "pintle/reg.h"

PINTLE_C_BEGIN

/* A bit of a register; a register of width 0: there is none. */
struct pintle_flag {
    struct pintle_reg reg;
    uint8_t bit;
};

/* An alarm: seconds, minutes, hours and the day in four registers in a row, each with bit 7 for "it
 * doesn't matter". */
struct pintle_wake {
    uint8_t first;            /* register of the seconds */
    struct pintle_flag on;    /* set: the alarm drives the chip's output, which ... */
    struct pintle_flag route; /* ... has to be given to alarms by this bit */
    struct pintle_flag went;  /* set: it went off; writing 0 clears it */
};

/* Where a part has its time: seven bytes of BCD in a row, years 2000 to 2099 or, with a century
 * bit, to the end of February 2100, after which it counts a day that there isn't. */
struct pintle_timekeeper {
    uint8_t first;    /* their first register */
    uint8_t last;     /* the register behind which the chip goes on with that; 0: none */
    uint8_t order[7]; /* in which of them second, minute, hour, weekday, day, month and year are */
    uint8_t century;  /* the bit beside the month that is set from 2100 on; 0: none */
    struct pintle_flag stop; /* set: it stands still */
    struct pintle_flag lost; /* set: it stood still once; writing 0 clears it */
    int8_t lost_at; /* where the register of that is in the raw block, counted from the time */
    const struct pintle_wake *alarm; /* a table; null: none */
};

/* Set the clock to a whole second (UTC, seconds since 1970), let it run, clear its flag. The chip
 * proves itself first, also with a time that there is none of in it; a measurement under way ends.
 * Afterwards it is read back. NO_ABILITY: the part is no clock; OUT_OF_RANGE: before 2000 or
 * behind its last year; MISFIT: it has not taken it, or stands still; a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_time_set(struct pintle_sensor *sensor, int64_t utc_s);

/* The first second (UTC since 1970) that the part cannot count to any more. */
int64_t pintle_time_end(const struct pintle_part *part);

/* How often the alarm goes off. */
enum pintle_every {
    PINTLE_EVERY_SECOND,
    PINTLE_EVERY_MINUTE, /* at second .. of it */
    PINTLE_EVERY_HOUR,   /* at minute and second .. of it */
    PINTLE_EVERY_DAY     /* at hour, minute and second .. of it */
};

/* Arm the alarm at the given time of day (its finer fields, as `every` says), clear its flag and
 * let it drive the chip's output. OUT_OF_RANGE (a field), NO_ABILITY (no alarm), a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_time_alarm(struct pintle_sensor *sensor,
                                                       enum pintle_every every, uint8_t hour,
                                                       uint8_t minute, uint8_t second);

/* Has the alarm gone off since it was armed or asked last? Clears the flag, of a chip that has
 * proven itself; a measurement under way ends. Statuses as above. */
PINTLE_MUST_CHECK enum pintle_status pintle_time_alarmed(struct pintle_sensor *sensor,
                                                         uint8_t *alarmed);

/* A decode function for parts that are clocks: fills in the channel whose quantity is time. */
void pintle_time_decode(const struct pintle_part *part, const struct pintle_block *block,
                        struct pintle_reading *readings);

PINTLE_C_END

#endif
