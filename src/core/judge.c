#include "pintle/reading.h"

#define SEEN_RAW 1u
#define SEEN_GOOD 2u
#define ONE_JUMP 4u
#define JUMPS_BELIEVED 3u

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

static void judge_jump(struct pintle_judge *judge, struct pintle_reading *reading)
{
    pintle_value step = reading->value - judge->good;
    uint8_t jumps = (uint8_t)(judge->seen / ONE_JUMP);
    step = step < 0 ? -step : step;
    if (judge->jump > 0 && (judge->seen & SEEN_GOOD) && step > judge->jump
        && jumps < JUMPS_BELIEVED) {
        reading->quality |= PINTLE_QUALITY_JUMP;
        judge->seen = (uint8_t)(judge->seen + ONE_JUMP);
        return;
    }
    judge->good = reading->value;
    judge->seen = SEEN_RAW | SEEN_GOOD;
}

void pintle_judge_reading(struct pintle_judge *judge, struct pintle_reading *reading)
{
    if (reading->quality & PINTLE_QUALITY_SUSPECT) {
        return;
    }
    judge_frozen(judge, reading);
    judge_jump(judge, reading);
}
