/* The kernel's clocks. */
#include <errno.h>
#include <time.h>

#include "system.h"

/* The last stretch of a short wait is spun: a wake-up comes some 60 us late. */
#define SHORT_US 2000u
#define LATE_US 100u

/* A clock that was never set counts from 1970, or from 2000 where a clock chip lost its battery. */
#define SET_SINCE_S 978307200 /* 2001-01-01T00:00:00Z */

uint64_t pintle_priv_linux_now_us(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (uint64_t)now.tv_sec * 1000000u + (uint64_t)now.tv_nsec / 1000u;
}

static uint64_t now_us(void *context)
{
    (void)context;
    return pintle_priv_linux_now_us();
}

static void sleep_until(uint64_t us)
{
    const struct timespec then = { (time_t)(us / 1000000u), (long)(us % 1000000u) * 1000 };
    while (clock_nanosleep(CLOCK_MONOTONIC, TIMER_ABSTIME, &then, NULL) == EINTR) {
    }
}

static void sleep_us(void *context, uint32_t us)
{
    uint64_t then = now_us(context) + us + 1; /* now counts whole microseconds */
    if (us > SHORT_US) {
        sleep_until(then);
    } else if (us > LATE_US) {
        sleep_until(then - LATE_US);
    }
    while (now_us(context) < then) {
    }
}

static enum pintle_status get_wall_us(void *context, int64_t *utc_us)
{
    struct timespec now;
    (void)context;
    clock_gettime(CLOCK_REALTIME, &now);
    *utc_us = (int64_t)now.tv_sec * 1000000 + now.tv_nsec / 1000;
    return now.tv_sec >= SET_SINCE_S ? PINTLE_OK : PINTLE_NEVER_SET;
}

static enum pintle_status set_wall_us(void *context, int64_t utc_us)
{
    const struct timespec to = { (time_t)(utc_us / 1000000), (long)(utc_us % 1000000) * 1000 };
    (void)context;
    if (clock_settime(CLOCK_REALTIME, &to) == 0) {
        return PINTLE_OK;
    }
    return errno == EPERM ? PINTLE_DENIED : PINTLE_OUT_OF_RANGE;
}

static const struct pintle_clock_calls calls = { now_us, sleep_us, get_wall_us, set_wall_us, NULL };

const struct pintle_clock pintle_linux_clock = { &calls, NULL };
