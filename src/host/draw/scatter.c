/* Points before and after a correction, about zero. */
#include <glib.h>
#include <math.h>

#include "host/draw/page.h"
#include "pintle/host/draw/draw.h"

/* The lines' colours in a plot of a run, so that one thing has one colour. */
enum { PAPER, INK, GRID, AFTER, BEFORE, MARK, BAND };
static const PLINT reds[] = { 255, 40, 215, 0, 213, 200, 225 };
static const PLINT greens[] = { 255, 40, 215, 114, 94, 0, 236 };
static const PLINT blues[] = { 255, 40, 215, 178, 0, 60, 245 };

static void widen(double *low, double *high, double value)
{
    *low = fmin(*low, value);
    *high = fmax(*high, value);
}

static void ends_of(const struct pintle_scatter *s, double x[2], double y[2])
{
    x[0] = y[0] = INFINITY;
    x[1] = y[1] = -INFINITY;
    widen(&y[0], &y[1], 0);
    widen(&y[0], &y[1], s->band);
    widen(&y[0], &y[1], -s->band);
    for (unsigned i = 0; i < s->count; i++) {
        widen(&x[0], &x[1], s->at[i]);
        widen(&y[0], &y[1], s->before[i]);
        widen(&y[0], &y[1], s->after[i]);
    }
    for (unsigned k = 0; k < 2; k++) {
        double *of = k ? y : x;
        double air = of[1] > of[0] ? 0.05 * (of[1] - of[0]) : fmax(fabs(of[0]) * 0.05, 1e-6);
        of[0] -= air;
        of[1] += air;
    }
}

static void draw_points(const struct pintle_scatter *s, const double *y, int colour, int symbol)
{
    plcol0(colour);
    for (unsigned i = 0; i < s->count; i++) {
        PLFLT px = s->at[i];
        PLFLT py = y[i];
        plpoin(1, &px, &py, symbol);
    }
}

static void draw_outliers(const struct pintle_scatter *s)
{
    plcol0(MARK);
    plssym(0, 1.8);
    for (unsigned i = 0; s->outlier && i < s->count; i++) {
        PLFLT px = s->at[i];
        PLFLT py = s->after[i];
        if (s->outlier[i]) {
            plpoin(1, &px, &py, 4);
        }
    }
    plssym(0, 1);
}

static void draw_band(const struct pintle_scatter *s, const double x[2])
{
    PLFLT bx[4] = { x[0], x[1], x[1], x[0] };
    PLFLT by[4] = { -s->band, -s->band, s->band, s->band };
    if (s->band > 0) {
        plcol0(BAND);
        plfill(4, bx, by);
    }
}

static void draw(const struct pintle_scatter *s)
{
    double x[2];
    double y[2];
    ends_of(s, x, y);
    pladv(0);
    plsyax(6, 0);
    plvpor(0.09, 0.965, 0.11, 0.88);
    plwind(x[0], x[1], y[0], y[1]);
    draw_band(s, x);
    plcol0(GRID);
    plbox("g", 0, 0, "g", 0, 0);
    plcol0(INK);
    pljoin(x[0], 0, x[1], 0);
    plssym(0, 0.6);
    draw_points(s, s->before, BEFORE, 4);
    plssym(0, 1);
    draw_points(s, s->after, AFTER, 17);
    draw_outliers(s);
    plcol0(INK);
    plschr(0, 0.8);
    plbox("bcnst", 0, 0, "bcnstv", 0, 0);
    plmtex("b", 3.2, 0.5, 0.5, s->across);
    plmtex("l", 6.0, 0.5, 0.5, s->up);
    plschr(0, 1.0);
    plmtex("t", 2.6, 0, 0, s->title);
    plschr(0, 0.75);
    plcol0(BEFORE);
    plmtex("t", 1.1, 0, 0, "before the correction");
    plcol0(AFTER);
    plmtex("t", 1.1, 0.22, 0, "after it");
    plcol0(INK);
    plmtex("t", 1.1, 0.32, 0, s->band > 0 ? "band: twice the residual" : "");
    bool any = false;
    for (unsigned i = 0; s->outlier && i < s->count; i++) {
        any = any || s->outlier[i];
    }
    plcol0(MARK);
    plmtex("t", 1.1, 0.56, 0, any ? "ringed: outlier" : "");
}

bool pintle_draw_scatter(const struct pintle_scatter *scatter, const char *path,
                         struct pintle_problem *problem)
{
    struct pintle_output page;
    bool ok = pintle_priv_page_begin(&page, path, PAGE_HEIGHT, reds, greens, blues,
                                     G_N_ELEMENTS(reds), problem);
    if (ok) {
        draw(scatter);
        ok = pintle_priv_page_end(&page, problem);
    }
    return ok;
}
