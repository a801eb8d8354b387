/* host/run/run.h: a run as it is written, into a folder, into a database, or into both.
 *
 * A run's folder is numbered and written once: readings.csv (RFC 4180), one record per line; rig
 * and calibration as they were; run.json with what was measured, what happened to the clock, and
 * how it ended. A database has the same in its tables. Each record is on the disk before the next
 * begins. A run that was cut off has no "ended" and is otherwise whole, but for the record that was
 * being written. The layout is docs/runs.md; host/past reads it.
 */
#ifndef PINTLE_HOST_RUN_RUN_H
#define PINTLE_HOST_RUN_RUN_H

#include "pintle/host/live/station.h"

PINTLE_C_BEGIN

struct pintle_run {
    char *path; /* of its folder, or else of its database */
    unsigned number;
    uint32_t records;
    uint32_t suspect; /* records with anything suspect in them */
    uint64_t missed;  /* slots that nobody measured */
    uint64_t bytes;   /* that its records took */
    int64_t began_us;
    bool unset;                /* it began with a clock that was never set */
    struct pintle_clock_step { /* of the wall clock while it ran */
        uint32_t record;       /* the first one after it */
        int64_t by_us;
    } * step;
    unsigned steps;
    const struct pintle_station *station;
    char *lost; /* what failed of two places last, and how it went on; NULL: nothing did */
    char *news; /* what happened to a place at this record, for users; NULL: nothing */
    struct pintle_run_folder *folder;  /* NULL: it has none */
    struct pintle_run_base *base;      /* its database; likewise */
    uint32_t folder_lacks, base_lacks; /* records since it failed; 0: it works */
};

/* Where a run goes. */
struct pintle_run_places {
    const char *folder;   /* of run folders, */
    const char *database; /* and a database; one of them may be null */
    const char *title;    /* of the run; null: none */
};

/* When a record was taken, and what is to be said of that. */
struct pintle_slot {
    uint32_t number;    /* of the record, from 1 on */
    int64_t time_us;    /* UTC since 1970; with no clock, since the port's own clock began */
    uint32_t missed;    /* slots before it in which nobody measured */
    int64_t stepped_us; /* the wall clock was moved before it, by so much */
    bool unset;         /* the wall clock was never set */
};

/* A line of any length. Zero it to begin; it may be used again and again. */
struct pintle_run_line {
    char *at;
    size_t used, size;
    bool good; /* none of its readings is suspect */
    uint32_t missed;
};
void pintle_run_line_free(struct pintle_run_line *line);

/* Begin a run with the next number that is free in both places. Where there are two, both must be
 * writable now; later the run goes on as long as one is. */
bool pintle_run_begin(struct pintle_run *run, const struct pintle_run_places *places,
                      const struct pintle_station *station, struct pintle_problem *problem);

/* The highest run number in `folder`; 0: none. */
unsigned pintle_run_last(const char *folder);

/* The line of column names, or a record of the station's last round, with the line end. */
void pintle_run_header(struct pintle_run_line *line, const struct pintle_rig *rig);
void pintle_run_record(struct pintle_run_line *line, const struct pintle_station *station,
                       const struct pintle_slot *slot);

/* Append a line that pintle_run_record made and put it on the disk. Of two places one may give out:
 * then `lost` says so, once, and the other goes on. */
bool pintle_run_append(struct pintle_run *run, const struct pintle_run_line *line,
                       struct pintle_problem *problem);

/* Note that the wall clock was moved before the next record. */
void pintle_run_stepped(struct pintle_run *run, int64_t by_us);

/* Somebody says something of it. */
bool pintle_run_note(const struct pintle_run *run, int64_t time_us, const char *text,
                     struct pintle_problem *problem);

/* End the run; `how` is a word for run.json ("done", "interrupted"). */
bool pintle_run_end(struct pintle_run *run, const char *how, struct pintle_problem *problem);

/* Does this channel go into logs? Clock times don't: every record has its own. */
bool pintle_run_logs(const struct pintle_channel *channel);

/* How long a place lasts at this rate: the bytes that are free where `path` is, and for how many
 * seconds records of so many bytes fit there. False: nobody knows. */
bool pintle_run_room(const char *path, double bytes_a_record, int64_t every_us, double *free_bytes,
                     double *seconds);

/* The bytes of a file; 0: there is none. */
double pintle_run_size(const char *path);

/* Behind a channel's name in the column that has its values without correction. */
#define PINTLE_RUN_UNCORRECTED ".uncorrected"
#define PINTLE_RUN_UNCERTAINTY ".uncertainty" /* standard */

PINTLE_C_END

#endif
