/* host/past/history.h: runs as columns in memory, to be drawn and calculated with.
 */
#ifndef PINTLE_HOST_PAST_HISTORY_H
#define PINTLE_HOST_PAST_HISTORY_H

#include "pintle/host/past/reader.h"

PINTLE_C_BEGIN

struct pintle_column {
    char *name; /* "cabin.temperature" */
    enum pintle_quantity quantity;
    uint8_t decimals;      /* worth printing, in the base unit */
    enum pintle_unit unit; /* in which it is shown */
    enum pintle_unit also; /* and besides; PINTLE_UNIT_COUNT: none */
    uint64_t marked;       /* suspect readings in all */
    double *value;         /* NaN where there is none */
    double *uncorrected;   /* without its correction; null: it had none */
    double *uncertainty;   /* standard, in the unit of a difference; null: nobody asked for it */
    uint8_t *suspect;      /* 1 where the record says so */
    uint8_t *remarked;     /* 1 where it has a remark besides that it is smoothed; or null */
    /* Where rows stand for several records; or null. The value is then the mean of the good ones,
     * and `odd` a suspect one. */
    double *least, *greatest, *odd;
};

struct pintle_history {
    char *path;
    unsigned rows;
    unsigned columns;
    unsigned records;   /* that the rows stand for */
    double first, last; /* the times of the first and the last of them */
    double *time;       /* seconds since 1970 */
    double *reach;      /* so many seconds from the next, by what the run or the row says */
    double *record;     /* its number; of several records the first one's */
    struct pintle_column *column;
};

/* Read one run: `name` is a run's number in `folder` or `database`, of which one may be null, or
 * "last", or the path of a run folder. A last record that was cut off is left out. */
struct pintle_history *pintle_history_load(const char *folder, const char *database,
                                           const char *name, struct pintle_problem *problem);

/* Read several runs as one, no more than about `rows` rows (0: each record is one), with their
 * least and greatest values. `path` is what messages call it. */
struct pintle_history *pintle_history_read(struct pintle_past *const *runs, unsigned count,
                                           struct pintle_window window, unsigned rows,
                                           struct pintle_problem *problem);
void pintle_history_free(struct pintle_history *history);

/* Where nobody said how far rows are apart (0, or null for all), it is the least that they are. */
void pintle_history_reach(struct pintle_history *history);

PINTLE_C_END

#endif
