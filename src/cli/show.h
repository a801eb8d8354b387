/* What `show` is asked for, and its page of values. */
#ifndef PINTLE_CLI_SHOW_H
#define PINTLE_CLI_SHOW_H

#include "cli/past.h"
#include "pintle/page.h"

struct show_options {
    struct past_options past;
    char *values, *trend;
    char *run;
    char *length, *every;
    char *size;
    char *to, *look;
};

/* Fill a page: out of a run, or with what the station measures, which may be null for a run. */
bool show_fill(const struct show_options *options, struct pintle_page *page,
               struct pintle_station *station, struct pintle_problem *problem);

#endif
