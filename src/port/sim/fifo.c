/* Chips that sample by a clock of their own, and the FIFOs that they fill: a ring of bytes in the
 * chip's memory, in which the newest takes the place of the oldest. */
#include "port/sim/bench.h"

void pintle_priv_sim_each(struct pintle_sim_chip *chip, uint64_t *next_ns, uint64_t period_ns,
                          uint32_t most, void (*sample)(struct pintle_sim_chip *chip))
{
    struct pintle_sim *sim = chip->sim;
    uint64_t now_us = sim->now_us;
    uint64_t now_ns = now_us * 1000;
    double off = (double)period_ns * 0.01 * (2 * chip->slowness - 1);
    period_ns = (uint64_t)((int64_t)period_ns + (int64_t)off);
    if (now_ns > *next_ns && (now_ns - *next_ns) / period_ns > most) {
        *next_ns += ((now_ns - *next_ns) / period_ns - most) * period_ns;
    }
    for (; *next_ns <= now_ns; *next_ns += period_ns) {
        sim->now_us = *next_ns / 1000;
        sample(chip);
    }
    sim->now_us = now_us;
}

void pintle_priv_sim_fifo_drop(struct pintle_sim_fifo *fifo, uint16_t count)
{
    fifo->first = (uint16_t)((fifo->first + count) % fifo->size);
    fifo->count = (uint16_t)(fifo->count - count);
}

uint8_t pintle_priv_sim_fifo_put(struct pintle_sim_chip *chip, struct pintle_sim_fifo *fifo,
                                 const uint8_t *bytes, uint8_t count, uint8_t whole)
{
    uint8_t full = fifo->count + count > fifo->size;
    if (full) {
        pintle_priv_sim_fifo_drop(fifo,
                                  whole ? count : (uint16_t)(fifo->count + count - fifo->size));
    }
    for (uint8_t i = 0; i < count; i++) {
        chip->memory[(fifo->first + fifo->count++) % fifo->size] = bytes[i];
    }
    return full;
}

uint8_t pintle_priv_sim_fifo_first(const struct pintle_sim_chip *chip,
                                   const struct pintle_sim_fifo *fifo)
{
    return fifo->count > 0 ? chip->memory[fifo->first] : fifo->last;
}

uint8_t pintle_priv_sim_fifo_take(struct pintle_sim_chip *chip, struct pintle_sim_fifo *fifo)
{
    if (fifo->count > 0) {
        fifo->last = chip->memory[fifo->first];
        pintle_priv_sim_fifo_drop(fifo, 1);
    }
    return fifo->last;
}
