/* A thing that is heated rises as 1 - exp(-t / tau): in stretches of one length by steps that
 * become smaller by one factor. Boards have taus of one to twenty minutes, so the stretches grow
 * from half a minute on. */
#include "pintle/judge.h"

#if !PINTLE_WHOLE

#define SHORTEST_MS 30000u
#define LONGEST_MS 960000u
#define BREAKS (PINTLE_QUALITY_FIRST | PINTLE_QUALITY_POWER_ON | PINTLE_QUALITY_BUS)

/* Not quicker than a board, not as straight as the weather; and the third step as the first two
 * say. */
static uint8_t rises_so(const struct pintle_judge_heat *w)
{
    float first = w->mean[1] - w->mean[0];
    float second = w->mean[2] - w->mean[1];
    float third = w->mean[3] - w->mean[2];
    if (!(first > 0 && second > 0 && third > 0) || w->mean[3] - w->mean[0] < w->limit) {
        return 0;
    }
    float expected = second * second / first;
    float off = third > expected ? third - expected : expected - third;
    float left = second > third ? third * third / (second - third) : w->limit; /* to come yet */
    return second > 0.15f * first && second < 0.85f * first && off < 0.25f * second
           && left > w->limit / 2;
}

static void begin(struct pintle_judge_heat *w, float value, uint32_t now_ms)
{
    w->began_ms = now_ms;
    w->first = value;
    w->sum = 0;
    w->count = 0;
}

/* The four of this length are full: two of twice the length. */
static void fold(struct pintle_judge_heat *w)
{
    w->warm = rises_so(w);
    w->mean[0] = (w->mean[0] + w->mean[1]) / 2;
    w->mean[1] = (w->mean[2] + w->mean[3]) / 2;
    w->full = 2;
    w->long_ms *= 2;
}

static void take(struct pintle_judge_heat *w, float value, uint32_t now_ms)
{
    if (w->long_ms == 0) {
        w->long_ms = SHORTEST_MS;
        w->full = w->warm = 0;
        begin(w, value, now_ms);
    }
    uint32_t passed = now_ms - w->began_ms;
    if (passed >= 2 * w->long_ms) { /* a gap as long as a stretch: nothing is known of it */
        w->long_ms = 0;
        w->warm = 0;
        return;
    }
    if (passed >= w->long_ms) {
        w->mean[w->full++] = w->first + (w->count ? w->sum / (float)w->count : 0);
        begin(w, value, w->began_ms + w->long_ms);
        if (w->full == 4) {
            fold(w);
        }
    }
    w->sum += value - w->first;
    w->count = (uint16_t)(w->count + (w->count < UINT16_MAX));
}

void pintle_judge_warming(struct pintle_judge_heat *w, struct pintle_reading *reading,
                          uint32_t now_ms)
{
    if (!(w->limit > 0)) {
        return;
    }
    if (reading->quality & BREAKS) {
        w->long_ms = 0;
        w->warm = 0;
        return;
    }
    if (reading->quality & PINTLE_QUALITY_SUSPECT) {
        return;
    }
    if (w->long_ms <= LONGEST_MS) {
        take(w, reading->value, now_ms);
    } else {
        w->warm = 0;
    }
    reading->quality |= w->warm ? PINTLE_QUALITY_WARMING : 0;
}

#endif
