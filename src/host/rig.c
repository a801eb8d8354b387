/* Rig files: the schema, what is checked at which line, and the struct that comes out. */
#include "pintle/host/rig.h"

#include <float.h>
#include <glib.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "host/conf.h"
#include "host/demo.h"
#include "host/files.h"
#include "host/loading.h"

struct loading loading;

static const char *last_string(cfg_opt_t *opt)
{
    return cfg_opt_getnstr(opt, cfg_opt_size(opt) - 1);
}

static int check_part(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_problem inner = { 0 };
    loading.part_line = cfg->line;
    return pintle_rig_part(loading.rig, last_string(opt), &inner)
               ? 0
               : conf_complain(cfg, "%s", inner.text);
}

static int check_address(cfg_t *cfg, cfg_opt_t *opt)
{
    (void)opt;
    loading.address_line = cfg->line;
    return 0;
}

static const char *const kinds[] = { "i2c", "spi", "onewire" };

static int check_kind(cfg_t *cfg, cfg_opt_t *opt)
{
    for (size_t i = 0; i < G_N_ELEMENTS(kinds); i++) {
        if (strcmp(last_string(opt), kinds[i]) == 0) {
            return 0;
        }
    }
    return conf_complain(cfg, "bus '%s' is of kind '%s'; there are i2c, spi and onewire",
                         cfg->title, last_string(opt));
}

/* What each kind of bus can run at; a 1-Wire line has one speed only. */
static int check_speed(cfg_t *cfg, const struct pintle_rig_bus *bus, long hz)
{
    if (bus->kind == PINTLE_BUS_I2C && (hz < 1000 || hz > 1000000)) {
        return conf_complain(cfg,
                             "bus '%s' cannot run at %ld Hz; I2C runs at 100000, 400000 or "
                             "1000000, and anything slower down to 1000",
                             bus->name, hz);
    }
    if (bus->kind == PINTLE_BUS_SPI && (hz < 1000 || hz > 20000000)) {
        return conf_complain(cfg, "bus '%s' cannot run at %ld Hz; SPI runs at 1000 to 20000000",
                             bus->name, hz);
    }
    return 0;
}

static int check_port(cfg_t *cfg, cfg_opt_t *opt)
{
    if (strcmp(last_string(opt), "sim") == 0) {
        return 0;
    }
    return conf_complain(cfg, "there is no port '%s' in this build; it has 'sim'",
                         last_string(opt));
}

static int check_depth(cfg_t *cfg, cfg_opt_t *opt)
{
    const char *depth = last_string(opt);
    if (strcmp(depth, "transfers") == 0 || strcmp(depth, "wires") == 0) {
        return 0;
    }
    return conf_complain(cfg, "there is no depth '%s'; the simulation has 'transfers' and 'wires'",
                         depth);
}

static int check_duration(cfg_t *cfg, cfg_opt_t *opt)
{
    int64_t us = 0;
    if (pintle_duration_parse(last_string(opt), &us) && us >= 1000) {
        return 0;
    }
    return conf_complain(cfg,
                         "'%s' is no interval; write for example \"20 s\", \"1 min\" or "
                         "\"1h30m\", at least 1 ms",
                         last_string(opt));
}

int pintle_rig_bus(const struct pintle_rig *rig, const char *name)
{
    for (unsigned i = 0; i < rig->buses; i++) {
        if (strcmp(rig->bus[i].name, name) == 0) {
            return (int)i;
        }
    }
    return -1;
}

static int take_bus(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_rig *rig = loading.rig;
    cfg_t *section = conf_section(opt);
    if (conf_name(cfg, "a bus", cfg_title(section)) != 0) {
        return -1;
    }
    if (pintle_rig_bus(rig, cfg_title(section)) >= 0) {
        return conf_complain(cfg, "there is a bus '%s' already; give each its own name",
                             cfg_title(section));
    }
    rig->bus = g_renew(struct pintle_rig_bus, rig->bus, rig->buses + 1);
    struct pintle_rig_bus *bus = &rig->bus[rig->buses];
    static const long usual_hz[] = { 100000, 1000000, 15000 };
    unsigned kind = 0;
    while (kind < PINTLE_BUS_ONEWIRE && strcmp(cfg_getstr(section, "kind"), kinds[kind]) != 0) {
        kind++;
    }
    long hz = cfg_getint(section, "speed");
    hz = hz == 0 || kind == PINTLE_BUS_ONEWIRE ? usual_hz[kind] : hz;
    *bus = (struct pintle_rig_bus){ .name = g_strdup(cfg_title(section)),
                                    .kind = (enum pintle_bus_kind)kind,
                                    .shared = cfg_getbool(section, "shared"),
                                    .speed_hz = (uint32_t)hz,
                                    .data_pin = g_strdup(cfg_getstr(section, "data")),
                                    .clock_pin = g_strdup(cfg_getstr(section, "clock")),
                                    .data_in_pin = g_strdup(cfg_getstr(section, "data-in")),
                                    .pull_up_ohm = cfg_getfloat(section, "pull-up"),
                                    .pull_up_v = cfg_getfloat(section, "pull-up-to"),
                                    .cable_m = cfg_getfloat(section, "cable"),
                                    .cable_pf_m = cfg_getfloat(section, "cable-pf") };
    rig->buses++;
    return check_speed(cfg, bus, hz);
}

/* Figures of the wiring are never below zero. */
static int check_positive(cfg_t *cfg, cfg_opt_t *opt)
{
    double value = cfg_opt_getnfloat(opt, 0);
    return value >= 0 && value < 1e9
               ? 0
               : conf_complain(cfg, "'%s' cannot be %g; it is a number from 0 up",
                               cfg_opt_name(opt), value);
}

/* A correction turns every value into the same one with a gain of 0. */
static int check_gain(cfg_t *cfg, cfg_opt_t *opt)
{
    double value = cfg_opt_getnfloat(opt, 0);
    return value != 0 && fabs(value) <= (double)FLT_MAX
               ? 0
               : conf_complain(cfg,
                               "'gain' cannot be %g; it is the factor of a correction, 1 or "
                               "near it",
                               value);
}

static int check_frozen(cfg_t *cfg, cfg_opt_t *opt)
{
    long value = cfg_opt_getnint(opt, 0);
    return value >= 0 && value <= UINT16_MAX
               ? 0
               : conf_complain(cfg,
                               "'frozen' cannot be %ld; it is a number of equal readings, up "
                               "to %d",
                               value, UINT16_MAX);
}

static void prepare(cfg_t *cfg)
{
    cfg_set_validate_func(cfg, "board|port", check_port);
    cfg_set_validate_func(cfg, "board|depth", check_depth);
    cfg_set_validate_func(cfg, "bus|kind", check_kind);
    static const char *const figures[] = {
        "board|logic",   "bus|pull-up",    "bus|pull-up-to",   "bus|cable",          "bus|cable-pf",
        "sensor|supply", "sensor|pull-up", "sensor|reference", "sensor|channel|jump"
    };
    for (size_t i = 0; i < G_N_ELEMENTS(figures); i++) {
        cfg_set_validate_func(cfg, figures[i], check_positive);
    }
    cfg_set_validate_func(cfg, "sensor|channel|gain", check_gain);
    cfg_set_validate_func(cfg, "sensor|channel|frozen", check_frozen);
    cfg_set_validate_func(cfg, "bus", take_bus);
    cfg_set_validate_func(cfg, "part", described_take);
    cfg_set_validate_func(cfg, "sensor|part", check_part);
    cfg_set_validate_func(cfg, "sensor|address", check_address);
    cfg_set_validate_func(cfg, "sensor", loading_sensor);
    cfg_set_validate_func(cfg, "log|every", check_duration);
}

static cfg_t *parse(const char *name, const char *text, struct pintle_problem *problem)
{
    cfg_opt_t board[] = {
        CFG_STR("name", "board", CFGF_NONE),      CFG_STR("port", "sim", CFGF_NONE),
        CFG_STR("depth", "transfers", CFGF_NONE), CFG_STR("world", NULL, CFGF_NODEFAULT),
        CFG_FLOAT("logic", 3.3, CFGF_NONE),       CFG_END()
    };
    cfg_opt_t bus[] = { CFG_STR("kind", "i2c", CFGF_NONE),
                        CFG_INT("speed", 0, CFGF_NONE),
                        CFG_STR("data", "", CFGF_NONE),
                        CFG_STR("data-in", "", CFGF_NONE),
                        CFG_STR("clock", "", CFGF_NONE),
                        CFG_FLOAT("pull-up", 0, CFGF_NONE),
                        CFG_FLOAT("pull-up-to", 3.3, CFGF_NONE),
                        CFG_FLOAT("cable", 0.2, CFGF_NONE),
                        CFG_FLOAT("cable-pf", 100, CFGF_NONE),
                        CFG_BOOL("shared", cfg_false, CFGF_NONE),
                        CFG_END() };
    cfg_opt_t channel[] = { CFG_FLOAT("gain", 1, CFGF_NONE),
                            CFG_FLOAT("offset", 0, CFGF_NONE),
                            CFG_FLOAT("jump", 0, CFGF_NONE),
                            CFG_INT("frozen", 0, CFGF_NONE),
                            CFG_STR("as", NULL, CFGF_NODEFAULT),
                            CFG_FLOAT_LIST("divider", "{}", CFGF_NONE),
                            CFG_FLOAT_LIST("thermistor", "{}", CFGF_NONE),
                            CFG_END() };
    cfg_opt_t sensor[] = { CFG_STR("part", NULL, CFGF_NODEFAULT),
                           CFG_STR("bus", NULL, CFGF_NODEFAULT),
                           CFG_INT("address", -1, CFGF_NONE),
                           CFG_STR("select", NULL, CFGF_NODEFAULT),
                           CFG_STR("code", NULL, CFGF_NODEFAULT),
                           CFG_FLOAT("supply", 3.3, CFGF_NONE),
                           CFG_FLOAT("reference", 3.3, CFGF_NONE),
                           CFG_STR_LIST("use", "{}", CFGF_NONE),
                           CFG_FLOAT("pull-up", 0, CFGF_NONE),
                           CFG_STR_LIST("set", "{}", CFGF_NONE),
                           CFG_SEC("channel", channel,
                                   CFGF_MULTI | CFGF_TITLE | CFGF_NO_TITLE_DUPES),
                           CFG_END() };
    cfg_opt_t log[] = { CFG_STR("every", "1 min", CFGF_NONE), CFG_STR("folder", "runs", CFGF_NONE),
                        CFG_END() };
    cfg_opt_t schema[] = { CFG_SEC("board", board, CFGF_NONE),
                           CFG_SEC("part", described_schema(), CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("bus", bus, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("sensor", sensor, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("log", log, CFGF_NONE),
                           CFG_END() };
    return conf_parse(schema, prepare, name, text, problem);
}

/* Everything but the world. */
static struct pintle_rig *build(const char *name, char *text, char *folder,
                                struct pintle_problem *problem)
{
    struct pintle_rig *rig = g_new0(struct pintle_rig, 1);
    rig->text = text;
    rig->folder = folder;
    rig->own = g_ptr_array_new_with_free_func(g_free);
    loading.rig = rig;
    loading.name = name;
    cfg_t *cfg = parse(name, text, problem);
    if (!cfg) {
        pintle_rig_free(rig);
        return NULL;
    }
    const char *world = cfg_getstr(cfg, "board|world");
    rig->board = g_strdup(cfg_getstr(cfg, "board|name"));
    rig->logic_v = cfg_getfloat(cfg, "board|logic");
    rig->wires = strcmp(cfg_getstr(cfg, "board|depth"), "wires") == 0;
    rig->world_path = world ? g_build_filename(folder, world, NULL) : NULL;
    rig->runs = g_path_is_absolute(cfg_getstr(cfg, "log|folder"))
                    ? g_strdup(cfg_getstr(cfg, "log|folder"))
                    : g_build_filename(folder, cfg_getstr(cfg, "log|folder"), NULL);
    pintle_duration_parse(cfg_getstr(cfg, "log|every"), &rig->every_us);
    cfg_free(cfg);
    if (rig->buses == 0) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "%s: it describes no bus; add a bus section, and a sensor section for "
                           "each sensor on it",
                           name);
        pintle_rig_free(rig);
        return NULL;
    }
    return rig;
}

struct pintle_rig *pintle_rig_load(const char *path, struct pintle_problem *problem)
{
    char *text = files_read(path, "rig file", problem);
    if (!text) {
        return NULL;
    }
    struct pintle_rig *rig = build(path, text, g_path_get_dirname(path), problem);
    if (!rig) {
        return NULL;
    }
    rig->path = g_strdup(path);
    if (!rig->world_path) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "%s: the board's port is 'sim' but it names no world; add world = "
                           "\"FILE\" to the board section",
                           path);
    } else {
        rig->world_text = files_read(rig->world_path, "world file", problem);
    }
    if (!rig->world_text) {
        pintle_rig_free(rig);
        return NULL;
    }
    return rig;
}

struct pintle_rig *pintle_rig_demo(struct pintle_problem *problem)
{
    struct pintle_rig *rig =
        build("(built in) sloop.rig", g_strdup(demo_rig), g_strdup(""), problem);
    if (rig) {
        rig->world_text = g_strdup(demo_world);
        g_free(rig->world_path);
        rig->world_path = g_strdup("(built in) sloop.world");
    }
    return rig;
}

void pintle_rig_free(struct pintle_rig *rig)
{
    if (!rig) {
        return;
    }
    for (unsigned i = 0; i < rig->buses; i++) {
        g_free(rig->bus[i].name);
        g_free(rig->bus[i].data_pin);
        g_free(rig->bus[i].clock_pin);
        g_free(rig->bus[i].data_in_pin);
        for (unsigned k = 0; k < rig->bus[i].selects; k++) {
            g_free(rig->bus[i].select_pin[k]);
        }
        g_free(rig->bus[i].select_pin);
    }
    g_free(rig->bus);
    g_free(rig->sensor);
    g_free(rig->part);
    g_ptr_array_free(rig->own, TRUE);
    g_free(rig->conflict);
    g_free(rig->path);
    g_free(rig->folder);
    g_free(rig->text);
    g_free(rig->board);
    g_free(rig->world_path);
    g_free(rig->world_text);
    g_free(rig->runs);
    g_free(rig);
}

int pintle_rig_find(const struct pintle_rig *rig, const char *name, struct pintle_problem *problem)
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
