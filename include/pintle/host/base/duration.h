/* host/base/duration.h: spans of time as people write them.
 */
#ifndef PINTLE_HOST_BASE_DURATION_H
#define PINTLE_HOST_BASE_DURATION_H

#include <stdbool.h>
#include <stdint.h>

#include "pintle/config.h"

PINTLE_C_BEGIN

/* A duration such as "20 s", "1h30m", "500 ms", "2 d" in microseconds. False: it is none. */
bool pintle_duration_parse(const char *text, int64_t *us);

/* Likewise back, its two largest parts: "1 d 6 h"; to be freed with pintle_host_free. */
char *pintle_duration_text(int64_t us);

/* Likewise, rounded to one part. */
char *pintle_duration_about(int64_t us);

PINTLE_C_END

#endif
