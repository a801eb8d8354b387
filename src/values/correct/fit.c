/* Offsets and straight lines through pairs, by running sums. */
#include <string.h>

#include "twofold.h"

#if !PINTLE_WHOLE

/* Means, and squared and mixed deviations from them, kept up with each pair. */
enum pintle_status pintle_fit_add(struct pintle_fit *fit, float sensor, float reference)
{
    if (!pintle_priv_is_finite(sensor) || !pintle_priv_is_finite(reference)
        || fit->count == UINT32_MAX) {
        return PINTLE_OUT_OF_RANGE;
    }
    struct pintle_fit_wide x = pintle_priv_wide(sensor, 0);
    struct pintle_fit_wide y = pintle_priv_wide(reference, 0);
    float share = 1 / (float)++fit->count;
    struct pintle_fit_wide dx = pintle_priv_wide_less(x, fit->mean_x);
    struct pintle_fit_wide dy = pintle_priv_wide_less(y, fit->mean_y);
    fit->mean_x = pintle_priv_wide_sum(fit->mean_x, pintle_priv_wide_times(dx, share));
    fit->mean_y = pintle_priv_wide_sum(fit->mean_y, pintle_priv_wide_times(dy, share));
    x = pintle_priv_wide_less(x, fit->mean_x);
    y = pintle_priv_wide_less(y, fit->mean_y);
    fit->xx = pintle_priv_wide_sum(fit->xx, pintle_priv_wide_product(dx, x));
    fit->xy = pintle_priv_wide_sum(fit->xy, pintle_priv_wide_product(dx, y));
    fit->yy = pintle_priv_wide_sum(fit->yy, pintle_priv_wide_product(dy, y));
    return PINTLE_OK;
}

static enum pintle_status check(const struct pintle_fit_result *line)
{
    uint8_t good =
        pintle_priv_is_finite(line->gain) && pintle_priv_is_finite(line->offset) && line->gain != 0;
    return good ? PINTLE_OK : PINTLE_OUT_OF_RANGE;
}

/* The line of this gain through the middle of the pairs, and what it leaves over. */
static enum pintle_status through_the_middle(const struct pintle_fit *fit, float gain, uint8_t used,
                                             struct pintle_fit_result *line)
{
    struct pintle_fit_wide rest = pintle_priv_wide_less(pintle_priv_wide_times(fit->xx, gain),
                                                        pintle_priv_wide_times(fit->xy, 2));
    float squares =
        pintle_priv_narrow(pintle_priv_wide_sum(fit->yy, pintle_priv_wide_times(rest, gain)));
    struct pintle_fit_wide at_mean = pintle_priv_wide_times(fit->mean_x, gain);
    memset(line, 0, sizeof *line);
    line->gain = gain;
    line->offset = pintle_priv_narrow(pintle_priv_wide_less(fit->mean_y, at_mean));
    line->mean_x = pintle_priv_narrow(fit->mean_x);
    line->mean_y = pintle_priv_narrow(fit->mean_y);
    line->freedom = fit->count - used;
    if (line->freedom > 0 && squares > 0) {
        line->variance = squares / (float)line->freedom;
        line->offset_variance = line->variance / (float)fit->count;
    }
    return check(line);
}

enum pintle_status pintle_fit_offset(const struct pintle_fit *fit, struct pintle_fit_result *line)
{
    return fit->count == 0 ? PINTLE_TOO_FEW : through_the_middle(fit, 1, 1, line);
}

enum pintle_status pintle_fit_line(const struct pintle_fit *fit, struct pintle_fit_result *line)
{
    float xx = pintle_priv_narrow(fit->xx);
    if (fit->count < 2 || xx == 0) {
        return PINTLE_TOO_FEW;
    }
    enum pintle_status status = through_the_middle(fit, pintle_priv_narrow(fit->xy) / xx, 2, line);
    line->gain_variance = line->variance / xx;
    return status;
}

enum pintle_status pintle_fit_two_points(const struct pintle_fit_spread *low, float low_reference,
                                         const struct pintle_fit_spread *high, float high_reference,
                                         struct pintle_fit_result *line)
{
    if (low->count == 0 || high->count == 0) {
        return PINTLE_TOO_FEW;
    }
    float apart = pintle_priv_narrow(pintle_priv_wide_less(high->mean, low->mean));
    float of_low = pintle_fit_spread_variance(low) / (float)low->count;
    float of_high = pintle_fit_spread_variance(high) / (float)high->count;
    if (apart == 0) {
        return PINTLE_TOO_FEW;
    }
    memset(line, 0, sizeof *line);
    line->gain = (high_reference - low_reference) / apart;
    line->mean_x = pintle_fit_spread_mean(low) / 2 + pintle_fit_spread_mean(high) / 2;
    line->mean_y = low_reference / 2 + high_reference / 2;
    line->offset = line->mean_y - line->gain * line->mean_x;
    line->freedom = low->count + high->count - 2;
    float squares = line->gain * line->gain;
    line->offset_variance = squares * (of_low + of_high) / 4;
    line->gain_variance = squares * (of_low + of_high) / (apart * apart);
    return check(line);
}

void pintle_fit_numbers(const struct pintle_fit_result *line, float numbers[3])
{
    numbers[0] = line->mean_x;
    numbers[1] = line->mean_y;
    numbers[2] = line->gain;
}

float pintle_fit_variance(const struct pintle_fit_result *line, float value)
{
    float off = value - line->mean_x;
    return line->offset_variance + off * off * line->gain_variance;
}

#endif
