#include <stdio.h>

#include "cli/cli.h"
#include "pintle/host/draw/draw.h"
#include "pintle/host/check/wiring.h"

/* What one sensor is wired to, by kind of bus. */
static void print_pins(const struct pintle_rig_bus *b, const struct pintle_rig_sensor *s)
{
    switch (b->kind) {
    case PINTLE_BUS_I2C:
        printf("%-10s %-10s %s: %s\n", b->data_pin, b->clock_pin, s->where,
               pintle_sheet_strap(s->sheet, s->place.address));
        break;
    case PINTLE_BUS_SPI:
        printf("%-10s %-10s %-10s %s\n", b->data_pin, b->data_in_pin, b->clock_pin,
               b->select_pin[s->place.select]);
        break;
    case PINTLE_BUS_STREAM:
        printf("%-10s %s\n", b->data_pin, b->data_in_pin);
        break;
    default:
        printf("%-10s %s\n", b->data_pin, s->where);
        break;
    }
}

static void print_sensors(const struct pintle_rig *rig, unsigned bus)
{
    static const char *const columns[] = { "data       clock      address",
                                           "data       data-in    clock      select",
                                           "data       code", "data       data-in" };
    printf("  %s%-10s %-9s %-8s %-8s %s%s\n", cli_bold(), "sensor", "part", "supply", "ground",
           columns[rig->bus[bus].kind], cli_plain());
    for (unsigned i = 0; i < rig->sensors; i++) {
        const struct pintle_rig_sensor *s = &rig->sensor[i];
        if (s->bus == bus) {
            char supply[16];
            if (pintle_wiring_on_line(s)) {
                g_strlcpy(supply, "ground", sizeof supply);
            } else {
                g_snprintf(supply, sizeof supply, "%g V", s->supply_v);
            }
            printf("  %-10s %-9s %-8s %-8s ", s->name, s->sheet->part->name, supply, "ground");
            print_pins(&rig->bus[bus], s);
        }
    }
}

static void print_figures(const struct pintle_rig_bus *b, const struct pintle_wiring *w)
{
    printf("  pull-ups   %u%s: %.0f ohm to %g V; %.0f to %.0f ohm would do\n", w->pull_ups,
           w->pull_ups > 1 ? " in parallel" : "", w->pull_up_ohm, b->pull_up_v, w->least_ohm,
           w->most_ohm);
    printf("  sink       %.2f mA of %.0f mA\n", w->sink_ma, w->sink_limit_ma);
    printf("  rise       %.0f ns of %.0f ns, with %.0f pF", w->rise_ns, w->rise_limit_ns,
           w->capacitance_pf);
    if (w->capacitance_limit_pf > 0) {
        printf(" of %.0f pF", w->capacitance_limit_pf);
    }
    printf("\n");
}

static void print_bus(const struct pintle_rig *rig, unsigned bus)
{
    const struct pintle_rig_bus *b = &rig->bus[bus];
    struct pintle_wiring w;
    pintle_wiring_figures(rig, bus, &w);
    printf("%sbus %s%s  %s, ", cli_bold(), b->name, cli_plain(), pintle_bus_word(b->kind));
    if (b->kind == PINTLE_BUS_STREAM) {
        printf("%u baud, ", b->speed_hz);
    } else if (b->kind != PINTLE_BUS_ONEWIRE) {
        printf("%u kHz, ", b->speed_hz / 1000);
    }
    printf("%g m of cable\n", b->cable_m);
    print_sensors(rig, bus);
    printf("  levels     lines at %g V, the board's pins at %g V\n",
           pintle_wiring_pulls_up(b->kind) ? b->pull_up_v : rig->logic_v, rig->logic_v);
    if (b->command_pin[0]) {
        printf("  command    %s tells displays commands from data\n", b->command_pin);
    }
    if (w.pull_ups) {
        print_figures(b, &w);
    }
    printf("\n");
}

static unsigned print_faults(const struct pintle_rig *rig)
{
    struct pintle_wiring_fault *faults = NULL;
    unsigned count = pintle_wiring_check(rig, &faults);
    for (unsigned i = 0; i < count; i++) {
        const struct pintle_wiring_fault *f = &faults[i];
        printf("%s%s %s%s: %s.\n", cli_bad(), f->sensor >= 0 ? "sensor" : "bus",
               f->sensor >= 0 ? rig->sensor[f->sensor].name : rig->bus[f->bus].name, cli_plain(),
               f->text);
    }
    pintle_host_free(faults);
    printf("%s\n",
           count ? "Mend this before you switch on." : "Nothing speaks against switching on.");
    return count;
}

static int run(int argc, char **argv)
{
    struct rig_options options = { 0 };
    char *draw = NULL;
    const GOptionEntry entries[] = { RIG_OPTIONS(options),
                                     { "draw", 0, 0, G_OPTION_ARG_FILENAME, &draw,
                                       "draw the wiring card, PNG or SVG", "FILE" },
                                     { 0 } };
    if (!cli_options(&command_wiring, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    struct pintle_problem problem = { 0 };
    if (argc > 1) {
        return cli_misuse("wiring: it takes no names; it checks the whole rig");
    }
    struct pintle_rig *rig = cli_rig(&options, &problem);
    if (!rig) {
        return cli_fail(&problem);
    }
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        print_bus(rig, bus);
    }
    unsigned faults = print_faults(rig);
    bool ok = !draw || pintle_draw_card(rig, draw, &problem);
    pintle_rig_free(rig);
    return !ok ? cli_fail(&problem) : faults ? PINTLE_FAILURE_RIG : 0;
}

const struct command command_wiring = {
    .name = "wiring",
    .summary = "which wire goes where, and the electrical check before power-on",
    .more = "From what the rig file says of supplies, pull-ups, cables and pins.\n\n"
            "Example:\n  pintle wiring --demo --draw card.png",
    .run = run,
};
