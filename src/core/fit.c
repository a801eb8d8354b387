/* Offsets and straight lines through pairs, by running sums. */
#include "pintle/correction.h"

#include <string.h>

#if !PINTLE_WHOLE

/* Not so for what isn't a number, and for infinities. */
static uint8_t is_finite(float x)
{
    return x - x == 0;
}

/* --- numbers of twice a float's digits: high + low, low less than half a digit of high ---
 *
 * After T. J. Dekker, Numerische Mathematik 18 (1971), 224-242. They need IEEE 754 and no compiler
 * that takes floats for real numbers: not -ffast-math. */

#define SPLIT 4097.0f /* 2^12 + 1 */

static struct pintle_wide wide(float high, float low)
{
    struct pintle_wide w;
    w.high = high + low;
    w.low = low - (w.high - high);
    return w;
}

static struct pintle_wide sum(struct pintle_wide a, struct pintle_wide b)
{
    float high = a.high + b.high;
    float part = high - a.high;
    float low = (a.high - (high - part)) + (b.high - part);
    return wide(high, low + a.low + b.low);
}

static struct pintle_wide product(float a, float b)
{
    float x = a * SPLIT;
    float y = b * SPLIT;
    float a1 = x - (x - a);
    float b1 = y - (y - b);
    float a2 = a - a1;
    float b2 = b - b1;
    float high = a * b;
    return wide(high, ((a1 * b1 - high) + a1 * b2 + a2 * b1) + a2 * b2);
}

static struct pintle_wide times(struct pintle_wide a, float b)
{
    struct pintle_wide w = product(a.high, b);
    return wide(w.high, w.low + a.low * b);
}

static struct pintle_wide square(struct pintle_wide a, struct pintle_wide b)
{
    struct pintle_wide w = product(a.high, b.high);
    return wide(w.high, w.low + (a.high * b.low + a.low * b.high));
}

/* a - b */
static struct pintle_wide less(struct pintle_wide a, struct pintle_wide b)
{
    b.high = -b.high;
    b.low = -b.low;
    return sum(a, b);
}

static float narrow(struct pintle_wide a)
{
    return a.high + a.low;
}

/* --- sums: means, and squared and mixed deviations from them, kept up with each pair --- */

enum pintle_status pintle_fit_add(struct pintle_fit *fit, float sensor, float reference)
{
    if (!is_finite(sensor) || !is_finite(reference) || fit->count == UINT32_MAX) {
        return PINTLE_OUT_OF_RANGE;
    }
    struct pintle_wide x = wide(sensor, 0);
    struct pintle_wide y = wide(reference, 0);
    float share = 1 / (float)++fit->count;
    struct pintle_wide dx = less(x, fit->mean_x);
    struct pintle_wide dy = less(y, fit->mean_y);
    fit->mean_x = sum(fit->mean_x, times(dx, share));
    fit->mean_y = sum(fit->mean_y, times(dy, share));
    x = less(x, fit->mean_x);
    y = less(y, fit->mean_y);
    fit->xx = sum(fit->xx, square(dx, x));
    fit->xy = sum(fit->xy, square(dx, y));
    fit->yy = sum(fit->yy, square(dy, y));
    return PINTLE_OK;
}

/* The line of this gain through the middle of the pairs, and what it leaves over. */
static enum pintle_status through_the_middle(const struct pintle_fit *fit, float gain, uint8_t used,
                                             struct pintle_line *line)
{
    struct pintle_wide rest = less(times(fit->xx, gain), times(fit->xy, 2));
    float squares = narrow(sum(fit->yy, times(rest, gain)));
    memset(line, 0, sizeof *line);
    line->correction.gain = gain;
    line->correction.offset = narrow(less(fit->mean_y, times(fit->mean_x, gain)));
    line->correction.set = 1;
    line->mean_x = narrow(fit->mean_x);
    if (fit->count > used && squares > 0) {
        line->variance = squares / (float)(fit->count - used);
        line->offset_variance = line->variance / (float)fit->count;
    }
    return pintle_correction_is_valid(&line->correction) ? PINTLE_OK : PINTLE_OUT_OF_RANGE;
}

enum pintle_status pintle_fit_offset(const struct pintle_fit *fit, struct pintle_line *line)
{
    return fit->count == 0 ? PINTLE_TOO_FEW : through_the_middle(fit, 1, 1, line);
}

enum pintle_status pintle_fit_line(const struct pintle_fit *fit, struct pintle_line *line)
{
    float xx = narrow(fit->xx);
    if (fit->count < 2 || xx == 0) {
        return PINTLE_TOO_FEW;
    }
    enum pintle_status status = through_the_middle(fit, narrow(fit->xy) / xx, 2, line);
    line->gain_variance = line->variance / xx;
    return status;
}

#endif
