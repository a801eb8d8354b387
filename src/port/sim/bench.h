/* What the simulation's files share. */
#ifndef PINTLE_SIM_BENCH_H
#define PINTLE_SIM_BENCH_H

#include <string.h>

#include "pintle/parts/list.h"
#include "pintle/sim.h"

/* A chip's state, struct `name`: it fits into struct pintle_sim_chip, and this is where it lies, to
 * be changed and to be read. */
#define SIM_STATE(name)                                                                            \
    _Static_assert(sizeof(struct name) <= PINTLE_SIM_STATE, "PINTLE_SIM_STATE is too small");      \
    __attribute__((unused)) static struct name *self(struct pintle_sim_chip *chip)                 \
    {                                                                                              \
        return (struct name *)(void *)chip->state.bytes;                                           \
    }                                                                                              \
    __attribute__((unused)) static const struct name *state(const struct pintle_sim_chip *chip)    \
    {                                                                                              \
        return (const struct name *)(const void *)chip->state.bytes;                               \
    }

/* 64 random bits; a number from -1 to 1. */
uint64_t pintle_priv_sim_random(struct pintle_sim *sim);
double pintle_priv_sim_uniform(struct pintle_sim *sim);

/* A whole number about `middle`, as far as `spread` from it: one of a specimen's trim. */
double pintle_priv_sim_about(struct pintle_sim *sim, double middle, double spread);

/* The chips of one kind on a bus: the first, and the one after `chip`; null: no more. */
static inline struct pintle_sim_chip *pintle_priv_sim_first(const struct pintle_sim *sim,
                                                            uint16_t bus, enum pintle_sim_kind kind)
{
    return sim->bus[bus].first[kind];
}

static inline struct pintle_sim_chip *pintle_priv_sim_next(const struct pintle_sim_chip *chip)
{
    return chip->next;
}

/* Take over what is in force now, and note when that changes next: everything below asks only that
 * moment. */
void pintle_priv_sim_update(struct pintle_sim *sim);
static inline void pintle_priv_sim_refresh(struct pintle_sim *sim)
{
    if (sim->now_us >= sim->changes_us) {
        pintle_priv_sim_update(sim);
    }
}

/* Let time pass, through whatever changes meanwhile. */
void pintle_priv_sim_pass_changes(struct pintle_sim *sim, uint64_t until);
static inline void pintle_priv_sim_pass(struct pintle_sim *sim, uint64_t us)
{
    uint64_t until = sim->now_us + us;
    pintle_priv_sim_refresh(sim);
    if (until < sim->changes_us) {
        sim->now_us = until;
    } else {
        pintle_priv_sim_pass_changes(sim, until);
    }
}

/* Does this fault lie on the chip now? */
static inline uint8_t pintle_priv_sim_faulty(const struct pintle_sim_chip *chip,
                                             enum pintle_sim_fault_kind kind)
{
    return chip->ails >> kind & 1;
}

/* Does the chip take part in traffic now: powered, wired, not silent? */
static inline uint8_t pintle_priv_sim_hears(const struct pintle_sim_chip *chip)
{
    pintle_priv_sim_refresh(chip->sim);
    return chip->present && !pintle_priv_sim_faulty(chip, PINTLE_SIM_SILENT);
}

/* The troubles in force on a bus, those of `more` among them. */
static inline uint8_t pintle_priv_sim_active(struct pintle_sim *sim, uint16_t bus, uint8_t more)
{
    pintle_priv_sim_refresh(sim);
    return sim->bus[bus].troubles | more;
}

/* A bit as the master sees it: on a noisy line one in 256 is wrong. */
static inline uint8_t pintle_priv_sim_noisy(struct pintle_sim *sim, uint8_t active, uint8_t bit)
{
    return (active & PINTLE_SIM_NOISE) && pintle_priv_sim_random(sim) % 256 == 0 ? !bit : bit;
}

/* How long a conversion of this chip takes, in microseconds: the typical time, or the longest, or
 * in between. */
uint64_t pintle_priv_sim_conversion(const struct pintle_sim_chip *chip, double typical_us,
                                    double longest_us);

/* When the conversion ends that is under way, of a chip that does one after the other, however
 * often it is asked, after one that ended then. */
uint64_t pintle_priv_sim_ends(const struct pintle_sim_chip *chip, uint64_t ended, uint64_t period);

/* What a bus does to a chip. Behind the first byte that is written its power may go. */
uint8_t pintle_priv_sim_i2c_start(struct pintle_sim_chip *chip, uint8_t reading);
uint8_t pintle_priv_sim_i2c_write(struct pintle_sim_chip *chip, uint8_t byte);
void pintle_priv_sim_spi_select(struct pintle_sim_chip *chip, uint8_t on);
void pintle_priv_sim_spi_clock(struct pintle_sim_chip *chip, uint8_t bit);
void pintle_priv_sim_onewire_take(struct pintle_sim_chip *chip, uint8_t byte);

/* A transfer is about to begin: the moment for another master to ask the chips something. */
void pintle_priv_sim_meddle(struct pintle_sim *sim, uint16_t bus, enum pintle_sim_kind kind);

/* Does this address mean the chip? */
uint8_t pintle_priv_sim_means(const struct pintle_sim_chip *chip, uint8_t address);

/* The troubles that faults lay on the lines of a bus now, and the last one's amount. */
uint8_t pintle_priv_sim_troubles(struct pintle_sim *sim, uint16_t bus, uint32_t *amount);

/* Is the bus switched off? */
uint8_t pintle_priv_sim_off(struct pintle_sim *sim, uint16_t bus);

/* A 1-Wire chip's dealings before a command reaches its model: after a reset; a slot in which it
 * sends (its bit) or takes one. */
#define PINTLE_SIM_ROM_ASLEEP 0 /* until the next reset */
static inline uint8_t pintle_priv_sim_rom_awake(const struct pintle_sim_chip *chip)
{
    return chip->rom.state != PINTLE_SIM_ROM_ASLEEP;
}
void pintle_priv_sim_rom_reset(struct pintle_sim_chip *chip);
uint8_t pintle_priv_sim_rom_sends(const struct pintle_sim_chip *chip);
uint8_t pintle_priv_sim_rom_give(struct pintle_sim_chip *chip);
void pintle_priv_sim_rom_take(struct pintle_sim_chip *chip, uint8_t bit);
uint8_t pintle_priv_sim_rom_crc(const uint8_t *bytes, int count);

/* Drive a 1-Wire line hard, or no longer. */
void pintle_priv_sim_rom_strong(struct pintle_sim *sim, uint16_t bus, uint8_t on);

/* For SPI models that work byte by byte: collects the bits and shows those of the byte to send,
 * high bit first. Returns 1 when `in` is whole; the next `out` is wanted then. */
uint8_t pintle_priv_sim_shift(struct pintle_sim_chip *chip, struct pintle_sim_shifter *shifter,
                              uint8_t bit);
void pintle_priv_sim_show(struct pintle_sim_chip *chip, struct pintle_sim_shifter *shifter,
                          uint8_t out);

/* --- chips made of registers (front.c) --- */

uint8_t pintle_priv_sim_front_start(struct pintle_sim_chip *chip, uint8_t reading);
uint8_t pintle_priv_sim_front_write(struct pintle_sim_chip *chip, uint8_t byte);
uint8_t pintle_priv_sim_front_read(struct pintle_sim_chip *chip);
void pintle_priv_sim_front_stop(struct pintle_sim_chip *chip);
void pintle_priv_sim_front_select(struct pintle_sim_chip *chip, uint8_t on);
void pintle_priv_sim_front_clock(struct pintle_sim_chip *chip, uint8_t bit);

/* In a model: its bus's side is the simulation's. */
#define PINTLE_SIM_I2C_REGISTERS                                                                   \
    .catch_up = catch_up, .get = get, .put = put, .start = pintle_priv_sim_front_start,            \
    .write = pintle_priv_sim_front_write, .read = pintle_priv_sim_front_read,                      \
    .stop = pintle_priv_sim_front_stop
#define PINTLE_SIM_SPI_REGISTERS                                                                   \
    .kind = PINTLE_SIM_SPI, .catch_up = catch_up, .get = get, .put = put,                          \
    .select = pintle_priv_sim_front_select, .clock = pintle_priv_sim_front_clock

/* --- clocks of their own, and FIFOs (fifo.c) --- */

/* Call `sample` for each moment of the chip's own clock that has come since *next_ns, with the time
 * set to it; of more than `most` the last ones. A specimen's clock is off by up to 1 percent. */
void pintle_priv_sim_each(struct pintle_sim_chip *chip, uint64_t *next_ns, uint64_t period_ns,
                          uint32_t most, void (*sample)(struct pintle_sim_chip *chip));

struct pintle_sim_fifo {
    uint16_t size;
    uint16_t first;
    uint16_t count;
    uint8_t last; /* the byte that was taken last */
};

/* Returns 1 where something fell out: as many bytes as were missing or, `whole`, a whole sample. */
uint8_t pintle_priv_sim_fifo_put(struct pintle_sim_chip *chip, struct pintle_sim_fifo *fifo,
                                 const uint8_t *bytes, uint8_t count, uint8_t whole);
/* The oldest byte, and that taken out; when it is empty, the last one again. */
uint8_t pintle_priv_sim_fifo_first(const struct pintle_sim_chip *chip,
                                   const struct pintle_sim_fifo *fifo);
uint8_t pintle_priv_sim_fifo_take(struct pintle_sim_chip *chip, struct pintle_sim_fifo *fifo);
void pintle_priv_sim_fifo_drop(struct pintle_sim_fifo *fifo, uint16_t count);

/* --- counting clocks (calendar.c) --- */

/* A second goes by in seven registers of BCD: second, minute, hour in either form, weekday, day,
 * month, year. 1: a century does too. */
uint8_t pintle_priv_sim_tick(uint8_t regs[7], uint8_t month_mask);

/* Append a word and its CRC-8 (31h, from FFh on) to what a chip of commands is going to send. */
void pintle_priv_sim_put_word(uint8_t *out, uint8_t *count, uint16_t word);

/* The bits of a register (of a map of words) or of a byte of one that hold what is written; none
 * where the map has no such register. */
uint32_t pintle_priv_sim_keeps(const struct pintle_sim_chip *chip, uint16_t address);

/* What the registers of a bank hold at power-up, as the map has it, byte by byte; the others 0. */
void pintle_priv_sim_fill(const struct pintle_sim_chip *chip, uint8_t bank, uint8_t *regs,
                          size_t size);

/* The simulated chip of each part in the list, and chips that no part is made for: somebody
 * describes them. */
#define PINTLE_SIM_OTHERS(X)                                                                       \
    X(as5600)                                                                                      \
    X(max31855)
#define PINTLE_SIM_OTHER(name) extern const struct pintle_sim_model pintle_twin_##name;
#define PINTLE_SIM_TWIN(name, file, bus, place, flash) PINTLE_SIM_OTHER(name)
PINTLE_PART_LIST(PINTLE_SIM_TWIN)
PINTLE_SIM_OTHERS(PINTLE_SIM_OTHER)

#endif
