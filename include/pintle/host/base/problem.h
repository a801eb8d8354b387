/* host/base/problem.h: a failure as one sentence for people.
 *
 * Calls of pintle-host that can fail take a struct pintle_problem, write into it what is wrong,
 * where, the likely cause and what to do next, and return false or null.
 */
#ifndef PINTLE_HOST_BASE_PROBLEM_H
#define PINTLE_HOST_BASE_PROBLEM_H

#include <stdbool.h>

#include "pintle/config.h"

PINTLE_C_BEGIN

/* What kind of failure; the numbers are the tool's exit statuses. */
enum pintle_failure {
    PINTLE_FAILURE_NONE = 0,
    PINTLE_FAILURE_RIG = 1,   /* the rig is not as it should be */
    PINTLE_FAILURE_USE = 2,   /* asked for something that makes no sense */
    PINTLE_FAILURE_UNABLE = 3 /* could not be done: a file, a disk */
};

struct pintle_problem {
    enum pintle_failure failure;
    char text[600]; /* one sentence or two, no line end */
};

/* Record a problem, printf style; always returns false. The first one recorded is kept. */
bool pintle_problem_set(struct pintle_problem *problem, enum pintle_failure failure,
                        const char *format, ...) __attribute__((format(printf, 3, 4)));

/* Of `count` candidates (null ones are passed over) the one most like `word`, or null where none
 * is near enough to be what was meant. */
const char *pintle_problem_nearest(const char *word, const char *const *candidates, unsigned count);

/* Give back memory that a call of pintle-host has handed out. */
void pintle_host_free(void *memory);

PINTLE_C_END

#endif
