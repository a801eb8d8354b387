/* What the files that read a rig file share. */
#ifndef PINTLE_PRIV_RIG_LOADING_H
#define PINTLE_PRIV_RIG_LOADING_H

#include "host/base/conf.h"
#include "pintle/host/rig/rig.h"

/* libconfuse hands no context to its callbacks, so the rig being read is kept here. */
struct loading {
    struct pintle_rig *rig;
    const char *name; /* of the file */
    int address_line;
    int part_line;
};
extern struct loading pintle_priv_loading;

/* Zeroed memory, and texts printf style, that live as long as the rig. */
void *pintle_priv_loading_own(size_t size);
char *pintle_priv_loading_text(const char *format, ...) __attribute__((format(printf, 1, 2)));

/* Every word of a rig file; and the checks of what stands behind them. */
cfg_opt_t *pintle_priv_rig_schema(void);
void pintle_priv_rig_words(cfg_t *cfg);

/* A bus's kind has been read; a whole section: bus, sensor, part. */
int pintle_priv_check_kind(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_loading_bus(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_loading_sensor(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_loading_derive(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_described_take(cfg_t *cfg, cfg_opt_t *opt);

/* The select pin of this name, which is added where the bus doesn't know it yet: its index, or -1.
 */
int pintle_priv_loading_select(cfg_t *cfg, struct pintle_rig_bus *bus, const char *pin);

/* A sensor section with words about what hangs on its inputs: give it a sheet of its own. */
int pintle_priv_inputs_sheet(cfg_t *cfg, cfg_t *section, struct pintle_rig_sensor *sensor);

/* What a rig may say of any channel: its correction, limits, unit. */
int pintle_priv_loading_channel(struct pintle_rig_sensor *sensor, cfg_t *section);

#endif
