/* Simulated chips of parts that a rig file describes, made from that description: registers,
 * power-on values, conversion time, channels the other way round. Such a chip shows that a
 * description hangs together, and nothing of the real one. */
#ifndef PINTLE_PRIV_SIM_TWIN_H
#define PINTLE_PRIV_SIM_TWIN_H

#include <stdbool.h>

#include "pintle/sample.h"
#include "pintle/sheet.h"
#include "pintle/sim.h"

#define TWIN_REGS 64

/* The model is the first member: it leads back here. */
struct twin {
    struct pintle_sim_model model;
    const struct pintle_sheet *sheet;
    const float *numbers; /* of what it is wired to; null: as the description has them */
    bool words;           /* registers are whole and overlap as bytes: the pointer stays */
    bool fetches;         /* what it measured comes without a register in front */
};

struct twin_state {
    uint64_t began_us; /* something was written to it, or it was switched on;
                           0: long ago */
    uint32_t value[TWIN_REGS];
    uint32_t word; /* the register that is being written */
    uint16_t reg;
    uint16_t command; /* the last one that was no register */
    uint16_t asked;   /* what was written to last */
    uint8_t raw[PINTLE_MOST_RAW];
    uint8_t measuring;                  /* what was written begins a measurement */
    uint8_t heads;                      /* bytes of the address that have come */
    uint8_t at;                         /* bytes behind it */
    uint8_t alone;                      /* an address, and nothing behind it yet */
    uint8_t in, bits, out, reading;     /* SPI */
    uint8_t doing;                      /* 1-Wire */
    uint8_t line[PINTLE_MOST_RAW + 16]; /* serial line: what it is saying */
    uint8_t length, said;
    uint64_t next_us; /* of its bytes, or lines */
};

/* A model of the described part, to be freed with g_free; null: it cannot be one, and why. */
struct twin *pintle_priv_twin_make(const struct pintle_sheet *sheet, const char **why);

/* --- what it holds (twin.c) --- */

static inline struct twin_state *pintle_priv_twin_state(struct pintle_sim_chip *chip)
{
    return (struct twin_state *)(void *)chip->state.bytes;
}

static inline const struct twin *pintle_priv_twin_of(const struct pintle_sim_chip *chip)
{
    return (const struct twin *)(const void *)chip->model;
}

void pintle_priv_twin_power_up(struct pintle_sim_chip *chip);

/* Is the conversion over? */
bool pintle_priv_twin_ready(struct pintle_sim_chip *chip);

/* Measure: fill the raw block as the part's program would read it. */
void pintle_priv_twin_measure(struct pintle_sim_chip *chip);

/* Byte `i` of what is read from a register on. */
uint8_t pintle_priv_twin_byte(struct pintle_sim_chip *chip, uint16_t reg, uint8_t i);

/* Byte `i` of what is fetched after the last command. */
uint8_t pintle_priv_twin_fetched(struct pintle_sim_chip *chip, uint8_t i);

/* A byte is written to a register, `i` behind its first; a command is sent. */
void pintle_priv_twin_store(struct pintle_sim_chip *chip, uint16_t reg, uint8_t i, uint8_t byte);
void pintle_priv_twin_command(struct pintle_sim_chip *chip, uint16_t code);

/* The row of a register at an address, or null. */
const struct pintle_map_reg *pintle_priv_twin_row(const struct pintle_sim_chip *chip, uint16_t reg);

/* --- what its channels measure (twin_channel.c) --- */

/* The bytes of a row that mean this integer. */
void pintle_priv_twin_put(const struct pintle_linear *row, uint8_t *first, int64_t raw);

/* A channel's bytes in the raw block, of what the chip feels. */
void pintle_priv_twin_channel(struct pintle_sim_chip *chip, unsigned c, const uint8_t *settings);

/* --- how it talks (twin_bus.c) --- */

void pintle_priv_twin_speak(struct pintle_sim_model *model, const struct pintle_part *part);

#endif
