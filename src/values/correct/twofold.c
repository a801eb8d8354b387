/* After T. J. Dekker, Numerische Mathematik 18 (1971), 224-242. They need IEEE 754 and no compiler
 * that takes floats for real numbers: not -ffast-math. */
#include "twofold.h"

#if !PINTLE_WHOLE

#define SPLIT 4097.0f /* 2^12 + 1 */

struct pintle_fit_wide pintle_priv_wide(float high, float low)
{
    struct pintle_fit_wide w;
    w.high = high + low;
    w.low = low - (w.high - high);
    return w;
}

struct pintle_fit_wide pintle_priv_wide_sum(struct pintle_fit_wide a, struct pintle_fit_wide b)
{
    float high = a.high + b.high;
    float part = high - a.high;
    float low = (a.high - (high - part)) + (b.high - part);
    return pintle_priv_wide(high, low + a.low + b.low);
}

struct pintle_fit_wide pintle_priv_wide_less(struct pintle_fit_wide a, struct pintle_fit_wide b)
{
    b.high = -b.high;
    b.low = -b.low;
    return pintle_priv_wide_sum(a, b);
}

static struct pintle_fit_wide product(float a, float b)
{
    float x = a * SPLIT;
    float y = b * SPLIT;
    float a1 = x - (x - a);
    float b1 = y - (y - b);
    float a2 = a - a1;
    float b2 = b - b1;
    float high = a * b;
    return pintle_priv_wide(high, ((a1 * b1 - high) + a1 * b2 + a2 * b1) + a2 * b2);
}

struct pintle_fit_wide pintle_priv_wide_times(struct pintle_fit_wide a, float b)
{
    struct pintle_fit_wide w = product(a.high, b);
    return pintle_priv_wide(w.high, w.low + a.low * b);
}

struct pintle_fit_wide pintle_priv_wide_product(struct pintle_fit_wide a, struct pintle_fit_wide b)
{
    struct pintle_fit_wide w = product(a.high, b.high);
    return pintle_priv_wide(w.high, w.low + (a.high * b.low + a.low * b.high));
}

#endif
