/* The bench: chips, faults, time. */
#include "port/sim/bench.h"

void pintle_sim_init(struct pintle_sim *sim, uint8_t buses, int64_t began_us, uint64_t seed)
{
    memset(sim, 0, sizeof *sim);
    sim->buses = buses > PINTLE_SIM_BUSES ? PINTLE_SIM_BUSES : buses;
    sim->began_us = began_us;
    sim->seed = seed;
    for (uint8_t i = 0; i < PINTLE_SIM_BUSES; i++) {
        sim->bus[i].bit_ns = 10000;
        sim->line[i].sim = sim;
        sim->line[i].bus = i;
    }
}

static const struct pintle_sim_model *find_model(const char *part)
{
    const struct pintle_sim_model *model = NULL;
    for (size_t i = 0; (model = pintle_sim_model_at(i)) != NULL; i++) {
        if (strcmp(model->name, part) == 0) {
            break;
        }
    }
    return model;
}

static double everyday(const char *input)
{
    static const struct {
        const char *input;
        double value;
    } rows[] = { { "humidity", 50 }, { "pressure", 101325 }, { "temperature", 20 },
                 { "junction", 20 }, { "accel-z", 9.80665 }, { "reference", 3.3 } };
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        if (strcmp(input, rows[i].input) == 0) {
            return rows[i].value;
        }
    }
    return strncmp(input, "ch", 2) == 0 ? 1 : 0;
}

struct pintle_sim_chip *pintle_sim_add(struct pintle_sim *sim, const char *part, uint8_t bus,
                                       uint8_t address)
{
    const struct pintle_sim_model *model = find_model(part);
    if (!model || bus >= sim->buses || sim->chips == PINTLE_SIM_CHIPS) {
        return NULL;
    }
    struct pintle_sim_chip *chip = &sim->chip[sim->chips++];
    chip->sim = sim;
    chip->model = model;
    chip->bus = bus;
    chip->address = address;
    chip->present = 1;
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    chip->rom.code[0] = model->family;
    chip->rom.code[1] = address;
    chip->rom.code[7] = sim_rom_crc(chip->rom.code, 7);
    for (int i = 0; i < PINTLE_SIM_INPUTS && model->inputs[i]; i++) {
        chip->feels[i].level = everyday(model->inputs[i]);
        chip->error[i] = model->errors[i] * sim_uniform(sim);
    }
    model->power_up(chip);
    return chip;
}

enum pintle_status pintle_sim_add_fault(struct pintle_sim *sim,
                                        const struct pintle_sim_fault *fault)
{
    uint8_t count = fault->kind >= PINTLE_SIM_LINES ? sim->buses : sim->chips;
    if (sim->faults == PINTLE_SIM_FAULTS || fault->chip >= count) {
        return PINTLE_OUT_OF_RANGE;
    }
    sim->fault[sim->faults++] = *fault;
    return PINTLE_OK;
}

static uint8_t in_force(const struct pintle_sim *sim, const struct pintle_sim_fault *fault)
{
    return sim->now_us >= fault->from_us && sim->now_us < fault->to_us;
}

uint8_t sim_troubles(const struct pintle_sim *sim, uint8_t bus, uint32_t *amount)
{
    uint8_t troubles = 0;
    for (uint8_t i = 0; i < sim->faults; i++) {
        const struct pintle_sim_fault *f = &sim->fault[i];
        if (f->kind == PINTLE_SIM_LINES && f->chip == bus && in_force(sim, f)) {
            troubles |= f->trouble;
            *amount = f->amount;
        }
    }
    return troubles;
}

uint8_t sim_off(const struct pintle_sim *sim, uint8_t bus)
{
    for (uint8_t i = 0; i < sim->faults; i++) {
        const struct pintle_sim_fault *f = &sim->fault[i];
        if (f->kind == PINTLE_SIM_OFF && f->chip == bus && in_force(sim, f)) {
            return 1;
        }
    }
    return 0;
}

uint8_t sim_active(const struct pintle_sim *sim, uint8_t bus, uint8_t more)
{
    uint32_t amount = 0;
    return sim_troubles(sim, bus, &amount) | more;
}

/* One bit in 256 is wrong. */
uint8_t sim_noisy(struct pintle_sim *sim, uint8_t active, uint8_t bit)
{
    return (active & PINTLE_SIM_NOISE) && sim_random(sim) % 256 == 0 ? !bit : bit;
}

uint8_t sim_faulty(const struct pintle_sim *sim, const struct pintle_sim_chip *chip,
                   enum pintle_sim_fault_kind kind)
{
    for (uint8_t i = 0; i < sim->faults; i++) {
        const struct pintle_sim_fault *f = &sim->fault[i];
        if (f->kind == kind && &sim->chip[f->chip] == chip && in_force(sim, f)) {
            return 1;
        }
    }
    return 0;
}

/* Chips lose their state while unplugged, even when nobody talks to them meanwhile. */
static void plug(struct pintle_sim *sim)
{
    for (uint8_t i = 0; i < sim->chips && sim->faults > 0; i++) {
        struct pintle_sim_chip *chip = &sim->chip[i];
        uint8_t present = !sim_faulty(sim, chip, PINTLE_SIM_UNPLUGGED);
        if (present && !chip->present) {
            chip->model->power_up(chip);
        }
        chip->present = present;
    }
}

uint8_t sim_hears(struct pintle_sim *sim, const struct pintle_sim_chip *chip)
{
    plug(sim);
    return chip->present && !sim_faulty(sim, chip, PINTLE_SIM_SILENT);
}

/* The end of the next fault that begins or ends before `until`, so that none is slept through. */
static uint64_t next_change(const struct pintle_sim *sim, uint64_t until)
{
    uint64_t next = until;
    for (uint8_t i = 0; i < sim->faults; i++) {
        const struct pintle_sim_fault *f = &sim->fault[i];
        if (f->from_us > sim->now_us && f->from_us < next) {
            next = f->from_us;
        }
        if (f->to_us > sim->now_us && f->to_us < next) {
            next = f->to_us;
        }
    }
    return next;
}

void pintle_sim_pass(struct pintle_sim *sim, uint64_t us)
{
    uint64_t until = sim->now_us + us;
    while (sim->now_us < until) {
        sim->now_us = next_change(sim, until);
        plug(sim);
    }
}

static uint64_t now_us(void *context)
{
    return ((struct pintle_sim *)context)->now_us;
}

static void sleep_us(void *context, uint32_t us)
{
    struct pintle_sim *sim = context;
    pintle_sim_pass(sim, us);
    if (sim->pace) {
        sim->pace(sim->pace_context, us);
    }
}

static enum pintle_status get_wall_us(void *context, int64_t *utc_us)
{
    const struct pintle_sim *sim = context;
    *utc_us = sim->began_us + (int64_t)sim->now_us;
    return PINTLE_OK;
}

static enum pintle_status set_wall_us(void *context, int64_t utc_us)
{
    struct pintle_sim *sim = context;
    sim->began_us = utc_us - (int64_t)sim->now_us;
    return PINTLE_OK;
}

struct pintle_clock pintle_sim_clock(struct pintle_sim *sim)
{
    static const struct pintle_clock_calls calls = { now_us, sleep_us, get_wall_us, set_wall_us };
    return (struct pintle_clock){ &calls, sim };
}
