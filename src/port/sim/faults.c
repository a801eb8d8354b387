/* What goes wrong, and when. What is in force is worked out when that changes, not for every edge.
 */
#include "port/sim/bench.h"

enum pintle_status pintle_sim_add_fault(struct pintle_sim *sim,
                                        const struct pintle_sim_fault *fault)
{
    uint16_t count = fault->kind >= PINTLE_SIM_LINES ? sim->buses : sim->chips;
    if (sim->faults == sim->room.faults || fault->chip >= count) {
        return PINTLE_OUT_OF_RANGE;
    }
    sim->fault[sim->faults++] = *fault;
    sim->changes_us = 0;
    return PINTLE_OK;
}

void pintle_sim_calm(struct pintle_sim *sim)
{
    sim->faults = 0;
    sim->changes_us = 0;
}

/* A chip comes back with power-up values, and deaf to whatever is under way on its bus: until the
 * next START or select; a probe has its reset. */
static void come_back(struct pintle_sim_chip *chip)
{
    chip->model->power_up(chip);
    chip->addressed = 0;
    memset(&chip->front, 0, sizeof chip->front);
    if (chip->model->kind != PINTLE_SIM_ONEWIRE) {
        memset(&chip->side, 0, sizeof chip->side);
    }
}

/* Chips lose their state while unplugged, even when nobody talks to them meanwhile. */
static void plug(struct pintle_sim *sim)
{
    for (uint16_t i = 0; i < sim->chips; i++) {
        struct pintle_sim_chip *chip = &sim->chip[i];
        chip->cut = chip->cut && pintle_priv_sim_faulty(chip, PINTLE_SIM_CUT);
        uint8_t present = !chip->cut && !pintle_priv_sim_faulty(chip, PINTLE_SIM_UNPLUGGED);
        if (present && !chip->present) {
            come_back(chip);
        } else if (!present && chip->present && chip->model->power_down) {
            chip->model->power_down(chip);
        }
        chip->present = present;
    }
}

static void apply(struct pintle_sim *sim, const struct pintle_sim_fault *fault)
{
    if (fault->kind == PINTLE_SIM_OFF) {
        sim->bus[fault->chip].off = 1;
    } else if (fault->kind == PINTLE_SIM_LINES) {
        sim->bus[fault->chip].troubles |= fault->trouble;
        sim->bus[fault->chip].amount = fault->amount;
    } else {
        sim->chip[fault->chip].ails |= (uint16_t)(1u << fault->kind);
    }
}

void pintle_priv_sim_update(struct pintle_sim *sim)
{
    for (uint16_t i = 0; i < sim->chips; i++) {
        sim->chip[i].ails = 0;
    }
    for (uint16_t i = 0; i < sim->buses; i++) {
        sim->bus[i].troubles = sim->bus[i].off = 0;
    }
    sim->changes_us = UINT64_MAX;
    for (uint16_t i = 0; i < sim->faults; i++) {
        const struct pintle_sim_fault *f = &sim->fault[i];
        uint64_t next = sim->now_us < f->from_us ? f->from_us : f->to_us;
        if (sim->now_us >= f->from_us && sim->now_us < f->to_us) {
            apply(sim, f);
        }
        if (next > sim->now_us && next < sim->changes_us) {
            sim->changes_us = next;
        }
    }
    plug(sim);
}

uint8_t pintle_priv_sim_troubles(struct pintle_sim *sim, uint16_t bus, uint32_t *amount)
{
    pintle_priv_sim_refresh(sim);
    *amount = sim->bus[bus].amount;
    return sim->bus[bus].troubles;
}

uint8_t pintle_priv_sim_off(struct pintle_sim *sim, uint16_t bus)
{
    pintle_priv_sim_refresh(sim);
    return sim->bus[bus].off;
}

/* In the middle of a write, this is the moment for the power to go. */
static void written(struct pintle_sim_chip *chip)
{
    if (pintle_priv_sim_faulty(chip, PINTLE_SIM_CUT)) {
        chip->cut = 1;
        chip->present = 0;
        if (chip->model->power_down) {
            chip->model->power_down(chip);
        }
    }
}

uint8_t pintle_priv_sim_i2c_start(struct pintle_sim_chip *chip, uint8_t reading)
{
    chip->heard = 0;
    return chip->model->start(chip, reading);
}

/* One byte in four comes with a wrong bit. */
static uint8_t misheard(struct pintle_sim_chip *chip, uint8_t byte)
{
    if (pintle_priv_sim_faulty(chip, PINTLE_SIM_MISHEARD)) {
        uint64_t random = pintle_priv_sim_random(chip->sim);
        byte ^= (uint8_t)(random & 24 ? 0u : 1u << (random & 7));
    }
    return byte;
}

/* The first byte says which register: a bit of that would be another fault. */
uint8_t pintle_priv_sim_i2c_write(struct pintle_sim_chip *chip, uint8_t byte)
{
    uint8_t taken = chip->model->write(chip, chip->heard > 0 ? misheard(chip, byte) : byte);
    chip->heard = (uint8_t)(chip->heard < 255 ? chip->heard + 1 : 255);
    if (chip->heard == 2) {
        written(chip);
    }
    return taken;
}

void pintle_priv_sim_spi_select(struct pintle_sim_chip *chip, uint8_t on)
{
    chip->heard = 0;
    chip->model->select(chip, on);
}

void pintle_priv_sim_spi_clock(struct pintle_sim_chip *chip, uint8_t bit)
{
    chip->model->clock(chip, bit);
    chip->heard = (uint8_t)(chip->heard < 255 ? chip->heard + 1 : 255);
    if (chip->heard == 12) {
        written(chip);
    }
}

void pintle_priv_sim_onewire_take(struct pintle_sim_chip *chip, uint8_t byte)
{
    chip->model->take(chip, misheard(chip, byte));
    written(chip);
}

void pintle_sim_pass(struct pintle_sim *sim, uint64_t us)
{
    pintle_priv_sim_pass(sim, us);
}

/* No change of what is in force is slept through. */
void pintle_priv_sim_pass_changes(struct pintle_sim *sim, uint64_t until)
{
    pintle_priv_sim_refresh(sim);
    while (sim->now_us < until) {
        sim->now_us =
            sim->changes_us > sim->now_us && sim->changes_us < until ? sim->changes_us : until;
        pintle_priv_sim_refresh(sim);
    }
}
