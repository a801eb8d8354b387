/* Numbers of twice a float's digits: high + low, low less than half a digit of high. */
#ifndef PINTLE_VALUES_TWOFOLD_H
#define PINTLE_VALUES_TWOFOLD_H

#include "pintle/fit.h"

struct pintle_fit_wide pintle_priv_wide(float high, float low);
struct pintle_fit_wide pintle_priv_wide_sum(struct pintle_fit_wide a, struct pintle_fit_wide b);
struct pintle_fit_wide pintle_priv_wide_less(struct pintle_fit_wide a,
                                             struct pintle_fit_wide b); /* a - b */
struct pintle_fit_wide pintle_priv_wide_times(struct pintle_fit_wide a, float b);
struct pintle_fit_wide pintle_priv_wide_product(struct pintle_fit_wide a, struct pintle_fit_wide b);

static inline float pintle_priv_narrow(struct pintle_fit_wide a)
{
    return a.high + a.low;
}

/* Not so for what isn't a number, and for infinities. */
static inline uint8_t pintle_priv_is_finite(float x)
{
    return x - x == 0;
}

#endif
