/* parts/ds3231.h: DS3231, a clock that keeps time on a battery, with its own thermometer
 * (datasheet 19-5170).
 */
#ifndef PINTLE_PARTS_DS3231_H
#define PINTLE_PARTS_DS3231_H

#include "pintle/parts.h"

enum { PINTLE_DS3231_TEMPERATURE, PINTLE_DS3231_TIME };

/* Set the clock to a whole second (UTC, seconds since 1970, from 2000 to the end of February 2100,
 * after which its count of days is wrong and its time marked) and clear its stop flag. OUT_OF_RANGE
 * or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_ds3231_set(struct pintle_sensor *sensor, int64_t utc_s);

/* How often the alarm's output goes low. */
enum pintle_ds3231_every {
    PINTLE_DS3231_EVERY_SECOND,
    PINTLE_DS3231_EVERY_MINUTE, /* at second .. of it */
    PINTLE_DS3231_EVERY_HOUR,   /* at minute and second .. of it */
    PINTLE_DS3231_EVERY_DAY     /* at hour, minute and second .. of it */
};

/* Arm alarm 1 at the given time of day (its finer fields, as `every` says) and clear its flag.
 * OUT_OF_RANGE (a field) or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_ds3231_alarm(struct pintle_sensor *sensor,
                                                         enum pintle_ds3231_every every,
                                                         uint8_t hour, uint8_t minute,
                                                         uint8_t second);

/* Has alarm 1 gone off since it was armed or asked last? Clears the flag, of a chip that has proven
 * itself; a measurement under way ends. */
PINTLE_MUST_CHECK enum pintle_status pintle_ds3231_alarmed(struct pintle_sensor *sensor,
                                                           uint8_t *alarmed);

#endif
