/* host/past/thin.h: old records of a database, averaged over longer and longer intervals.
 *
 * Ages count back from the newest record of all. What is younger than `whole_us` stays as it is; up
 * to `minutes_us` a record remains for each minute, up to `hours_us` for each hour, beyond for each
 * day. Each has the mean, the least and the greatest of the good readings and how many there were;
 * suspect ones are counted. What was before a correction, and uncertainties, go. Runs whose clock
 * was moved or never set, and runs in folders, are left alone. A run that is being written may go
 * on meanwhile.
 */
#ifndef PINTLE_HOST_PAST_THIN_H
#define PINTLE_HOST_PAST_THIN_H

#include "pintle/host/past/archive.h"
#include "pintle/host/base/progress.h"

PINTLE_C_BEGIN

struct pintle_thinning {
    int64_t whole_us, minutes_us, hours_us;
    bool really; /* else it is only counted */
    const struct pintle_progress *progress;
};

struct pintle_thinned {
    uint64_t before, after; /* records of the intervals that it is about */
    int64_t whole_from_us;  /* from then on nothing is averaged */
    unsigned runs;          /* that it is about, */
    unsigned left;          /* and that are left alone for their clock's sake */
};

/* Thin a database. Stopped at any moment, each interval is as it was or as it is to be. */
bool pintle_thin(const char *database, const struct pintle_thinning *how,
                 struct pintle_thinned *thinned, struct pintle_problem *problem);

PINTLE_C_END

#endif
