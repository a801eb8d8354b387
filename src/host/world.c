#include "host/world.h"

#include <glib.h>
#include <string.h>

#include "host/conf.h"

/* What the validate callbacks build on. Sections come in order: quantities, chips that feel them,
 * what goes wrong with those. */
static struct {
    struct pintle_station *station;
    GPtrArray *quantities; /* names, of the station's curves */
    GPtrArray *chips;      /* names, of the simulation's chips */
    GPtrArray *clocks;     /* chips that somebody has set before the world began */
    GPtrArray *lines;      /* buses that have been described */
} building;

static int name_index(const GPtrArray *names, const char *name)
{
    guint i = 0;
    while (i < names->len && strcmp(names->pdata[i], name) != 0) {
        i++;
    }
    return i < names->len ? (int)i : -1;
}

/* Remember a title that may come only once. */
static int take_title(cfg_t *cfg, GPtrArray *names, const char *what, const char *title)
{
    if (name_index(names, title) >= 0) {
        return conf_complain(cfg, "there is a %s '%s' already; give each its own name", what,
                             title);
    }
    g_ptr_array_add(names, g_strdup(title));
    return 0;
}

static bool seconds(cfg_t *cfg, const char *text, double *s)
{
    int64_t us = 0;
    if (!pintle_duration_parse(text, &us)) {
        conf_complain(cfg, "'%s' is no duration; write for example \"1d 6h\"", text);
        return false;
    }
    *s = (double)us / 1e6;
    return true;
}

/* "6h 12.5": a time and a value, the last word being the value. */
static bool take_point(cfg_t *cfg, const char *text, struct pintle_point *point)
{
    const char *blank = strrchr(text, ' ');
    if (!blank) {
        conf_complain(cfg, "'%s' is no point; write a time and a value, as in \"6h 12.5\"", text);
        return false;
    }
    char *when = g_strndup(text, (gsize)(blank - text));
    bool ok = conf_number(cfg, blank + 1, &point->value) && seconds(cfg, when, &point->t);
    g_free(when);
    return ok;
}

static int take_points(cfg_t *cfg, cfg_t *section, struct pintle_curve *curve)
{
    unsigned count = cfg_size(section, "points");
    if (count == 0) {
        return 0;
    }
    struct pintle_point *points = g_new0(struct pintle_point, count);
    curve->points = points;
    curve->count = count;
    for (unsigned i = 0; i < count; i++) {
        if (!take_point(cfg, cfg_getnstr(section, "points", i), &points[i])) {
            return -1;
        }
        if (i > 0 && points[i].t <= points[i - 1].t) {
            return conf_complain(cfg, "quantity '%s': its points are not in order of time",
                                 cfg_title(section));
        }
    }
    return 0;
}

static int take_quantity(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_station *station = building.station;
    cfg_t *section = conf_section(opt);
    if (take_title(cfg, building.quantities, "quantity", cfg_title(section)) != 0) {
        return -1;
    }
    station->curves = g_renew(struct pintle_curve, station->curves, station->curve_count + 1);
    struct pintle_curve *curve = &station->curves[station->curve_count++];
    *curve = (struct pintle_curve){ .level = cfg_getfloat(section, "level"),
                                    .swing = cfg_getfloat(section, "swing") };
    if (!seconds(cfg, cfg_getstr(section, "period"), &curve->period_s)
        || !seconds(cfg, cfg_getstr(section, "phase"), &curve->phase_s)) {
        return -1;
    }
    return take_points(cfg, section, curve);
}

/* --- chips --- */

static int take_feel(cfg_t *cfg, struct pintle_sim_chip *chip, const char *assignment)
{
    char **sides = g_strsplit(assignment, "=", 2);
    int i = name_index(building.quantities, sides[0] && sides[1] ? sides[1] : "");
    int result = 0;
    if (i < 0) {
        result = conf_complain(cfg, "'%s': write INPUT=QUANTITY with a quantity described above",
                               assignment);
    } else if (pintle_sim_feel(chip, sides[0], &building.station->curves[i]) != PINTLE_OK) {
        result =
            conf_complain(cfg, "a simulated %s does not feel '%s'", chip->model->name, sides[0]);
    }
    g_strfreev(sides);
    return result;
}

static int take_error(cfg_t *cfg, struct pintle_sim_chip *chip, const char *assignment)
{
    char **sides = g_strsplit(assignment, "=", 2);
    double error = 0;
    bool ok = sides[0] && sides[1] && conf_number(cfg, sides[1], &error);
    bool input = ok && pintle_sim_error(chip, sides[0], error) == PINTLE_OK;
    g_strfreev(sides);
    if (ok && !input) {
        conf_complain(cfg, "'%s': a simulated %s has no such input", assignment, chip->model->name);
    } else if (!ok) {
        conf_complain(cfg, "'%s': write INPUT=NUMBER", assignment);
    }
    return input ? 0 : -1;
}

/* Over the bus, as anybody would. It takes time, so it comes last: everything has been switched on
 * by then. */
static bool set_clock(struct pintle_sim_chip *chip, struct pintle_problem *problem)
{
    struct pintle_sim *sim = chip->sim;
    struct pintle_i2c bus = pintle_sim_i2c(sim, chip->bus);
    struct pintle_clock clock = pintle_sim_clock(sim);
    struct pintle_sensor sensor;
    enum pintle_status status =
        pintle_sensor_on_i2c(&sensor, &pintle_ds3231, &bus, &clock, chip->address, NULL);
    if (status == PINTLE_OK) {
        status = pintle_ds3231_set(&sensor, sim->began_us / 1000000);
    }
    return status == PINTLE_OK
           || pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s: clock '%s' cannot be set: %s",
                                 building.station->rig->world_path,
                                 (char *)building.chips->pdata[chip - sim->chip],
                                 pintle_status_sentence(status));
}

/* The select line that the rig knows by this pin. */
static int take_select(cfg_t *cfg, const char *pin, struct pintle_sim_chip *chip)
{
    const struct pintle_rig_bus *bus = &building.station->rig->bus[chip->bus];
    for (unsigned i = 0; pin && i < bus->selects; i++) {
        if (strcmp(bus->select_pin[i], pin) == 0) {
            chip->address = (uint8_t)i;
            return 0;
        }
    }
    return conf_complain(cfg,
                         "a simulated %s needs the select pin of one of the sensors on bus '%s'",
                         chip->model->name, bus->name);
}

static int take_place(cfg_t *cfg, cfg_t *section, struct pintle_sim_chip *chip)
{
    const char *code = cfg_getstr(section, "code");
    const char *power = cfg_getstr(section, "power");
    long address = cfg_getint(section, "address");
    bool parasite = strcmp(power, "parasite") == 0;
    const struct pintle_rig_bus *bus = &building.station->rig->bus[chip->bus];
    if ((int)chip->model->kind != (int)bus->kind) {
        return conf_complain(cfg, "a simulated %s cannot sit on bus '%s', which is %s",
                             chip->model->name, bus->name, pintle_bus_word(bus->kind));
    }
    if (!parasite && strcmp(power, "external") != 0) {
        return conf_complain(cfg, "a chip's power is external or parasite, not '%s'", power);
    }
    chip->rom.parasite = parasite;
    switch (chip->model->kind) {
    case PINTLE_SIM_I2C:
        chip->address = (uint8_t)address;
        return address >= 0 && address <= 0x7f
                   ? 0
                   : conf_complain(cfg, "a simulated %s needs an address of 7 bits, up to 0x7f",
                                   chip->model->name);
    case PINTLE_SIM_SPI:
        return take_select(cfg, cfg_getstr(section, "select"), chip);
    default:
        return code && pintle_code_parse(code, chip->rom.code)
                   ? 0
                   : conf_complain(cfg,
                                   "a simulated %s needs a code, as in "
                                   "\"28.4c1e72070000.ab\"",
                                   chip->model->name);
    }
}

/* A converter measures against what the rig says that is wired to its reference pin, unless the
 * world feeds that. */
static void follow_reference(struct pintle_sim_chip *chip)
{
    const struct pintle_rig *rig = building.station->rig;
    for (unsigned i = 0; i < rig->sensors && chip->model->kind == PINTLE_SIM_SPI; i++) {
        const struct pintle_rig_sensor *s = &rig->sensor[i];
        if (s->bus == chip->bus && s->place.select == chip->address) {
            const struct pintle_curve level = { .level = s->reference_v };
            (void)!pintle_sim_feel(chip, "reference", &level);
        }
    }
}

static struct pintle_sim_chip *add_chip(cfg_t *cfg, cfg_t *section)
{
    struct pintle_station *station = building.station;
    const char *title = cfg_title(section);
    const char *part = cfg_getstr(section, "part");
    const char *bus_name = cfg_getstr(section, "bus");
    int bus = bus_name ? pintle_rig_bus(station->rig, bus_name) : 0;
    if (bus < 0) {
        conf_complain(cfg, "chip '%s' is on a bus that the rig does not have", title);
        return NULL;
    }
    struct pintle_sim_chip *chip =
        part ? pintle_sim_add(&station->sim, part, (uint16_t)bus, 0) : NULL;
    if (!chip) {
        GString *known = g_string_new(NULL);
        for (size_t i = 0; pintle_sim_model_at(i); i++) {
            g_string_append_printf(known, "%s%s", i ? ", " : "", pintle_sim_model_at(i)->name);
        }
        conf_complain(cfg, "chip '%s': there is no simulated '%s'; there are %s", title,
                      part ? part : "", known->str);
        g_string_free(known, TRUE);
    }
    return chip;
}

static int take_chip(cfg_t *cfg, cfg_opt_t *opt)
{
    cfg_t *section = conf_section(opt);
    if (take_title(cfg, building.chips, "chip", cfg_title(section)) != 0) {
        return -1;
    }
    struct pintle_sim_chip *chip = add_chip(cfg, section);
    if (!chip || take_place(cfg, section, chip) != 0) {
        return -1;
    }
    follow_reference(chip);
    for (unsigned i = 0; i < cfg_size(section, "feels"); i++) {
        if (take_feel(cfg, chip, cfg_getnstr(section, "feels", i)) != 0) {
            return -1;
        }
    }
    for (unsigned i = 0; i < cfg_size(section, "errors"); i++) {
        if (take_error(cfg, chip, cfg_getnstr(section, "errors", i)) != 0) {
            return -1;
        }
    }
    if (cfg_getbool(section, "set")) {
        g_ptr_array_add(building.clocks, chip);
        if (strcmp(chip->model->name, "DS3231") != 0) {
            return conf_complain(cfg, "chip '%s' is no clock that could be set",
                                 cfg_title(section));
        }
    }
    return 0;
}

/* --- what goes wrong --- */

/* A word among `words`: its index; where there is none, which there are is said. */
static int take_kind(cfg_t *cfg, const char *const *words, const char *word)
{
    int k = 0;
    while (words[k] && g_strcmp0(word, words[k]) != 0) {
        k++;
    }
    if (!words[k]) {
        char *all = g_strjoinv(", ", (char **)(uintptr_t)words);
        conf_complain(cfg, "'%s' is no kind of what can go wrong; there are %s", word ? word : "",
                      all);
        g_free(all);
        return -1;
    }
    return k;
}

/* The time that they have in common, and into the simulation. Every section counts, also of a title
 * that was there before. */
static int plan(cfg_t *cfg, cfg_t *section, struct pintle_sim_fault *fault)
{
    double from = 0;
    double to = 0;
    if (!seconds(cfg, cfg_getstr(section, "from"), &from)
        || !seconds(cfg, cfg_getstr(section, "to"), &to)) {
        return -1;
    }
    fault->from_us = (uint64_t)(from * 1e6);
    fault->to_us = (uint64_t)(to * 1e6);
    return pintle_sim_add_fault(&building.station->sim, fault) == PINTLE_OK
               ? 0
               : conf_complain(cfg, "there are too many faults and troubles for this simulation");
}

static int take_fault(cfg_t *cfg, cfg_opt_t *opt)
{
    static const struct {
        const char *words[9];
        enum pintle_sim_fault_kind kinds[8];
    } known = { { "unplugged", "brown-out", "silent", "flipped", "deafening", "frozen", "cut",
                  "meddled", NULL },
                { PINTLE_SIM_UNPLUGGED, PINTLE_SIM_UNPLUGGED, PINTLE_SIM_SILENT, PINTLE_SIM_FLIPPED,
                  PINTLE_SIM_DEAFENING, PINTLE_SIM_FROZEN, PINTLE_SIM_CUT, PINTLE_SIM_MEDDLED } };
    cfg_t *section = conf_section(opt);
    int k = take_kind(cfg, known.words, cfg_getstr(section, "kind"));
    int chip = name_index(building.chips, cfg_title(section));
    if (k < 0) {
        return -1;
    }
    if (chip < 0) {
        return conf_complain(cfg, "fault '%s': it has the name of a chip described above",
                             cfg_title(section));
    }
    struct pintle_sim_fault fault = { .kind = known.kinds[k], .chip = (uint16_t)chip };
    unsigned bus = building.station->sim.chip[chip].bus;
    if (fault.kind == PINTLE_SIM_MEDDLED && !building.station->rig->bus[bus].shared) {
        return conf_complain(cfg,
                             "fault '%s': only on a bus with shared = true in the rig file can "
                             "another master meddle",
                             cfg_title(section));
    }
    return plan(cfg, section, &fault);
}

static int take_lines(cfg_t *cfg, cfg_opt_t *opt)
{
    cfg_t *section = conf_section(opt);
    int bus = pintle_rig_bus(building.station->rig, cfg_title(section));
    double ohm = cfg_getfloat(section, "pull-up");
    double pf = cfg_getfloat(section, "capacitance");
    if (take_title(cfg, building.lines, "description of the lines", cfg_title(section)) != 0) {
        return -1;
    }
    if (bus < 0 || !(ohm > 0) || !(pf > 0)) {
        return conf_complain(cfg,
                             "lines '%s': a bus of the rig, with a pull-up in ohms and a "
                             "capacitance in picofarads above 0",
                             cfg_title(section));
    }
    building.station->cable[bus].pull_up_ohm = ohm;
    building.station->cable[bus].capacitance_pf = pf;
    return 0;
}

static int take_trouble(cfg_t *cfg, cfg_opt_t *opt)
{
    /* in the order of enum pintle_sim_trouble */
    static const char *const words[] = { "data-low", "clock-low", "no-pull-up", "swapped",
                                         "touching", "stretched", "held",       "noise",
                                         "off",      NULL };
    cfg_t *section = conf_section(opt);
    int bus = pintle_rig_bus(building.station->rig, cfg_title(section));
    int k = take_kind(cfg, words, cfg_getstr(section, "kind"));
    long amount = cfg_getint(section, "amount");
    if (k < 0) {
        return -1;
    }
    if (bus < 0 || amount < 0 || amount > INT32_MAX) {
        return conf_complain(cfg,
                             "trouble '%s': it has the name of a bus of the rig, and an amount "
                             "from 0 up",
                             cfg_title(section));
    }
    struct pintle_sim_fault fault = { .kind = PINTLE_SIM_OFF,
                                      .chip = (uint16_t)bus,
                                      .amount = (uint32_t)amount };
    if (strcmp(words[k], "off") != 0) {
        fault.kind = PINTLE_SIM_LINES;
        fault.trouble = (uint8_t)(1u << k);
    }
    return plan(cfg, section, &fault);
}

/* --- the clock on the wall --- */

static int take_began(cfg_t *cfg, cfg_opt_t *opt)
{
    const char *text = cfg_opt_getnstr(opt, 0);
    GDateTime *time = g_date_time_new_from_iso8601(text, NULL);
    if (!time) {
        return conf_complain(cfg, "'%s' is no time; write it as in \"2026-06-12T00:00:00Z\"", text);
    }
    building.station->sim.began_us = g_date_time_to_unix(time) * 1000000;
    g_date_time_unref(time);
    return 0;
}

static int take_seed(cfg_t *cfg, cfg_opt_t *opt)
{
    (void)cfg;
    building.station->sim.seed = (uint64_t)cfg_opt_getnint(opt, 0);
    return 0;
}

static int take_clock_set(cfg_t *cfg, cfg_opt_t *opt)
{
    (void)cfg;
    building.station->sim.unset = !cfg_opt_getnbool(opt, 0);
    return 0;
}

/* "10min +1h": when somebody sets it, and by how much. */
static bool parse_step(const char *text, struct pintle_sim_step *step)
{
    const char *sign = strpbrk(text, "+-");
    char *when = g_strndup(text, sign ? (gsize)(sign - text) : 0);
    int64_t at = 0;
    int64_t by = 0;
    bool ok = sign && pintle_duration_parse(g_strchomp(when), &at)
              && pintle_duration_parse(sign + 1, &by);
    *step = (struct pintle_sim_step){ (uint64_t)at, sign && *sign == '-' ? -by : by };
    g_free(when);
    return ok;
}

/* Called again and again while the list grows. */
static int take_steps(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_station *station = building.station;
    struct pintle_sim *sim = &station->sim;
    unsigned count = cfg_opt_size(opt);
    station->steps = g_renew(struct pintle_sim_step, station->steps, count);
    sim->step = station->steps;
    for (; sim->steps < count; sim->steps++) {
        struct pintle_sim_step *step = &station->steps[sim->steps];
        const char *text = cfg_opt_getnstr(opt, sim->steps);
        if (!parse_step(text, step) || (sim->steps > 0 && step->at_us <= step[-1].at_us)) {
            return conf_complain(cfg,
                                 "'%s' is no step of the clock; write when and by how much, as in "
                                 "\"10min +1h\" or \"2h -30s\", in order of time",
                                 text);
        }
    }
    return 0;
}

static void prepare(cfg_t *cfg)
{
    cfg_set_validate_func(cfg, "began", take_began);
    cfg_set_validate_func(cfg, "seed", take_seed);
    cfg_set_validate_func(cfg, "clock-set", take_clock_set);
    cfg_set_validate_func(cfg, "clock-steps", take_steps);
    cfg_set_validate_func(cfg, "quantity", take_quantity);
    cfg_set_validate_func(cfg, "chip", take_chip);
    cfg_set_validate_func(cfg, "fault", take_fault);
    cfg_set_validate_func(cfg, "lines", take_lines);
    cfg_set_validate_func(cfg, "trouble", take_trouble);
}

static cfg_t *parse(const struct pintle_rig *rig, struct pintle_problem *problem)
{
    cfg_opt_t quantity[] = {
        CFG_STR_LIST("points", "{}", CFGF_NONE), CFG_FLOAT("level", 0, CFGF_NONE),
        CFG_FLOAT("swing", 0, CFGF_NONE),        CFG_STR("period", "0s", CFGF_NONE),
        CFG_STR("phase", "0s", CFGF_NONE),       CFG_END()
    };
    cfg_opt_t chip[] = {
        CFG_STR("part", NULL, CFGF_NODEFAULT),  CFG_STR("bus", NULL, CFGF_NODEFAULT),
        CFG_INT("address", 0, CFGF_NONE),       CFG_STR("select", NULL, CFGF_NODEFAULT),
        CFG_STR("code", NULL, CFGF_NODEFAULT),  CFG_STR("power", "external", CFGF_NONE),
        CFG_STR_LIST("feels", "{}", CFGF_NONE), CFG_STR_LIST("errors", "{}", CFGF_NONE),
        CFG_BOOL("set", cfg_false, CFGF_NONE),  CFG_END()
    };
    cfg_opt_t fault[] = { CFG_STR("kind", NULL, CFGF_NODEFAULT), CFG_STR("from", "0s", CFGF_NONE),
                          CFG_STR("to", "36500d", CFGF_NONE), CFG_END() };
    cfg_opt_t lines[] = { CFG_FLOAT("pull-up", 4700, CFGF_NONE),
                          CFG_FLOAT("capacitance", 100, CFGF_NONE), CFG_END() };
    cfg_opt_t trouble[] = { CFG_STR("kind", NULL, CFGF_NODEFAULT), CFG_STR("from", "0s", CFGF_NONE),
                            CFG_STR("to", "36500d", CFGF_NONE), CFG_INT("amount", 9, CFGF_NONE),
                            CFG_END() };
    cfg_opt_t schema[] = { CFG_STR("began", "2026-06-12T00:00:00Z", CFGF_NONE),
                           CFG_INT("seed", 1, CFGF_NONE),
                           CFG_BOOL("clock-set", cfg_true, CFGF_NONE),
                           CFG_STR_LIST("clock-steps", "{}", CFGF_NONE),
                           CFG_SEC("quantity", quantity, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("chip", chip, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("fault", fault, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("lines", lines, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("trouble", trouble, CFGF_MULTI | CFGF_TITLE),
                           CFG_END() };
    return conf_parse(schema, prepare, rig->world_path, rig->world_text, problem);
}

bool world_build(struct pintle_station *station, struct pintle_problem *problem)
{
    building.station = station;
    building.quantities = g_ptr_array_new_with_free_func(g_free);
    building.chips = g_ptr_array_new_with_free_func(g_free);
    building.lines = g_ptr_array_new_with_free_func(g_free);
    building.clocks = g_ptr_array_new();
    cfg_t *cfg = parse(station->rig, problem);
    bool ok = cfg != NULL;
    for (guint i = 0; ok && i < building.clocks->len; i++) {
        ok = set_clock(building.clocks->pdata[i], problem);
    }
    if (cfg) {
        cfg_free(cfg);
    }
    g_ptr_array_free(building.quantities, TRUE);
    g_ptr_array_free(building.chips, TRUE);
    g_ptr_array_free(building.lines, TRUE);
    g_ptr_array_free(building.clocks, TRUE);
    return ok;
}
