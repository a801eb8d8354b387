/* host/past/archive.h: the runs that there are, wherever they were logged.
 *
 * An archive is a folder of run folders, a database, or both: what was logged into both is one run.
 * Listing it reads no records; one run that can't be read doesn't hide the others.
 */
#ifndef PINTLE_HOST_PAST_ARCHIVE_H
#define PINTLE_HOST_PAST_ARCHIVE_H

#include <stddef.h>
#include <stdint.h>

#include "pintle/host/base/problem.h"

PINTLE_C_BEGIN

/* Said of a run by a person. */
struct pintle_note {
    int64_t time_us; /* UTC since 1970 */
    char *text;
};

/* What is known of a channel besides its readings. */
struct pintle_channel_about {
    char *name;       /* "cabin.temperature" */
    uint8_t decimals; /* worth printing, in the base unit */
    bool made;        /* of others */
    char *unit;       /* of its column; null: the run doesn't say */
};

/* A run that was logged, or is being logged. */
struct pintle_past {
    unsigned number;
    char *where;    /* for messages: "sloop-runs/0001", "run 1 in sloop.db" */
    char *folder;   /* its folder; null: it has none */
    char *database; /* the file that it is in, if it has no folder, or besides; or null */
    char *broken;   /* why it can't be read, as a sentence; null: it can */
    char *about;    /* run.json */
    char *board;
    char *title; /* null: nobody gave one */
    char *ended; /* "done", "interrupted", "failed"; null: it was cut off, or goes on */
    bool writing;
    bool unset; /* it began with a clock that was never set */
    bool simulated;
    int64_t began_us;
    int64_t every_us;
    bool counted; /* are these known? Else only its records tell (pintle_past_count) */
    uint64_t records, suspect, missed;
    int64_t stepped_us; /* by how much the wall clock was moved while it ran, in all */
    unsigned channels;
    struct pintle_channel_about *channel;
    unsigned notes;
    struct pintle_note *note;
};

/* Everything of `folder` and `database`, which must exist where they are named; either may be null.
 * Ordered by number. Null: the problem says why. Free with pintle_archive_free. */
struct pintle_archive {
    char *where; /* for messages */
    unsigned count;
    struct pintle_past **run;
};
struct pintle_archive *pintle_archive_open(const char *folder, const char *database,
                                           struct pintle_problem *problem);
void pintle_archive_free(struct pintle_archive *archive);

/* The runs that a word names: a number, "2-5", "last", "all", or the path of a run folder, which
 * then joins the archive. Appends to the array `chosen`, which is g_realloc'd. */
bool pintle_archive_choose(struct pintle_archive *archive, const char *word,
                           struct pintle_past ***chosen, unsigned *count,
                           struct pintle_problem *problem);

/* Count what is not counted: reads the run's records. */
bool pintle_past_count(struct pintle_past *past, struct pintle_problem *problem);

/* How many records are missing at the end of a run that says how many it had; 0: none, or it
 * doesn't say. */
uint64_t pintle_past_lost(const struct pintle_past *past);

/* The time of its last record. False, and no problem set: it has none. */
bool pintle_past_last(const struct pintle_past *past, int64_t *time_us,
                      struct pintle_problem *problem);

/* One of the texts that were kept with it: "rig", "world", "calibration.json"; null: there is
 * none. To be freed with pintle_host_free. */
char *pintle_past_text(const struct pintle_past *past, const char *name);

/* A correction that was applied, in words: "line 1.002 -0.41, calibration 3". The array's texts and
 * itself are to be freed with pintle_host_free; null beyond the last. */
struct pintle_past_correction {
    char *channel, *text;
};
struct pintle_past_correction *pintle_past_corrections(const struct pintle_past *past);

/* Is the file at `path` one that the run is kept in? Writing over it would lose the run. */
bool pintle_past_owns(const struct pintle_past *past, const char *path);

/* Say something of it, at a time; on the disk when this returns. A title replaces the one before.
 */
bool pintle_past_note(const struct pintle_past *past, int64_t time_us, bool title, const char *text,
                      struct pintle_problem *problem);

PINTLE_C_END

#endif
