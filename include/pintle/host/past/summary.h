/* host/past/summary.h: what runs come to, and what happened when.
 */
#ifndef PINTLE_HOST_PAST_SUMMARY_H
#define PINTLE_HOST_PAST_SUMMARY_H

#include "pintle/host/past/average.h"

PINTLE_C_BEGIN

enum pintle_event_kind {
    PINTLE_EVENT_FAILED,  /* a sensor gave no data */
    PINTLE_EVENT_SUSPECT, /* a channel's readings were, as `quality` says */
    PINTLE_EVENT_POWERED, /* a sensor came back as after power-up */
    PINTLE_EVENT_MISSED,  /* slots in which nobody measured */
    PINTLE_EVENT_STEPPED, /* the wall clock was moved */
    PINTLE_EVENT_UNSET,   /* the wall clock was never set */
    PINTLE_EVENT_BETWEEN, /* one run ended, the next began */
    PINTLE_EVENT_NOTED,   /* somebody said something */
    PINTLE_EVENT_THINNED  /* from here on a record stands for several */
};

struct pintle_event {
    uint64_t record; /* the number of the record at which it began; of a note, of one before it */
    enum pintle_event_kind kind;
    unsigned run;           /* which of those that were read, from 0 on */
    int64_t from_us, to_us; /* the first and the last record of it */
    bool lasts;             /* until the end of the run */
    char *name;             /* the sensor or channel; of a note what was said; or null */
    pintle_marks quality;
    uint64_t count; /* records; slots missed */
    int64_t by_us;  /* the clock was moved so far; a record is averaged over so long */
};

struct pintle_events {
    unsigned count, room;
    struct pintle_event *event;
    void *own;
};

/* Records are taken in order, then the end; after that the events are in the order of the records.
 */
struct pintle_events *pintle_events_open(const struct pintle_reader *reader);
void pintle_events_take(struct pintle_events *events, const struct pintle_record *record);
void pintle_events_end(struct pintle_events *events, struct pintle_past *const *runs,
                       unsigned count, struct pintle_window window);
void pintle_events_free(struct pintle_events *events);

/* An event in words, without its time: "sea gave no data, 105 records, until 17:05:00". To be freed
 * with pintle_host_free. `until` is its end as text. */
char *pintle_event_text(const struct pintle_event *event, const char *until);

struct pintle_summed {
    struct pintle_run_column column;
    struct pintle_cell cell;       /* of all good readings */
    int64_t least_us, greatest_us; /* when the first of them was */
    uint64_t good, suspect;
    uint64_t gaps; /* stretches with no reading */
};

struct pintle_summary {
    uint64_t records, marked; /* and those with anything suspect in them */
    uint64_t missed;
    int64_t first_us, last_us;
    unsigned columns;
    struct pintle_summed *column;
    struct pintle_events *events;
};

/* Null: the problem says why. Free with pintle_summary_free. */
struct pintle_summary *pintle_summary_make(struct pintle_past *const *runs, unsigned count,
                                           struct pintle_window window,
                                           struct pintle_problem *problem);
void pintle_summary_free(struct pintle_summary *summary);

PINTLE_C_END

#endif
