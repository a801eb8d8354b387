/* host/adjust/series.h: what a calibration is made from: values of one channel, or of three axes,
 * with their times, a second channel and a reference beside them; from a run, from a live rig, from
 * somebody else's log.
 *
 * Values are in front of the correction that is to be found, in base units. What was suspect is
 * left out, and counted.
 */
#ifndef PINTLE_HOST_ADJUST_SERIES_H
#define PINTLE_HOST_ADJUST_SERIES_H

#include "pintle/host/past/history.h"
#include "pintle/host/live/station.h"

PINTLE_C_BEGIN

/* A channel of a rig. */
struct pintle_place_of {
    unsigned sensor, channel;
};

/* What is asked for. */
struct pintle_wanted {
    struct pintle_place_of of; /* of axes x, with y and z behind it */
    unsigned wide;             /* 1, or 3 of axes */
    enum pintle_stage_kind kind;
    const struct pintle_place_of *second, *reference; /* null: none */
};

struct pintle_series {
    unsigned count, wide;
    double *time;               /* seconds */
    double *value;              /* value[wide * i + axis] */
    double *second, *reference; /* null: none */
    unsigned left_out;
};

void pintle_series_free(struct pintle_series *series);

/* "cabin.temperature"; "motion.accel" for three axes. */
bool pintle_series_find(const struct pintle_rig *rig, const char *name, struct pintle_place_of *of,
                        unsigned *wide, struct pintle_problem *problem);

/* The column of a run that has this channel; or null with the problem set. */
const struct pintle_column *pintle_series_column(const struct pintle_history *history,
                                                 const struct pintle_rig *rig,
                                                 const struct pintle_place_of *of,
                                                 struct pintle_problem *problem);

/* From a run. */
bool pintle_series_run(const struct pintle_rig *rig, const struct pintle_history *history,
                       const struct pintle_wanted *wanted, struct pintle_series *series,
                       struct pintle_problem *problem);

/* Measure the rig every `every_us` for `for_us`, or until `stop`. */
bool pintle_series_live(struct pintle_station *station, const struct pintle_wanted *wanted,
                        int64_t every_us, int64_t for_us, const volatile sig_atomic_t *stop,
                        struct pintle_series *series, struct pintle_problem *problem);

/* Somebody else's log, a CSV file: a time (RFC 3339, or seconds of any clock) and a value; a first
 * line of words is a heading. `scale` and `zero` make base units of its values. */
bool pintle_series_log(const char *path, double scale, double zero, struct pintle_series *series,
                       struct pintle_problem *problem);

/* Give a series a reference out of a log whose clock is `lag` seconds ahead: between two of its
 * values on a straight line, where they are no further apart than `gap` seconds. What finds none is
 * left out. */
bool pintle_series_align(struct pintle_series *series, const struct pintle_series *log, double lag,
                         double gap, struct pintle_problem *problem);

/* Values and reference as pairs of one channel; to be freed with pintle_host_free. */
struct pintle_pair *pintle_series_pairs(const struct pintle_series *series);

PINTLE_C_END

#endif
