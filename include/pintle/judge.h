/* judge.h: a reading against those before it.
 *
 *     pintle_judge_reading     jumps and frozen values
 *     pintle_judge_smooth    a median, or the last good value held, on request
 *     pintle_judge_warming   does it rise since power-up as a thing does that is heated?
 *
 * Each is an object per channel: zero it, set its limits, keep it between readings. Times are from
 * any clock that goes on evenly, in milliseconds; they may wrap.
 *
 * Stable.
 */
#ifndef PINTLE_JUDGE_H
#define PINTLE_JUDGE_H

#include "pintle/reading.h"

PINTLE_C_BEGIN

/* So many readings in a row at a new level, each near the one before, are believed. */
#define PINTLE_JUDGE_BELIEVES 30

/* Watches one channel for jumps and frozen values. Zero it, set the limits, keep it between
 * readings. */
struct pintle_judge {
    pintle_value jump; /* largest believable step from one reading to the next, base unit */
    pintle_value rate; /* and besides, what the quantity can move by in a second; both 0: not
                          watched */
    uint16_t fast_s;   /* that fast for so many seconds, then a hundredth of it; 0: for ever */
    uint16_t frozen; /* readings in a row with one raw value before it is marked; 0: not watched */
    uint16_t same;   /* state: how many in a row so far */
    int32_t raw;     /* state */
    pintle_value good, last; /* state: the last good value; the last that was judged */
    uint32_t last_ms;        /* state: when the last reading was, of any kind */
    uint32_t open_ms;        /* state: the time in which nothing could be judged since `good` */
    uint8_t open;            /* state: so many readings of it */
    uint8_t agree;           /* state: jumps in a row that are near each other */
    uint8_t seen;            /* state: bit 0 raw is set, bit 1 good is */
    uint8_t unsure; /* set it with each reading: it looks as after power-up (pintle_sensor_unsure),
                       and a new level of such readings is never believed */
};

/* Add JUMP or FROZEN to the reading's quality where it deserves them. A reading that is suspect
 * already is not remembered. One may be further from the last good one by a step and the time
 * since; where readings between were no readings, by as many steps and that time. A spike is marked
 * for as long as it lasts, a real step until PINTLE_JUDGE_BELIEVES of its readings agree. `now_ms`
 * is from any clock that goes on evenly. */
void pintle_judge_reading(struct pintle_judge *judge, struct pintle_reading *reading,
                          uint32_t now_ms);

#define PINTLE_MEDIAN_MAX 9

struct pintle_judge_median {
    uint8_t median; /* of so many good readings, an odd number up to PINTLE_MEDIAN_MAX; 0: none */
    uint8_t hold;   /* so many suspect ones in a row have the last good value; 0: none */
    uint8_t used, at, held;               /* state */
    pintle_value kept[PINTLE_MEDIAN_MAX]; /* state: the last good ones */
    pintle_value last;                    /* state: what came out last */
};

/* Put the median in a good reading, which is SMOOTHED then, and FIRST until there are enough; put
 * the last good value in a suspect one, which is STALE then and keeps its marks but BUS and IDLE:
 * it has a value now. */
void pintle_judge_smooth(struct pintle_judge_median *smooth, struct pintle_reading *reading);

#if !PINTLE_WHOLE

/* Means of four stretches of time, each as long, since power-up; when they are full the stretches
 * become twice as long. Heat shows by rises that become smaller by one factor. */
struct pintle_judge_heat {
    float limit;       /* the least rise that is worth it, base unit; 0: not watched */
    uint32_t began_ms; /* state: of the stretch that is filled now */
    uint32_t long_ms;  /* state: how long each is; 0: not begun */
    float mean[4];     /* state */
    float sum;         /* state: of the stretch, less `first` */
    float first;
    uint16_t count;
    uint8_t full; /* state: how many stretches are */
    uint8_t warm; /* state: as was found last */
};

/* Mark a good reading WARMING while the last four stretches rose so. It begins anew with a reading
 * that is FIRST, POWER_ON or BUS, and gives up an hour after that. */
void pintle_judge_warming(struct pintle_judge_heat *warming, struct pintle_reading *reading,
                          uint32_t now_ms);

#endif

PINTLE_C_END

#endif
