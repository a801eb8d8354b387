/* What a run says of itself: run.json, docs/runs.md. */
#include "host/run/about.h"

#include <glib.h>

#include "host/base/json.h"
#include "host/rig/place.h"
#include "pintle/host/rig/worth.h"

/* What each channel is made of. */
static json_t *describe_made(const struct pintle_rig *rig, const struct pintle_rig_sensor *s)
{
    json_t *all = json_object();
    for (unsigned c = 0; c < s->sheet->part->channel_count; c++) {
        const struct pintle_rig_made *made = &s->made[c];
        json_t *of = json_array();
        json_t *numbers = json_array();
        for (unsigned i = 0; made->formula && i < made->formula->formula->inputs; i++) {
            const struct pintle_rig_sensor *from = &rig->sensor[made->of[i].sensor];
            const char *channel = from->sheet->part->channels[made->of[i].channel].name;
            json_array_append_new(of, json_sprintf("%s.%s", from->name, channel));
        }
        for (unsigned i = 0; i < made->count; i++) {
            json_array_append_new(numbers, pintle_priv_json_float(made->numbers[i]));
        }
        json_object_set_new(
            all, s->sheet->part->channels[c].name,
            json_pack("{s:s, s:o, s:o, s:f}", "is",
                      made->formula ? made->formula->name : PINTLE_RIG_BOARD_TEMPERATURE, "of", of,
                      "numbers", numbers, "over_s", made->over_ms / 1e3));
    }
    return all;
}

/* Each stage, in the order in which they were applied; which of the kept calibrations it is. */
static json_t *describe_corrections(const struct pintle_rig *rig, const struct pintle_rig_sensor *s)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < s->stages; i++) {
        const struct pintle_rig_stage *from = &s->stage[i];
        json_t *numbers = json_array();
        for (unsigned n = 0; n < from->stage.count; n++) {
            json_array_append_new(numbers, pintle_priv_json_float(from->stage.numbers[n]));
        }
        json_t *stage = json_pack("{s:s, s:s, s:o, s:i}", "channel",
                                  s->sheet->part->channels[from->stage.channel].name, "is",
                                  pintle_stage_word((enum pintle_stage_kind)from->stage.kind),
                                  "numbers", numbers, "correction", (int)from->entry);
        if (from->second >= 0) {
            const struct pintle_rig_sensor *second = &rig->sensor[from->second];
            json_object_set_new(
                stage, "second",
                json_sprintf("%s.%s", second->name,
                             second->sheet->part->channels[from->second_channel].name));
        }
        json_array_append_new(all, stage);
    }
    return all;
}

static json_t *describe_sensor(const struct pintle_rig *rig, unsigned index)
{
    const struct pintle_rig_sensor *s = &rig->sensor[index];
    json_t *settings = json_object();
    json_t *corrections = describe_corrections(rig, s);
    const struct pintle_part *part = s->sheet->part;
    for (unsigned i = 0; i < part->setting_count; i++) {
        json_object_set_new(
            settings, s->sheet->settings[i].name,
            json_string(s->chosen.ranging && pintle_sheet_ranges(s->sheet, i)
                            ? "auto"
                            : s->sheet->settings[i].options[s->chosen.settings[i]]));
    }
    for (unsigned i = 0; i < part->number_count; i++) {
        json_object_set_new(settings, s->sheet->numbers[i].name,
                            pintle_priv_json_float(s->chosen.numbers[i]));
    }
    if (s->made) {
        json_t *about = json_pack("{s:s, s:o}", "sensor", s->name, "made", describe_made(rig, s));
        json_object_set_new(about, "corrections", corrections);
        json_decref(settings);
        return about;
    }
    json_t *about = json_pack("{s:s, s:s, s:s}", "sensor", s->name, "part", part->name, "bus",
                              rig->bus[s->bus].name);
    pintle_priv_place_put(about, rig, index);
    json_object_set_new(about, "settings", settings);
    json_object_set_new(about, "corrections", corrections);
    return about;
}

static json_t *describe_steps(const struct pintle_run *run)
{
    json_t *steps = json_array();
    for (unsigned i = 0; i < run->steps; i++) {
        json_array_append_new(steps, json_pack("{s:I, s:f}", "before_record",
                                               (json_int_t)run->step[i].record, "by_s",
                                               (double)run->step[i].by_us / 1e6));
    }
    return steps;
}

/* Every channel that has a column: so many places are worth printing. */
static json_t *describe_channels(const struct pintle_rig *rig)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_part *part = rig->sensor[i].sheet->part;
        for (unsigned c = 0; c < part->channel_count; c++) {
            if (pintle_run_logs(&part->channels[c])) {
                json_array_append_new(
                    all,
                    json_pack(
                        "{s:o, s:s, s:i, s:b}", "name",
                        json_sprintf("%s.%s", rig->sensor[i].name, part->channels[c].name), "unit",
                        pintle_quantity_symbol((enum pintle_quantity)part->channels[c].quantity),
                        "decimals", (int)pintle_worth_places(&rig->sensor[i], c), "made",
                        rig->sensor[i].made != NULL));
            }
        }
    }
    return all;
}

char *pintle_priv_about(const struct pintle_run *run, const char *ended)
{
    const struct pintle_rig *rig = run->station->rig;
    char buffer[32];
    struct pintle_text began;
    pintle_text_init(&began, buffer, sizeof buffer);
    pintle_text_time(&began, run->began_us, 0, 0);
    json_t *sensors = json_array();
    for (unsigned i = 0; i < rig->sensors; i++) {
        json_array_append_new(sensors, describe_sensor(rig, i));
    }
    json_t *root = json_pack("{s:s, s:s, s:s, s:s, s:f, s:o, s:o}", "format", "pintle run 1",
                             "board", rig->board, "port", rig->port, "began", buffer, "every_s",
                             (double)rig->every_us / 1e6, "sensors", sensors, "channels",
                             describe_channels(rig));
    if (run->unset) {
        json_object_set_new(root, "clock", json_string("never set when it began"));
    }
    if (run->steps > 0) {
        json_object_set_new(root, "clock_steps", describe_steps(run));
    }
    if (ended) {
        json_object_set_new(root, "records", json_integer(run->records));
        json_object_set_new(root, "suspect", json_integer(run->suspect));
        json_object_set_new(root, "missed", json_integer((json_int_t)run->missed));
        json_object_set_new(root, "ended", json_string(ended));
    }
    char *text = pintle_priv_json_text(root);
    json_decref(root);
    return text;
}
