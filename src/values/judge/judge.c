#include "pintle/judge.h"

#define SEEN_RAW 1u
#define SEEN_GOOD 2u

static void judge_frozen(struct pintle_judge *judge, struct pintle_reading *reading)
{
    uint8_t again = (judge->seen & SEEN_RAW) && judge->raw == reading->raw;
    judge->same = (uint16_t)(again ? judge->same + (judge->same < UINT16_MAX) : 1);
    judge->raw = reading->raw;
    judge->seen |= SEEN_RAW;
    if (judge->frozen > 0 && judge->same >= judge->frozen) {
        reading->quality |= PINTLE_QUALITY_FROZEN;
    }
}

/* Is it further than so many steps, and what the time allows for? Nothing goes on moving as fast as
 * it can: a limit that grew with the time alone would believe anything after a minute. */
static uint8_t is_far(const struct pintle_judge *judge, pintle_value value, pintle_value from,
                      uint16_t steps, uint32_t ms)
{
    uint32_t fast_ms = judge->fast_s > 0 ? 1000u * judge->fast_s : UINT32_MAX;
    ms = ms > fast_ms ? fast_ms + (ms - fast_ms) / 100 : ms;
    pintle_value step = value > from ? value - from : from - value;
#if PINTLE_WHOLE
    int64_t most = (int64_t)judge->jump * steps + (int64_t)judge->rate * ms / 1000;
    return (int64_t)step > most;
#else
    return step > judge->jump * (float)steps + judge->rate * ((float)ms / 1000);
#endif
}

static uint8_t is_a_jump(struct pintle_judge *judge, pintle_value value, uint32_t passed_ms)
{
    if (!(judge->seen & SEEN_GOOD)
        || !is_far(judge, value, judge->good, (uint16_t)(judge->open + 1),
                   judge->open_ms + passed_ms)) {
        return 0;
    }
    uint8_t near = judge->agree > 0 && !is_far(judge, value, judge->last, 1, passed_ms);
    judge->agree = (uint8_t)(judge->unsure ? 0 : near ? judge->agree + 1 : 1);
    judge->last = value;
    return judge->agree < PINTLE_JUDGE_BELIEVES;
}

void pintle_judge_reading(struct pintle_judge *judge, struct pintle_reading *reading,
                          uint32_t now_ms)
{
    uint32_t passed_ms = judge->seen ? now_ms - judge->last_ms : 0;
    uint8_t watched = judge->jump > 0 || judge->rate > 0;
    judge->last_ms = now_ms;
    if (reading->quality & PINTLE_QUALITY_SUSPECT) {
        judge->open = (uint8_t)(judge->open + (judge->open < UINT8_MAX));
        judge->open_ms += passed_ms;
        return;
    }
    judge_frozen(judge, reading);
    if (watched && is_a_jump(judge, reading->value, passed_ms)) {
        reading->quality |= PINTLE_QUALITY_JUMP;
        return;
    }
    judge->good = reading->value;
    judge->seen |= SEEN_GOOD;
    judge->open = judge->agree = 0;
    judge->open_ms = 0;
}
