#include "pintle/host/check/wiring.h"

#include <glib.h>
#include <math.h>
#include <stdarg.h>
#include <string.h>

/* UM10204 table 10 and section 7.1. A pin has at most 10 pF. */
#define PIN_PF 10.0
#define LOW_V 0.4
#define RISE_FACTOR 0.8473 /* ln(0.7 / 0.3): from 0.3 to 0.7 of the supply */

/* 1-Wire, DS18B20 datasheet 19-7487, electrical characteristics: a probe has 25 pF, sinks 4 mA at
 * 0.4 V. Its answer is looked at 15 us after the line fell at the latest; our master lets go after
 * 2 us and looks 9 us later, when the line must have passed 0.7 of the supply: R C ln(1 / 0.3). */
#define PROBE_PF 25.0
#define PROBE_SINK_MA 4.0
#define SLOT_RISE_NS 9000.0
#define FULL_RISE_FACTOR 1.204 /* ln(1 / 0.3): from 0 */
#define PARASITE_LEAST_V 3.0
#define SLOT_MOST_OHM 10000.0 /* a rule of thumb, twice the datasheet's "about 5 kilohms" */
#define PARASITE_CABLE_M 5.0  /* a rule of thumb: beyond it the line hardly recharges a probe */

static const struct mode {
    uint32_t up_to_hz;
    double rise_ns, capacitance_pf, sink_ma;
} modes[] = { { 100000, 1000, 400, 3 }, { 400000, 300, 400, 3 }, { 1000000, 120, 550, 20 } };

static const struct mode *mode_of(uint32_t hz)
{
    unsigned i = 0;
    while (i + 1 < G_N_ELEMENTS(modes) && hz > modes[i].up_to_hz) {
        i++;
    }
    return &modes[i];
}

double pintle_wiring_rise_us(uint32_t speed_hz)
{
    return mode_of(speed_hz)->rise_ns * FULL_RISE_FACTOR / RISE_FACTOR * 1e-3;
}

static void add_pull_up(struct pintle_wiring *w, double ohm)
{
    if (ohm > 0) {
        w->pull_ups++;
        w->pull_up_ohm = w->pull_up_ohm > 0 ? 1 / (1 / w->pull_up_ohm + 1 / ohm) : ohm;
    }
}

static void work_out_i2c(const struct pintle_rig_bus *b, struct pintle_wiring *w)
{
    const struct mode *mode = mode_of(b->speed_hz);
    w->capacitance_limit_pf = mode->capacitance_pf;
    w->rise_limit_ns = mode->rise_ns;
    w->sink_limit_ma = mode->sink_ma;
    w->most_ohm = mode->rise_ns / (RISE_FACTOR * w->capacitance_pf) * 1e3;
    w->rise_ns = RISE_FACTOR * w->pull_up_ohm * w->capacitance_pf * 1e-3;
}

static void work_out_onewire(struct pintle_wiring *w)
{
    w->rise_limit_ns = SLOT_RISE_NS;
    w->sink_limit_ma = PROBE_SINK_MA;
    w->most_ohm = MIN(SLOT_RISE_NS / (FULL_RISE_FACTOR * w->capacitance_pf) * 1e3, SLOT_MOST_OHM);
    w->rise_ns = FULL_RISE_FACTOR * w->pull_up_ohm * w->capacitance_pf * 1e-3;
}

bool pintle_wiring_pulls_up(enum pintle_bus_kind kind)
{
    return kind == PINTLE_BUS_I2C || kind == PINTLE_BUS_ONEWIRE;
}

void pintle_wiring_figures(const struct pintle_rig *rig, unsigned bus, struct pintle_wiring *w)
{
    const struct pintle_rig_bus *b = &rig->bus[bus];
    bool onewire = b->kind == PINTLE_BUS_ONEWIRE;
    *w = (struct pintle_wiring){ .capacitance_pf = PIN_PF + b->cable_m * b->cable_pf_m };
    if (!pintle_wiring_pulls_up(b->kind)) {
        return;
    }
    add_pull_up(w, b->pull_up_ohm);
    for (unsigned i = 0; i < rig->wired; i++) {
        if (rig->sensor[i].bus == bus) {
            w->capacitance_pf += onewire ? PROBE_PF : PIN_PF;
            add_pull_up(w, rig->sensor[i].pull_up_ohm);
        }
    }
    if (onewire) {
        work_out_onewire(w);
    } else {
        work_out_i2c(b, w);
    }
    w->least_ohm = (b->pull_up_v - LOW_V) / w->sink_limit_ma * 1e3;
    w->sink_ma = w->pull_up_ohm > 0 ? (b->pull_up_v - LOW_V) / w->pull_up_ohm * 1e3 : 0;
}

/* The list of faults while it grows. */
struct list {
    struct pintle_wiring_fault *faults;
    unsigned count;
};

static void add(struct list *list, unsigned bus, int sensor, const char *format, ...)
    __attribute__((format(printf, 4, 5)));

static void add(struct list *list, unsigned bus, int sensor, const char *format, ...)
{
    va_list args;
    list->faults = g_renew(struct pintle_wiring_fault, list->faults, list->count + 1);
    struct pintle_wiring_fault *fault = &list->faults[list->count++];
    fault->bus = bus;
    fault->sensor = sensor;
    va_start(args, format);
    g_vsnprintf(fault->text, sizeof fault->text, format, args);
    va_end(args);
}

/* Where the limits of a bus's pull-ups come from. */
static const char *pull_up_rule(enum pintle_bus_kind kind)
{
    return kind == PINTLE_BUS_I2C ? "UM10204 section 7.1"
                                  : "DS18B20 datasheet, electrical characteristics";
}

static void check_rise(const struct pintle_rig *rig, unsigned bus, const struct pintle_wiring *w,
                       struct list *list)
{
    bool i2c = rig->bus[bus].kind == PINTLE_BUS_I2C;
    if (w->rise_ns <= w->rise_limit_ns && !i2c && w->pull_up_ohm > w->most_ohm) {
        add(list, bus, -1,
            "a pull-up of %.0f ohm hardly holds the line against noise; take at most %.0f ohm, "
            "4700 is usual (DS18B20 datasheet, hardware configuration)",
            w->pull_up_ohm, w->most_ohm);
    }
    if (w->rise_ns <= w->rise_limit_ns) {
        return;
    }
    if (i2c) {
        add(list, bus, -1,
            "%.0f ohm and %.0f pF rise in %.0f ns where %u kHz allow %.0f ns; take at most %.0f "
            "ohm, a shorter cable or a slower bus (UM10204 table 10)",
            w->pull_up_ohm, w->capacitance_pf, w->rise_ns, rig->bus[bus].speed_hz / 1000,
            w->rise_limit_ns, w->most_ohm);
    } else {
        add(list, bus, -1,
            "%.0f ohm and %.0f pF rise in %.1f us where a slot allows %.0f us; take at most %.0f "
            "ohm or a shorter cable (DS18B20 datasheet, read slot)",
            w->pull_up_ohm, w->capacitance_pf, w->rise_ns / 1e3, w->rise_limit_ns / 1e3,
            w->most_ohm);
    }
}

static void check_pull_ups(const struct pintle_rig *rig, unsigned bus, struct list *list)
{
    enum pintle_bus_kind kind = rig->bus[bus].kind;
    struct pintle_wiring w;
    pintle_wiring_figures(rig, bus, &w);
    if (w.pull_ups == 0) {
        add(list, bus, -1,
            "there is no pull-up: the lines cannot rise; put one of %.0f to %.0f ohm on data%s "
            "(%s)",
            w.least_ohm, w.most_ohm, kind == PINTLE_BUS_I2C ? " and on clock" : "",
            pull_up_rule(kind));
        return;
    }
    if (w.pull_up_ohm < w.least_ohm) {
        add(list, bus, -1,
            "%u pull-up%s %.0f ohm: a chip would have to sink %.1f mA and is asked for %.0f mA at "
            "most; leave out some, at least %.0f ohm must stay (%s)",
            w.pull_ups, w.pull_ups > 1 ? "s in parallel make" : " makes", w.pull_up_ohm, w.sink_ma,
            w.sink_limit_ma, w.least_ohm, pull_up_rule(kind));
    }
    check_rise(rig, bus, &w, list);
    if (kind == PINTLE_BUS_I2C && w.capacitance_pf > w.capacitance_limit_pf) {
        add(list, bus, -1,
            "%.0f pF of pins and cable are more than the %.0f pF that a bus may have; shorten the "
            "cable or split the bus (UM10204 table 10)",
            w.capacitance_pf, w.capacitance_limit_pf);
    }
}

bool pintle_wiring_on_line(const struct pintle_rig_sensor *sensor)
{
    uint8_t settings[PINTLE_MOST_SETTINGS];
    memcpy(settings, sensor->chosen.settings, sizeof settings);
    return pintle_sheet_set(sensor->sheet, "power", "parasite", settings) == PINTLE_OK
           && memcmp(settings, sensor->chosen.settings, sizeof settings) == 0;
}

static void check_supply(const struct pintle_rig *rig, unsigned i, struct list *list)
{
    const struct pintle_rig_sensor *s = &rig->sensor[i];
    const struct pintle_sheet *sheet = s->sheet;
    if (s->supply_v < (double)sheet->supply_lowest - 1e-6
        || s->supply_v > (double)sheet->supply_highest + 1e-6) {
        add(list, s->bus, (int)i, "a %s stands %g to %g V and is supplied with %g V",
            sheet->part->name, (double)sheet->supply_lowest, (double)sheet->supply_highest,
            s->supply_v);
    }
}

/* What drives the lines of this bus high: their pull-ups, or the board's own pins. */
static const char *driven_by(const struct pintle_rig *rig, unsigned bus, double *volts)
{
    bool driven = !pintle_wiring_pulls_up(rig->bus[bus].kind);
    *volts = driven ? rig->logic_v : rig->bus[bus].pull_up_v;
    return driven ? "driven" : "pulled up";
}

/* Where the datasheet has no rule of its own it is that of UM10204 section 6: a chip's input stands
 * its supply and half a volt, and is high from 0.7 of it on. */
static double high_from(const struct pintle_sheet *sheet, double supply)
{
    double share = sheet->high_share > 0 ? (double)sheet->high_share : 0.7;
    return sheet->high_v > 0 ? (double)sheet->high_v : share * supply;
}

static const char *level_rule(bool own)
{
    return own ? "its datasheet" : "UM10204 section 6";
}

static void check_levels(const struct pintle_rig *rig, unsigned i, struct list *list)
{
    const struct pintle_rig_sensor *s = &rig->sensor[i];
    const char *part = s->sheet->part->name;
    double bus_v = 0;
    const char *how = driven_by(rig, s->bus, &bus_v);
    const struct pintle_sheet *sheet = s->sheet;
    double stands = MAX((double)sheet->stands_v, s->supply_v + 0.5);
    double high = high_from(sheet, s->supply_v);
    if (bus_v > stands) {
        add(list, s->bus, (int)i,
            "the lines are %s to %g V, and a %s supplied with %g V stands %g V on its pins; go to "
            "%g V, or put a level shifter between (%s)",
            how, bus_v, part, s->supply_v, stands, s->supply_v, level_rule(sheet->stands_v > 0));
    }
    if (bus_v < high) {
        add(list, s->bus, (int)i,
            "the lines are %s to %g V, and a %s supplied with %g V takes only %.2f V and more for "
            "high; go to %g V, or put a level shifter between (%s)",
            how, bus_v, part, s->supply_v, high, s->supply_v,
            level_rule(sheet->high_v > 0 || sheet->high_share > 0));
    }
    bool drives = !pintle_wiring_pulls_up(rig->bus[s->bus].kind) && !sheet->mute;
    if (drives && s->supply_v > rig->logic_v + 0.5) {
        add(list, s->bus, (int)i,
            "a %s supplied with %g V drives data-in to %g V, and the board's %g V pins stand %g V: "
            "this destroys them; supply it with %g V, or put a level shifter between",
            part, s->supply_v, s->supply_v, rig->logic_v, rig->logic_v + 0.5, rig->logic_v);
    }
}

/* A probe that lives on the line. */
static void check_parasite(const struct pintle_rig *rig, unsigned i, struct list *list)
{
    const struct pintle_rig_sensor *s = &rig->sensor[i];
    const struct pintle_rig_bus *b = &rig->bus[s->bus];
    if (b->cable_m > PARASITE_CABLE_M) {
        add(list, s->bus, (int)i,
            "power over the line along %g m of cable: beyond %g m, a rule of thumb, it hardly "
            "recharges a probe; lead a supply wire, and set power=external",
            b->cable_m, PARASITE_CABLE_M);
    }
    if (b->pull_up_v < PARASITE_LEAST_V) {
        add(list, s->bus, (int)i,
            "power over the line wants %g V and more, and it is pulled up to %g V (DS18B20 "
            "datasheet, electrical characteristics)",
            PARASITE_LEAST_V, b->pull_up_v);
    }
}

static void check_sensor(const struct pintle_rig *rig, unsigned i, struct list *list)
{
    if (pintle_wiring_on_line(&rig->sensor[i])) {
        check_parasite(rig, i, list);
        return;
    }
    check_supply(rig, i, list);
    check_levels(rig, i, list);
}

static void check_board(const struct pintle_rig *rig, unsigned bus, struct list *list)
{
    if (rig->bus[bus].pull_up_v > rig->logic_v + 0.5) {
        add(list, bus, -1,
            "the lines are pulled up to %g V, and the board's %g V pins stand %g V: this destroys "
            "them; pull up to %g V, or put a level shifter between",
            rig->bus[bus].pull_up_v, rig->logic_v, rig->logic_v + 0.5, rig->logic_v);
    }
}

/* The jobs of the board's pins. */
struct job {
    const char *pin;
    const char *what;
    unsigned bus;
};

/* Ends with one that has no pin; to be freed with g_free. */
static struct job *list_jobs(const struct pintle_rig *rig)
{
    unsigned room = 1;
    unsigned count = 0;
    for (unsigned i = 0; i < rig->buses; i++) {
        room += 4 + rig->bus[i].selects;
    }
    struct job *jobs = g_new0(struct job, room);
    for (unsigned i = 0; i < rig->buses; i++) {
        const struct pintle_rig_bus *b = &rig->bus[i];
        jobs[count++] = (struct job){ b->data_pin, "data", i };
        jobs[count++] = (struct job){ b->clock_pin, "clock", i };
        jobs[count++] = (struct job){ b->data_in_pin, "data-in", i };
        jobs[count++] = (struct job){ b->command_pin, "command", i };
        for (unsigned k = 0; k < b->selects; k++) {
            jobs[count++] = (struct job){ b->select_pin[k], "select", i };
        }
    }
    return jobs;
}

static void check_pins(const struct pintle_rig *rig, struct list *list)
{
    struct job *jobs = list_jobs(rig);
    unsigned count = 0;
    while (jobs[count].pin) {
        count++;
    }
    for (unsigned i = 0; i < count; i++) {
        for (unsigned k = 0; k < i; k++) {
            if (jobs[i].pin[0] && strcmp(jobs[i].pin, jobs[k].pin) == 0) {
                add(list, jobs[i].bus, -1,
                    "pin %s is %s of this bus and %s of bus '%s'; give each "
                    "its own",
                    jobs[i].pin, jobs[i].what, jobs[k].what, rig->bus[jobs[k].bus].name);
            }
        }
    }
    g_free(jobs);
}

static bool taken(const struct pintle_rig *rig, unsigned bus, uint8_t address)
{
    for (unsigned i = 0; i < rig->wired; i++) {
        if (rig->sensor[i].bus == bus && rig->sensor[i].place.address == address) {
            return true;
        }
    }
    return false;
}

/* Addresses on the same bus, then other buses, that would part two sensors at one address. */
static char *ways_out(const struct pintle_rig *rig, unsigned a, unsigned b)
{
    GString *ways = g_string_new(NULL);
    const unsigned pair[] = { b, a };
    for (unsigned k = 0; k < 2; k++) {
        const struct pintle_rig_sensor *s = &rig->sensor[pair[k]];
        for (unsigned i = 0; i < s->sheet->part->address_count && ways->len < 150; i++) {
            const struct pintle_strap *strap = &s->sheet->straps[i];
            if (!taken(rig, s->bus, strap->address)) {
                g_string_append_printf(ways, "%s'%s' to 0x%02x (%s)", ways->len ? ", or " : "",
                                       s->name, strap->address, strap->by);
                break;
            }
        }
    }
    for (unsigned i = 0; i < rig->buses; i++) {
        if (i != rig->sensor[b].bus && rig->bus[i].kind == PINTLE_BUS_I2C
            && !taken(rig, i, rig->sensor[b].place.address)) {
            g_string_append_printf(ways, "%sone of them to bus '%s'", ways->len ? ", or " : "",
                                   rig->bus[i].name);
        }
    }
    return g_string_free(ways, FALSE);
}

static void check_twins(const struct pintle_rig *rig, unsigned a, unsigned b, struct list *list)
{
    const struct pintle_rig_sensor *x = &rig->sensor[a];
    const struct pintle_rig_sensor *y = &rig->sensor[b];
    switch (rig->bus[y->bus].kind) {
    case PINTLE_BUS_I2C: {
        char *ways = ways_out(rig, a, b);
        add(list, y->bus, (int)b, "it sits at %s like '%s'; move %s", y->where, x->name,
            *ways ? ways : "one of them to a bus of its own");
        g_free(ways);
        break;
    }
    case PINTLE_BUS_SPI:
        add(list, y->bus, (int)b,
            "its %s is that of '%s' too: both would talk at once; give each "
            "a select pin of its own",
            y->where, x->name);
        break;
    case PINTLE_BUS_STREAM:
        add(list, y->bus, (int)b,
            "bus '%s' is a serial line, which has one other end, and '%s' is there; give each a "
            "line "
            "of its own",
            rig->bus[y->bus].name, x->name);
        break;
    default:
        add(list, y->bus, (int)b,
            "it has the code of '%s': no two probes have one; 'pintle scan' "
            "shows the codes",
            x->name);
        break;
    }
}

unsigned pintle_wiring_check(const struct pintle_rig *rig, struct pintle_wiring_fault **faults)
{
    struct list list = { .count = 0 };
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        if (pintle_wiring_pulls_up(rig->bus[bus].kind)) {
            check_pull_ups(rig, bus, &list);
            check_board(rig, bus, &list);
        }
    }
    for (unsigned i = 0; i < rig->wired; i++) {
        check_sensor(rig, i, &list);
        for (unsigned k = 0; k < i; k++) {
            if (pintle_rig_same_place(rig, k, i)) {
                check_twins(rig, k, i, &list);
            }
        }
    }
    check_pins(rig, &list);
    *faults = list.faults;
    return list.count;
}
