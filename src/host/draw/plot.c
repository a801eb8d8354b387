/* A run drawn with PLplot: panels stacked on one axis. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/draw/plot.h"

/* So many panels are drawn on a page of the usual height; each further one makes it higher. */
#define USUAL_PANELS 6
#define PANEL_HEIGHT 115
#define TEXT 0.62
#define TITLE 0.85
#define LEFT 0.075

/* Colours of map 0: see plot.h. */
static const PLINT reds[] = { 255, 40, 215, 0, 213, 0, 120, 200, 90, 246, 255 };
static const PLINT greens[] = { 255, 40, 215, 114, 94, 158, 94, 0, 90, 244, 255 };
static const PLINT blues[] = { 255, 40, 215, 178, 0, 115, 160, 60, 120, 240, 255 };

/* --- one panel --- */

/* Some air around it, and the lane beneath. */
static void breathe(struct pintle_span *span)
{
    if (span->low > span->high) {
        *span = (struct pintle_span){ 0, 1 };
    }
    double air = (span->high - span->low) * 0.08;
    air = air > 0 ? air : fmax(0.002 * fabs(span->high), 0.05);
    span->high += air;
    span->low -= air;
    span->low -= LANE / (1 - LANE) * (span->high - span->low);
}

/* A value in the panel's unit, in its other one. */
static double also(const struct pintle_panel *panel, double value)
{
    double zero = (double)pintle_unit_show(panel->unit, 0);
    double base = (value - zero) / ((double)pintle_unit_show(panel->unit, 1) - zero);
    double other = (double)pintle_unit_show(panel->also, 0);
    return other + base * ((double)pintle_unit_show(panel->also, 1) - other);
}

/* The same scale in the other unit; the window is put back. */
static void draw_right(struct drawing *d, const struct pintle_panel *panel)
{
    double low = also(panel, panel->span.low);
    double high = also(panel, panel->span.high);
    d->axis.up = pintle_priv_axis_two(low, high, 3);
    plwind(d->left, d->right, low, high);
    plbox("", 0, 0, "cmostv", d->axis.up, 0);
    plmtex("r", 5.6, 0.5, 0.5, pintle_unit_symbol(panel->also));
    plwind(d->left, d->right, panel->span.low, panel->span.high);
}

static void draw_lane(const struct drawing *d, const struct pintle_panel *panel)
{
    PLFLT x[4] = { d->left, d->right, d->right, d->left };
    PLFLT y[4] = { panel->span.low, panel->span.low, pintle_priv_plot_lane(panel),
                   pintle_priv_plot_lane(panel) };
    plcol0(LANES);
    plfill(4, x, y);
}

static void draw_frame(struct drawing *d, const struct pintle_panel *panel, double bottom,
                       double top, bool lowest)
{
    double span = panel->span.high - panel->span.low;
    int ticks = (int)CLAMP((top - bottom) * PAGE_HEIGHT / d->scale / 26, 2, 6);
    d->axis.decades = panel->decades;
    d->axis.up = panel->decades ? ceil(span / (ticks + 1))
                                : pintle_priv_axis_two(panel->span.low, panel->span.high, ticks);
    plvpor(LEFT, d->edge, bottom, top);
    plwind(d->left, d->right, panel->span.low, panel->span.high);
    draw_lane(d, panel);
    plsmaj(0, 0.6 * d->symbol);
    plsmin(0, 0.5 * d->symbol);
    plcol0(GRID);
    plbox("g", d->axis.across, 0, "g", d->axis.up, 0);
    plcol0(INK);
    bool two = panel->also != PINTLE_UNIT_COUNT && !panel->decades;
    plbox(lowest ? "bcnost" : "bcst", d->axis.across, 0, two ? "bnostv" : "bcnostv", d->axis.up,
          panel->decades);
    plmtex("l", 6.4, 0.5, 0.5,
           panel->unit == PINTLE_UNIT_COUNT ? pintle_quantity_shown(panel->quantity)
                                            : pintle_unit_symbol(panel->unit));
    if (two) {
        draw_right(d, panel);
    }
}

/* A share of the panel's width, and no less than a name takes. */
static double name_width(const struct pintle_column *column)
{
    return 0.02 + 0.0085 * (double)strlen(column->name);
}

/* Names above the panel in their lines' colours, smaller where they would not fit. */
static void draw_names(const struct drawing *d, int number)
{
    double wide = 0;
    double at = 0;
    int colour = LINES;
    for (unsigned c = 0; c < d->history->columns; c++) {
        wide += d->place[c] == number ? name_width(&d->history->column[c]) : 0;
    }
    double size = fmin(1, 1 / wide);
    for (unsigned c = 0; c < d->history->columns; c++) {
        if (d->place[c] == number) {
            plcol0(colour++);
            plschr(0, TEXT * size);
            plmtex("t", 0.6, at, 0, d->history->column[c].name);
            plschr(0, TEXT);
            at += size * name_width(&d->history->column[c]);
        }
    }
}

/* --- the page --- */

/* What of all that there is to explain is really drawn. */
static char *legend_text(const struct drawing *d)
{
    bool bands = false;
    bool before = false;
    bool remarks = false;
    bool envelope = false;
    for (unsigned c = 0; c < d->history->columns; c++) {
        const struct pintle_column *column = &d->history->column[c];
        if (d->place[c] < 0) {
            continue;
        }
        bands = bands || column->uncertainty;
        before = before || column->uncorrected;
        envelope = envelope || column->least;
        for (unsigned r = 0; column->remarked && r < d->history->rows; r++) {
            remarks = remarks || column->remarked[r];
        }
    }
    char *text = g_strconcat(envelope ? "areas: least to greatest; " : "",
                             bands ? "bands: twice the uncertainty; " : "",
                             before ? "thin: before its correction; " : "",
                             remarks ? "ticks at the top: remarks; " : "", NULL);
    text[MAX(strlen(text), 2) - 2] = '\0';
    return text;
}

static uint64_t marked_of(const struct drawing *d)
{
    uint64_t marked = 0;
    for (unsigned c = 0; c < d->history->columns; c++) {
        marked += d->place[c] >= 0 ? d->history->column[c].marked : 0;
    }
    return marked;
}

static void draw_title(const struct drawing *d)
{
    const struct pintle_plot *plot = d->plot;
    const struct pintle_history *history = d->history;
    char *from = pintle_priv_plot_time(history->first + plot->zone_s);
    double width = 0;
    char *title = pintle_priv_plot_cut(plot->title, LETTERS * TEXT / TITLE, &width);
    char *to = pintle_priv_plot_time(history->last + plot->zone_s);
    char *counts =
        g_strdup_printf("%s to %s %s, %u records, %" G_GUINT64_FORMAT " suspect readings (red)",
                        from, to, plot->clock, history->records, marked_of(d));
    plvpor(LEFT, 0.965, 0, 1);
    plwind(0, 1, 0, 1);
    plcol0(INK);
    plschr(0, TITLE);
    pintle_priv_page_text(0, 1 - 0.028 * d->scale, 0, title);
    plschr(0, TEXT);
    pintle_priv_page_text(0, 1 - 0.06 * d->scale, 0, counts);
    pintle_priv_page_text(0, 1 - 0.086 * d->scale, 0, d->legend);
    g_free(counts);
    g_free(title);
    g_free(from);
    g_free(to);
}

/* What the axis across is; then what the flags mean. */
static void draw_foot(const struct drawing *d, double foot)
{
    plvpor(LEFT, 0.965, 0, 1);
    plwind(0, 1, 0, 1);
    plcol0(INK);
    if (d->plot->across) {
        pintle_priv_page_text(0.5, foot - 0.045 * d->scale, 0.5, d->plot->across_as);
    }
    pintle_priv_plot_explain(d, foot - 0.05 * d->scale);
}

static double foot_of(const struct drawing *d)
{
    unsigned rows = pintle_priv_plot_explained(d);
    return (0.045 + (d->plot->across ? 0.02 : 0) + FLAG_ROW * rows) * d->scale;
}

static void find_ends(struct drawing *d)
{
    bool times = !d->plot->across && d->history->rows > 0; /* rows may stand in their midst */
    d->left = times ? d->history->first + d->plot->zone_s : INFINITY;
    d->right = times ? d->history->last + d->plot->zone_s : -INFINITY;
    for (unsigned r = 0; r < d->history->rows; r++) {
        double x = pintle_priv_plot_across(d, r);
        if (!isnan(x)) {
            d->left = fmin(d->left, x);
            d->right = fmax(d->right, x);
        }
    }
    if (!(d->right >= d->left)) {
        d->left = d->right = 0;
    }
    double air = d->right > d->left ? (d->right - d->left) * 0.01 : 1;
    d->left -= air;
    d->right += air;
    d->axis.time = !d->plot->across;
    d->axis.across = d->plot->across ? pintle_priv_axis_step(d->right - d->left, 9)
                                     : pintle_priv_axis_time_step(d->right - d->left);
}

static void draw_page(struct drawing *d)
{
    double top = 1 - (d->legend[0] ? 0.1 : 0.075) * d->scale;
    double foot = foot_of(d);
    double each = (top - foot) / d->panels;
    d->edge = 0.965;
    for (int p = 0; p < d->panels; p++) { /* room for a scale on the right */
        d->edge = d->panel[p].also == PINTLE_UNIT_COUNT ? d->edge : 0.915;
    }
    find_ends(d);
    pladv(0);
    pintle_priv_axis_use(&d->axis);
    draw_title(d);
    for (int p = 0; p < d->panels; p++) {
        breathe(&d->panel[p].span);
        draw_frame(d, &d->panel[p], top - each * (p + 1) + 0.008 * d->scale,
                   top - each * p - 0.034 * d->scale, p + 1 == d->panels);
        pintle_priv_plot_flags(d, &d->panel[p], p == 0);
        pintle_priv_plot_lines(d, p);
        draw_names(d, p);
    }
    draw_foot(d, foot);
}

/* Of many panels those that are asked for. */
static void take_part(struct drawing *d)
{
    int skip = MIN(d->plot->skip, d->panels);
    int count = d->plot->most > 0 ? MIN(d->plot->most, d->panels - skip) : d->panels - skip;
    memmove(d->panel, d->panel + skip, (size_t)count * sizeof *d->panel);
    for (unsigned c = 0; c < d->history->columns; c++) {
        int its = d->place[c] - skip;
        d->place[c] = d->place[c] >= 0 && its >= 0 && its < count ? its : -1;
    }
    d->panels = count;
}

int pintle_draw_panels(const struct pintle_plot *plot)
{
    struct pintle_panel *panel = g_new0(struct pintle_panel, plot->history->columns + 1);
    int *place = g_new(int, plot->history->columns + 1);
    int count = pintle_priv_panels(plot->history, plot->chosen, panel, place);
    g_free(panel);
    g_free(place);
    return count;
}

bool pintle_draw_plot(const struct pintle_plot *plot, const char *path,
                      struct pintle_problem *problem)
{
    struct pintle_output page;
    const struct pintle_history *history = plot->history;
    struct drawing d = { .plot = plot,
                         .history = history,
                         .panel = g_new0(struct pintle_panel, history->columns + 1),
                         .place = g_new(int, history->columns + 1) };
    d.panels = pintle_priv_panels(history, plot->chosen, d.panel, d.place);
    take_part(&d);
    int high = PAGE_HEIGHT + PANEL_HEIGHT * MAX(d.panels - USUAL_PANELS, 0);
    bool ok =
        pintle_priv_page_begin(&page, path, high, reds, greens, blues, G_N_ELEMENTS(reds), problem);
    if (ok) {
        d.scale = (double)PAGE_HEIGHT / high;
        d.symbol = pintle_priv_page_factor(high);
        d.legend = legend_text(&d);
        draw_page(&d);
        ok = pintle_priv_page_end(&page, problem);
        g_free(d.legend);
    }
    g_free(d.panel);
    g_free(d.place);
    return ok;
}
