#include "pintle/host/live/station.h"

#include <glib.h>
#include <string.h>
#include <time.h>

#include "host/live/world.h"

#define DEFAULT_BEGAN_US 1781222400000000 /* 2026-06-12T00:00:00Z */

enum pintle_status pintle_station_wire(struct pintle_station *station, struct pintle_sensor *sensor,
                                       const struct pintle_part *part, unsigned bus,
                                       const union pintle_place *place, uint8_t *trim)
{
    const struct pintle_clock *clock = &station->clock;
    switch (station->rig->bus[bus].kind) {
    case PINTLE_BUS_I2C:
        return pintle_sensor_on_i2c(sensor, part, &station->i2c[bus], clock, place->address, trim);
    case PINTLE_BUS_SPI:
        return pintle_sensor_on_spi(sensor, part, &station->spi[bus], clock, place->select, trim);
    default:
        return pintle_sensor_on_onewire(sensor, part, &station->onewire[bus], clock, place->code,
                                        trim);
    }
}

static bool build_sensor(struct pintle_station *station, unsigned i, struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[i];
    struct pintle_rigged *rigged = &station->rigged[i];
    const struct pintle_part *part = from->sheet->part;
    if (part->trim_size > sizeof rigged->trim
        || pintle_station_wire(station, &rigged->sensor, part, from->bus, &from->place,
                               rigged->trim)
               != PINTLE_OK) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE, "sensor '%s' cannot be set up",
                                  from->name);
    }
    for (uint8_t s = 0; s < from->sheet->part->setting_count; s++) {
        if (pintle_sensor_set(&rigged->sensor, s, from->settings[s]) != PINTLE_OK) {
            return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                      "sensor '%s': setting %u cannot be made", from->name, s);
        }
    }
    for (unsigned c = 0; c < PINTLE_CHANNELS_MAX; c++) {
        rigged->correction[c] = from->channel[c].correction;
        rigged->judge[c].jump = from->channel[c].jump;
        rigged->judge[c].frozen = from->channel[c].frozen;
    }
    station->turn[i].sensor = &rigged->sensor;
    return true;
}

static bool string_i2c(struct pintle_station *station, uint16_t i)
{
    struct pintle_cable *cable = &station->cable[i];
    pintle_sim_i2c_wires_init(&cable->i2c, &station->sim, i, cable->pull_up_ohm,
                              cable->capacitance_pf);
    enum pintle_status status = pintle_bitbang_i2c_init(
        &cable->i2c_master, pintle_sim_i2c_pin(&cable->i2c, PINTLE_SIM_DATA),
        pintle_sim_i2c_pin(&cable->i2c, PINTLE_SIM_CLOCK), station->clock,
        station->rig->bus[i].speed_hz);
    station->i2c[i] = pintle_bitbang_i2c_bus(&cable->i2c_master);
    return status == PINTLE_OK;
}

static bool string_spi(struct pintle_station *station, uint16_t i)
{
    struct pintle_cable *cable = &station->cable[i];
    pintle_sim_spi_wires_init(&cable->spi, &station->sim, i);
    unsigned selects = station->rig->bus[i].selects;
    cable->selects = g_new0(struct pintle_pin, selects + 1);
    for (unsigned k = 0; k < selects; k++) {
        cable->selects[k] = pintle_sim_spi_pin(&cable->spi, (uint8_t)(PINTLE_SIM_SELECT + k));
    }
    pintle_bitbang_spi_init(&cable->spi_master, pintle_sim_spi_pin(&cable->spi, PINTLE_SIM_CLOCK),
                            pintle_sim_spi_pin(&cable->spi, PINTLE_SIM_DATA),
                            pintle_sim_spi_pin(&cable->spi, PINTLE_SIM_DATA_IN), cable->selects,
                            (uint8_t)selects, station->clock);
    station->spi[i] = pintle_bitbang_spi_bus(&cable->spi_master);
    return true;
}

static bool string_onewire(struct pintle_station *station, uint16_t i)
{
    struct pintle_cable *cable = &station->cable[i];
    pintle_sim_onewire_wires_init(&cable->onewire, &station->sim, i, cable->pull_up_ohm,
                                  cable->capacitance_pf);
    enum pintle_status status = pintle_bitbang_onewire_init(
        &cable->onewire_master, pintle_sim_onewire_pin(&cable->onewire), station->clock);
    station->onewire[i] = pintle_bitbang_onewire_bus(&cable->onewire_master);
    return status == PINTLE_OK;
}

/* Put lines and a bit-banged master under each bus. The chips are on them already. */
static bool string_wires(struct pintle_station *station, struct pintle_problem *problem)
{
    static bool (*const string[])(struct pintle_station * station,
                                  uint16_t i) = { string_i2c, string_spi, string_onewire };
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
static struct pintle_station *make(const struct pintle_rig *rig, char *world)
{
    struct pintle_station *station = g_new0(struct pintle_station, 1);
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
                                          .faults = (uint16_t)braces };
    pintle_sim_init_in(&station->sim, &room, DEFAULT_BEGAN_US, 1);
    station->rig = rig;
    station->world = world;
    station->i2c = g_new0(struct pintle_i2c, rig->buses);
    station->spi = g_new0(struct pintle_spi, rig->buses);
    station->onewire = g_new0(struct pintle_onewire, rig->buses);
    station->cable = g_new0(struct pintle_cable, rig->buses);
    station->rigged = g_new0(struct pintle_rigged, rig->sensors);
    station->turn = g_new0(struct pintle_turn, rig->sensors);
    return station;
}

static void connect(struct pintle_station *station)
{
    struct pintle_sim *sim = &station->sim;
    station->clock = pintle_sim_clock(sim);
    for (uint16_t i = 0; i < station->rig->buses; i++) {
        sim->bus[i].bit_ns = 1000000000u / station->rig->bus[i].speed_hz;
        sim->bus[i].shared = station->rig->bus[i].shared;
        station->i2c[i] = pintle_sim_i2c(sim, i);
        station->spi[i] = pintle_sim_spi(sim, i);
        station->onewire[i] = pintle_sim_onewire(sim, i);
        station->cable[i].pull_up_ohm = 4700;
        station->cable[i].capacitance_pf = 100;
    }
}

struct pintle_station *pintle_station_open(const struct pintle_rig *rig, int64_t at_us,
                                           struct pintle_problem *problem)
{
    if (strcmp(rig->port, "sim") != 0) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "%s: there is no port '%s' in this build; it has 'sim'", rig->path,
                           rig->port);
        return NULL;
    }
    if (rig->conflict) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s", rig->conflict);
        return NULL;
    }
    char *world = NULL;
    if (!pintle_priv_world_text(rig, &world, problem)) {
        return NULL;
    }
    struct pintle_station *station = make(rig, world);
    connect(station);
    bool ok = pintle_priv_world_build(station, problem)
              && (!rig->wires || string_wires(station, problem));
    for (unsigned i = 0; i < rig->buses; i++) {
        station->spi[i].top_hz = rig->bus[i].speed_hz;
        station->i2c[i].sole_master = station->spi[i].sole_master = !rig->bus[i].shared;
    }
    for (unsigned i = 0; ok && i < rig->sensors; i++) {
        ok = build_sensor(station, i, problem);
    }
    if (!ok) {
        pintle_station_free(station);
        return NULL;
    }
    if (at_us > (int64_t)station->sim.now_us) {
        pintle_sim_pass(&station->sim, (uint64_t)at_us - station->sim.now_us);
    }
    return station;
}

void pintle_station_free(struct pintle_station *station)
{
    if (!station) {
        return;
    }
    for (unsigned i = 0; i < station->curve_count; i++) {
        g_free((void *)(uintptr_t)station->curves[i].points);
    }
    for (unsigned i = 0; i < station->rig->buses; i++) {
        g_free(station->cable[i].selects);
    }
    g_free(station->curves);
    g_free(station->world);
    g_free(station->steps);
    g_free(station->sim.bus);
    g_free(station->sim.chip);
    g_free(station->sim.fault);
    g_free(station->i2c);
    g_free(station->spi);
    g_free(station->onewire);
    g_free(station->cable);
    g_free(station->rigged);
    g_free(station->turn);
    g_free(station);
}

/* Keep the uncorrected values, judge them, then correct. */
static void finish(struct pintle_station *station, unsigned i)
{
    struct pintle_rigged *rigged = &station->rigged[i];
    struct pintle_sample *sample = &station->turn[i].sample;
    for (unsigned c = 0; c < rigged->sensor.part->channel_count; c++) {
        struct pintle_reading *reading = &sample->channel[c];
        rigged->before[c] = reading->value;
        pintle_judge_reading(&rigged->judge[c], reading);
        pintle_correction_apply(&rigged->correction[c], reading);
    }
}

size_t pintle_station_round(struct pintle_station *station)
{
    size_t failed = pintle_round(station->turn, station->rig->sensors);
    for (unsigned i = 0; i < station->rig->sensors; i++) {
        finish(station, i);
    }
    return failed;
}

enum pintle_status pintle_station_read(struct pintle_station *station, unsigned index, bool fresh)
{
    struct pintle_turn *turn = &station->turn[index];
    pintle_round(turn, 1);
    if (fresh && turn->status == PINTLE_OK
        && (turn->sample.channel[0].quality & (PINTLE_QUALITY_FIRST | PINTLE_QUALITY_POWER_ON))) {
        pintle_round(turn, 1);
    }
    finish(station, index);
    return turn->status;
}

static bool get_wall(const struct pintle_station *station, int64_t *utc_us)
{
    const struct pintle_clock *clock = &station->clock;
    return clock->calls->get_wall_us
           && clock->calls->get_wall_us(clock->context, utc_us) == PINTLE_OK;
}

int64_t pintle_station_now(const struct pintle_station *station)
{
    int64_t utc_us = 0;
    const struct pintle_clock *clock = &station->clock;
    return get_wall(station, &utc_us) ? utc_us : (int64_t)clock->calls->now_us(clock->context);
}

bool pintle_station_knows_time(const struct pintle_station *station)
{
    int64_t utc_us = 0;
    return get_wall(station, &utc_us);
}

/* Not resumed after a signal, so that Ctrl-C ends a long wait at once. */
static void pace(void *context, uint32_t us)
{
    (void)context;
    struct timespec time = { (time_t)(us / 1000000), (long)(us % 1000000) * 1000 };
    nanosleep(&time, NULL);
}

void pintle_station_pace(struct pintle_station *station)
{
    station->sim.pace = pace;
}
