/* A station's sensors, as the rig describes them. */
#include "host/live/build.h"

#include <glib.h>

#define WARM 0.5f /* degC that a sensor may warm itself by, and nobody minds */

void pintle_priv_take_limits(struct pintle_station *station, unsigned index)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[index];
    struct pintle_rigged *rigged = &station->rigged[index];
    rigged->stage = g_new0(struct pintle_correct_stage, from->stages);
    for (unsigned i = 0; i < from->stages; i++) {
        const struct pintle_rig_stage *stage = &from->stage[i];
        rigged->stage[i] = stage->stage;
        rigged->stage[i].second =
            stage->second < 0 ? NULL
                              : &station->turn[stage->second].sample.channel[stage->second_channel];
    }
    for (unsigned c = 0; c < PINTLE_MOST_CHANNELS; c++) {
        station->turn[index].sample.channel[c].quality = PINTLE_QUALITY_IDLE; /* not yet */
        const struct pintle_rig_channel *limits = &from->channel[c];
        bool warms = c < from->sheet->part->channel_count && !from->made
                     && from->sheet->part->channels[c].quantity == PINTLE_QUANTITY_TEMPERATURE;
        rigged->judge[c].jump = limits->jump;
        rigged->judge[c].rate = limits->rate;
        rigged->judge[c].fast_s = limits->fast_s;
        rigged->judge[c].frozen = limits->frozen;
        rigged->smooth[c].median = limits->median;
        rigged->smooth[c].hold = limits->hold;
        rigged->warming[c].limit = warms ? WARM : 0;
    }
}

bool pintle_priv_build_sensor(struct pintle_station *station, unsigned i,
                              struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[i];
    struct pintle_rigged *rigged = &station->rigged[i];
    const struct pintle_part *part = from->sheet->part;
    if (pintle_station_wire(station, &rigged->any, part, from->bus, &from->place) != PINTLE_OK) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE, "sensor '%s' cannot be set up",
                                  from->name);
    }
    for (uint8_t s = 0; s < from->sheet->part->setting_count; s++) {
        if (pintle_sensor_set(&rigged->any.sensor, s, from->chosen.settings[s]) != PINTLE_OK) {
            return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                      "sensor '%s': setting %u cannot be made", from->name, s);
        }
    }
    if (pintle_sensor_numbers(&rigged->any.sensor, from->chosen.numbers, part->number_count)
        != PINTLE_OK) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "sensor '%s': a number is beyond its limits", from->name);
    }
    if (from->chosen.ranging && pintle_sensor_auto(&rigged->any.sensor, 1) != PINTLE_OK) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "sensor '%s' cannot choose its range", from->name);
    }
    if (pintle_sensor_ask(&rigged->any.sensor, (uint32_t)(((uint64_t)1 << part->channel_count) - 1))
        != PINTLE_OK) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "sensor '%s' cannot be asked for its channels", from->name);
    }
    station->turn[i].sensor = &rigged->any.sensor;
    return true;
}

#define MOMENTS_SPARE 16
#define MOMENTS_MAX 60000

/* Memory for four times as many readings as the rig's interval makes in the window. */
static uint16_t room_for(const struct pintle_rig *rig, uint32_t over_ms)
{
    int64_t every_us = MAX(rig->every_us, 1000);
    int64_t room = 4000 * (int64_t)over_ms / every_us + MOMENTS_SPARE;
    return (uint16_t)MIN(room, MOMENTS_MAX);
}

void pintle_priv_build_made(struct pintle_station *station, unsigned i)
{
    const struct pintle_rig_sensor *from = &station->rig->sensor[i];
    struct pintle_rigged *rigged = &station->rigged[i];
    unsigned count = from->sheet->part->channel_count;
    rigged->derivation = g_new0(struct pintle_derivation, count);
    for (unsigned c = 0; c < count; c++) {
        const struct pintle_rig_made *made = &from->made[c];
        struct pintle_derivation *d = &rigged->derivation[c];
        if (!made->formula) {
            continue;
        }
        const struct pintle_rig_sensor *first = &station->rig->sensor[made->of[0].sensor];
        d->formula = made->formula->formula;
        d->numbers = made->numbers;
        d->count = (uint16_t)made->count;
        d->round =
            first->sheet->part->channels[made->of[0].channel].quantity == PINTLE_QUANTITY_ANGLE;
        d->over_ms = made->over_ms;
        d->room = made->over_ms ? room_for(station->rig, made->over_ms) : 0;
        d->memory = g_new0(struct pintle_moment, d->room);
        pintle_derive_begin(d);
    }
}
