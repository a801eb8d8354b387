#include "pintle/host/wiring.h"

#include <glib.h>
#include <math.h>
#include <stdarg.h>
#include <string.h>

/* UM10204 table 10 and section 7.1. A pin has at most 10 pF. */
#define PIN_PF 10.0
#define LOW_V 0.4
#define RISE_FACTOR 0.8473 /* ln(0.7 / 0.3): from 0.3 to 0.7 of the supply */

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

static void add_pull_up(struct pintle_wiring *w, double ohm)
{
    if (ohm > 0) {
        w->pull_ups++;
        w->pull_up_ohm = w->pull_up_ohm > 0 ? 1 / (1 / w->pull_up_ohm + 1 / ohm) : ohm;
    }
}

void pintle_wiring_figures(const struct pintle_rig *rig, unsigned bus, struct pintle_wiring *w)
{
    const struct pintle_rig_bus *b = &rig->bus[bus];
    const struct mode *mode = mode_of(b->speed_hz);
    *w = (struct pintle_wiring){ .capacitance_pf = PIN_PF + b->cable_m * b->cable_pf_m };
    add_pull_up(w, b->pull_up_ohm);
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus == bus) {
            w->capacitance_pf += PIN_PF;
            add_pull_up(w, rig->sensor[i].pull_up_ohm);
        }
    }
    w->capacitance_limit_pf = mode->capacitance_pf;
    w->rise_limit_ns = mode->rise_ns;
    w->sink_limit_ma = mode->sink_ma;
    w->least_ohm = (b->pull_up_v - LOW_V) / mode->sink_ma * 1e3;
    w->most_ohm = mode->rise_ns / (RISE_FACTOR * w->capacitance_pf) * 1e3;
    w->rise_ns = RISE_FACTOR * w->pull_up_ohm * w->capacitance_pf * 1e-3;
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
    if (list->count < PINTLE_WIRING_MAX) {
        struct pintle_wiring_fault *fault = &list->faults[list->count];
        va_list args;
        va_start(args, format);
        fault->bus = bus;
        fault->sensor = sensor;
        g_vsnprintf(fault->text, sizeof fault->text, format, args);
        va_end(args);
    }
    list->count++;
}

static void check_pull_ups(const struct pintle_rig *rig, unsigned bus, struct list *list)
{
    struct pintle_wiring w;
    pintle_wiring_figures(rig, bus, &w);
    if (w.pull_ups == 0) {
        add(list, bus, -1,
            "there is no pull-up: the lines cannot rise; put one of %.0f to %.0f ohm on data and "
            "on "
            "clock (UM10204 section 7.1)",
            ceil(w.least_ohm / 100) * 100, floor(MIN(w.most_ohm, 10000) / 100) * 100);
        return;
    }
    if (w.pull_up_ohm < w.least_ohm) {
        add(list, bus, -1,
            "%u pull-up%s %.0f ohm: a chip would have to sink %.1f mA and is asked for %.0f "
            "mA "
            "at most; leave out some, at least %.0f ohm must stay (UM10204 section 7.1)",
            w.pull_ups, w.pull_ups > 1 ? "s in parallel make" : " makes", w.pull_up_ohm, w.sink_ma,
            w.sink_limit_ma, w.least_ohm);
    }
    if (w.rise_ns > w.rise_limit_ns) {
        add(list, bus, -1,
            "%.0f ohm and %.0f pF rise in %.0f ns where %u kHz allow %.0f ns; take at most %.0f "
            "ohm, "
            "a shorter cable or a slower bus (UM10204 table 10)",
            w.pull_up_ohm, w.capacitance_pf, w.rise_ns, rig->bus[bus].speed_hz / 1000,
            w.rise_limit_ns, w.most_ohm);
    }
    if (w.capacitance_pf > w.capacitance_limit_pf) {
        add(list, bus, -1,
            "%.0f pF of pins and cable are more than the %.0f pF that a bus may have; shorten the "
            "cable or split the bus (UM10204 table 10)",
            w.capacitance_pf, w.capacitance_limit_pf);
    }
}

/* Section 6: a chip's input stands its supply and half a volt, and is high from 0.7 of it on. */
static void check_levels(const struct pintle_rig *rig, unsigned i, struct list *list)
{
    const struct pintle_rig_sensor *s = &rig->sensor[i];
    const struct pintle_sheet *sheet = s->sheet;
    double bus_v = rig->bus[s->bus].pull_up_v;
    if (s->supply_v < (double)sheet->supply_lowest - 1e-6
        || s->supply_v > (double)sheet->supply_highest + 1e-6) {
        add(list, s->bus, (int)i, "a %s stands %g to %g V and is supplied with %g V",
            sheet->part->name, (double)sheet->supply_lowest, (double)sheet->supply_highest,
            s->supply_v);
    }
    if (bus_v > s->supply_v + 0.5) {
        add(list, s->bus, (int)i,
            "the lines are pulled up to %g V, and a %s supplied with %g V stands %g V on its pins; "
            "pull up to %g V, or put a level shifter between (UM10204 section 6)",
            bus_v, sheet->part->name, s->supply_v, s->supply_v + 0.5, s->supply_v);
    }
    if (bus_v < 0.7 * s->supply_v) {
        add(list, s->bus, (int)i,
            "the lines are pulled up to %g V, and a %s supplied with %g V takes only %.2f V and "
            "more "
            "for high; pull up to %g V, or put a level shifter between (UM10204 section 6)",
            bus_v, sheet->part->name, s->supply_v, 0.7 * s->supply_v, s->supply_v);
    }
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

/* A pin of the board that has two jobs. */
static void check_pins(const struct pintle_rig *rig, struct list *list)
{
    const char *pins[2 * PINTLE_RIG_BUSES];
    for (unsigned i = 0; i < 2 * rig->buses; i++) {
        const struct pintle_rig_bus *b = &rig->bus[i / 2];
        pins[i] = i % 2 ? b->clock_pin : b->data_pin;
        for (unsigned k = 0; k < i; k++) {
            if (pins[i][0] && strcmp(pins[i], pins[k]) == 0) {
                add(list, i / 2, -1,
                    "pin %s is %s of this bus and %s of bus '%s'; give each its own", pins[i],
                    i % 2 ? "clock" : "data", k % 2 ? "clock" : "data", rig->bus[k / 2].name);
            }
        }
    }
}

unsigned pintle_wiring_check(const struct pintle_rig *rig,
                             struct pintle_wiring_fault faults[PINTLE_WIRING_MAX])
{
    struct list list = { .faults = faults };
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        check_pull_ups(rig, bus, &list);
        check_board(rig, bus, &list);
    }
    for (unsigned i = 0; i < rig->sensors; i++) {
        check_levels(rig, i, &list);
    }
    check_pins(rig, &list);
    return list.count;
}
