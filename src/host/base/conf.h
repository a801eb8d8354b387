/* How rig and world files are read: libconfuse, with one sentence per mistake. */
#ifndef PINTLE_PRIV_BASE_CONF_H
#define PINTLE_PRIV_BASE_CONF_H

#include <confuse.h>

#include "pintle/host/base/problem.h"

/* Parse `text` under the schema; `name` is the file's name for messages. The schema's validate
 * callbacks may use pintle_priv_conf_complain. Null on failure. Free with cfg_free. */
cfg_t *pintle_priv_conf_parse(cfg_opt_t *schema, void (*prepare)(cfg_t *cfg), const char *name,
                              const char *text, struct pintle_problem *problem);

/* From a validate callback: a mistake at the line just read. Returns -1, as the callback must. */
int pintle_priv_conf_complain(cfg_t *cfg, const char *format, ...)
    __attribute__((format(printf, 2, 3)));

/* From the validate callback of a section: the one that has just been read. */
cfg_t *pintle_priv_conf_section(cfg_opt_t *opt);

/* Is it a name that can be told from what stands around it, in a log's columns for one: letters a
 * to z, digits, hyphens, underscores? `what` has it. Returns 0, or -1 with the mistake said. */
int pintle_priv_conf_name(cfg_t *cfg, const char *what, const char *name);

/* A word that is a number, and finite as a reading. False where it is none, and that is said. */
bool pintle_priv_conf_number(cfg_t *cfg, const char *text, double *value);

/* Likewise at a line noted earlier. */
int pintle_priv_conf_complain_at(int line, const char *format, ...)
    __attribute__((format(printf, 2, 3)));

#endif
