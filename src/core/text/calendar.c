/* Days into dates and back. */
#include "pintle/calendar.h"

#define DAY 86400
#define ERA_DAYS 146097   /* days in 400 Gregorian years */
#define EPOCH_DAYS 719468 /* from 0000-03-01 to 1970-01-01 */

/* Both ways count years from March, so that the leap day is a year's last: the month lengths
 * from March on follow (153 m + 2) / 5. */
void pintle_calendar_from(struct pintle_calendar *calendar, int64_t seconds)
{
    int64_t day = seconds / DAY;
    int32_t rest = (int32_t)(seconds % DAY);
    if (rest < 0) {
        rest += DAY;
        day--;
    }
    calendar->hour = (uint8_t)(rest / 3600);
    calendar->minute = (uint8_t)(rest / 60 % 60);
    calendar->second = (uint8_t)(rest % 60);
    uint32_t days = (uint32_t)(day + EPOCH_DAYS);
    calendar->weekday = (uint8_t)((days + 2) % 7 + 1);
    uint32_t era = days / ERA_DAYS;
    uint32_t in_era = days % ERA_DAYS;
    uint32_t year = (in_era - in_era / 1460 + in_era / 36524 - in_era / (ERA_DAYS - 1)) / 365;
    uint32_t in_year = in_era - (365 * year + year / 4 - year / 100);
    uint32_t month = (5 * in_year + 2) / 153;
    calendar->day = (uint8_t)(in_year - (153 * month + 2) / 5 + 1);
    calendar->month = (uint8_t)(month < 10 ? month + 3 : month - 9);
    calendar->year = (uint16_t)(era * 400 + year + (month >= 10));
}

int64_t pintle_calendar_seconds(const struct pintle_calendar *calendar)
{
    uint32_t early = calendar->month <= 2;
    uint32_t year = calendar->year - early;
    uint32_t month = calendar->month + (early ? 9u : 0u) - (early ? 0u : 3u);
    uint32_t in_year = (153 * month + 2) / 5 + calendar->day - 1;
    uint32_t in_era = year % 400 * 365 + year % 400 / 4 - year % 400 / 100 + in_year;
    int64_t days = (int64_t)(year / 400) * ERA_DAYS + in_era - EPOCH_DAYS;
    return days * DAY + calendar->hour * (int32_t)3600 + calendar->minute * 60 + calendar->second;
}
