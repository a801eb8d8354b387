/* The simulation as a platform. */
#include "pintle/host/sim/sim.h"

#include <glib.h>
#include <time.h>

#include "host/sim/world.h"

#define CHIP_MEMORY (size_t)5120          /* more than the largest keeps */
#define DEFAULT_BEGAN_US 1781222400000000 /* 2026-06-12T00:00:00Z */

static struct simulated *own(const struct pintle_station *station)
{
    return station->own;
}

static bool string_i2c(struct pintle_station *station, uint16_t i)
{
    struct cable *cable = &own(station)->cable[i];
    pintle_sim_i2c_wires_init(&cable->i2c, &own(station)->sim, i, cable->pull_up_ohm,
                              cable->capacitance_pf);
    enum pintle_status status = pintle_bitbang_i2c_init(
        &cable->i2c_master, pintle_sim_i2c_pin(&cable->i2c, PINTLE_SIM_DATA),
        pintle_sim_i2c_pin(&cable->i2c, PINTLE_SIM_CLOCK), &station->clock,
        station->rig->bus[i].speed_hz);
    station->i2c[i] = pintle_bitbang_i2c_bus(&cable->i2c_master);
    return status == PINTLE_OK;
}

static bool string_spi(struct pintle_station *station, uint16_t i)
{
    struct cable *cable = &own(station)->cable[i];
    pintle_sim_spi_wires_init(&cable->spi, &own(station)->sim, i);
    unsigned selects = station->rig->bus[i].selects;
    cable->selects = g_new0(struct pintle_pin, selects + 1);
    for (unsigned k = 0; k < selects; k++) {
        cable->selects[k] = pintle_sim_spi_pin(&cable->spi, (uint8_t)(PINTLE_SIM_SELECT + k));
    }
    pintle_bitbang_spi_init(&cable->spi_master, pintle_sim_spi_pin(&cable->spi, PINTLE_SIM_CLOCK),
                            pintle_sim_spi_pin(&cable->spi, PINTLE_SIM_DATA),
                            pintle_sim_spi_pin(&cable->spi, PINTLE_SIM_DATA_IN), cable->selects,
                            (uint8_t)selects, &station->clock);
    if (station->rig->bus[i].command_pin[0]) {
        cable->command = pintle_sim_spi_pin(&cable->spi, PINTLE_SIM_COMMAND);
        cable->spi_master.command = &cable->command;
    }
    station->spi[i] = pintle_bitbang_spi_bus(&cable->spi_master);
    return true;
}

/* A serial line is bytes at either depth; their edges are worked out. */
static bool string_stream(struct pintle_station *station, uint16_t i)
{
    (void)station;
    (void)i;
    return true;
}

static bool string_onewire(struct pintle_station *station, uint16_t i)
{
    struct cable *cable = &own(station)->cable[i];
    pintle_sim_onewire_wires_init(&cable->onewire, &own(station)->sim, i, cable->pull_up_ohm,
                                  cable->capacitance_pf);
    enum pintle_status status = pintle_bitbang_onewire_init(
        &cable->onewire_master, pintle_sim_onewire_pin(&cable->onewire), &station->clock);
    station->onewire[i] = pintle_bitbang_onewire_bus(&cable->onewire_master);
    return status == PINTLE_OK;
}

/* Put lines and a bit-banged master under each bus. The chips are on them already. */
static bool string_wires(struct pintle_station *station, struct pintle_problem *problem)
{
    static bool (*const string[])(struct pintle_station * station,
                                  uint16_t i) = { string_i2c, string_spi, string_onewire,
                                                  string_stream };
    for (uint16_t i = 0; i < station->rig->buses; i++) {
        const struct pintle_rig_bus *bus = &station->rig->bus[i];
        if (!string[bus->kind](station, i)) {
            return pintle_problem_set(problem, PINTLE_FAILURE_USE, "bus '%s' cannot run at %u Hz",
                                      bus->name, bus->speed_hz);
        }
    }
    return true;
}

/* With room for whatever the world may hold: every chip and every fault has braces of its own. */
static struct simulated *make(const struct pintle_rig *rig, char *world)
{
    struct simulated *it = g_new0(struct simulated, 1);
    unsigned braces = 1;
    for (const char *at = world; *at; at++) {
        braces += *at == '{';
    }
    braces = MIN(braces, UINT16_MAX);
    const struct pintle_sim_room room = { .bus = g_new0(struct pintle_sim_bus, rig->buses),
                                          .chip = g_new0(struct pintle_sim_chip, braces),
                                          .fault = g_new0(struct pintle_sim_fault, braces),
                                          .buses = (uint16_t)rig->buses,
                                          .chips = (uint16_t)braces,
                                          .faults = (uint16_t)braces,
                                          .memory = g_malloc0(braces * CHIP_MEMORY),
                                          .memory_size = braces * CHIP_MEMORY };
    pintle_sim_init_in(&it->sim, &room, DEFAULT_BEGAN_US, 1);
    it->rig = rig;
    it->board_curve = -1;
    it->twins = g_ptr_array_new_with_free_func(g_free);
    it->text = world;
    it->cable = g_new0(struct cable, rig->buses);
    return it;
}

static void connect(struct pintle_station *station)
{
    struct pintle_sim *sim = &own(station)->sim;
    station->clock = pintle_sim_clock(sim);
    for (uint16_t i = 0; i < station->rig->buses; i++) {
        sim->bus[i].bit_ns = 1000000000u / station->rig->bus[i].speed_hz;
        sim->bus[i].shared = station->rig->bus[i].shared;
        station->i2c[i] = pintle_sim_i2c(sim, i);
        station->spi[i] = pintle_sim_spi(sim, i);
        station->onewire[i] = pintle_sim_onewire(sim, i);
        station->stream[i] = pintle_sim_stream(sim, i);
        own(station)->cable[i].pull_up_ohm = 4700;
        own(station)->cable[i].capacitance_pf = 100;
    }
}

static void say_who_shares(struct pintle_station *station)
{
    for (unsigned i = 0; i < station->rig->buses; i++) {
        const struct pintle_rig_bus *bus = &station->rig->bus[i];
        station->spi[i].top_hz = bus->speed_hz;
        station->i2c[i].common.sole_master = station->spi[i].common.sole_master = !bus->shared;
    }
}

static bool open_buses(struct pintle_station *station, struct pintle_problem *problem)
{
    const struct pintle_rig *rig = station->rig;
    char *world = NULL;
    if (!pintle_priv_world_text(rig, &world, problem)) {
        return false;
    }
    station->own = make(rig, world);
    station->world = world;
    connect(station);
    bool ok = pintle_priv_world_build(station->own, problem)
              && (!rig->wires || string_wires(station, problem));
    say_who_shares(station);
    station->remark = ((struct simulated *)station->own)->remark;
    return ok;
}

static void close_buses(struct pintle_station *station)
{
    struct simulated *it = own(station);
    if (!it) {
        return;
    }
    for (unsigned i = 0; i < it->curve_count; i++) {
        g_free((void *)(uintptr_t)it->curves[i].points);
    }
    for (unsigned i = 0; i < it->rig->buses; i++) {
        g_free(it->cable[i].selects);
    }
    g_free(it->curves);
    g_free(it->text);
    g_free(it->steps);
    g_free(it->sim.bus);
    g_free(it->sim.chip);
    g_free(it->sim.fault);
    g_free(it->sim.room.memory);
    g_ptr_array_free(it->twins, TRUE);
    g_free(it->remark);
    g_free(it->cable);
    g_free(it);
}

/* Up to where in the world's time; what setting it up took counts. */
static void pass(struct pintle_station *station, uint64_t until_us)
{
    struct pintle_sim *sim = &own(station)->sim;
    if (until_us > sim->now_us) {
        pintle_sim_pass(sim, until_us - sim->now_us);
    }
}

/* Not resumed after a signal, so that Ctrl-C ends a long wait at once. */
static void wait_really(void *context, uint32_t us)
{
    (void)context;
    struct timespec time = { (time_t)(us / 1000000), (long)(us % 1000000) * 1000 };
    nanosleep(&time, NULL);
}

static void pace(struct pintle_station *station)
{
    own(station)->sim.pace = wait_really;
}

static void listen_to(struct pintle_station *station, unsigned bus, pintle_edge_heard *heard,
                      void *context)
{
    struct cable *cable = &own(station)->cable[bus];
    cable->i2c.edge = cable->spi.edge = cable->onewire.edge = heard;
    cable->i2c.edge_context = cable->spi.edge_context = cable->onewire.edge_context = context;
    own(station)->sim.bus[bus].edge = heard;
    own(station)->sim.bus[bus].edge_context = context;
}

static bool look(struct pintle_station *station, unsigned bus, struct pintle_look *look)
{
    struct cable *cable = &own(station)->cable[bus];
    if (!station->rig->wires) {
        return false;
    }
    if (station->rig->bus[bus].kind == PINTLE_BUS_I2C) {
        pintle_bitbang_i2c_look(&cable->i2c_master, &look->i2c);
    } else if (station->rig->bus[bus].kind == PINTLE_BUS_ONEWIRE) {
        look->onewire = pintle_bitbang_onewire_look(&cable->onewire_master);
    }
    return true;
}

static bool board_temperature(struct pintle_station *station, float *celsius)
{
    const struct simulated *it = own(station);
    if (it->board_curve < 0) {
        return false;
    }
    double around = pintle_sim_curve_at(&it->curves[it->board_curve], (double)it->sim.now_us / 1e6);
    *celsius = (float)(around + it->board_warmer);
    return true;
}

static bool pin(struct pintle_station *station, unsigned index, uint8_t *level)
{
    struct pintle_sim *sim = &own(station)->sim;
    const struct pintle_rig_sensor *from = &station->rig->sensor[index];
    for (unsigned i = 0; i < sim->chips; i++) {
        struct pintle_sim_chip *chip = &sim->chip[i];
        if (chip->bus == from->bus && chip->address == from->place.address && chip->model->pin) {
            *level = pintle_sim_interrupt(chip);
            return true;
        }
    }
    return false;
}

static bool dot(struct pintle_station *station, unsigned index, unsigned x, unsigned y, bool *dark)
{
    struct pintle_sim *sim = &own(station)->sim;
    const struct pintle_rig_sensor *from = &station->rig->sensor[index];
    for (unsigned i = 0; i < sim->chips; i++) {
        struct pintle_sim_chip *chip = &sim->chip[i];
        if (chip->bus == from->bus && chip->address == from->place.select && chip->model->dot) {
            *dark = pintle_sim_display(chip, (uint16_t)x, (uint16_t)y);
            return true;
        }
    }
    return false;
}

const struct pintle_platform pintle_platform_sim = {
    .name = "sim",
    .what = "the simulation",
    .open = open_buses,
    .close = close_buses,
    .pass = pass,
    .pace = pace,
    .listen = listen_to,
    .look = look,
    .board_temperature = board_temperature,
    .pin = pin,
    .dot = dot,
};

struct pintle_sim *pintle_station_sim(struct pintle_station *station)
{
    return station->platform == &pintle_platform_sim ? &own(station)->sim : NULL;
}
