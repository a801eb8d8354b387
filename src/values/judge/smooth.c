#include "pintle/judge.h"

static pintle_value median(const struct pintle_judge_median *smooth)
{
    pintle_value sorted[PINTLE_MEDIAN_MAX];
    for (uint8_t i = 0; i < smooth->median; i++) {
        pintle_value value = smooth->kept[i];
        uint8_t at = i;
        for (; at > 0 && sorted[at - 1] > value; at--) {
            sorted[at] = sorted[at - 1];
        }
        sorted[at] = value;
    }
    return sorted[smooth->median / 2];
}

static void take(struct pintle_judge_median *smooth, struct pintle_reading *reading)
{
    smooth->kept[smooth->at] = reading->value;
    smooth->at = (uint8_t)((smooth->at + 1) % smooth->median);
    smooth->used = (uint8_t)(smooth->used + (smooth->used < smooth->median));
    if (smooth->used < smooth->median) {
        reading->quality |= PINTLE_QUALITY_FIRST;
        return;
    }
    reading->value = median(smooth);
    reading->quality |= PINTLE_QUALITY_SMOOTHED;
}

void pintle_judge_smooth(struct pintle_judge_median *smooth, struct pintle_reading *reading)
{
    uint8_t good = pintle_reading_good(reading);
    if (good && smooth->median > 1 && smooth->median <= PINTLE_MEDIAN_MAX) {
        take(smooth, reading);
    }
    if (good) {
        smooth->last = reading->value;
        smooth->held = smooth->hold;
    } else if (smooth->held > 0) {
        smooth->held--;
        reading->value = smooth->last;
        reading->quality |= PINTLE_QUALITY_STALE;
        reading->quality &= (pintle_marks) ~(PINTLE_QUALITY_BUS | PINTLE_QUALITY_IDLE);
    }
}
