#include "pintle/host/past/interval.h"

#include <glib.h>

/* Four days after the first of 1970. */
#define A_MONDAY_US (4 * G_TIME_SPAN_DAY)

int64_t pintle_zone_us(int64_t time_us)
{
    int64_t seconds = time_us / G_TIME_SPAN_SECOND - (time_us % G_TIME_SPAN_SECOND < 0);
    GDateTime *time = g_date_time_new_from_unix_local(seconds);
    int64_t offset = time ? g_date_time_get_utc_offset(time) : 0;
    if (time) {
        g_date_time_unref(time);
    }
    return offset;
}

static int64_t down_to(int64_t time_us, int64_t every_us)
{
    int64_t over = (time_us - A_MONDAY_US) % every_us;
    return time_us - (over < 0 ? over + every_us : over);
}

int64_t pintle_interval_begin(int64_t time_us, int64_t every_us, bool local)
{
    if (!local) {
        return down_to(time_us, every_us);
    }
    int64_t zone_us = pintle_zone_us(time_us);
    int64_t begin_us = down_to(time_us + zone_us, every_us) - zone_us;
    return begin_us + zone_us - pintle_zone_us(begin_us);
}
