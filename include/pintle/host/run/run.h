/* host/run/run.h: runs on disk.
 *
 * A run is a numbered folder that is written once: readings.csv (RFC 4180), one record per line,
 * each on disk before the next begins; rig and calibration as they were; run.json with what was
 * measured, what happened to the clock, and how it ended. A run that was cut off has no "ended" in
 * run.json and is otherwise whole, but for the record that was being written.
 */
#ifndef PINTLE_HOST_RUN_RUN_H
#define PINTLE_HOST_RUN_RUN_H

#include "pintle/host/live/station.h"

struct pintle_run {
    char *path;
    unsigned number;
    int file;
    uint32_t records;
    uint32_t suspect; /* records with anything suspect in them */
    int64_t began_us;
    bool unset;                /* it began with a clock that was never set */
    struct pintle_clock_step { /* of the wall clock while it ran */
        uint32_t record;       /* the first one after it */
        int64_t by_us;
    } * step;
    unsigned steps;
    const struct pintle_station *station;
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
    bool good; /* a record with nothing suspect in it */
};
void pintle_run_line_free(struct pintle_run_line *line);

/* Make the next free run folder under `folder` and open it. */
bool pintle_run_begin(struct pintle_run *run, const char *folder,
                      const struct pintle_station *station, struct pintle_problem *problem);

/* The highest run number in `folder`; 0: none. */
unsigned pintle_run_last(const char *folder);

/* The line of column names, or a record of the station's last round, with the line end. */
void pintle_run_header(struct pintle_run_line *line, const struct pintle_rig *rig);
void pintle_run_record(struct pintle_run_line *line, const struct pintle_station *station,
                       const struct pintle_slot *slot);

/* Append a line that pintle_run_record made and put it on the disk. */
bool pintle_run_append(struct pintle_run *run, const struct pintle_run_line *line,
                       struct pintle_problem *problem);

/* Note that the wall clock was moved before the next record. */
void pintle_run_stepped(struct pintle_run *run, int64_t by_us);

/* End the run; `how` is a word for run.json ("done", "interrupted"). */
bool pintle_run_end(struct pintle_run *run, const char *how, struct pintle_problem *problem);

/* Does this channel go into logs? Clock times don't: every record has its own. */
bool pintle_run_logs(const struct pintle_channel *channel);

/* A run read back. */
struct pintle_column {
    char *name; /* "cabin.temperature" */
    enum pintle_quantity quantity;
    enum pintle_unit unit; /* in which it is shown */
    enum pintle_unit also; /* and besides; PINTLE_UNIT_COUNT: none */
    double *value;         /* NaN where there is none */
    double *uncorrected;   /* without its correction; null: it had none */
    double *uncertainty;   /* standard, in the unit of a difference; null: nobody asked for it */
    uint8_t *suspect;      /* 1 where the record says so */
    uint8_t *remarked;     /* 1 where it has a remark besides that it is smoothed; or null */
};

struct pintle_history {
    char *path;
    unsigned rows;
    unsigned columns;
    double *time; /* seconds since 1970 */
    struct pintle_column *column;
    unsigned fields; /* of a record between time and quality, */
    double **into;   /* and where each goes */
};

/* Behind a channel's name in the column that has its values without correction. */
#define PINTLE_RUN_UNCORRECTED ".uncorrected"
#define PINTLE_RUN_UNCERTAINTY ".uncertainty" /* standard */

/* Read a run: `name` is a run's number under `folder`, or the path of a run folder. A last line
 * that was cut off is left out. */
struct pintle_history *pintle_history_load(const char *folder, const char *name,
                                           struct pintle_problem *problem);
void pintle_history_free(struct pintle_history *history);

#endif
