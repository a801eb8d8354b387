/* Rig files: read, built in, given back. */
#include "pintle/host/rig/rig.h"

#include <glib.h>
#include <math.h>
#include <stdarg.h>
#include <string.h>

#include "host/base/files.h"
#include "host/rig/demo.h"
#include "host/rig/loading.h"
#include "pintle/host/rig/worth.h"

struct loading pintle_priv_loading;

static char *own(struct pintle_rig *rig, char *text)
{
    g_ptr_array_add(rig->own, text);
    return text;
}

void *pintle_priv_loading_own(size_t size)
{
    void *memory = g_malloc0(size);
    g_ptr_array_add(pintle_priv_loading.rig->own, memory);
    return memory;
}

char *pintle_priv_loading_text(const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = own(pintle_priv_loading.rig, g_strdup_vprintf(format, args));
    va_end(args);
    return text;
}

/* A path as the rig file means it. */
static char *beside(const struct pintle_rig *rig, const char *path)
{
    return g_path_is_absolute(path) ? g_strdup(path) : g_build_filename(rig->folder, path, NULL);
}

static void take_board(struct pintle_rig *rig, cfg_t *cfg)
{
    const char *world = cfg_getstr(cfg, "board|world");
    const char *runs = cfg_getstr(cfg, "log|folder");
    rig->board = own(rig, g_strdup(cfg_getstr(cfg, "board|name")));
    rig->port = own(rig, g_strdup(cfg_getstr(cfg, "board|port")));
    rig->logic_v = cfg_getfloat(cfg, "board|logic");
    rig->wires = strcmp(cfg_getstr(cfg, "board|depth"), "wires") == 0;
    rig->world_text =
        world && strcmp(world, PINTLE_RIG_BUILT_IN) == 0 ? pintle_priv_demo_world : NULL;
    rig->world_path = world ? own(rig, beside(rig, world)) : NULL;
    if (world) {
        pintle_priv_files_note(rig->world_path);
    }
    rig->runs = own(rig, beside(rig, runs));
    rig->folders = cfg_getbool(cfg, "log|folders");
    const char *database = cfg_getstr(cfg, "log|database");
    rig->database = database ? own(rig, beside(rig, database)) : NULL;
    rig->database_word = database ? own(rig, g_strdup(database)) : NULL;
    rig->uncertain = cfg_getbool(cfg, "log|uncertainty");
    pintle_duration_parse(cfg_getstr(cfg, "log|every"), &rig->every_us);
}

/* Which channel measures the same: it may be described further down. */
static bool find_twin(struct pintle_rig *rig, const char *name, unsigned sensor, unsigned channel,
                      struct pintle_problem *problem)
{
    struct pintle_rig_channel *c = &rig->sensor[sensor].channel[channel];
    const struct pintle_part *part = rig->sensor[sensor].sheet->part;
    char **names = g_strsplit(c->twin_name, ".", 2);
    int other = -1;
    for (unsigned i = 0; i < rig->wired && names[0] && names[1]; i++) {
        int at = strcmp(rig->sensor[i].name, names[0]) == 0
                     ? pintle_sheet_channel(rig->sensor[i].sheet, names[1])
                     : -1;
        if (at >= 0 && (i != sensor || at != (int)channel)
            && rig->sensor[i].sheet->part->channels[at].quantity
                   == part->channels[channel].quantity) {
            other = (int)i;
            c->twin_channel = (unsigned)at;
        }
    }
    g_strfreev(names);
    c->twin = other;
    if (other >= 0 && c->within < 0) {
        c->within =
            (float)(pintle_worth_accuracy(&rig->sensor[sensor], channel, (double)NAN)
                    + pintle_worth_accuracy(&rig->sensor[other], c->twin_channel, (double)NAN));
    }
    return other >= 0
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "%s: sensor '%s', channel '%s': twin = \"%s\" is no other channel "
                                 "of a chip that measures the same; write SENSOR.CHANNEL",
                                 name, rig->sensor[sensor].name, part->channels[channel].name,
                                 c->twin_name);
}

static bool find_twins(struct pintle_rig *rig, const char *name, struct pintle_problem *problem)
{
    for (unsigned i = 0; i < rig->wired; i++) {
        for (unsigned c = 0; c < rig->sensor[i].sheet->part->channel_count; c++) {
            if (rig->sensor[i].channel[c].twin_name && !find_twin(rig, name, i, c, problem)) {
                return false;
            }
        }
    }
    return true;
}

static struct pintle_rig *build(const char *name, char *text, char *folder,
                                struct pintle_problem *problem)
{
    struct pintle_rig *rig = g_new0(struct pintle_rig, 1);
    rig->own = g_ptr_array_new_with_free_func(g_free);
    rig->text = own(rig, text);
    rig->folder = own(rig, folder);
    pintle_priv_loading.rig = rig;
    pintle_priv_loading.name = name;
    cfg_t *cfg = pintle_priv_conf_parse(pintle_priv_rig_schema(), pintle_priv_rig_words, name, text,
                                        problem);
    if (cfg) {
        take_board(rig, cfg);
        cfg_free(cfg);
    }
    if (cfg && rig->buses > 0 && find_twins(rig, name, problem)) {
        return rig;
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE,
                       "%s: it describes no bus; add a bus section, and a sensor section for "
                       "each sensor on it",
                       name);
    pintle_rig_free(rig);
    return NULL;
}

struct pintle_rig *pintle_rig_load(const char *path, struct pintle_problem *problem)
{
    char *text = pintle_priv_files_read(path, "rig file", problem);
    struct pintle_rig *rig = text ? build(path, text, g_path_get_dirname(path), problem) : NULL;
    if (rig) {
        rig->path = own(rig, g_strdup(path));
    }
    return rig;
}

struct pintle_rig *pintle_rig_parse(const char *name, const char *text,
                                    struct pintle_problem *problem)
{
    struct pintle_rig *rig = build(name, g_strdup(text), g_strdup("."), problem);
    if (rig) {
        rig->path = own(rig, g_strdup(name));
    }
    return rig;
}

struct pintle_rig *pintle_rig_demo(struct pintle_problem *problem)
{
    struct pintle_rig *rig =
        build("(built in) sloop.rig", g_strdup(pintle_priv_demo_rig), g_strdup(""), problem);
    if (rig) {
        rig->world_path = "(built in) sloop.world";
        rig->world_text = pintle_priv_demo_world;
    }
    return rig;
}

void pintle_rig_free(struct pintle_rig *rig)
{
    if (!rig) {
        return;
    }
    for (unsigned i = 0; i < rig->buses; i++) {
        g_free(rig->bus[i].select_pin);
        g_free(rig->bus[i].select_device);
    }
    g_free(rig->bus);
    g_free(rig->sensor);
    g_free(rig->part);
    g_ptr_array_free(rig->own, TRUE);
    g_free(rig);
}

static bool depends(const struct pintle_rig *rig, unsigned index, unsigned from, unsigned of)
{
    return from == of || (from != index && pintle_rig_needs(rig, from, of));
}

bool pintle_rig_needs(const struct pintle_rig *rig, unsigned index, unsigned of)
{
    const struct pintle_rig_sensor *s = &rig->sensor[index];
    for (unsigned i = 0; i < s->stages; i++) {
        if (s->stage[i].second >= 0 && depends(rig, index, (unsigned)s->stage[i].second, of)) {
            return true;
        }
    }
    for (unsigned c = 0; s->made && c < s->sheet->part->channel_count; c++) {
        const struct pintle_formula_text *text = s->made[c].formula;
        for (unsigned i = 0; text && i < text->formula->inputs; i++) {
            if (depends(rig, index, s->made[c].of[i].sensor, of)) {
                return true;
            }
        }
    }
    return false;
}

const char *pintle_stage_word(enum pintle_stage_kind kind)
{
    static const char *const words[PINTLE_STAGE_KINDS] = { "none",       "heat",  "thermal",
                                                           "polynomial", "table", "axes" };
    return kind < PINTLE_STAGE_KINDS ? words[kind] : "none";
}

bool pintle_rig_replaces(enum pintle_stage_kind kind, enum pintle_stage_kind other)
{
    bool curve = kind == PINTLE_STAGE_POLYNOMIAL || kind == PINTLE_STAGE_TABLE;
    bool curved = other == PINTLE_STAGE_POLYNOMIAL || other == PINTLE_STAGE_TABLE;
    return kind == other || (curve && curved);
}

void pintle_rig_correct(struct pintle_rig *rig, struct pintle_rig_sensor *sensor,
                        const struct pintle_rig_stage *stage)
{
    struct pintle_rig_stage *all = g_new0(struct pintle_rig_stage, sensor->stages + 1);
    enum pintle_stage_kind kind = (enum pintle_stage_kind)stage->stage.kind;
    unsigned count = 0;
    bool placed = false;
    for (unsigned i = 0; i < sensor->stages; i++) {
        const struct pintle_correct_stage *other = &sensor->stage[i].stage;
        bool replaced = other->channel == stage->stage.channel
                        && pintle_rig_replaces(kind, (enum pintle_stage_kind)other->kind);
        if (!placed && other->kind > kind) {
            all[count++] = *stage;
            placed = true;
        }
        if (!replaced) {
            all[count++] = sensor->stage[i];
        }
    }
    unsigned at = 0;
    if (!placed) {
        all[count++] = *stage;
    }
    while (all[at].stage.numbers != stage->stage.numbers) {
        at++;
    }
    float *numbers = g_memdup2(stage->stage.numbers, stage->stage.count * sizeof *numbers);
    all[at].stage.numbers = numbers;
    g_ptr_array_add(rig->own, all);
    g_ptr_array_add(rig->own, numbers);
    sensor->stage = all;
    sensor->stages = count;
}

int pintle_rig_find_wired(const struct pintle_rig *rig, const char *name,
                          struct pintle_problem *problem)
{
    int index = pintle_rig_find_sensor(rig, name, problem);
    if (index < 0 || !rig->sensor[index].made) {
        return index;
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE,
                       "'%s' is made of other channels: there is no chip behind it; take one of "
                       "those that it is made of",
                       name);
    return -1;
}

int pintle_rig_find_sensor(const struct pintle_rig *rig, const char *name,
                           struct pintle_problem *problem)
{
    const char **names = g_new(const char *, rig->sensors + 1);
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (strcmp(rig->sensor[i].name, name) == 0) {
            g_string_free(all, TRUE);
            g_free(names);
            return (int)i;
        }
        names[i] = rig->sensor[i].name;
        g_string_append_printf(all, "%s%s", i ? ", " : "", names[i]);
    }
    const char *nearest = pintle_problem_nearest(name, names, rig->sensors);
    char *meant =
        nearest ? g_strdup_printf("did you mean '%s'? It has", nearest) : g_strdup("it has");
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "the rig has no sensor '%s'; %s %s", name,
                       meant, all->str);
    g_free(meant);
    g_free(names);
    g_string_free(all, TRUE);
    return -1;
}

void pintle_rig_move_database(struct pintle_rig *rig, const char *folder)
{
    if (rig->database && !g_path_is_absolute(rig->database_word)) {
        rig->database = own(rig, g_build_filename(folder, rig->database_word, NULL));
    }
}
