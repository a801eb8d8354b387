/* Keeping a calibration, and taking one into use or out of it. */
#include <glib.h>
#include <jansson.h>
#include <math.h>
#include <string.h>
#include <unistd.h>

#include "host/base/json.h"
#include "host/keep/file.h"
#include "host/rig/place.h"
#include "pintle/text.h"

static json_t *number_json(double value)
{
    return isfinite(value) ? json_real(value) : json_null();
}

static char *date_text(int64_t utc_us)
{
    char buffer[32];
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_time(&text, utc_us, 0, 0);
    return g_strdup(buffer);
}

#define PAIRS_KEPT 1000 /* of more, every so many: all commands read the file */

static void put_numbers(json_t *entry, const struct pintle_calibration *c)
{
    json_t *numbers = json_array();
    json_t *deviations = json_array();
    json_t *pairs = json_array();
    for (unsigned i = 0; i < c->count; i++) {
        json_array_append_new(numbers, pintle_priv_json_float(c->numbers[i]));
        json_array_append_new(deviations, number_json(c->deviation[i]));
    }
    unsigned apart = 1 + c->pair_count / PAIRS_KEPT;
    for (unsigned i = 0; i < c->pair_count && c->pairs; i += apart) {
        json_array_append_new(pairs,
                              json_pack("[f, f]", c->pairs[i].sensor, c->pairs[i].reference));
    }
    json_object_set_new(entry, "numbers", numbers);
    json_object_set_new(entry, "deviations", deviations);
    json_object_set_new(entry, "pairs", pairs);
}

static json_t *make_entry(const struct pintle_rig *rig, unsigned sensor, unsigned channel,
                          const struct pintle_calibration *c, int64_t utc_us)
{
    const struct pintle_rig_sensor *s = &rig->sensor[sensor];
    const struct pintle_channel *of = &s->sheet->part->channels[channel];
    char *date = date_text(utc_us);
    json_t *entry = json_pack("{s:b, s:s, s:s, s:s, s:s, s:s, s:s}", "in_use", 1, "sensor", s->name,
                              "channel", of->name, "unit", pintle_quantity_symbol(of->quantity),
                              "method", pintle_method_word(c->method), "is",
                              pintle_stage_word((enum pintle_stage_kind)c->kind), "date", date);
    g_free(date);
    if (!s->made) {
        json_object_set_new(entry, "part", json_string(s->sheet->part->name));
        json_object_set_new(entry, "bus", json_string(rig->bus[s->bus].name));
        pintle_priv_place_put(entry, rig, sensor);
    }
    if (c->serial) {
        json_object_set_new(entry, "serial", json_string(c->serial));
    }
    if (c->conditions) {
        json_object_set_new(entry, "conditions", json_string(c->conditions));
    }
    if (c->second >= 0) {
        const struct pintle_rig_sensor *second = &rig->sensor[c->second];
        json_object_set_new(entry, "second",
                            json_sprintf("%s.%s", second->name,
                                         second->sheet->part->channels[c->second_channel].name));
    }
    if (c->lowest != 0 || c->highest != 0) {
        json_object_set_new(entry, "span", json_pack("[f, f]", c->lowest, c->highest));
    }
    json_object_set_new(entry, "samples", json_integer(c->samples));
    json_object_set_new(entry, "freedom", json_real(c->freedom));
    json_object_set_new(entry, "residual", number_json(c->residual));
    json_object_set_new(entry, "reference", number_json(c->reference));
    json_object_set_new(entry, "uncertainty", number_json(c->uncertainty));
    put_numbers(entry, c);
    return entry;
}

/* What does the same gives way; its number, or 0. */
static unsigned give_way(json_t *root, const struct pintle_entries *entries, unsigned sensor,
                         unsigned channel, enum pintle_stage_kind kind)
{
    int used = pintle_entries_used(entries, sensor, channel, kind);
    if (used < 0) {
        return 0;
    }
    json_t *entry = json_array_get(json_object_get(root, "corrections"), (size_t)used);
    json_object_set_new(entry, "in_use", json_false());
    return entries->entry[used].number;
}

unsigned pintle_priv_entries_add(const struct pintle_rig *rig, json_t *root, json_t *entry)
{
    struct pintle_entries entries;
    struct pintle_entry its = { 0 };
    unsigned next = 1;
    pintle_priv_entries_take(rig, root, &entries);
    pintle_priv_entry_take(rig, entry, &its);
    unsigned replaced = give_way(root, &entries, its.sensor_index, its.channel_index,
                                 (enum pintle_stage_kind)its.found.kind);
    for (unsigned i = 0; i < entries.count; i++) {
        next = MAX(next, entries.entry[i].number + 1);
    }
    json_object_set_new(entry, "number", json_integer(next));
    json_object_set_new(entry, "in_use", json_true());
    json_object_set_new(entry, "replaces", json_integer(replaced));
    json_array_append(json_object_get(root, "corrections"), entry);
    pintle_entries_free(&entries);
    struct pintle_entries one = { g_memdup2(&its, sizeof its), 1 };
    pintle_entries_free(&one);
    return next;
}

bool pintle_priv_entry_valid(const struct pintle_calibration *c)
{
    const struct pintle_correct_stage stage = { .kind = c->kind,
                                                .count = c->count,
                                                .lowest = (float)c->lowest,
                                                .highest = (float)c->highest,
                                                .numbers = c->numbers };
    bool needs = c->kind == PINTLE_STAGE_HEAT || c->kind == PINTLE_STAGE_THERMAL;
    const double figures[] = { c->residual, c->uncertainty, c->reference, c->freedom };
    bool sensible = true;
    for (unsigned i = 0; i < G_N_ELEMENTS(figures); i++) { /* not a number: unknown */
        sensible = sensible && (isnan(figures[i]) || (figures[i] >= 0 && figures[i] <= 1e9));
    }
    for (unsigned i = 0; i < c->count; i++) {
        sensible = sensible
                   && (isnan(c->deviation[i]) || (c->deviation[i] >= 0 && c->deviation[i] <= 1e9));
    }
    return sensible && pintle_correct_is_valid(&stage) && needs == (c->second >= 0);
}

static void unlock(int lock)
{
    if (lock >= 0) {
        close(lock);
    }
}

bool pintle_calibration_keep(const struct pintle_rig *rig, unsigned sensor, unsigned channel,
                             const struct pintle_calibration *calibration, int64_t utc_us,
                             unsigned *given, struct pintle_problem *problem)
{
    if (!pintle_priv_entry_valid(calibration)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "this correction's numbers are none");
    }
    int lock = pintle_priv_entries_lock(rig, problem);
    json_t *root = lock >= 0 ? pintle_priv_entries_read(rig, problem) : NULL;
    if (!root) {
        unlock(lock);
        return false;
    }
    json_t *entry = make_entry(rig, sensor, channel, calibration, utc_us);
    unsigned at = pintle_priv_entries_add(rig, root, entry);
    bool ok = pintle_priv_entries_write(rig, root, problem);
    if (given) {
        *given = at;
    }
    json_decref(entry);
    json_decref(root);
    unlock(lock);
    return ok;
}

bool pintle_calibration_use(const struct pintle_rig *rig, unsigned wanted, bool use,
                            struct pintle_problem *problem)
{
    int lock = pintle_priv_entries_lock(rig, problem);
    json_t *root = lock >= 0 ? pintle_priv_entries_read(rig, problem) : NULL;
    struct pintle_entries entries = { 0 };
    unsigned at = 0;
    if (!root) {
        unlock(lock);
        return false;
    }
    pintle_priv_entries_take(rig, root, &entries);
    while (at < entries.count && entries.entry[at].number != wanted) {
        at++;
    }
    bool ok = at < entries.count;
    if (!ok) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "there is no correction number %u; 'pintle corrections' lists them",
                           wanted);
    } else if (use && !entries.entry[at].fits) {
        ok = pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "correction %u is of sensor '%s', a %s at %s, which the rig doesn't "
            "have any more",
            wanted, entries.entry[at].sensor, entries.entry[at].part, entries.entry[at].where);
    }
    if (ok && use) {
        const struct pintle_entry *e = &entries.entry[at];
        give_way(root, &entries, e->sensor_index, e->channel_index,
                 (enum pintle_stage_kind)e->found.kind);
    }
    if (ok) {
        json_object_set_new(json_array_get(json_object_get(root, "corrections"), at), "in_use",
                            json_boolean(use));
        ok = pintle_priv_entries_write(rig, root, problem);
    }
    pintle_entries_free(&entries);
    json_decref(root);
    unlock(lock);
    return ok;
}
