/* A run drawn with PLplot: panels stacked on one time axis. Channels of one quantity share a panel
 * as long as none of them is pressed flat in it. */
#include "pintle/host/draw/draw.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/draw/page.h"

/* So many panels are drawn on a page of the usual height; each further one makes it higher. */
#define USUAL_PANELS 6
#define PANEL_HEIGHT 115
#define TEXT 0.62

/* Colours of map 0: paper, ink, grid, then the lines, told apart without red and green alone; what
 * stands for a line's paler self comes last. */
enum { PAPER, INK, GRID, LINES, MARK = LINES + 9, BAND };
static const PLINT reds[] = { 255, 40, 215, 0, 213, 0, 204, 86, 120, 230, 102, 153, 200, 255 };
static const PLINT greens[] = { 255, 40, 215, 114, 94, 158, 121, 180, 94, 159, 51, 153, 0, 255 };
static const PLINT blues[] = { 255, 40, 215, 178, 0, 115, 167, 233, 60, 0, 153, 51, 60, 255 };

/* Values from the least to the greatest. */
struct span {
    double low, high;
};

struct panel {
    enum pintle_quantity quantity;
    enum pintle_unit unit; /* of its first channel */
    enum pintle_unit also; /* on its right side; or PINTLE_UNIT_COUNT */
    double left, right;    /* time */
    struct span span;      /* in that unit */
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

static struct span joined(struct span a, struct span b)
{
    return (struct span){ fmin(a.low, b.low), fmax(a.high, b.high) };
}

/* Of the good values, or of all where there is no good one. */
static struct span span_of(const struct pintle_column *column, unsigned rows,
                           const struct panel *panel)
{
    struct span span = { INFINITY, -INFINITY };
    for (int pass = 0; pass < 2 && span.low > span.high; pass++) {
        for (unsigned r = 0; r < rows; r++) {
            double value = shown(panel, column, r);
            if (!isnan(value) && (pass == 1 || !column->suspect[r])) {
                span = joined(span, (struct span){ value, value });
            }
        }
    }
    return span;
}

/* How much there is to see: what a value moves, or a twentieth of what it is. */
static double extent(struct span span)
{
    return span.low > span.high
               ? 0
               : fmax(span.high - span.low, 0.05 * fmax(fabs(span.low), fabs(span.high)));
}

/* One of them may take a quarter of the height and the other the rest, no less. */
static bool share(struct span a, struct span b)
{
    return extent(joined(a, b)) <= 4 * fmax(extent(a), extent(b));
}

/* Some air around it. */
static void breathe(struct span *span)
{
    if (span->low > span->high) {
        *span = (struct span){ 0, 1 };
    }
    double air = fmax((span->high - span->low) * 0.08, 0.002 * fabs(span->high));
    air = air > 0 ? air : 0.05;
    span->low -= air;
    span->high += air;
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

/* Twice the standard uncertainty to either side, where it was logged: one area from gap to gap. */
static void draw_band(const struct pintle_history *history, const struct pintle_column *column,
                      const struct panel *panel, int colour)
{
    double per = (double)(pintle_unit_show(panel->unit, 1) - pintle_unit_show(panel->unit, 0));
    double gap = usual_step(history) * 1.5;
    unsigned rows = column->uncertainty ? history->rows : 0;
    PLFLT *x = g_new(PLFLT, 2 * rows + 1);
    PLFLT *y = g_new(PLFLT, 2 * rows + 1);
    unsigned n = 0;
    plscol0a(BAND, reds[colour], greens[colour], blues[colour], 0.18);
    plcol0(BAND);
    for (unsigned r = 0; r < rows; r++) {
        double value = shown(panel, column, r);
        double off = 2 * per * column->uncertainty[r];
        bool good = !column->suspect[r] && !isnan(value + off);
        if (good) { /* the upper edge from the front, the lower one from the back */
            x[n] = x[2 * rows - 1 - n] = history->time[r];
            y[n] = value + off;
            y[2 * rows - 1 - n] = value - off;
            n++;
        }
        bool ends = r + 1 == rows || !good || history->time[r + 1] - history->time[r] > gap;
        if (ends && n > 1) {
            memmove(&x[n], &x[2 * rows - n], n * sizeof *x);
            memmove(&y[n], &y[2 * rows - n], n * sizeof *y);
            plfill((PLINT)(2 * n), x, y);
        }
        n = ends ? 0 : n;
    }
    g_free(x);
    g_free(y);
}

/* Remarks (its own heat, a gap) as ticks at the top, in the line's colour. */
static void draw_remarks(const struct pintle_history *history, const struct pintle_column *column,
                         const struct panel *panel, int colour)
{
    double tick = (panel->span.high - panel->span.low) * 0.04;
    plcol0(colour);
    for (unsigned r = 0; column->remarked && r < history->rows; r++) {
        PLFLT x[2] = { history->time[r], history->time[r] };
        PLFLT y[2] = { panel->span.high - tick, panel->span.high };
        if (column->remarked[r]) {
            plline(2, x, y);
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
        PLFLT y[2] = { panel->span.low,
                       panel->span.low + (panel->span.high - panel->span.low) * 0.04 };
        double value = shown(panel, column, r);
        if (isnan(value)) {
            plline(2, x, y);
        } else {
            y[0] = fmin(fmax(value, panel->span.low), panel->span.high);
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

/* Round steps, four of them at most. */
static double value_step(double span)
{
    double power = pow(10, floor(log10(span / 4)));
    double times = span / 4 / power;
    return power * (times <= 1 ? 1 : times <= 2 ? 2 : times <= 5 ? 5 : 10);
}

/* The same scale in the other unit; the window is put back. */
static void draw_right(const struct panel *panel)
{
    double low = also(panel, panel->span.low);
    double high = also(panel, panel->span.high);
    plwind(panel->left, panel->right, low, high);
    plbox("", 0, 0, "cmstv", value_step(high - low), 0);
    plmtex("r", 4.2, 0.5, 0.5, pintle_unit_symbol(panel->also));
    plwind(panel->left, panel->right, panel->span.low, panel->span.high);
}

static void draw_frame(const struct panel *panel, bool lowest)
{
    double span = panel->right - panel->left;
    double step = value_step(panel->span.high - panel->span.low);
    plvpor(0.075, panel->edge, panel->bottom, panel->top);
    plwind(panel->left, panel->right, panel->span.low, panel->span.high);
    plcol0(GRID);
    plbox("g", time_step(span), 0, "g", step, 0);
    plcol0(INK);
    pltimefmt(time_format(span));
    bool two = panel->also != PINTLE_UNIT_COUNT;
    plbox(lowest ? "bcdnst" : "bcst", time_step(span), 0, two ? "bnstv" : "bcnstv", step, 0);
    plmtex("l", 5.8, 0.5, 0.5,
           panel->unit == PINTLE_UNIT_COUNT ? pintle_quantity_shown(panel->quantity)
                                            : pintle_unit_symbol(panel->unit));
    if (two) {
        draw_right(panel);
    }
}

static double name_width(const struct pintle_column *column)
{
    return 0.015 + 0.0078 * (double)strlen(column->name);
}

/* So that all names of a panel fit into one line above it. */
static double name_size(const struct pintle_history *history, const int *place, int panel)
{
    double width = 0;
    for (unsigned c = 0; c < history->columns; c++) {
        if (place[c] == panel) {
            width += name_width(&history->column[c]);
        }
    }
    return width > 1 ? 1 / width : 1;
}

/* Names above the panel, each in its line's colour. */
static void draw_panel(const struct pintle_history *history, const int *place, int number,
                       const struct panel *panel, bool lowest)
{
    double at = 0;
    int colour = 0;
    double size = name_size(history, place, number);
    draw_frame(panel, lowest);
    for (unsigned c = 0; c < history->columns; c++) {
        const struct pintle_column *column = &history->column[c];
        if (place[c] != number) {
            continue;
        }
        int its = LINES + colour++ % (MARK - LINES);
        draw_band(history, column, panel, its);
        plcol0(its);
        plwidth(2);
        draw_line(history, column, panel);
        plschr(0, TEXT * size);
        plmtex("t", 0.7, at, 0, column->name);
        plschr(0, TEXT);
        at += size * name_width(column);
        plwidth(1);
        draw_remarks(history, column, panel, its);
        draw_marks(history, column, panel);
    }
}

/* Each chosen column's panel, or -1; how many there are. */
static int list_panels(const struct pintle_history *history, const uint8_t *chosen,
                       struct panel *panels, int *place)
{
    int count = 0;
    for (unsigned c = 0; c < history->columns; c++) {
        const struct pintle_column *column = &history->column[c];
        struct span span = { 0 };
        place[c] = -1;
        for (int p = 0; chosen[c] && p < count && place[c] < 0; p++) {
            span = span_of(column, history->rows, &panels[p]);
            bool here = panels[p].quantity == column->quantity && share(panels[p].span, span);
            place[c] = here ? p : -1;
        }
        if (chosen[c] && place[c] < 0) {
            panels[count] = (struct panel){ .quantity = column->quantity,
                                            .unit = column->unit,
                                            .also = column->also };
            span = span_of(column, history->rows, &panels[count]);
            panels[count].span = span;
            place[c] = count++;
        }
        if (chosen[c]) {
            panels[place[c]].span = joined(panels[place[c]].span, span);
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
                       const char *title, double top)
{
    unsigned suspect = count_suspect(history, chosen);
    plvpor(0.075, 0.965, 0, 1);
    plwind(0, 1, 0, 1);
    plcol0(INK);
    plschr(0, 0.85);
    plptex(0, top, 1, 0, 0, title);
    plschr(0, TEXT);
    char *from = time_text(history->time[0]);
    char *to = time_text(history->time[history->rows - 1]);
    unsigned remarked = 0;
    bool bands = false;
    for (unsigned c = 0; c < history->columns; c++) {
        const struct pintle_column *column = &history->column[c];
        bands = bands || (chosen[c] && column->uncertainty);
        for (unsigned r = 0; chosen[c] && column->remarked && r < history->rows; r++) {
            remarked += column->remarked[r];
        }
    }
    char *remarks = remarked ? g_strdup_printf(", %u remarks (ticks)", remarked) : g_strdup("");
    char *counts = g_strdup_printf(
        "%s to %s UTC, %u records, %u %s%s%s", from, to, history->rows, suspect,
        bands || remarked ? "suspect (red)" : "with suspect readings (red)", remarks,
        !bands     ? ""
        : remarked ? "; bands: 2 u"
                   : "; bands: twice the uncertainty");
    g_free(remarks);
    plptex(1, top, 1, 0, 1, counts);
    g_free(counts);
    g_free(from);
    g_free(to);
}

/* `scale`: of a page of the usual height to this one. */
static void draw_page(const struct pintle_history *history, const uint8_t *chosen,
                      const char *title, struct panel *panels, const int *place, int count,
                      double scale)
{
    double top = 1 - 0.07 * scale;
    double each = (top - 0.05 * scale) / count;
    double left = history->time[0];
    double right = history->time[history->rows - 1];
    double air = right > left ? (right - left) * 0.01 : 1;
    double edge = 0.965;
    for (int p = 0; p < count; p++) { /* room for a scale on the right */
        edge = panels[p].also == PINTLE_UNIT_COUNT ? edge : 0.925;
    }
    pladv(0);
    plsyax(6, 0);
    draw_title(history, chosen, title, 1 - 0.035 * scale);
    for (int p = 0; p < count; p++) {
        panels[p].edge = edge;
        panels[p].left = left - air;
        panels[p].right = right + air;
        panels[p].top = top - each * p - 0.035 * scale;
        panels[p].bottom = top - each * (p + 1) + 0.01 * scale;
        breathe(&panels[p].span);
        draw_panel(history, place, p, &panels[p], p + 1 == count);
    }
}

bool pintle_draw_plot(const struct pintle_history *history, const uint8_t *chosen,
                      const char *title, const char *path, struct pintle_problem *problem)
{
    struct panel *panels = g_new0(struct panel, history->columns + 1);
    int *place = g_new(int, history->columns + 1);
    int count = list_panels(history, chosen, panels, place);
    int height = PAGE_HEIGHT + PANEL_HEIGHT * MAX(count - USUAL_PANELS, 0);
    bool ok =
        pintle_priv_page_begin(path, height, reds, greens, blues, G_N_ELEMENTS(reds), problem);
    if (ok) {
        draw_page(history, chosen, title, panels, place, count, (double)PAGE_HEIGHT / height);
        plend();
    }
    g_free(panels);
    g_free(place);
    return ok;
}
