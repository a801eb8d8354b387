/* The wiring card: the board on the left, each bus as two lines to the right, its sensors below. */
#include <glib.h>

#include "host/page.h"
#include "pintle/host/wiring.h"

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
    plptex(x, y, 1, 0, just, string);
    g_free(string);
}

/* A sensor hangs from the two lines at `y`; four wires, each with its name. */
static void draw_sensor(const struct pintle_rig_sensor *sensor, double x, double y, double w)
{
    double top = y - 0.075;
    box(x, top - 0.1, w, 0.1, CHIP);
    line(x + w * 0.62, y, x + w * 0.62, top, DATA);
    line(x + w * 0.86, y - 0.022, x + w * 0.86, top, CLOCK);
    line(x + w * 0.14, top + 0.03, x + w * 0.14, top, SUPPLY);
    line(x + w * 0.38, top + 0.03, x + w * 0.38, top, INK);
    plcol0(INK);
    text(x + w * 0.14, top + 0.042, 0.5, 0.42, "%g V", sensor->supply_v);
    text(x + w * 0.38, top + 0.042, 0.5, 0.42, "ground");
    text(x + w / 2, top - 0.025, 0.5, 0.58, "%s", sensor->name);
    text(x + w / 2, top - 0.055, 0.5, 0.5, "%s, 0x%02x", sensor->sheet->part->name,
         sensor->address);
    text(x + w / 2, top - 0.082, 0.5, 0.42, "%s",
         pintle_sheet_strap(sensor->sheet, sensor->address));
}

static void draw_bus(const struct pintle_rig *rig, unsigned bus, double y)
{
    const struct pintle_rig_bus *b = &rig->bus[bus];
    struct pintle_wiring w;
    unsigned count = 0;
    pintle_wiring_figures(rig, bus, &w);
    for (unsigned i = 0; i < rig->sensors; i++) {
        count += rig->sensor[i].bus == bus;
    }
    double step = 0.8 / MAX(count, 4);
    line(0.13, y, 0.98, y, DATA);
    line(0.13, y - 0.022, 0.98, y - 0.022, CLOCK);
    plcol0(DATA);
    text(0.125, y, 1, 0.5, "data %s", b->data_pin);
    plcol0(CLOCK);
    text(0.125, y - 0.024, 1, 0.5, "clock %s", b->clock_pin);
    plcol0(INK);
    text(0.17, y + 0.03, 0, 0.55, "bus %s, %u kHz, %g m of cable", b->name, b->speed_hz / 1000,
         b->cable_m);
    if (w.pull_ups) {
        text(0.98, y + 0.03, 1, 0.5, "pull-ups to %g V: %.0f ohm (%.0f to %.0f)", b->pull_up_v,
             w.pull_up_ohm, w.least_ohm, w.most_ohm);
    } else {
        text(0.98, y + 0.03, 1, 0.5, "no pull-up");
    }
    unsigned at = 0;
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (rig->sensor[i].bus == bus) {
            draw_sensor(&rig->sensor[i], 0.18 + step * at++, y, MIN(step * 0.86, 0.172));
        }
    }
}

static void draw(const struct pintle_rig *rig)
{
    double each = 0.88 / MAX(rig->buses, 2);
    pladv(0);
    plvpor(0, 1, 0, 1);
    plwind(0, 1, 0, 1);
    plcol0(INK);
    text(0.02, 0.965, 0, 0.8, "%s: wiring", rig->board);
    text(0.98, 0.965, 1, 0.5, "check with 'pintle wiring', then switch on");
    box(0.02, 0.93 - each * rig->buses, 0.11, each * rig->buses + 0.01, BOARD);
    text(0.075, 0.905, 0.5, 0.6, "%s", rig->board);
    text(0.075, 0.88, 0.5, 0.5, "%g V logic", rig->logic_v);
    for (unsigned bus = 0; bus < rig->buses; bus++) {
        draw_bus(rig, bus, 0.85 - each * bus);
    }
}

bool pintle_wiring_draw(const struct pintle_rig *rig, const char *path,
                        struct pintle_problem *problem)
{
    if (!page_begin(path, reds, greens, blues, G_N_ELEMENTS(reds), problem)) {
        return false;
    }
    draw(rig);
    plend();
    return true;
}
