#include "host/world.h"

#include <glib.h>
#include <string.h>

#include "host/conf.h"

/* What the validate callbacks build on. */
static struct {
    struct pintle_station *station;
    const char *names[64]; /* of the curves */
    const char *chips[PINTLE_SIM_CHIPS];
    bool clock_set[PINTLE_SIM_CHIPS]; /* somebody has set this clock before the world began */
} building;

static int check_time(cfg_t *cfg, cfg_opt_t *opt)
{
    const char *text = cfg_opt_getnstr(opt, 0);
    GDateTime *time = g_date_time_new_from_iso8601(text, NULL);
    if (!time) {
        return conf_complain(cfg, "'%s' is no time; write it as in \"2026-06-12T00:00:00Z\"", text);
    }
    g_date_time_unref(time);
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
    char *end = NULL;
    if (!blank) {
        conf_complain(cfg, "'%s' is no point; write a time and a value, as in \"6h 12.5\"", text);
        return false;
    }
    point->value = g_ascii_strtod(blank + 1, &end);
    char *when = g_strndup(text, (gsize)(blank - text));
    bool ok = *end == '\0' && end > blank + 1;
    if (!ok) {
        conf_complain(cfg, "'%s' ends in no number", text);
    }
    ok = ok && seconds(cfg, when, &point->t);
    g_free(when);
    return ok;
}

static int take_points(cfg_t *cfg, cfg_t *section, struct pintle_curve *curve)
{
    unsigned count = cfg_size(section, "points");
    struct pintle_point *points = g_new0(struct pintle_point, count + 1);
    curve->points = count ? points : NULL;
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
    if (!count) {
        g_free(points);
    }
    return 0;
}

static int take_quantity(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_station *station = building.station;
    cfg_t *section = cfg_opt_getnsec(opt, cfg_opt_size(opt) - 1);
    unsigned index = station->curve_count;
    if (index == G_N_ELEMENTS(building.names)) {
        return conf_complain(cfg, "a world has room for %u quantities", index);
    }
    station->curves = g_renew(struct pintle_curve, station->curves, index + 1);
    struct pintle_curve *curve = &station->curves[index];
    *curve = (struct pintle_curve){ .level = cfg_getfloat(section, "level"),
                                    .swing = cfg_getfloat(section, "swing") };
    building.names[index] = cfg_title(section);
    station->curve_count++;
    if (!seconds(cfg, cfg_getstr(section, "period"), &curve->period_s)
        || !seconds(cfg, cfg_getstr(section, "phase"), &curve->phase_s)) {
        return -1;
    }
    return take_points(cfg, section, curve);
}

static int take_feel(cfg_t *cfg, struct pintle_sim_chip *chip, const char *assignment)
{
    char **sides = g_strsplit(assignment, "=", 2);
    const char *quantity = sides[0] && sides[1] ? sides[1] : "";
    int result = 0;
    unsigned i = 0;
    while (i < building.station->curve_count && strcmp(building.names[i], quantity) != 0) {
        i++;
    }
    if (i == building.station->curve_count) {
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
    bool ok = sides[0] && sides[1]
              && pintle_sim_error(chip, sides[0], g_ascii_strtod(sides[1], NULL)) == PINTLE_OK;
    g_strfreev(sides);
    return ok ? 0
              : conf_complain(cfg, "'%s': write INPUT=NUMBER with an input of a %s", assignment,
                              chip->model->name);
}

/* Over the bus, as anybody would. It takes time, so it comes last: everything has been switched on
 * by then. */
static bool set_clock(struct pintle_sim_chip *chip, const char *name,
                      struct pintle_problem *problem)
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
                                 building.station->rig->world_path, name,
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
        chip->address = (uint8_t)cfg_getint(section, "address");
        return 0;
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

static int take_chip(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_station *station = building.station;
    cfg_t *section = cfg_opt_getnsec(opt, cfg_opt_size(opt) - 1);
    const char *part = cfg_getstr(section, "part");
    const char *bus_name = cfg_getstr(section, "bus");
    int bus = bus_name ? pintle_rig_bus(station->rig, bus_name) : 0;
    if (bus < 0) {
        return conf_complain(cfg, "chip '%s' is on a bus that the rig does not have",
                             cfg_title(section));
    }
    struct pintle_sim_chip *chip =
        part ? pintle_sim_add(&station->sim, part, (uint8_t)bus, 0) : NULL;
    if (!chip) {
        return conf_complain(cfg, "chip '%s': there is no simulated '%s', or no room for it",
                             cfg_title(section), part ? part : "");
    }
    building.chips[station->sim.chips - 1] = cfg_title(section);
    if (take_place(cfg, section, chip) != 0) {
        return -1;
    }
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
    building.clock_set[station->sim.chips - 1] = cfg_getbool(section, "set");
    if (cfg_getbool(section, "set") && strcmp(chip->model->name, "DS3231") != 0) {
        return conf_complain(cfg, "chip '%s' is no clock that could be set", chip->model->name);
    }
    return 0;
}

static int take_fault(cfg_t *cfg, cfg_opt_t *opt)
{
    static const char *const kinds[] = { "unplugged", "silent", "flipped", "deafening" };
    struct pintle_sim *sim = &building.station->sim;
    cfg_t *section = cfg_opt_getnsec(opt, cfg_opt_size(opt) - 1);
    struct pintle_sim_fault fault = { 0 };
    const char *kind = cfg_getstr(section, "kind");
    double from = 0;
    double to = 0;
    unsigned k = 0;
    while (k < G_N_ELEMENTS(kinds) && g_strcmp0(kind, kinds[k]) != 0) {
        k++;
    }
    while (fault.chip < sim->chips
           && g_strcmp0(building.chips[fault.chip], cfg_title(section)) != 0) {
        fault.chip++;
    }
    if (k == G_N_ELEMENTS(kinds) || fault.chip == sim->chips) {
        return conf_complain(cfg, "a fault needs a chip described above, and a kind: unplugged, "
                                  "silent, flipped or deafening");
    }
    if (!seconds(cfg, cfg_getstr(section, "from"), &from)
        || !seconds(cfg, cfg_getstr(section, "to"), &to)) {
        return -1;
    }
    fault.kind = (enum pintle_sim_fault_kind)k;
    fault.from_us = (uint64_t)(from * 1e6);
    fault.to_us = (uint64_t)(to * 1e6);
    return pintle_sim_add_fault(sim, &fault) == PINTLE_OK
               ? 0
               : conf_complain(cfg, "a world has room for %d faults", PINTLE_SIM_FAULTS);
}

static int take_lines(cfg_t *cfg, cfg_opt_t *opt)
{
    cfg_t *section = cfg_opt_getnsec(opt, cfg_opt_size(opt) - 1);
    int bus = pintle_rig_bus(building.station->rig, cfg_title(section));
    double ohm = cfg_getfloat(section, "pull-up");
    double pf = cfg_getfloat(section, "capacitance");
    if (bus < 0 || !(ohm > 0) || !(pf > 0)) {
        return conf_complain(cfg,
                             "lines '%s': a bus of the rig, with a pull-up in ohms and a "
                             "capacitance in picofarads above 0",
                             cfg_title(section));
    }
    building.station->pull_up_ohm[bus] = ohm;
    building.station->capacitance_pf[bus] = pf;
    return 0;
}

static int take_trouble(cfg_t *cfg, cfg_opt_t *opt)
{
    static const char *const kinds[] = { "data-low", "clock-low", "no-pull-up",
                                         "swapped",  "touching",  "stretched",
                                         "held",     "noise",     "off" };
    cfg_t *section = cfg_opt_getnsec(opt, cfg_opt_size(opt) - 1);
    struct pintle_sim_fault fault = { .kind = PINTLE_SIM_LINES,
                                      .amount = (uint32_t)cfg_getint(section, "amount") };
    int bus = pintle_rig_bus(building.station->rig, cfg_title(section));
    double from = 0;
    double to = 0;
    unsigned k = 0;
    while (k < G_N_ELEMENTS(kinds) && g_strcmp0(cfg_getstr(section, "kind"), kinds[k]) != 0) {
        k++;
    }
    if (k == G_N_ELEMENTS(kinds) || bus < 0) {
        return conf_complain(cfg,
                             "a trouble needs a bus of the rig, and a kind: data-low, "
                             "clock-low, no-pull-up, swapped, touching, stretched, held, noise "
                             "or off");
    }
    if (!seconds(cfg, cfg_getstr(section, "from"), &from)
        || !seconds(cfg, cfg_getstr(section, "to"), &to)) {
        return -1;
    }
    fault.chip = (uint8_t)bus;
    if (k < G_N_ELEMENTS(kinds) - 1) {
        fault.trouble = (uint8_t)(1u << k);
    } else {
        fault.kind = PINTLE_SIM_OFF;
    }
    fault.from_us = (uint64_t)(from * 1e6);
    fault.to_us = (uint64_t)(to * 1e6);
    return pintle_sim_add_fault(&building.station->sim, &fault) == PINTLE_OK
               ? 0
               : conf_complain(cfg, "a world has room for %d faults", PINTLE_SIM_FAULTS);
}

static int take_header(cfg_t *cfg, cfg_opt_t *opt)
{
    struct pintle_sim *sim = &building.station->sim;
    if (check_time(cfg, opt) != 0) {
        return -1;
    }
    GDateTime *time = g_date_time_new_from_iso8601(cfg_opt_getnstr(opt, 0), NULL);
    sim->began_us = g_date_time_to_unix(time) * 1000000;
    g_date_time_unref(time);
    return 0;
}

static int take_seed(cfg_t *cfg, cfg_opt_t *opt)
{
    (void)cfg;
    building.station->sim.seed = (uint64_t)cfg_opt_getnint(opt, 0);
    return 0;
}

static void prepare(cfg_t *cfg)
{
    cfg_set_validate_func(cfg, "began", take_header);
    cfg_set_validate_func(cfg, "seed", take_seed);
    cfg_set_validate_func(cfg, "quantity", take_quantity);
    cfg_set_validate_func(cfg, "chip", take_chip);
    cfg_set_validate_func(cfg, "fault", take_fault);
    cfg_set_validate_func(cfg, "lines", take_lines);
    cfg_set_validate_func(cfg, "trouble", take_trouble);
}

/* Curves move while the array grows, and chips hold copies: so quantities come first in a script,
 * chips after them, faults last. Reading in order makes that a rule with a message. */
bool world_build(struct pintle_station *station, struct pintle_problem *problem)
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
                           CFG_SEC("quantity", quantity, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("chip", chip, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("fault", fault, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("lines", lines, CFGF_MULTI | CFGF_TITLE),
                           CFG_SEC("trouble", trouble, CFGF_MULTI | CFGF_TITLE),
                           CFG_END() };
    building.station = station;
    cfg_t *cfg =
        conf_parse(schema, prepare, station->rig->world_path, station->rig->world_text, problem);
    if (!cfg) {
        return false;
    }
    bool ok = true;
    for (uint8_t i = 0; ok && i < station->sim.chips; i++) {
        ok = !building.clock_set[i] || set_clock(&station->sim.chip[i], building.chips[i], problem);
    }
    cfg_free(cfg);
    return ok;
}
