#ifndef PINTLE_PRIV_RUN_ABOUT_H
#define PINTLE_PRIV_RUN_ABOUT_H

#include "pintle/host/run/run.h"

/* run.json as it is now; `ended` says how, null: it goes on. g_free it. */
char *pintle_priv_about(const struct pintle_run *run, const char *ended);

#endif
