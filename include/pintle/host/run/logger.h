/* host/run/logger.h: logging a station into a run until its time is over or somebody stops it.
 */
#ifndef PINTLE_HOST_RUN_LOGGER_H
#define PINTLE_HOST_RUN_LOGGER_H

#include <signal.h>

#include "pintle/host/run/run.h"

PINTLE_C_BEGIN

struct pintle_logging {
    struct pintle_station *station;
    struct pintle_run_places places;
    int64_t every_us; /* between slots */
    int64_t show_us;  /* between rounds that are only shown; 0: none */
    int64_t for_us;   /* from the first slot on, by the port's own clock, whatever the
                         wall clock does; 0: until stopped */
    const volatile sig_atomic_t *stop; /* becomes other than 0 to end; may be null */
    /* Called once, after the round that comes before all records: where they go, and when the first
     * slot is. `shown` follows. May be null. */
    void (*begun)(void *context, const struct pintle_run *run, int64_t first_us);
    /* Called after each record is on the disk; may be null. `line` is it as CSV. False, with the
     * problem set: log no further. */
    bool (*record)(void *context, const struct pintle_run *run, const char *line,
                   struct pintle_problem *problem);
    /* Called after each round that is only shown; may be null. */
    bool (*shown)(void *context, const char *line, struct pintle_problem *problem);
    /* Called before each wait of a second at most, while it waits for a slot; may be null. */
    void (*alive)(void *context);
    void *context;
};

/* What came of it. */
struct pintle_logged {
    unsigned number;
    uint32_t records;
    uint32_t suspect;
    uint32_t missed;  /* slots in which no one measured */
    unsigned steps;   /* of the wall clock */
    unsigned failing; /* sensors that failed in the last round that was measured whole */
    bool unset;       /* it began with a wall clock that was never set */
    bool interrupted;
    uint64_t bytes; /* that the records took */
    char *lost;     /* one of two places gave out: which, and why; null: none. Freed likewise */
    char *path; /* of the run's folder, or else its database; null: none was made; to be freed with
                   pintle_host_free */
};

/* The same step by step, for whoever does something else between: nothing here waits. `record`,
 * `shown`, `begun`, `alive` and `stop` are not looked at; with no place to log to every round is
 * only shown.
 */
enum pintle_logger_did {
    PINTLE_LOGGER_WAITS,    /* nothing is due */
    PINTLE_LOGGER_SHOWN,    /* a round was measured that is no record */
    PINTLE_LOGGER_RECORDED, /* a record is on the disk */
    PINTLE_LOGGER_STOPPED,  /* `stop` ended a round */
    PINTLE_LOGGER_OVER,     /* its time is over */
    PINTLE_LOGGER_FAILED    /* the disk; the problem says why */
};
struct pintle_logger;
struct pintle_logger *pintle_logger_open(const struct pintle_logging *logging,
                                         struct pintle_problem *problem);
enum pintle_logger_did pintle_logger_step(struct pintle_logger *logger,
                                          struct pintle_problem *problem);

/* How long until something can be due, by the port's own clock; a second at most. */
int64_t pintle_logger_due(const struct pintle_logger *logger);

/* The line of the record, or of the round, that was measured last; the run, null where there is
 * none. */
const char *pintle_logger_line(const struct pintle_logger *logger);
const struct pintle_run *pintle_logger_run(const struct pintle_logger *logger);

/* End the run; `how` as for pintle_run_end. What came of it goes to `logged`. Frees the logger. */
bool pintle_logger_close(struct pintle_logger *logger, const char *how,
                         struct pintle_logged *logged, struct pintle_problem *problem);

/* Log. One round before all records is only shown: it takes the chips' first readings after
 * power-up, and says at once whether they answer. A sensor that fails is marked in its records and
 * tried again every time. On failure (the disk) what was logged so far stays, and `logged` says
 * where; where one of two places gave out it goes on in the other. */
bool pintle_log(const struct pintle_logging *logging, struct pintle_logged *logged,
                struct pintle_problem *problem);

PINTLE_C_END

#endif
