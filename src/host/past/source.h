/* Where one run's records come from. */
#ifndef PINTLE_PRIV_PAST_SOURCE_H
#define PINTLE_PRIV_PAST_SOURCE_H

#include "host/past/record.h"

struct pintle_source {
    struct pintle_layout layout; /* with no column: the run has not even its first line */
    struct pintle_cell *cell;    /* of the record read last */
    /* False: there is no more or, with the problem set, it can't be read. */
    bool (*next)(struct pintle_source *source, struct pintle_record *record,
                 struct pintle_problem *problem);
    double (*progress)(const struct pintle_source *source);
    void (*free)(struct pintle_source *source);
};

/* Null: the problem says why. Records outside of the window may be left out. */
struct pintle_source *pintle_priv_source_folder(const struct pintle_past *run,
                                                struct pintle_window window,
                                                struct pintle_problem *problem);
struct pintle_source *pintle_priv_source_base(const struct pintle_past *run,
                                              struct pintle_window window,
                                              struct pintle_problem *problem);

#endif
