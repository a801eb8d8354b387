/* A simulated AT24C32, from datasheet 0336 (device operation, write and read operations). What is
 * written waits in a page until STOP, and then takes its time, in which nothing is acknowledged. */
#include "port/sim/bench.h"

enum { PROTECT }; /* its input WP */

#define SIZE 4096u
#define PAGE 32u

struct at24c32 {
    uint16_t address;                /* its counter; of a write it stays within the page */
    uint8_t got;                     /* bytes of the address since START */
    uint8_t alive;                   /* was powered once: it has a memory */
    uint8_t page[PAGE], there[PAGE]; /* what waits to be written, or is being, and where */
    uint16_t first;                  /* address of that page */
    uint64_t busy_until;             /* 0: nothing is being written */
};
SIM_STATE(at24c32)

static void forget_page(struct at24c32 *s)
{
    memset(s->there, 0, sizeof s->there);
    s->busy_until = 0;
}

/* Bytes that are being written are there, or are what they were, or anything, `whole` or not. */
static void write_page(struct pintle_sim_chip *chip, uint8_t whole)
{
    struct at24c32 *s = self(chip);
    for (unsigned i = 0; i < PAGE; i++) {
        uint64_t luck = whole ? 0 : pintle_priv_sim_random(chip->sim);
        if (s->there[i] && luck % 3 < 2) {
            chip->memory[s->first + i] = (uint8_t)(luck % 3 ? luck >> 8 : s->page[i]);
        }
    }
    forget_page(s);
}

static void catch_up(struct pintle_sim_chip *chip)
{
    struct at24c32 *s = self(chip);
    if (s->busy_until && chip->sim->now_us >= s->busy_until) {
        write_page(chip, 1);
    }
}

/* A new one is full of ones. */
static void power_up(struct pintle_sim_chip *chip)
{
    struct at24c32 *s = self(chip);
    if (!s->alive) {
        memset(chip->memory, 0xff, SIZE);
        s->alive = 1;
    }
    forget_page(s);
    s->address = 0;
}

static void power_down(struct pintle_sim_chip *chip)
{
    struct at24c32 *s = self(chip);
    catch_up(chip);
    if (s->busy_until) {
        write_page(chip, 0);
    }
}

static uint32_t at_once(const struct pintle_sim_chip *chip)
{
    (void)chip;
    return 0;
}

static uint8_t start(struct pintle_sim_chip *chip, uint8_t reading)
{
    struct at24c32 *s = self(chip);
    catch_up(chip);
    if (s->busy_until) {
        return 0;
    }
    s->got = reading ? s->got : 0;
    return 1;
}

static uint8_t write(struct pintle_sim_chip *chip, uint8_t byte)
{
    struct at24c32 *s = self(chip);
    if (s->got < 2) {
        s->address = (uint16_t)(s->address << 8 | byte) % SIZE;
        s->got++;
        return 1;
    }
    s->first = (uint16_t)(s->address & ~(PAGE - 1));
    s->page[s->address % PAGE] = byte;
    s->there[s->address % PAGE] = 1;
    s->address = (uint16_t)(s->first | ((s->address + 1) & (PAGE - 1)));
    return 1;
}

/* The address counter runs on through the whole memory and around. */
static uint8_t read(struct pintle_sim_chip *chip)
{
    struct at24c32 *s = self(chip);
    uint8_t byte = chip->memory[s->address];
    s->address = (uint16_t)((s->address + 1) % SIZE);
    return byte;
}

/* AC characteristics, t WR: 10 ms at most, 5 ms often. Without a byte of data there is nothing to
 * write. */
static void stop(struct pintle_sim_chip *chip)
{
    struct at24c32 *s = self(chip);
    if (pintle_sim_sense(chip, PROTECT) > 0.5) {
        forget_page(s);
    }
    if (!s->busy_until && memchr(s->there, 1, sizeof s->there)) {
        s->busy_until = chip->sim->now_us + pintle_priv_sim_conversion(chip, 5000, 10000);
    }
}

const struct pintle_sim_model pintle_twin_at24c32 = {
    .name = "AT24C32",
    .inputs = { "write-protect" },
    .power_up = power_up,
    .power_down = power_down,
    .longest_us = at_once,
    .settles_us = at_once,
    .memory = SIZE,
    .start = start,
    .write = write,
    .read = read,
    .stop = stop,
};
