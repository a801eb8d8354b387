/* The magnetometer inside an ICM-20948, from datasheet DS-000189, sections 3.3, 12 and 13. */
#ifndef PINTLE_SIM_AK09916_H
#define PINTLE_SIM_AK09916_H

#include "port/sim/bench.h"

struct pintle_sim_ak09916 {
    uint8_t regs[0x33];
    uint64_t next_ns; /* measurement; 0: none comes */
};

void pintle_priv_sim_ak09916_reset(struct pintle_sim_ak09916 *ak);

/* A byte of its registers, by the bus inside the chip that it belongs to; `address` as on that bus,
 * with or without the bit that says reading. 0: nobody answers there. */
uint8_t pintle_priv_sim_ak09916_read(struct pintle_sim_chip *chip, struct pintle_sim_ak09916 *ak,
                                     uint8_t address, uint8_t reg, uint8_t *value);
uint8_t pintle_priv_sim_ak09916_write(struct pintle_sim_chip *chip, struct pintle_sim_ak09916 *ak,
                                      uint8_t address, uint8_t reg, uint8_t value);

#endif
