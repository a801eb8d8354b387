/* format.h: numbers, times and CSV records as text, without printf and without floating-point
 * formatting.
 *
 * Text is appended to a caller's buffer and always ends in a zero byte. What does not fit whole is
 * left out whole, so that no piece of a number can pass for one; it sets `full`, and then nothing
 * more is appended: check that once, at the end.
 */
#ifndef PINTLE_FORMAT_H
#define PINTLE_FORMAT_H

#include <stddef.h>
#include <stdint.h>

#include "pintle/part.h"

PINTLE_C_BEGIN

struct pintle_text {
    char *at;
    size_t size; /* with the closing zero */
    size_t used; /* without it */
    uint8_t full;
};

/* Begin with an empty text in `buffer` of `size` bytes, at least 1. */
void pintle_text_init(struct pintle_text *text, char *buffer, size_t size);

/* Append a string, one character, or a string that lies in a table (table.h). */
void pintle_text_string(struct pintle_text *text, const char *string);
void pintle_text_char(struct pintle_text *text, char character);
void pintle_text_table(struct pintle_text *text, const char *string);

/* Append a whole number, padded with zeros to at least `digits` digits (up to 20). */
void pintle_text_whole(struct pintle_text *text, int64_t value, uint8_t digits);

/* Append `value` rounded to `decimals` places (0 to PINTLE_DECIMALS_MAX), exactly, a tie going to
 * the even digit. "nan", "inf" and "-inf" are written so; a magnitude of 2^40 or more as "over". */
void pintle_text_fixed(struct pintle_text *text, float value, uint8_t decimals);

/* Append a time (UTC, microseconds since 1970) as RFC 3339 in the zone `offset_min` minutes east
 * of Greenwich, "Z" for 0, with `decimals` places of seconds (0, 3 or 6). Years 0001 to 9999. */
void pintle_text_time(struct pintle_text *text, int64_t utc_us, int16_t offset_min,
                      uint8_t decimals);

/* Append one channel's reading in its base unit, with the channel's decimals; a time as RFC 3339;
 * nothing for a reading with no value. */
void pintle_text_reading(struct pintle_text *text, const struct pintle_channel *channel,
                         const struct pintle_reading *reading);

/* Append the suspect bits of `quality` as words joined by '+', or "good". */
void pintle_text_quality(struct pintle_text *text, pintle_marks quality);

/* Append a comma and `string` as one CSV field, quoted where RFC 4180 asks for it. */
void pintle_csv_field(struct pintle_text *text, const char *string);

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
