/* host/past/interval.h: the intervals that records are put together over.
 */
#ifndef PINTLE_HOST_PAST_INTERVAL_H
#define PINTLE_HOST_PAST_INTERVAL_H

#include <stdbool.h>
#include <stdint.h>

#include "pintle/config.h"

PINTLE_C_BEGIN

/* How far east of UTC this machine's zone is at a moment (microseconds, UTC since 1970). */
int64_t pintle_zone_us(int64_t time_us);

/* When the interval begins that a moment is in. Intervals are whole multiples of their length
 * (more than 0) from a Monday's midnight on: in UTC or, `local`, by this machine's wall clock.
 * Where that is put forward or back the interval is so much shorter or longer, and one that begins
 * in the hour that is there twice begins twice.
 */
int64_t pintle_interval_begin(int64_t time_us, int64_t every_us, bool local);

PINTLE_C_END

#endif
