/* host/adjust/compare.h: channels that measure the same, beside each other.
 *
 * Values are corrected ones, base units; of each round only those in which all are good.
 */
#ifndef PINTLE_HOST_ADJUST_COMPARE_H
#define PINTLE_HOST_ADJUST_COMPARE_H

#include "pintle/host/adjust/series.h"

PINTLE_C_BEGIN

#define PINTLE_COMPARE_MAX 16

struct pintle_compared {
    unsigned channels, count;
    double *time;  /* seconds */
    double *value; /* value[channels * i + channel] */
    unsigned left_out;
};

void pintle_compared_free(struct pintle_compared *compared);

/* From a run, or measured every `every_us` for `for_us` or until `stop`, or until
 * `progress`, which may be null, gives it up. */
bool pintle_compared_run(const struct pintle_rig *rig, const struct pintle_history *history,
                         const struct pintle_place_of *of, unsigned channels,
                         struct pintle_compared *compared, struct pintle_problem *problem);
bool pintle_compared_live(struct pintle_station *station, const struct pintle_place_of *of,
                          unsigned channels, int64_t every_us, int64_t for_us,
                          const volatile sig_atomic_t *stop, const struct pintle_progress *progress,
                          struct pintle_compared *compared, struct pintle_problem *problem);

/* One less another. */
struct pintle_apart {
    double mean, scatter;
    double drift, drift_deviation; /* per second, and its standard uncertainty; NaN: too few */
    double may;      /* the two data sheets, or calibrations, allow for so much; 0: nobody says */
    double most;     /* the difference that is furthest from 0 */
    unsigned beyond; /* rounds in which they differ by more than may be */
    bool agree;      /* on average and, but for noise, in each round: at most one in twenty beyond,
                        none by more than three times that */
};

/* `mays`: how far each may be off, base unit; 0: nobody says. */
void pintle_compared_pair(const struct pintle_compared *compared, unsigned a, unsigned b,
                          const double *mays, struct pintle_apart *apart);

/* The one that is apart from all others while those agree; -1: none is, or there are fewer than
 * three.
 */
int pintle_compared_odd(const struct pintle_compared *compared, const double *mays);

/* How far a channel may be off at this value: by its correction, twice the standard uncertainty;
 * else by its data sheet. 0: nobody says. */
double pintle_compared_may(const struct pintle_rig *rig, const struct pintle_place_of *of,
                           double value);

/* A pressure from one height at another, m, in the standard atmosphere (ISO 2533). */
double pintle_compared_at_height(double pressure, double its_height, double height);

PINTLE_C_END

#endif
