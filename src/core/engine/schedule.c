#include "pintle/schedule.h"

/* The first whole multiple of the interval at or after `now`. */
static int64_t slot_from(int64_t now, int64_t interval)
{
    int64_t rest = now % interval;
    if (rest < 0) {
        rest += interval;
    }
    return rest == 0 ? now : now + (interval - rest);
}

int64_t pintle_schedule_next(struct pintle_schedule *schedule, int64_t now_us, uint32_t *missed)
{
    int64_t interval = schedule->interval_us;
    int64_t slot = slot_from(now_us, interval);
    int64_t skipped = 0;
    if (schedule->last_us != 0) {
        if (slot == schedule->last_us) {
            slot += interval;
        }
        skipped = (slot - schedule->last_us) / interval - 1;
    }
    if (missed) {
        *missed = skipped > 0 ? (uint32_t)skipped : 0;
    }
    schedule->last_us = slot;
    return slot;
}
