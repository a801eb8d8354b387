#include "pintle/host/live/station.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/live/build.h"
#include "host/live/serial.h"

enum pintle_status pintle_station_wire(struct pintle_station *station, struct pintle_any *any,
                                       const struct pintle_part *part, unsigned bus,
                                       const union pintle_place *place)
{
    enum pintle_bus_kind kind = station->rig->bus[bus].kind;
    union pintle_any_bus on = { .i2c = &station->i2c[bus] };
    if (kind == PINTLE_BUS_SPI) {
        on.spi = &station->spi[bus];
    } else if (kind == PINTLE_BUS_ONEWIRE) {
        on.onewire = &station->onewire[bus];
    } else if (kind == PINTLE_BUS_STREAM) {
        on.stream = &station->stream[bus];
    }
    return pintle_any_on(any, part, kind, on, place);
}

static struct pintle_station *make(const struct pintle_rig *rig,
                                   const struct pintle_platform *platform)
{
    struct pintle_station *station = g_new0(struct pintle_station, 1);
    station->rig = rig;
    station->platform = platform;
    station->i2c = g_new0(struct pintle_i2c, rig->buses);
    station->spi = g_new0(struct pintle_spi, rig->buses);
    station->onewire = g_new0(struct pintle_onewire, rig->buses);
    station->stream = g_new0(struct pintle_stream, rig->buses);
    station->rigged = g_new0(struct pintle_rigged, rig->sensors);
    station->turn = g_new0(struct pintle_seat, rig->sensors);
    return station;
}

static const char *name_of(const struct pintle_rig *rig)
{
    return rig->path ? rig->path : "the built-in rig";
}

#define MOST_AT_US (3660 * INT64_C(86400000000)) /* ten years, which take seconds */

/* What only makes sense where time and lines are simulated. */
static bool makes_sense(const struct pintle_rig *rig, const struct pintle_platform *platform,
                        int64_t at_us, struct pintle_problem *problem)
{
    if (rig->conflict) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s", rig->conflict);
    }
    if (at_us > 0 && !platform->pass) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "on port '%s' time is real, and nothing can begin at another "
                                  "moment; leave --at away, or take a rig of the simulation",
                                  platform->name);
    }
    if (at_us > MOST_AT_US) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "a simulation begins at most 3660 days into its world; give less "
                                  "with --at");
    }
    if (rig->wires && !platform->listen) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "%s: on port '%s' the lines cannot be watched; depth = \"wires\" "
                                  "is for the simulation, take it out of the board section",
                                  name_of(rig), platform->name);
    }
    return true;
}

struct pintle_station *pintle_station_open(const struct pintle_rig *rig, int64_t at_us,
                                           struct pintle_problem *problem)
{
    struct pintle_problem unknown = { 0 };
    const struct pintle_platform *platform = pintle_platform_find(rig->port, &unknown);
    if (!platform) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s: %s", name_of(rig), unknown.text);
        return NULL;
    }
    if (!makes_sense(rig, platform, at_us, problem)) {
        return NULL;
    }
    struct pintle_station *station = make(rig, platform);
    bool ok = platform->open(station, problem);
    for (unsigned i = 0; i < rig->buses; i++) {
        station->i2c[i].common.clock = station->spi[i].common.clock = &station->clock;
        station->onewire[i].common.clock = station->stream[i].common.clock = &station->clock;
    }
    for (unsigned i = 0; ok && i < rig->sensors; i++) {
        pintle_priv_take_limits(station, i);
        if (rig->sensor[i].made) {
            pintle_priv_build_made(station, i);
        } else {
            ok = pintle_priv_build_sensor(station, i, problem);
        }
    }
    if (!ok) {
        pintle_station_free(station);
        return NULL;
    }
    if (platform->pass) {
        platform->pass(station, (uint64_t)at_us);
    }
    return station;
}

void pintle_station_free(struct pintle_station *station)
{
    if (!station) {
        return;
    }
    station->platform->close(station);
    for (unsigned i = station->rig->wired; i < station->rig->sensors; i++) {
        struct pintle_derivation *derivation = station->rigged[i].derivation;
        for (unsigned c = 0; derivation && c < station->rig->sensor[i].sheet->part->channel_count;
             c++) {
            g_free(derivation[c].memory);
        }
        g_free(derivation);
    }
    for (unsigned i = 0; i < station->rig->sensors; i++) {
        g_free(station->rigged[i].stage);
    }
    g_free(station->i2c);
    g_free(station->spi);
    g_free(station->onewire);
    g_free(station->stream);
    g_free(station->rigged);
    g_free(station->turn);
    g_free(station);
}

const char *pintle_station_words(const struct pintle_station *station, unsigned bus)
{
    const struct pintle_i2c *i2c = &station->i2c[bus];
    const struct pintle_spi *spi = &station->spi[bus];
    const struct pintle_onewire *onewire = &station->onewire[bus];
    const struct pintle_stream *stream = &station->stream[bus];
    switch (station->rig->bus[bus].kind) {
    case PINTLE_BUS_I2C:
        return i2c->calls->words ? i2c->calls->words(i2c->common.context) : "";
    case PINTLE_BUS_SPI:
        return spi->calls->words ? spi->calls->words(spi->common.context) : "";
    case PINTLE_BUS_ONEWIRE:
        return onewire->calls->words ? onewire->calls->words(onewire->common.context) : "";
    default:
        return stream->calls->words ? stream->calls->words(stream->common.context) : "";
    }
}

/* Another sensor may talk on the bus next: what the port says now is about this one. */
static void listen_to(struct pintle_station *station, unsigned i)
{
    enum pintle_status status = station->turn[i].status;
    const char *words = pintle_station_words(station, station->rig->sensor[i].bus);
    if (status != PINTLE_OK && status != PINTLE_NOT_READY) {
        g_strlcpy(station->rigged[i].words, words, PINTLE_WORDS_MAX);
    }
}

/* What is there is another specimen than the corrections are for, or doesn't say which it is. */
static void correct_nothing(const struct pintle_rig_sensor *from, struct pintle_sample *sample)
{
    pintle_correct(NULL, 0, sample->channel, from->sheet->part->channel_count);
    for (unsigned i = 0; i < from->stages; i++) {
        const struct pintle_correct_stage *stage = &from->stage[i].stage;
        unsigned wide = stage->kind == PINTLE_STAGE_AXES ? 3 : 1;
        for (unsigned a = 0; a < wide; a++) {
            struct pintle_reading *reading = &sample->channel[stage->channel + a];
            if (!(reading->quality & (PINTLE_QUALITY_BUS | PINTLE_QUALITY_IDLE))) {
                reading->quality |= PINTLE_QUALITY_SPAN;
            }
        }
    }
}

/* Judge readings, keep them as they are, then correct them. */
static void judge(struct pintle_station *station, unsigned i)
{
    struct pintle_rigged *rigged = &station->rigged[i];
    struct pintle_sample *sample = &station->turn[i].sample;
    const struct pintle_rig_sensor *from = &station->rig->sensor[i];
    uint32_t now_ms = (uint32_t)(station->clock.calls->now_us(station->clock.context) / 1000);
    uint8_t count = from->sheet->part->channel_count;
    struct pintle_reading scratch[PINTLE_MOST_CHANNELS];
    uint32_t unsure = from->made ? 0 : pintle_sensor_unsure(&rigged->any.sensor, scratch);
    for (unsigned c = 0; c < count; c++) {
        rigged->judge[c].unsure = unsure >> c & 1;
        pintle_judge_reading(&rigged->judge[c], &sample->channel[c], now_ms);
        pintle_judge_warming(&rigged->warming[c], &sample->channel[c], now_ms);
        rigged->before[c] = sample->channel[c];
        pintle_judge_smooth(&rigged->smooth[c], &sample->channel[c]);
    }
    if (from->made || pintle_priv_is_specimen(station, i)) {
        pintle_correct(rigged->stage, (uint8_t)from->stages, sample->channel, count);
    } else {
        correct_nothing(from, sample);
    }
}

struct pintle_reading pintle_station_before(const struct pintle_station *station, unsigned index,
                                            unsigned channel, enum pintle_stage_kind kind)
{
    struct pintle_reading readings[PINTLE_MOST_CHANNELS];
    const struct pintle_rig_sensor *from = &station->rig->sensor[index];
    const struct pintle_rigged *rigged = &station->rigged[index];
    uint8_t below = 0;
    memcpy(readings, rigged->before, sizeof readings);
    while (below < from->stages && rigged->stage[below].kind < kind
           && !pintle_rig_replaces(kind, (enum pintle_stage_kind)rigged->stage[below].kind)) {
        below++;
    }
    pintle_correct(rigged->stage, below, readings, from->sheet->part->channel_count);
    return readings[channel];
}

/* Axes are turned behind their corrections, which belong to the chip. */
static void turn_axes(const struct pintle_rig_sensor *from, struct pintle_sample *sample)
{
    for (int c = 0; from->mount.x && (c = pintle_sheet_axes(from->sheet, (unsigned)c)) >= 0;
         c += 3) {
        pintle_derive_mount_apply(&from->mount, &sample->channel[c]);
    }
}

static void finish(struct pintle_station *station, unsigned i)
{
    struct pintle_seat *turn = &station->turn[i];
    if (station->rig->sensor[i].rests && turn->status == PINTLE_OK) {
        (void)!pintle_sensor_rest(turn->sensor); /* else it goes on working */
    }
    judge(station, i);
    turn_axes(&station->rig->sensor[i], &station->turn[i].sample);
}

void pintle_station_correct(const struct pintle_station *station, unsigned index,
                            struct pintle_sample *sample)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[index];
    pintle_correct(station->rigged[index].stage, (uint8_t)from->stages, sample->channel,
                   from->sheet->part->channel_count);
    turn_axes(from, sample);
}

static float board_temperature(struct pintle_station *station, pintle_marks *quality)
{
    float celsius = NAN;
    const struct pintle_platform *platform = station->platform;
    bool said = platform->board_temperature && platform->board_temperature(station, &celsius);
    *quality = said ? 0 : PINTLE_QUALITY_BUS;
    return said ? celsius : NAN;
}

/* What is made of channels: work it out anew from the last samples of those. */
static void derive(struct pintle_station *station, unsigned index)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[index];
    struct pintle_seat *turn = &station->turn[index];
    int64_t now_us = (int64_t)station->clock.calls->now_us(station->clock.context);
    turn->sample.time_us = 0;
    for (unsigned c = 0; c < from->sheet->part->channel_count; c++) {
        const struct pintle_rig_made *made = &from->made[c];
        struct pintle_reading inputs[PINTLE_DERIVE_INPUTS];
        struct pintle_reading *result = &turn->sample.channel[c];
        if (!made->formula) {
            result->raw = 0;
            result->value = board_temperature(station, &result->quality);
            turn->sample.time_us = pintle_station_now(station);
            continue;
        }
        for (unsigned i = 0; i < made->formula->formula->inputs; i++) {
            const struct pintle_sample *sample = &station->turn[made->of[i].sensor].sample;
            inputs[i] = sample->channel[made->of[i].channel];
            turn->sample.time_us = MAX(turn->sample.time_us, sample->time_us);
        }
        pintle_derive(&station->rigged[index].derivation[c], inputs, now_us, result);
    }
    turn->status = PINTLE_OK;
    judge(station, index);
}

/* Longest sleep in one go, so that a stop is heeded soon. */
#define NAP_US 100000

void pintle_station_wait(struct pintle_station *station, uint32_t us,
                         const volatile sig_atomic_t *stop)
{
    const struct pintle_clock *clock = &station->clock;
    uint32_t most = station->platform->pass ? UINT32_MAX : NAP_US;
    while (us > 0 && !(stop && *stop)) {
        uint32_t nap = MIN(us, most);
        clock->calls->sleep_us(clock->context, nap);
        us -= nap;
    }
}

/* What became of its measurement. */
static void see(struct pintle_seat *seat)
{
    seat->status = pintle_sensor_status(seat->sensor);
    if (seat->status != PINTLE_NOT_READY) {
        pintle_sample_take(seat->sensor, &seat->sample);
    }
}

/* Collect whatever is ready; returns the shortest wait of the rest, or UINT32_MAX. */
static uint32_t collect(struct pintle_station *station, unsigned from, unsigned to)
{
    uint32_t shortest = UINT32_MAX;
    for (unsigned i = from; i < to; i++) {
        if (station->turn[i].status == PINTLE_NOT_READY) {
            uint32_t wait = pintle_round_collect(&station->turn[i].sensor, 1);
            shortest = MIN(shortest, wait);
            see(&station->turn[i]);
            listen_to(station, i);
        }
    }
    return shortest;
}

/* Measure these sensors. False: it was stopped before its end. */
static bool measure(struct pintle_station *station, unsigned from, unsigned to,
                    const volatile sig_atomic_t *stop)
{
    for (unsigned i = from; i < to; i++) {
        station->rigged[i].words[0] = '\0';
        station->turn[i].status = PINTLE_OK;
        if (station->rig->sensor[i].sheet->part->channel_count == 0) {
            continue; /* it measures nothing */
        }
        pintle_round_start(&station->turn[i].sensor, 1);
        see(&station->turn[i]);
        listen_to(station, i);
    }
    uint32_t wait = collect(station, from, to);
    while (wait != UINT32_MAX) {
        pintle_station_wait(station, wait, stop);
        wait = collect(station, from, to);
        if (wait != UINT32_MAX && stop && *stop) {
            return false;
        }
    }
    return true;
}

static void compare_with_twin(struct pintle_station *station, unsigned i, unsigned c)
{
    const struct pintle_rig_channel *limits = &station->rig->sensor[i].channel[c];
    struct pintle_reading *a = &station->turn[i].sample.channel[c];
    struct pintle_reading *b = &station->turn[limits->twin].sample.channel[limits->twin_channel];
    if (pintle_reading_good(a) && pintle_reading_good(b)
        && fabsf(a->value - b->value) > limits->within) {
        a->quality |= PINTLE_QUALITY_APART;
        b->quality |= PINTLE_QUALITY_APART;
    }
}

/* Pairs of which the later one is finished now. */
static void compare_twins(struct pintle_station *station, const uint8_t *measured,
                          const uint8_t *pending, unsigned now)
{
    const struct pintle_rig *rig = station->rig;
    for (unsigned i = 0; i < rig->wired; i++) {
        for (unsigned c = 0; c < rig->sensor[i].sheet->part->channel_count; c++) {
            int twin = rig->sensor[i].channel[c].twin;
            bool its = twin >= 0 && (i == now || (unsigned)twin == now);
            if (its && measured[i] && measured[twin] && !pending[i] && !pending[twin]) {
                compare_with_twin(station, i, c);
            }
        }
    }
}

/* Judge, correct and derive these sensors, each behind those that it is made of or corrected by.
 * `pending` is used up. */
static void finish_all(struct pintle_station *station, uint8_t *pending)
{
    const struct pintle_rig *rig = station->rig;
    uint8_t *measured = g_memdup2(pending, rig->sensors + 1);
    for (unsigned passes = rig->sensors; passes > 0; passes--) {
        for (unsigned i = 0; i < rig->sensors; i++) {
            bool ready = pending[i];
            for (unsigned k = 0; ready && k < rig->sensors; k++) {
                ready = k == i || !pending[k] || !pintle_rig_needs(rig, i, k);
            }
            if (!ready) {
                continue;
            }
            pending[i] = 0;
            if (rig->sensor[i].made) {
                derive(station, i);
            } else if (station->turn[i].sensor->part->channel_count > 0) {
                finish(station, i);
            }
            compare_twins(station, measured, pending, i);
        }
    }
    g_free(measured);
}

size_t pintle_station_round(struct pintle_station *station, const volatile sig_atomic_t *stop)
{
    const struct pintle_rig *rig = station->rig;
    bool whole = measure(station, 0, rig->wired, stop);
    size_t failed = 0;
    for (unsigned i = 0; i < rig->wired; i++) {
        if (station->turn[i].status == PINTLE_NOT_READY) {
            (void)pintle_round_end(&station->turn[i].sensor, 1);
            see(&station->turn[i]);
        }
    }
    if (!whole) {
        return SIZE_MAX;
    }
    uint8_t *pending = g_malloc(rig->sensors + 1);
    memset(pending, 1, rig->sensors);
    finish_all(station, pending);
    g_free(pending);
    for (unsigned i = 0; i < rig->wired; i++) {
        failed += station->turn[i].status != PINTLE_OK;
    }
    return failed;
}

static void measure_one(struct pintle_station *station, unsigned index, bool fresh)
{
    struct pintle_seat *turn = &station->turn[index];
    if (turn->sensor->part->channel_count == 0) {
        turn->status = pintle_sensor_prove(turn->sensor);
        listen_to(station, index);
        return;
    }
    measure(station, index, index + 1, NULL);
    if (fresh && turn->status == PINTLE_OK
        && (turn->sample.channel[0].quality & (PINTLE_QUALITY_FIRST | PINTLE_QUALITY_POWER_ON))) {
        measure(station, index, index + 1, NULL);
    }
}

void pintle_station_some(struct pintle_station *station, const uint8_t *chosen, bool fresh)
{
    const struct pintle_rig *rig = station->rig;
    uint8_t *pending = g_new0(uint8_t, rig->sensors + 1);
    for (unsigned i = 0; i < rig->sensors; i++) {
        pending[i] = chosen[i];
        for (unsigned k = 0; !pending[i] && k < rig->sensors; k++) {
            pending[i] = chosen[k] && pintle_rig_needs(rig, k, i);
        }
        if (pending[i] && !rig->sensor[i].made) {
            measure_one(station, i, fresh);
        }
    }
    finish_all(station, pending);
    g_free(pending);
}

enum pintle_status pintle_station_read(struct pintle_station *station, unsigned index, bool fresh)
{
    uint8_t *chosen = g_new0(uint8_t, station->rig->sensors);
    chosen[index] = 1;
    pintle_station_some(station, chosen, fresh);
    g_free(chosen);
    return station->turn[index].status;
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
