/* host/base/progress.h: how far something is that may take long.
 */
#ifndef PINTLE_HOST_BASE_PROGRESS_H
#define PINTLE_HOST_BASE_PROGRESS_H

#include <stdbool.h>

struct pintle_progress {
    /* Called now and then with 0 to 1. False: give up. */
    bool (*step)(void *context, double share);
    void *context;
};

#endif
