/* schedule.h: when to measure, aligned to the clock.
 *
 * Slots lie at whole multiples of the interval since 1970-01-01T00:00:00Z: every 20 s means :00,
 * :20 and :40. Each slot is worked out from the clock anew, so nothing drifts.
 *
 * Stable.
 */
#ifndef PINTLE_SCHEDULE_H
#define PINTLE_SCHEDULE_H

#include <stdint.h>

#include "pintle/port.h"

PINTLE_C_BEGIN

struct pintle_schedule {
    int64_t interval_us; /* above 0 */
    int64_t last_us;     /* the last slot given out; 0: none yet */
};

/* The slot to measure in next: the first one at or after `now_us` that was not given out yet.
 * *missed (may be null) gets the number of slots between the last one and this, which nobody
 * measured. A clock that was set back gives out slots of the new time, with none missed. */
int64_t pintle_schedule_next(struct pintle_schedule *schedule, int64_t now_us, uint32_t *missed);

/* Sleep for so long, hours too: as deep as the port can (wake_at), or by sleep_us. Returns when it
 * is over, however often something wakes the machine. CLOCK_STOPPED: no time passes. */
PINTLE_MUST_CHECK enum pintle_status pintle_schedule_sleep(const struct pintle_clock *clock,
                                                           int64_t us);

PINTLE_C_END

#endif
