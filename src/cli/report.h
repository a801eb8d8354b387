/* A report while it is written. */
#ifndef PINTLE_CLI_REPORT_H
#define PINTLE_CLI_REPORT_H

#include <stdio.h>

#include "cli/past.h"
#include "pintle/host/past/summary.h"

struct report_options {
    struct past_options past;
    char *to;
};

struct reporting {
    const struct report_options *o;
    const struct chosen *chosen;
    struct pintle_summary *summary;
    struct pintle_history *history;
    struct shown shown;
    char *drawings; /* a folder of its own, where pictures are drawn before they are taken in */
    FILE *out;
};

/* Text that may be anything; likewise as a cell of a table, with attributes. */
void report_put(const struct reporting *r, const char *text);
void report_cell(const struct reporting *r, const char *kind, const char *text);

/* A drawing at `path`, which is taken in and deleted. */
bool report_picture(const struct reporting *r, const char *path, const char *what,
                    struct pintle_problem *problem);

/* --- report_kept.c: what was kept with the runs; once for neighbours of which it is the same ---
 */

void report_corrections(const struct reporting *r);
bool report_rigs(const struct reporting *r, struct pintle_problem *problem);

#endif
