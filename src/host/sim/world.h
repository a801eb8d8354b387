/* World scripts: what is really there in simulation. The syntax is in docs/rig-file.md. */
#ifndef PINTLE_PRIV_SIM_WORLD_H
#define PINTLE_PRIV_SIM_WORLD_H

#include <glib.h>

#include "host/base/conf.h"
#include "pintle/host/live/station.h"
#include "pintle/host/sim/sim.h"

/* The rig's world script (g_free it). False: it has none, or it cannot be read. */
bool pintle_priv_world_text(const struct pintle_rig *rig, char **text,
                            struct pintle_problem *problem);

/* A simulated station's own. */
struct simulated {
    const struct pintle_rig *rig;
    char *text; /* the script of what is really there */
    struct pintle_sim sim;
    struct cable { /* where the rig asks for wires: lines, and the master on them */
        struct pintle_sim_i2c_wires i2c;
        struct pintle_bitbang_i2c i2c_master;
        struct pintle_sim_spi_wires spi;
        struct pintle_pin *selects;
        struct pintle_bitbang_spi spi_master;
        struct pintle_pin command;
        struct pintle_sim_onewire_wires onewire;
        struct pintle_bitbang_onewire onewire_master;
        double pull_up_ohm;
        double capacitance_pf;
    } * cable;                       /* of each bus */
    struct pintle_sim_curve *curves; /* the world's quantities */
    unsigned curve_count;
    struct pintle_sim_step *steps; /* of its wall clock */
    GPtrArray *twins;              /* models made from descriptions */
    char *remark;                  /* and what has to be said of them; or null */
    int board_curve;               /* what the machine is surrounded by; -1: it says nothing */
    double board_warmer;
};

/* Fill the simulation from its script. */
bool pintle_priv_world_build(struct simulated *it, struct pintle_problem *problem);

/* What the words build on: libconfuse hands no context to its callbacks. Sections come in order:
 * quantities, chips that feel them, what goes wrong with those. */
struct building {
    struct simulated *it;
    GPtrArray *quantities; /* names, of the station's curves */
    GPtrArray *chips;      /* names, of the simulation's chips */
    GPtrArray *clocks;     /* chips that somebody has set before the world began */
    GPtrArray *lines;      /* buses that have been described */
};
extern struct building pintle_priv_building;

/* Every word of a world script. */
cfg_opt_t *pintle_priv_world_schema(void);

/* What follows a word has been read. */
int pintle_priv_world_began(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_world_seed(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_world_clock_set(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_world_steps(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_world_quantity(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_world_board(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_world_chip(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_world_fault(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_world_lines(cfg_t *cfg, cfg_opt_t *opt);
int pintle_priv_world_trouble(cfg_t *cfg, cfg_opt_t *opt);

/* Set a clock chip to the time at which the world begins. */
bool pintle_priv_world_set(struct pintle_sim_chip *chip, struct pintle_problem *problem);

/* The index of a name, or -1. */
int pintle_priv_world_index(const GPtrArray *names, const char *name);

/* Remember a title that may come only once. */
int pintle_priv_world_title(cfg_t *cfg, GPtrArray *names, const char *what, const char *title);

/* A duration in seconds. False: it is none, and that is said. */
bool pintle_priv_world_seconds(cfg_t *cfg, const char *text, double *s);

#endif
