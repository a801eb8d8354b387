/* What the simulation's files share. */
#ifndef PINTLE_SIM_BENCH_H
#define PINTLE_SIM_BENCH_H

#include <string.h>

#include "pintle/sim.h"

/* A chip's state must fit into struct pintle_sim_chip. */
#define SIM_STATE_FITS(type)                                                                       \
    _Static_assert(sizeof(type) <= PINTLE_SIM_STATE, "PINTLE_SIM_STATE is too small")

/* 64 random bits; a number from -1 to 1. */
uint64_t sim_random(struct pintle_sim *sim);
double sim_uniform(struct pintle_sim *sim);

/* What a chip's sensing element delivers now: the truth with the specimen's error and noise. */
double sim_sense(struct pintle_sim_chip *chip, int input);

/* Does the chip take part in traffic now: powered, wired, not silent? */
uint8_t sim_hears(struct pintle_sim *sim, const struct pintle_sim_chip *chip);

/* Does this fault lie on the chip now? */
uint8_t sim_faulty(const struct pintle_sim *sim, const struct pintle_sim_chip *chip,
                   enum pintle_sim_fault_kind kind);

/* The troubles that faults lay on the lines of a bus now, and the last one's amount. */
uint8_t sim_troubles(const struct pintle_sim *sim, uint8_t bus, uint32_t *amount);

/* One line per chip; models.c lists the same. */
extern const struct pintle_sim_model sim_bme280;
extern const struct pintle_sim_model sim_ds3231;
extern const struct pintle_sim_model sim_mcp9808;
extern const struct pintle_sim_model sim_sht31;
extern const struct pintle_sim_model sim_tmp102;

#endif
