/* host/past/reader.h: the records of one run, or of several as if they were one, in order.
 */
#ifndef PINTLE_HOST_PAST_READER_H
#define PINTLE_HOST_PAST_READER_H

#include "pintle/host/base/progress.h"
#include "pintle/host/past/archive.h"
#include "pintle/reading.h"
#include "pintle/unit.h"

PINTLE_C_BEGIN

/* A word of the quality column that this version doesn't know; suspect. */
#define PINTLE_CELL_UNKNOWN 0x80000000u

struct pintle_run_column {
    char *name; /* "cabin.temperature" */
    enum pintle_quantity quantity;
    uint8_t decimals;          /* worth printing, in the base unit */
    bool made;                 /* of others */
    bool corrected, uncertain; /* it has such values beside it */
};

/* A channel's part of a record. In base units; not a number: there is none. */
struct pintle_cell {
    double value; /* as it was read, also when suspect; of several the mean of the good ones */
    double uncorrected, uncertainty;
    pintle_marks quality;   /* of several whatever was said of one of them */
    double least, greatest; /* of the good readings that it stands for, */
    double squares;         /* their squared deviations from the mean, summed up, */
    uint32_t good, suspect; /* and how many there are of these and of the others */
    double odd;             /* a suspect value among them */
    bool below;             /* an angle below 0 was among them */
};

struct pintle_record {
    unsigned run;        /* which of those that are read, from 0 on */
    uint64_t number;     /* of the record in its run */
    uint64_t stands_for; /* so many records */
    uint64_t marked;     /* of which so many have a suspect reading in them */
    int64_t time_us;     /* UTC since 1970, */
    int64_t over_us;     /* and so long from then on is it averaged over; 0: it is one reading */
    uint32_t missed;     /* slots before it in which nobody measured */
    int64_t stepped_us;  /* the wall clock was moved before it, by so much */
    bool unset;          /* the wall clock was never set */
    const struct pintle_cell *cell; /* of each column */
};

/* Which records: those from one moment up to (without) another. */
struct pintle_window {
    int64_t from_us, to_us;
    const struct pintle_progress *progress; /* told while they are read; may be null */
};
#define PINTLE_ALL_TIME ((struct pintle_window){ INT64_MIN, INT64_MAX, NULL })

struct pintle_reader {
    unsigned columns; /* of all the runs; by name */
    struct pintle_run_column *column;
    unsigned runs;
    void *own;
};

/* Null: the problem says why. Free with pintle_reader_free. The runs must outlive it. */
struct pintle_reader *pintle_reader_open(struct pintle_past *const *runs, unsigned count,
                                         struct pintle_window window,
                                         struct pintle_problem *problem);
void pintle_reader_free(struct pintle_reader *reader);

/* The next record, until the next call. False: that was the last one or, with the problem set, it
 * can't be read. */
bool pintle_reader_next(struct pintle_reader *reader, struct pintle_record *record,
                        struct pintle_problem *problem);

/* How far it is, 0 to 1. */
double pintle_reader_progress(const struct pintle_reader *reader);

/* Quality bits as "jump+span"; "" of none. To be freed with pintle_host_free. */
char *pintle_marks_text(pintle_marks quality);

/* Is the cell one good reading, or made of some? */
bool pintle_cell_good(const struct pintle_cell *cell);

PINTLE_C_END

#endif
