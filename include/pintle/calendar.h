/* calendar.h: seconds as dates, and back.
 *
 * Stable.
 */
#ifndef PINTLE_CALENDAR_H
#define PINTLE_CALENDAR_H

#include <stdint.h>

#include "pintle/config.h"

PINTLE_C_BEGIN

/* A date and time of day, Gregorian. */
struct pintle_calendar {
    uint16_t year;
    uint8_t month, day; /* 1 to 12, 1 to 31 */
    uint8_t hour, minute, second;
    uint8_t weekday; /* 1 Monday to 7 Sunday (ISO 8601) */
};

/* Between seconds since 1970-01-01T00:00:00Z and a date (years 1 to 9999). pintle_calendar_seconds
 * takes the fields as they are and ignores the weekday. */
void pintle_calendar_from(struct pintle_calendar *calendar, int64_t seconds);
int64_t pintle_calendar_seconds(const struct pintle_calendar *calendar);

PINTLE_C_END

#endif
