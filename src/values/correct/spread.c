/* Mean and variance by running sums; still, or not. */
#include "twofold.h"

#if !PINTLE_WHOLE

enum pintle_status pintle_fit_spread_add(struct pintle_fit_spread *spread, float value)
{
    if (!pintle_priv_is_finite(value) || spread->count == UINT32_MAX) {
        return PINTLE_OUT_OF_RANGE;
    }
    struct pintle_fit_wide x = pintle_priv_wide(value, 0);
    struct pintle_fit_wide before = pintle_priv_wide_less(x, spread->mean);
    float share = 1 / (float)++spread->count;
    spread->mean = pintle_priv_wide_sum(spread->mean, pintle_priv_wide_times(before, share));
    struct pintle_fit_wide behind = pintle_priv_wide_less(x, spread->mean);
    spread->squares =
        pintle_priv_wide_sum(spread->squares, pintle_priv_wide_product(before, behind));
    if (spread->count == 1 || value < spread->least) {
        spread->least = value;
    }
    if (spread->count == 1 || value > spread->greatest) {
        spread->greatest = value;
    }
    return PINTLE_OK;
}

float pintle_fit_spread_mean(const struct pintle_fit_spread *spread)
{
    return pintle_priv_narrow(spread->mean);
}

float pintle_fit_spread_variance(const struct pintle_fit_spread *spread)
{
    float squares = pintle_priv_narrow(spread->squares);
    return spread->count > 1 && squares > 0 ? squares / (float)(spread->count - 1) : 0;
}

static void begin(struct pintle_fit_still *still, const float *values)
{
    still->count = 1;
    for (uint8_t i = 0; i < still->axes; i++) {
        still->least[i] = still->greatest[i] = values[i];
        if (!pintle_priv_is_finite(values[i])) {
            still->count = 0;
        }
    }
}

uint32_t pintle_fit_still_add(struct pintle_fit_still *still, const float *values)
{
    if (still->count == 0) {
        begin(still, values);
        return still->count;
    }
    uint8_t within = 1;
    for (uint8_t i = 0; i < still->axes; i++) {
        float least = values[i] < still->least[i] ? values[i] : still->least[i];
        float greatest = values[i] > still->greatest[i] ? values[i] : still->greatest[i];
        within &= (uint8_t)(pintle_priv_is_finite(values[i]) && greatest - least <= still->limit);
        still->least[i] = least;
        still->greatest[i] = greatest;
    }
    if (!within) {
        begin(still, values);
        return 0;
    }
    still->count += still->count < UINT32_MAX;
    return still->count;
}

#endif
