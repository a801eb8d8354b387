/* What the files that read a rig file share. */
#ifndef PINTLE_HOST_LOADING_H
#define PINTLE_HOST_LOADING_H

#include "host/conf.h"
#include "pintle/host/rig.h"

/* libconfuse hands no context to its callbacks, so the rig being read is kept here. */
struct loading {
    struct pintle_rig *rig;
    const char *name; /* of the file */
    int address_line;
    int part_line;
};
extern struct loading loading;

/* Zeroed memory that lives as long as the rig. */
void *loading_own(size_t size);
char *loading_text(const char *text);

/* A sensor section has been read; a part section has. */
int loading_sensor(cfg_t *cfg, cfg_opt_t *opt);
int described_take(cfg_t *cfg, cfg_opt_t *opt);
cfg_opt_t *described_schema(void);

/* A sensor section with words about what hangs on its inputs: give it a sheet of its own. */
int derived_sheet(cfg_t *cfg, cfg_t *section, const struct pintle_sheet **sheet);

#endif
