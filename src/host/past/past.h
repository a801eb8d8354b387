#ifndef PINTLE_PRIV_PAST_PAST_H
#define PINTLE_PRIV_PAST_PAST_H

#include "pintle/host/past/archive.h"

/* A run folder as a past. Never null: what is wrong with it is in `broken`. */
struct pintle_past *pintle_priv_past_folder(const char *path);

/* Each run of a database is appended to the array `all`; false: it can't be read. */
bool pintle_priv_past_base(const char *path, struct pintle_past ***all, unsigned *count,
                           struct pintle_problem *problem);

/* As pintle_past_last, and the number of that record; 0: it has none. */
bool pintle_priv_past_last(const struct pintle_past *past, int64_t *time_us, uint64_t *number,
                           struct pintle_problem *problem);

void pintle_priv_past_free(struct pintle_past *past);

#endif
