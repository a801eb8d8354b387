/* What 'pintle log' prints while it logs, and says of sensors that fail. */
#ifndef PINTLE_CLI_WATCH_H
#define PINTLE_CLI_WATCH_H

#include "cli/cli.h"
#include "pintle/host/run/logger.h"

/* A column of the table. */
struct column {
    unsigned sensor, channel;
    bool again;           /* the one before it, in its other unit */
    pintle_marks quality; /* what was said of it last */
};

/* What is printed while logging. */
struct watch {
    const struct pintle_station *station;
    enum format format;
    gboolean quiet;
    bool in_units;            /* CSV is printed in those asked for; the run folder has base units */
    bool begun;               /* the first lines are printed */
    gint64 notified_us;       /* when a service manager was told last that it lives; 0: never */
    gint64 began_us, told_us; /* how far it is, to a terminal */
    bool *failing;            /* each sensor */
    struct column *columns;
    unsigned count;
};

void log_watch_begin(struct watch *watch);
void log_watch_end(struct watch *watch);

/* The heading, once. */
void log_watch_first(struct watch *watch);

/* Of struct pintle_logging, with the watch as context. */
bool log_watch_record(void *context, const struct pintle_run *run, const char *line,
                      struct pintle_problem *problem);
void log_watch_begun(void *context, const struct pintle_run *run, int64_t first_us);
bool log_watch_shown(void *context, const char *line, struct pintle_problem *problem);
void log_watch_wait(void *context);

#endif
