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

#define LONGEST_US 60000000 /* of one sleep_us */
#define TRIES 100           /* in a row that no time passes in */

static uint64_t now_us(const struct pintle_clock *clock)
{
    return clock->calls->now_us(clock->context);
}

enum pintle_status pintle_schedule_sleep(const struct pintle_clock *clock, int64_t us)
{
    uint64_t now = now_us(clock);
    uint64_t until = now + (uint64_t)(us > 0 ? us : 0);
    for (uint8_t tries = TRIES; now < until && tries > 0; tries--) {
        uint64_t left = until - now;
        if (clock->calls->wake_at) {
            clock->calls->wake_at(clock->context, until);
        } else {
            clock->calls->sleep_us(clock->context, left > LONGEST_US ? LONGEST_US : (uint32_t)left);
        }
        uint64_t after = now_us(clock);
        tries = after > now ? TRIES : tries;
        now = after;
    }
    return now < until ? PINTLE_CLOCK_STOPPED : PINTLE_OK;
}
