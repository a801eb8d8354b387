/* The bench: chips and time. */
#include <math.h>

#include "port/sim/bench.h"

void pintle_sim_init_in(struct pintle_sim *sim, const struct pintle_sim_room *room,
                        int64_t began_us, uint64_t seed)
{
    struct pintle_sim_room here = *room; /* it may lie in what is wiped */
    memset(sim, 0, sizeof *sim);
    sim->room = here;
    sim->bus = here.bus;
    sim->chip = here.chip;
    sim->fault = here.fault;
    sim->buses = here.buses;
    sim->began_us = began_us;
    sim->seed = seed;
    sim->clock = pintle_sim_clock(sim);
    for (uint16_t i = 0; i < sim->buses; i++) {
        sim->bus[i] = (struct pintle_sim_bus){ .sim = sim, .index = i, .bit_ns = 10000 };
    }
}

void pintle_sim_init(struct pintle_sim *sim, uint8_t buses, int64_t began_us, uint64_t seed)
{
    const struct pintle_sim_room own = { .bus = sim->own_bus,
                                         .chip = sim->own_chip,
                                         .fault = sim->own_fault,
                                         .buses =
                                             buses > PINTLE_SIM_BUSES ? PINTLE_SIM_BUSES : buses,
                                         .chips = PINTLE_SIM_CHIPS,
                                         .faults = PINTLE_SIM_FAULTS,
                                         .memory = sim->own_memory,
                                         .memory_size = sizeof sim->own_memory };
    pintle_sim_init_in(sim, &own, began_us, seed);
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
    } rows[] = { { "humidity", 50 },     { "pressure", 101325 }, { "temperature", 20 },
                 { "junction", 20 },     { "accel-z", 9.80665 }, { "reference", 3.3 },
                 { "illuminance", 100 }, { "white", 2000 },      { "bus-voltage", 12 },
                 { "current", 0.3 },     { "shunt", 0.1 },       { "distance", 0.8 },
                 { "mag-x", 20e-6 },     { "mag-z", -43e-6 } };
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        if (strcmp(input, rows[i].input) == 0) {
            return rows[i].value;
        }
    }
    if (input[0] == 'p' && input[1] && !input[2]) {
        return 1; /* a line with a pull-up, p0 */
    }
    return strncmp(input, "ch", 2) == 0 ? 1 : strncmp(input, "ain", 3) == 0 ? 0.2 : 0;
}

static void draw(struct pintle_sim_chip *chip)
{
    const struct pintle_sim_model *model = chip->model;
    for (int i = 0; i < PINTLE_SIM_INPUTS && model->inputs[i]; i++) {
        chip->error[i] = model->errors[i] * pintle_priv_sim_uniform(chip->sim);
        chip->last[i] = (double)NAN;
    }
    chip->slowness = (pintle_priv_sim_uniform(chip->sim) + 1) / 2;
    memset(&chip->state, 0, sizeof chip->state);
    model->power_up(chip);
}

void pintle_sim_draw(struct pintle_sim_chip *chip, uint64_t seed)
{
    uint64_t before = chip->sim->seed;
    chip->sim->seed = seed;
    draw(chip);
    chip->sim->seed = before;
}

static void hang_on(struct pintle_sim_bus *bus, struct pintle_sim_chip *chip)
{
    struct pintle_sim_chip **end = &bus->first[chip->model->kind];
    while (*end) {
        end = &(*end)->next;
    }
    *end = chip;
}

struct pintle_sim_chip *pintle_sim_add(struct pintle_sim *sim, const char *part, uint16_t bus,
                                       uint8_t address)
{
    return pintle_sim_add_model(sim, find_model(part), bus, address);
}

struct pintle_sim_chip *pintle_sim_add_model(struct pintle_sim *sim,
                                             const struct pintle_sim_model *model, uint16_t bus,
                                             uint8_t address)
{
    if (!model || bus >= sim->buses || sim->chips == sim->room.chips
        || model->memory > sim->room.memory_size - sim->memory_used) {
        return NULL;
    }
    struct pintle_sim_chip *chip = &sim->chip[sim->chips++];
    memset(chip, 0, sizeof *chip);
    chip->memory = model->memory ? sim->room.memory + sim->memory_used : NULL;
    sim->memory_used += model->memory;
    chip->sim = sim;
    chip->model = model;
    chip->bus = bus;
    chip->address = address;
    chip->present = 1;
    chip->shown = PINTLE_SIM_SHOWS_NOTHING;
    chip->rom.code[0] = model->family;
    chip->rom.code[1] = address;
    chip->rom.code[7] = pintle_priv_sim_rom_crc(chip->rom.code, 7);
    for (int i = 0; i < PINTLE_SIM_INPUTS && model->inputs[i]; i++) {
        chip->feels[i].level = everyday(model->inputs[i]);
    }
    hang_on(&sim->bus[bus], chip);
    draw(chip);
    return chip;
}

void pintle_sim_clear(struct pintle_sim *sim)
{
    for (uint16_t i = 0; i < sim->buses; i++) {
        memset(sim->bus[i].first, 0, sizeof sim->bus[i].first);
    }
    sim->chips = 0;
    sim->memory_used = 0;
    pintle_sim_calm(sim);
}

uint8_t pintle_sim_display(struct pintle_sim_chip *chip, uint16_t x, uint16_t y)
{
    pintle_priv_sim_refresh(chip->sim);
    return chip->model->dot && chip->present ? chip->model->dot(chip, x, y) : 0;
}

uint8_t pintle_sim_interrupt(struct pintle_sim_chip *chip)
{
    pintle_priv_sim_refresh(chip->sim);
    if (!chip->model->pin || !chip->present) {
        return 1;
    }
    if (chip->model->catch_up) {
        chip->model->catch_up(chip);
    }
    return chip->model->pin(chip);
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

static void wake_at(void *context, uint64_t at_us)
{
    const struct pintle_sim *sim = context;
    while (sim->now_us < at_us) {
        uint64_t left = at_us - sim->now_us;
        sleep_us(context, left > UINT32_MAX ? UINT32_MAX : (uint32_t)left);
    }
}

static enum pintle_status get_wall_us(void *context, int64_t *utc_us)
{
    const struct pintle_sim *sim = context;
    *utc_us = sim->began_us + (int64_t)sim->now_us;
    for (uint16_t i = 0; i < sim->steps && sim->step[i].at_us <= sim->now_us; i++) {
        *utc_us += sim->step[i].by_us;
    }
    return sim->unset ? PINTLE_NEVER_SET : PINTLE_OK;
}

static enum pintle_status set_wall_us(void *context, int64_t utc_us)
{
    struct pintle_sim *sim = context;
    int64_t now = 0;
    (void)get_wall_us(context, &now);
    sim->began_us += utc_us - now;
    sim->unset = 0;
    return PINTLE_OK;
}

struct pintle_clock pintle_sim_clock(struct pintle_sim *sim)
{
    static const struct pintle_clock_calls calls = { now_us, sleep_us, get_wall_us, set_wall_us,
                                                     wake_at };
    return (struct pintle_clock){ &calls, sim };
}
