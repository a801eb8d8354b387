/* Rig files: the schema, what is checked at which line, and the struct that comes out. */
#include "pintle/host/rig.h"

#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "host/conf.h"
#include "host/demo.h"
#include "host/files.h"

/* What the validate callbacks have gathered of the file being read. */
static struct {
    struct pintle_rig *rig;
    int address_line;
    int part_line;
} loading;

static const char *last_string(cfg_opt_t *opt)
{
    return cfg_opt_getnstr(opt, cfg_opt_size(opt) - 1);
}

static int check_part(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_problem inner = { 0 };
    loading.part_line = cfg->line;
    return pintle_rig_part(last_string(opt), &inner) ? 0 : conf_complain(cfg, "%s", inner.text);
}

static int check_address(cfg_t *cfg, cfg_opt_t *opt)
{
    (void)opt;
    loading.address_line = cfg->line;
    return 0;
}

static int check_kind(cfg_t *cfg, cfg_opt_t *opt)
{
    if (strcmp(last_string(opt), "i2c") == 0) {
        return 0;
    }
    return conf_complain(cfg, "bus '%s' is of kind '%s'; this version knows 'i2c'", cfg->title,
                         last_string(opt));
}

static int check_speed(cfg_t *cfg, cfg_opt_t *opt)
{
    long hz = cfg_opt_getnint(opt, 0);
    if (hz >= 1000 && hz <= 1000000) {
        return 0;
    }
    return conf_complain(cfg,
                         "bus '%s' cannot run at %ld Hz; I2C runs at 100000, 400000 or "
                         "1000000, and anything slower down to 1000",
                         cfg->title, hz);
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

/* "0x76 (SDO to GND) or 0x77 (SDO to VDDIO)" */
static char *addresses_text(const struct pintle_sheet *sheet)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < sheet->part->address_count; i++) {
        g_string_append_printf(text, "%s0x%02x (%s)", i ? " or " : "", sheet->straps[i].address,
                               sheet->straps[i].by);
    }
    return g_string_free(text, FALSE);
}

static bool can_sit(const struct pintle_sheet *sheet, long address)
{
    for (unsigned i = 0; i < sheet->part->address_count; i++) {
        if (sheet->straps[i].address == address) {
            return true;
        }
    }
    return false;
}

static int check_place(const struct pintle_rig_sensor *sensor, long address)
{
    char *where = addresses_text(sensor->sheet);
    const char *part = sensor->sheet->part->name;
    int result = 0;
    if (address < 0) {
        result = conf_complain_at(loading.part_line, "sensor '%s' has no address; a %s sits at %s",
                                  sensor->name, part, where);
    } else if (!can_sit(sensor->sheet, address) && can_sit(sensor->sheet, address >> 1)) {
        result =
            conf_complain_at(loading.address_line,
                             "sensor '%s': 0x%02lx looks like the 8-bit form of an address; "
                             "write the 7-bit one, 0x%02lx",
                             sensor->name, (unsigned long)address, (unsigned long)address >> 1);
    } else if (!can_sit(sensor->sheet, address)) {
        result = conf_complain_at(loading.address_line,
                                  "sensor '%s': a %s cannot sit at 0x%02lx; it sits at %s",
                                  sensor->name, part, (unsigned long)address, where);
    }
    g_free(where);
    return result;
}

/* Another sensor at the same place, or of the same name. */
static int check_twins(const struct pintle_rig *rig, const struct pintle_rig_sensor *sensor)
{
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_rig_sensor *other = &rig->sensor[i];
        if (strcmp(other->name, sensor->name) == 0) {
            return conf_complain_at(loading.part_line,
                                    "there is a sensor '%s' already; give each its own name",
                                    sensor->name);
        }
        if (other->bus == sensor->bus && other->address == sensor->address) {
            return conf_complain_at(
                loading.address_line,
                "sensors '%s' and '%s' both sit at 0x%02x on bus '%s'; move one to another "
                "address with its strap, or to another bus",
                other->name, sensor->name, sensor->address, rig->bus[sensor->bus].name);
        }
    }
    return 0;
}

static int take_channel(struct pintle_rig_sensor *sensor, cfg_t *section)
{
    int index = pintle_sheet_channel(sensor->sheet, cfg_title(section));
    if (index < 0) {
        return conf_complain(section, "sensor '%s': a %s has no channel '%s'", sensor->name,
                             sensor->sheet->part->name, cfg_title(section));
    }
    struct pintle_rig_channel *channel = &sensor->channel[index];
    channel->correction.gain = (float)cfg_getfloat(section, "gain");
    channel->correction.offset = (float)cfg_getfloat(section, "offset");
    channel->correction.set =
        cfg_getfloat(section, "gain") != 1 || cfg_getfloat(section, "offset") != 0;
    channel->jump = (float)cfg_getfloat(section, "jump");
    channel->frozen = (uint16_t)CLAMP(cfg_getint(section, "frozen"), 0, UINT16_MAX);
    return 0;
}

/* A whole sensor section has been read. */
static int take_sensor(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_rig *rig = loading.rig;
    cfg_t *section = cfg_opt_getnsec(opt, cfg_opt_size(opt) - 1);
    if (rig->sensors == PINTLE_RIG_SENSORS) {
        return conf_complain(cfg, "a rig has room for %d sensors", PINTLE_RIG_SENSORS);
    }
    struct pintle_rig_sensor sensor = { .name = (char *)(uintptr_t)cfg_title(section) };
    const char *part = cfg_getstr(section, "part");
    if (!part) {
        return conf_complain(cfg, "sensor '%s' names no part; add part = \"...\"", sensor.name);
    }
    sensor.sheet = pintle_sheet_find(part);
    const char *bus = cfg_getstr(section, "bus");
    int bus_index = bus ? pintle_rig_bus(rig, bus) : 0;
    if (bus_index < 0 || rig->buses == 0) {
        return conf_complain(cfg,
                             "sensor '%s' is on bus '%s', which no bus section before it "
                             "describes",
                             sensor.name, bus ? bus : "");
    }
    sensor.bus = (unsigned)bus_index;
    long address = cfg_getint(section, "address");
    sensor.address = (uint8_t)address;
    if (check_place(&sensor, address) != 0 || check_twins(rig, &sensor) != 0) {
        return -1;
    }
    sensor.supply_v = cfg_getfloat(section, "supply");
    sensor.pull_up_ohm = cfg_getfloat(section, "pull-up");
    pintle_part_initial(sensor.sheet->part, sensor.settings);
    for (unsigned i = 0; i < cfg_size(section, "set"); i++) {
        struct pintle_problem inner = { 0 };
        if (!pintle_rig_setting(sensor.sheet, cfg_getnstr(section, "set", i), sensor.settings,
                                &inner)) {
            return conf_complain(cfg, "sensor '%s': %s", sensor.name, inner.text);
        }
    }
    for (unsigned i = 0; i < cfg_size(section, "channel"); i++) {
        if (take_channel(&sensor, cfg_getnsec(section, "channel", i)) != 0) {
            return -1;
        }
    }
    sensor.name = g_strdup(sensor.name);
    rig->sensor[rig->sensors++] = sensor;
    return 0;
}

static int take_bus(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_rig *rig = loading.rig;
    cfg_t *section = cfg_opt_getnsec(opt, cfg_opt_size(opt) - 1);
    if (rig->buses == PINTLE_RIG_BUSES) {
        return conf_complain(cfg, "a rig has room for %d buses", PINTLE_RIG_BUSES);
    }
    struct pintle_rig_bus *bus = &rig->bus[rig->buses];
    bus->name = g_strdup(cfg_title(section));
    bus->speed_hz = (uint32_t)cfg_getint(section, "speed");
    bus->data_pin = g_strdup(cfg_getstr(section, "data"));
    bus->clock_pin = g_strdup(cfg_getstr(section, "clock"));
    bus->pull_up_ohm = cfg_getfloat(section, "pull-up");
    bus->pull_up_v = cfg_getfloat(section, "pull-up-to");
    bus->cable_m = cfg_getfloat(section, "cable");
    bus->cable_pf_m = cfg_getfloat(section, "cable-pf");
    rig->buses++;
    return 0;
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

static void prepare(cfg_t *cfg)
{
    cfg_set_validate_func(cfg, "board|port", check_port);
    cfg_set_validate_func(cfg, "board|depth", check_depth);
    cfg_set_validate_func(cfg, "bus|kind", check_kind);
    cfg_set_validate_func(cfg, "bus|speed", check_speed);
    static const char *const figures[] = { "board|logic",   "bus|pull-up",  "bus|pull-up-to",
                                           "bus|cable",     "bus|cable-pf", "sensor|supply",
                                           "sensor|pull-up" };
    for (size_t i = 0; i < G_N_ELEMENTS(figures); i++) {
        cfg_set_validate_func(cfg, figures[i], check_positive);
    }
    cfg_set_validate_func(cfg, "bus", take_bus);
    cfg_set_validate_func(cfg, "sensor|part", check_part);
    cfg_set_validate_func(cfg, "sensor|address", check_address);
    cfg_set_validate_func(cfg, "sensor", take_sensor);
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
                        CFG_INT("speed", 100000, CFGF_NONE),
                        CFG_STR("data", "", CFGF_NONE),
                        CFG_STR("clock", "", CFGF_NONE),
                        CFG_FLOAT("pull-up", 0, CFGF_NONE),
                        CFG_FLOAT("pull-up-to", 3.3, CFGF_NONE),
                        CFG_FLOAT("cable", 0.2, CFGF_NONE),
                        CFG_FLOAT("cable-pf", 100, CFGF_NONE),
                        CFG_END() };
    cfg_opt_t channel[] = { CFG_FLOAT("gain", 1, CFGF_NONE), CFG_FLOAT("offset", 0, CFGF_NONE),
                            CFG_FLOAT("jump", 0, CFGF_NONE), CFG_INT("frozen", 0, CFGF_NONE),
                            CFG_END() };
    cfg_opt_t sensor[] = { CFG_STR("part", NULL, CFGF_NODEFAULT),
                           CFG_STR("bus", NULL, CFGF_NODEFAULT),
                           CFG_INT("address", -1, CFGF_NONE),
                           CFG_FLOAT("supply", 3.3, CFGF_NONE),
                           CFG_FLOAT("pull-up", 0, CFGF_NONE),
                           CFG_STR_LIST("set", "{}", CFGF_NONE),
                           CFG_SEC("channel", channel, CFGF_MULTI | CFGF_TITLE),
                           CFG_END() };
    cfg_opt_t log[] = { CFG_STR("every", "1 min", CFGF_NONE), CFG_STR("folder", "runs", CFGF_NONE),
                        CFG_END() };
    cfg_opt_t schema[] = { CFG_SEC("board", board, CFGF_NONE),
                           CFG_SEC("bus", bus, CFGF_MULTI | CFGF_TITLE | CFGF_NO_TITLE_DUPES),
                           CFG_SEC("sensor", sensor, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("log", log, CFGF_NONE), CFG_END() };
    return conf_parse(schema, prepare, name, text, problem);
}

/* Everything but the world. */
static struct pintle_rig *build(const char *name, char *text, char *folder,
                                struct pintle_problem *problem)
{
    struct pintle_rig *rig = g_new0(struct pintle_rig, 1);
    rig->text = text;
    rig->folder = folder;
    loading.rig = rig;
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
    if (rig->sensors == 0) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "%s: it describes no sensor; add a sensor section", name);
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
    }
    for (unsigned i = 0; i < rig->sensors; i++) {
        g_free(rig->sensor[i].name);
    }
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
    const char *names[PINTLE_RIG_SENSORS];
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (strcmp(rig->sensor[i].name, name) == 0) {
            g_string_free(all, TRUE);
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
    g_string_free(all, TRUE);
    return -1;
}
