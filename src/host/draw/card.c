/* The wiring card: the board on the left, each bus as two lines to the right, its sensors below. */
#include <glib.h>

#include "host/draw/page.h"
#include "pintle/host/check/wiring.h"
#include "pintle/host/draw/draw.h"

enum { PAPER, INK, BOARD, DATA, CLOCK, SUPPLY, CHIP };
static const PLINT reds[] = { 255, 40, 225, 0, 120, 200, 244 };
static const PLINT greens[] = { 255, 40, 232, 114, 94, 60, 240 };
static const PLINT blues[] = { 255, 40, 240, 178, 150, 40, 228 };

static void box(double x, double y, double w, double h, PLINT colour)
{
    PLFLT xs[5] = { x, x + w, x + w, x, x };
    PLFLT ys[5] = { y, y, y + h, y + h, y };
    plcol0(colour);
    plfill(4, xs, ys);
    plcol0(INK);
    plline(5, xs, ys);
}

static void line(double x1, double y1, double x2, double y2, PLINT colour)
{
    PLFLT xs[2] = { x1, x2 };
    PLFLT ys[2] = { y1, y2 };
    plcol0(colour);
    plwidth(3);
    plline(2, xs, ys);
    plwidth(1);
}

static void text(double x, double y, double just, double size, const char *format, ...)
    __attribute__((format(printf, 5, 6)));

static void text(double x, double y, double just, double size, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *string = g_strdup_vprintf(format, args);
    va_end(args);
    plschr(0, size);
    pintle_priv_page_text(x, y, just, string);
    g_free(string);
}

#define LINE_STEP 0.022

/* What a bus takes of a usual page's height, with its sensors, and what is above the first. */
#define BUS_HEIGHT 0.22
#define HEAD 0.1

/* The lines of a bus from the top down, by kind. */
static const struct {
    unsigned count;
    struct {
        const char *name;
        PLINT colour;
    } line[3];
} lines[] = {
    { 2, { { "data", DATA }, { "clock", CLOCK } } },
    { 3, { { "data", DATA }, { "data-in", DATA }, { "clock", CLOCK } } },
    { 1, { { "data", DATA } } },
    { 2, { { "data", DATA }, { "data-in", CLOCK } } },
};

static const char *pin_of(const struct pintle_rig_bus *bus, unsigned line)
{
    bool in = line == 1 && (bus->kind == PINTLE_BUS_SPI || bus->kind == PINTLE_BUS_STREAM);
    return line == 0 ? bus->data_pin : in ? bus->data_in_pin : bus->clock_pin;
}

/* A sensor hangs from the lines at `y`; a wire to each, beside those of the supply. */
static void draw_sensor(const struct pintle_rig_bus *bus, const struct pintle_rig_sensor *sensor,
                        double x, double y, double w)
{
    unsigned count = lines[bus->kind].count;
    double top = y - 0.048 - LINE_STEP * (count - 1);
    box(x, top - 0.08, w, 0.08, CHIP);
    for (unsigned i = 0; i < count; i++) {
        double at = x + w * (0.55 + 0.35 * i / MAX(count - 1, 1));
        line(at, y - LINE_STEP * i, at, top, lines[bus->kind].line[i].colour);
    }
    bool on_line = pintle_wiring_on_line(sensor);
    char *supply = on_line ? g_strdup("ground") : g_strdup_printf("%g V", sensor->supply_v);
    line(x + w * 0.12, top + 0.025, x + w * 0.12, top, on_line ? INK : SUPPLY);
    line(x + w * 0.36, top + 0.025, x + w * 0.36, top, INK);
    plcol0(INK);
    text(x + w * 0.12, top + 0.036, 0.5, 0.42, "%s", supply);
    g_free(supply);
    text(x + w * 0.36, top + 0.036, 0.5, 0.42, "ground");
    text(x + w / 2, top - 0.019, 0.5, 0.55, "%s", sensor->name);
    text(x + w / 2, top - 0.044, 0.5, 0.46, "%s%s%s", sensor->sheet->part->name,
         bus->kind == PINTLE_BUS_I2C ? ", " : "", bus->kind == PINTLE_BUS_I2C ? sensor->where : "");
    text(x + w / 2, top - 0.067, 0.5, 0.42, "%s",
         bus->kind == PINTLE_BUS_I2C ? pintle_sheet_strap(sensor->sheet, sensor->place.address)
                                     : sensor->where);
}

static void draw_pull_ups(const struct pintle_rig *rig, unsigned bus, double y)
{
    struct pintle_wiring w;
    pintle_wiring_figures(rig, bus, &w);
    if (w.pull_ups) {
        text(0.98, y + 0.026, 1, 0.5, "pull-ups to %g V: %.0f ohm (%.0f to %.0f)",
             rig->bus[bus].pull_up_v, w.pull_up_ohm, w.least_ohm, w.most_ohm);
    } else if (pintle_wiring_pulls_up(rig->bus[bus].kind)) {
        text(0.98, y + 0.026, 1, 0.5, "no pull-up");
    }
}

static void draw_bus(const struct pintle_rig *rig, unsigned bus, double y)
{
    const struct pintle_rig_bus *b = &rig->bus[bus];
    unsigned count = 0;
    for (unsigned i = 0; i < rig->sensors; i++) {
        count += rig->sensor[i].bus == bus;
    }
    double step = 0.8 / MAX(count, 4);
    for (unsigned i = 0; i < lines[b->kind].count; i++) {
        PLINT colour = lines[b->kind].line[i].colour;
        line(0.13, y - LINE_STEP * i, 0.98, y - LINE_STEP * i, colour);
        plcol0(colour);
        text(0.125, y - LINE_STEP * i, 1, 0.5, "%s %s", lines[b->kind].line[i].name, pin_of(b, i));
    }
    plcol0(INK);
    text(0.17, y + 0.026, 0, 0.55, "bus %s, %s, %g m of cable", b->name, pintle_bus_word(b->kind),
         b->cable_m);
    draw_pull_ups(rig, bus, y);
    unsigned at = 0;
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus == bus) {
            draw_sensor(b, &rig->sensor[i], 0.18 + step * at++, y, MIN(step * 0.86, 0.172));
        }
    }
}

/* `height`: of the page, in usual ones. */
static void draw(const struct pintle_rig *rig, double height)
{
    double each = MAX(BUS_HEIGHT, 0.88 / MAX(rig->buses, 2));
    pladv(0);
    plvpor(0, 1, 0, 1);
    plwind(0, 1, 1 - height, 1);
    plcol0(INK);
    text(0.02, 0.965, 0, 0.8, "%s: wiring", rig->board);
    text(0.98, 0.965, 1, 0.5, "check with 'pintle wiring', then switch on");
    box(0.02, 0.93 - each * rig->buses, 0.11, each * rig->buses + 0.01, BOARD);
    text(0.075, 0.922, 0.5, 0.6, "%s", rig->board);
    text(0.075, 0.898, 0.5, 0.5, "%g V logic", rig->logic_v);
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        draw_bus(rig, bus, 0.86 - each * bus);
    }
}

bool pintle_draw_card(const struct pintle_rig *rig, const char *path,
                      struct pintle_problem *problem)
{
    struct pintle_output page;
    double height = MAX(1, HEAD + BUS_HEIGHT * rig->buses);
    if (!pintle_priv_page_begin(&page, path, (int)(height * PAGE_HEIGHT), reds, greens, blues,
                                G_N_ELEMENTS(reds), problem)) {
        return false;
    }
    draw(rig, height);
    return pintle_priv_page_end(&page, problem);
}
