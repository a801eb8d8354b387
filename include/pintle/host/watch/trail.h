/* host/watch/trail.h: what a channel did lately, as somebody sees it who watches.
 */
#ifndef PINTLE_HOST_WATCH_TRAIL_H
#define PINTLE_HOST_WATCH_TRAIL_H

#include "pintle/host/past/reader.h"

PINTLE_C_BEGIN

struct pintle_trail_point {
    double time; /* seconds since 1970 */
    double value;
    bool good;
};

struct pintle_trail {
    struct pintle_trail_point *ring; /* the last ones, */
    unsigned room, used, next;
    struct pintle_trail_point *slow; /* and one for each two minutes, some four hours of them */
    unsigned slow_used, slow_next;
    enum pintle_quantity quantity;
    pintle_marks quality;           /* of the last one */
    struct pintle_trail_point last; /* as it was read */
    bool below;                     /* an angle below 0 was among them */
    double followed;                /* the last good value, as the ring has it */
    double first;                   /* good value; not a number: none yet */
    double least, greatest;
    uint64_t good, suspect;
};

void pintle_trail_init(struct pintle_trail *trail, enum pintle_quantity quantity, unsigned room);
void pintle_trail_free(struct pintle_trail *trail);
/* Angles go on beyond a whole turn, so that north is no step: the points, the least and the
 * greatest of a heading may lie below 0 or above 360 (pintle_trail_shown). */
void pintle_trail_add(struct pintle_trail *trail, double time, const struct pintle_cell *cell);

/* A value out of the trail where its readings are: 361 degrees of a heading as 1. */
double pintle_trail_shown(const struct pintle_trail *trail, double value);

/* Point `index`, from the oldest on. */
const struct pintle_trail_point *pintle_trail_at(const struct pintle_trail *trail, unsigned index);
const struct pintle_trail_point *pintle_trail_slow(const struct pintle_trail *trail,
                                                   unsigned index);

/* The same hours as a trail of its own, which lasts as long as the other is not changed. */
struct pintle_trail pintle_trail_slowly(const struct pintle_trail *trail);

/* The ends of the good values from a moment on, at least `least` apart and around their middle.
 * False: there is none. */
bool pintle_trail_ends(const struct pintle_trail *trail, double since, double least, double *low,
                       double *high);

/* Will it settle? By three stretches of equal length: what comes to rest does so by steps that
 * shrink by one factor, which says where they lead to and when. */
enum pintle_settle_kind {
    PINTLE_SETTLE_UNKNOWN, /* too few good readings */
    PINTLE_SETTLE_STEADY,  /* what it moves is lost in its noise */
    PINTLE_SETTLE_SOON,    /* in `seconds`, by another `by` */
    PINTLE_SETTLE_MOVING   /* no end in sight: it moves by `by` in each second */
};
struct pintle_settle {
    enum pintle_settle_kind kind;
    double seconds, by;
};
/* `within`: so near to its end it counts as settled. */
struct pintle_settle pintle_trail_settle(const struct pintle_trail *trail, double over_s,
                                         double within);

/* What it did in three hours, or in what there is of them, half an hour at least. */
struct pintle_tendency {
    bool known;
    double change, over_s;
    const char *words; /* "falling quickly" */
};
struct pintle_tendency pintle_trail_tendency(const struct pintle_trail *trail);

PINTLE_C_END

#endif
