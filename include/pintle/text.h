/* text.h: numbers, times and CSV records as text, without printf and without floating-point
 * formatting.
 *
 * Text is appended to a caller's buffer and always ends in a zero byte. What does not fit whole is
 * left out whole, so that no piece of a number can pass for one; it sets `full`, and then nothing
 * more is appended: check that once, at the end.
 *
 * Stable.
 */
#ifndef PINTLE_TEXT_H
#define PINTLE_TEXT_H

#include <stddef.h>
#include <stdint.h>

#include "pintle/sensor.h"

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
void pintle_text_csv(struct pintle_text *text, const char *string);

/* Append what is known of a sensor's last measurement as a line of CSV, the time (as above; nothing
 * where `utc_us` is 0) and for each channel a field with its value and one with "good", its marks
 * or, where the measurement failed, the status, in base units (unit.h):
 * "2026-06-12T09:14:00Z,12.5000,good". Columns: the heads of those fields, "time,temperature
 * Cel,temperature quality". Both end the line. */
void pintle_text_line(struct pintle_text *text, const struct pintle_sensor *sensor, int64_t utc_us);
void pintle_text_columns(struct pintle_text *text, const struct pintle_part *part);

PINTLE_C_END

#endif
