#include "pintle/judge.h"

static void judge_frozen(struct pintle_judge *judge, struct pintle_reading *reading)
{
    uint8_t again = judge->seen && judge->raw == reading->raw;
    judge->same = (uint16_t)(again ? judge->same + (judge->same < UINT16_MAX) : 1);
    judge->raw = reading->raw;
    judge->seen = 1;
    if (judge->frozen > 0 && judge->same >= judge->frozen) {
        reading->quality |= PINTLE_QUALITY_FROZEN;
    }
}

/* How far it may be from the last good one, in whole numbers as well as in floats. */
static uint8_t is_a_jump(const struct pintle_judge *judge, pintle_value value, uint32_t ms)
{
    pintle_value step = value > judge->good ? value - judge->good : judge->good - value;
#if PINTLE_WHOLE
    int64_t most = (int64_t)judge->jump * judge->since + (int64_t)judge->rate * ms / 1000;
    return (uint32_t)step > (uint64_t)most;
#else
    return step > judge->jump * judge->since + judge->rate * ((float)ms / 1000);
#endif
}

static void judge_jump(struct pintle_judge *judge, struct pintle_reading *reading, uint32_t now_ms)
{
    if (judge->since > 0 && is_a_jump(judge, reading->value, now_ms - judge->good_ms)) {
        reading->quality |= PINTLE_QUALITY_JUMP;
    }
}

void pintle_judge_reading(struct pintle_judge *judge, struct pintle_reading *reading,
                          uint32_t now_ms)
{
    uint8_t watched = judge->jump > 0 || judge->rate > 0;
    if (!(reading->quality & PINTLE_QUALITY_SUSPECT)) {
        judge_frozen(judge, reading);
        if (watched) {
            judge_jump(judge, reading, now_ms);
        }
    }
    if (!(reading->quality & (PINTLE_QUALITY_SUSPECT ^ PINTLE_QUALITY_FROZEN))) {
        judge->good = reading->value;
        judge->good_ms = now_ms;
        judge->since = 1;
    } else if (judge->since > 0) {
        judge->since = (uint8_t)(judge->since + (judge->since < UINT8_MAX));
    }
}
