/* A run drawn with PLplot: one panel per quantity, stacked, on one time axis. */
#include "pintle/host/draw/draw.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/draw/page.h"

#define PANELS PINTLE_QUANTITY_COUNT

/* Colours of map 0: paper, ink, grid, then the lines, told apart without red and green alone. */
enum { PAPER, INK, GRID, LINES, MARK = LINES + 9 };
static const PLINT reds[] = { 255, 40, 215, 0, 213, 0, 204, 86, 120, 230, 102, 153, 200 };
static const PLINT greens[] = { 255, 40, 215, 114, 94, 158, 121, 180, 94, 159, 51, 153, 0 };
static const PLINT blues[] = { 255, 40, 215, 178, 0, 115, 167, 233, 60, 0, 153, 51, 60 };

struct panel {
    enum pintle_quantity quantity;
    enum pintle_unit unit; /* of its first channel */
    enum pintle_unit also; /* on its right side; or PINTLE_UNIT_COUNT */
    double left, right;    /* time */
    double low, high;      /* in that unit */
    double bottom, top;    /* on the page, 0 to 1 */
    double edge;           /* the right one */
};

static double shown(const struct panel *panel, const struct pintle_column *column, unsigned row)
{
    double value = column->value[row];
    return isnan(value) ? value : (double)pintle_unit_show(panel->unit, (float)value);
}

/* A value in the panel's unit, in its other one. */
static double also(const struct panel *panel, double value)
{
    double zero = (double)pintle_unit_show(panel->unit, 0);
    double one = (double)pintle_unit_show(panel->unit, 1) - zero;
    double base = (value - zero) / one;
    double other = (double)pintle_unit_show(panel->also, 0);
    return other + base * ((double)pintle_unit_show(panel->also, 1) - other);
}

/* The range of the good values, or of all where there is no good one; some air around it. */
static void scale(const struct pintle_history *history, const uint8_t *chosen, struct panel *panel)
{
    panel->low = INFINITY;
    panel->high = -INFINITY;
    for (int pass = 0; pass < 2 && panel->low > panel->high; pass++) {
        for (unsigned c = 0; c < history->columns; c++) {
            const struct pintle_column *column = &history->column[c];
            for (unsigned r = 0; r < history->rows; r++) {
                double value = shown(panel, column, r);
                if (chosen[c] && column->quantity == panel->quantity && !isnan(value)
                    && (pass == 1 || !column->suspect[r])) {
                    panel->low = fmin(panel->low, value);
                    panel->high = fmax(panel->high, value);
                }
            }
        }
    }
    if (panel->low > panel->high) {
        panel->low = 0;
        panel->high = 1;
    }
    double air = fmax((panel->high - panel->low) * 0.08, 0.05);
    panel->low -= air;
    panel->high += air;
}

static double usual_step(const struct pintle_history *history)
{
    double step = INFINITY;
    for (unsigned r = 1; r < history->rows; r++) {
        double d = history->time[r] - history->time[r - 1];
        step = d > 0 ? fmin(step, d) : step;
    }
    return step;
}

/* Straight pieces between neighbours, open where records are missing or have no good value. */
static void draw_line(const struct pintle_history *history, const struct pintle_column *column,
                      const struct panel *panel)
{
    double gap = usual_step(history) * 1.5;
    for (unsigned r = 0; r < history->rows; r++) {
        PLFLT x[2] = { history->time[r], history->time[r] };
        PLFLT y[2] = { shown(panel, column, r), shown(panel, column, r) };
        if (isnan(y[0]) || column->suspect[r]) {
            continue;
        }
        bool joined = r > 0 && !column->suspect[r - 1] && !isnan(shown(panel, column, r - 1))
                      && history->time[r] - history->time[r - 1] <= gap;
        if (joined) {
            x[0] = history->time[r - 1];
            y[0] = shown(panel, column, r - 1);
            plline(2, x, y);
        } else {
            plpoin(1, x, y, 1);
        }
    }
}

/* A suspect value as a cross where it is, a missing one as a tick at the bottom. */
static void draw_marks(const struct pintle_history *history, const struct pintle_column *column,
                       const struct panel *panel)
{
    plcol0(MARK);
    for (unsigned r = 0; r < history->rows; r++) {
        if (!column->suspect[r]) {
            continue;
        }
        PLFLT x[2] = { history->time[r], history->time[r] };
        PLFLT y[2] = { panel->low, panel->low + (panel->high - panel->low) * 0.04 };
        double value = shown(panel, column, r);
        if (isnan(value)) {
            plline(2, x, y);
        } else {
            y[0] = fmin(fmax(value, panel->low), panel->high);
            plpoin(1, x, y, 5);
        }
    }
}

static const char *time_format(double span)
{
    if (span > 4.5 * 86400) {
        return "%b %d";
    }
    if (span > 1.5 * 86400) {
        return "%b %d %Hh";
    }
    return span > 1200 ? "%H:%M" : "%H:%M:%S";
}

/* Ticks at whole hours or minutes, not more than about eight. */
static double time_step(double span)
{
    static const double steps[] = { 1,   2,    5,    10,   20,   30,    60,    120,   300,
                                    600, 1200, 1800, 3600, 7200, 10800, 14400, 21600, 43200 };
    for (unsigned i = 0; i < G_N_ELEMENTS(steps); i++) {
        if (span / steps[i] <= 9) {
            return steps[i];
        }
    }
    return 86400 * ceil(span / 86400 / 9);
}

/* The same scale in the other unit; the window is put back. */
static void draw_right(const struct panel *panel)
{
    double low = also(panel, panel->low);
    double high = also(panel, panel->high);
    plwind(panel->left, panel->right, low, high);
    plbox("", 0, 0, "cmstv", 0, 0);
    plmtex("r", 4.2, 0.5, 0.5, pintle_unit_symbol(panel->also));
    plwind(panel->left, panel->right, panel->low, panel->high);
}

static void draw_frame(const struct panel *panel, bool lowest)
{
    double span = panel->right - panel->left;
    plvpor(0.075, panel->edge, panel->bottom, panel->top);
    plwind(panel->left, panel->right, panel->low, panel->high);
    plcol0(GRID);
    plbox("g", time_step(span), 0, "g", 0, 0);
    plcol0(INK);
    pltimefmt(time_format(span));
    bool two = panel->also != PINTLE_UNIT_COUNT;
    plbox(lowest ? "bcdnst" : "bcst", time_step(span), 0, two ? "bnstv" : "bcnstv", 0, 0);
    plmtex("l", 5.2, 0.5, 0.5,
           panel->unit == PINTLE_UNIT_COUNT ? pintle_quantity_shown(panel->quantity)
                                            : pintle_unit_symbol(panel->unit));
    if (two) {
        draw_right(panel);
    }
}

static double name_width(const struct pintle_column *column)
{
    return 0.02 + 0.0105 * (double)strlen(column->name);
}

/* So that all names of a panel fit into one line above it. */
static double name_size(const struct pintle_history *history, const uint8_t *chosen,
                        enum pintle_quantity quantity)
{
    double width = 0;
    for (unsigned c = 0; c < history->columns; c++) {
        if (chosen[c] && history->column[c].quantity == quantity) {
            width += name_width(&history->column[c]);
        }
    }
    return width > 1 ? 1 / width : 1;
}

/* Names above the panel, each in its line's colour. */
static void draw_panel(const struct pintle_history *history, const uint8_t *chosen,
                       const struct panel *panel, bool lowest)
{
    double at = 0;
    int colour = 0;
    double size = name_size(history, chosen, panel->quantity);
    draw_frame(panel, lowest);
    for (unsigned c = 0; c < history->columns; c++) {
        const struct pintle_column *column = &history->column[c];
        if (!chosen[c] || column->quantity != panel->quantity) {
            continue;
        }
        plcol0(LINES + colour++ % (MARK - LINES));
        plwidth(2);
        draw_line(history, column, panel);
        plschr(0, 0.62 * size);
        plmtex("t", 0.7, at, 0, column->name);
        plschr(0, 0.62);
        at += size * name_width(column);
        plwidth(1);
        draw_marks(history, column, panel);
    }
}

/* The quantities among the chosen columns, in the order of first use. */
static unsigned list_panels(const struct pintle_history *history, const uint8_t *chosen,
                            struct panel *panels)
{
    unsigned count = 0;
    for (unsigned c = 0; c < history->columns; c++) {
        unsigned p = 0;
        while (p < count && panels[p].quantity != history->column[c].quantity) {
            p++;
        }
        if (chosen[c] && p == count && count < PANELS) {
            panels[count].unit = history->column[c].unit;
            panels[count].also = history->column[c].also;
            panels[count++].quantity = history->column[c].quantity;
        }
    }
    return count;
}

static unsigned count_suspect(const struct pintle_history *history, const uint8_t *chosen)
{
    unsigned count = 0;
    for (unsigned r = 0; r < history->rows; r++) {
        bool any = false;
        for (unsigned c = 0; c < history->columns; c++) {
            any = any || (chosen[c] && history->column[c].suspect[r]);
        }
        count += any;
    }
    return count;
}

static char *time_text(double seconds)
{
    GDateTime *time = g_date_time_new_from_unix_utc((gint64)seconds);
    char *text = time ? g_date_time_format(time, "%Y-%m-%d %H:%M:%S") : g_strdup("?");
    if (time) {
        g_date_time_unref(time);
    }
    return text;
}

static void draw_title(const struct pintle_history *history, const uint8_t *chosen,
                       const char *title)
{
    unsigned suspect = count_suspect(history, chosen);
    plvpor(0.075, 0.965, 0, 1);
    plwind(0, 1, 0, 1);
    plcol0(INK);
    plschr(0, 0.85);
    plptex(0, 0.965, 1, 0, 0, title);
    plschr(0, 0.62);
    char *from = time_text(history->time[0]);
    char *to = time_text(history->time[history->rows - 1]);
    char *counts = g_strdup_printf("%s to %s UTC, %u records, %u with suspect readings (red)", from,
                                   to, history->rows, suspect);
    plptex(1, 0.965, 1, 0, 1, counts);
    g_free(counts);
    g_free(from);
    g_free(to);
}

static void draw_page(const struct pintle_history *history, const uint8_t *chosen,
                      const char *title)
{
    struct panel panels[PANELS] = { 0 };
    unsigned count = list_panels(history, chosen, panels);
    double each = (0.93 - 0.05) / count;
    double left = history->time[0];
    double right = history->time[history->rows - 1];
    double air = right > left ? (right - left) * 0.01 : 1;
    double edge = 0.965;
    for (unsigned p = 0; p < count; p++) { /* room for a scale on the right */
        edge = panels[p].also == PINTLE_UNIT_COUNT ? edge : 0.925;
    }
    pladv(0);
    draw_title(history, chosen, title);
    for (unsigned p = 0; p < count; p++) {
        panels[p].edge = edge;
        panels[p].left = left - air;
        panels[p].right = right + air;
        panels[p].top = 0.93 - each * p - 0.035;
        panels[p].bottom = 0.93 - each * (p + 1) + 0.01;
        scale(history, chosen, &panels[p]);
        draw_panel(history, chosen, &panels[p], p + 1 == count);
    }
}

bool pintle_draw_plot(const struct pintle_history *history, const uint8_t *chosen,
                      const char *title, const char *path, struct pintle_problem *problem)
{
    if (!pintle_priv_page_begin(path, reds, greens, blues, G_N_ELEMENTS(reds), problem)) {
        return false;
    }
    draw_page(history, chosen, title);
    plend();
    return true;
}
