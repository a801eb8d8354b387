/* host/past/average.h: readings put together: over an interval, over a run.
 *
 * The mean is of the good readings; suspect ones are counted and left out. Angles go round: 359
 * degrees and 1 degree have the mean 0. Where they are all round there is none.
 */
#ifndef PINTLE_HOST_PAST_AVERAGE_H
#define PINTLE_HOST_PAST_AVERAGE_H

#include "pintle/host/past/interval.h"
#include "pintle/host/past/reader.h"

PINTLE_C_BEGIN

/* Put what a cell stands for to what another one does. Both are of one channel, and `into` empty to
 * begin (pintle_cell_empty). */
void pintle_cell_merge(struct pintle_cell *into, const struct pintle_cell *from,
                       enum pintle_quantity quantity);
struct pintle_cell pintle_cell_empty(void);

/* The standard deviation of what it stands for; NaN of fewer than two. */
double pintle_cell_spread(const struct pintle_cell *cell);

/* When all is merged: angles back to where its readings are, 0 to 360 degrees or around 0; and
 * likewise, with no mean of those that point all round. */
void pintle_cell_turn(struct pintle_cell *cell, enum pintle_quantity quantity);
void pintle_cell_settle(struct pintle_cell *cell, enum pintle_quantity quantity);

/* Angles that point all round have no mean. */
bool pintle_cell_all_round(const struct pintle_cell *cell, enum pintle_quantity quantity);

/* Records averaged over the intervals of interval.h. Those with no record are left out. */
struct pintle_averager {
    struct pintle_reader *reader;
    int64_t every_us;
    bool local;
    struct pintle_cell *cell; /* of the interval that was finished last */
    struct pintle_cell *next; /* and of the one after it */
    struct pintle_record ahead;
    bool any; /* is there something in it? */
    uint64_t count;
};
struct pintle_averager *pintle_averager_open(struct pintle_reader *reader, int64_t every_us,
                                             bool local);
void pintle_averager_free(struct pintle_averager *averager);

/* As of pintle_reader_next. The number is that of the interval's first record. `over_us` is more
 * than was asked for where a record that is an average itself reaches beyond the interval's end. */
bool pintle_averager_next(struct pintle_averager *averager, struct pintle_record *record,
                          struct pintle_problem *problem);

PINTLE_C_END

#endif
