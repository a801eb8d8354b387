/* The lines of a plot, and what is marked on them. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/draw/plot.h"

double pintle_priv_plot_across(const struct drawing *d, unsigned row)
{
    return d->plot->across ? d->plot->across[row] : d->history->time[row] + d->plot->zone_s;
}

static double height(const struct pintle_panel *panel, const struct pintle_column *column,
                     unsigned row)
{
    bool single = !column->least;
    return single && column->suspect[row] ? (double)NAN
                                          : pintle_priv_panel_height(panel, column->value[row]);
}

/* So many times further apart than they should be, rows are no neighbours. */
#define GAP 1.5

/* Do this row and the one before it belong together? */
static bool follows(const struct drawing *d, const struct pintle_panel *panel,
                    const struct pintle_column *column, unsigned row)
{
    return row > 0 && row < d->history->rows && !d->plot->points
           && !isnan(height(panel, column, row)) && !isnan(height(panel, column, row - 1))
           && d->history->time[row] - d->history->time[row - 1]
                  <= GAP * fmax(d->history->reach[row - 1], d->history->reach[row])
           && d->history->time[row] >= d->history->time[row - 1]
           && (panel->quantity != PINTLE_QUANTITY_ANGLE
               || fabs(column->value[row] - column->value[row - 1]) < 180);
}

/* --- one line --- */

void pintle_priv_plot_pale(int colour, double strength)
{
    PLINT red, green, blue;
    plgcol0(colour, &red, &green, &blue);
    plscol0a(PALE, red, green, blue, strength);
    plcol0(PALE);
}

/* From the front along the upper edge, back along the lower one, from gap to gap. */
static void draw_area(const struct drawing *d, const struct pintle_panel *panel,
                      const struct pintle_column *column,
                      bool (*edges)(const struct pintle_panel *, const struct pintle_column *,
                                    unsigned, struct pintle_span *))
{
    unsigned rows = d->history->rows;
    PLFLT *x = g_new(PLFLT, 2 * (size_t)rows + 1);
    PLFLT *y = g_new(PLFLT, 2 * (size_t)rows + 1);
    unsigned n = 0;
    for (unsigned r = 0; r < rows; r++) {
        struct pintle_span edge;
        bool good = edges(panel, column, r, &edge);
        if (good) {
            x[n] = x[2 * rows - 1 - n] = pintle_priv_plot_across(d, r);
            y[n] = edge.high;
            y[2 * rows - 1 - n] = edge.low;
            n++;
        }
        bool ends = !good || !follows(d, panel, column, r + 1);
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

/* Twice the standard uncertainty to either side, where it was logged. */
static bool uncertain_edges(const struct pintle_panel *panel, const struct pintle_column *column,
                            unsigned row, struct pintle_span *edge)
{
    double off = 2 * column->uncertainty[row];
    edge->low = pintle_priv_panel_height(panel, column->value[row] - off);
    edge->high = pintle_priv_panel_height(panel, column->value[row] + off);
    return !isnan(height(panel, column, row)) && !isnan(edge->low + edge->high);
}

/* The least and the greatest of the records that a row stands for. */
static bool envelope_edges(const struct pintle_panel *panel, const struct pintle_column *column,
                           unsigned row, struct pintle_span *edge)
{
    edge->low = pintle_priv_panel_height(panel, column->least[row]);
    edge->high = pintle_priv_panel_height(panel, column->greatest[row]);
    return !isnan(height(panel, column, row)) && !isnan(edge->low + edge->high);
}

/* A good reading among gaps is a dot that can be seen. */
static void draw_dot(double x, double y, double size)
{
    PLFLT px = x;
    PLFLT py = y;
    plssym(0, size);
    plpoin(1, &px, &py, 17);
}

/* Points that belong together, as one stroke. */
struct stroke {
    PLFLT *x, *y;
    unsigned count;
};

static struct stroke stroke_begin(unsigned rows)
{
    return (struct stroke){ g_new(PLFLT, rows + 1), g_new(PLFLT, rows + 1), 0 };
}

static void stroke_add(struct stroke *stroke, double x, double y)
{
    stroke->x[stroke->count] = x;
    stroke->y[stroke->count++] = y;
}

/* Draw it; the next one begins. */
static void stroke_draw(struct stroke *stroke)
{
    if (stroke->count > 1) {
        plline((PLINT)stroke->count, stroke->x, stroke->y);
    }
    stroke->count = 0;
}

static void stroke_end(struct stroke *stroke)
{
    stroke_draw(stroke);
    g_free(stroke->x);
    g_free(stroke->y);
}

/* Straight pieces between neighbours, open where records are missing or have no good value. */
static void draw_line(const struct drawing *d, const struct pintle_panel *panel,
                      const struct pintle_column *column)
{
    struct stroke stroke = stroke_begin(d->history->rows);
    for (unsigned r = 0; r < d->history->rows; r++) {
        double x = pintle_priv_plot_across(d, r);
        double y = height(panel, column, r);
        bool joined = follows(d, panel, column, r);
        if (!joined) {
            stroke_draw(&stroke);
        }
        if (isnan(x + y)) {
            continue;
        }
        stroke_add(&stroke, x, y);
        if (d->plot->points) {
            draw_dot(x, y, 0.5 * d->symbol);
        } else if (!joined && !follows(d, panel, column, r + 1)) {
            draw_dot(x, y, 0.8 * d->symbol);
        }
    }
    stroke_end(&stroke);
}

/* What it was before its correction, thin. */
static void draw_uncorrected(const struct drawing *d, const struct pintle_panel *panel,
                             const struct pintle_column *column, int colour)
{
    if (!column->uncorrected) {
        return;
    }
    struct stroke stroke = stroke_begin(d->history->rows);
    pintle_priv_plot_pale(colour, 0.5);
    for (unsigned r = 0; r < d->history->rows; r++) {
        double y = pintle_priv_panel_height(panel, column->uncorrected[r]);
        if (!follows(d, panel, column, r) || isnan(y)) {
            stroke_draw(&stroke);
        }
        if (!isnan(y) && !isnan(height(panel, column, r))) {
            stroke_add(&stroke, pintle_priv_plot_across(d, r), y);
        }
    }
    stroke_end(&stroke);
}

double pintle_priv_plot_lane(const struct pintle_panel *panel)
{
    return panel->span.low + LANE * (panel->span.high - panel->span.low);
}

void pintle_priv_plot_tick(double x, double from, double to)
{
    PLFLT px[2] = { x, x };
    PLFLT py[2] = { from, to };
    plline(2, px, py);
}

/* Remarks (its own heat, a gap) as ticks at the top, in the line's colour. */
static void draw_remarks(const struct drawing *d, const struct pintle_panel *panel,
                         const struct pintle_column *column)
{
    double tick = (panel->span.high - panel->span.low) * 0.05;
    for (unsigned r = 0; column->remarked && r < d->history->rows; r++) {
        if (column->remarked[r] && !isnan(pintle_priv_plot_across(d, r))) {
            pintle_priv_plot_tick(pintle_priv_plot_across(d, r), panel->span.high - tick,
                                  panel->span.high);
        }
    }
}

/* When readings were suspect in the lane beneath; those that have a value within the panel as
 * crosses there. */
static void draw_marks(const struct drawing *d, const struct pintle_panel *panel,
                       const struct pintle_column *column)
{
    plcol0(MARK);
    for (unsigned r = 0; r < d->history->rows; r++) {
        double x = pintle_priv_plot_across(d, r);
        if (!column->suspect[r] || isnan(x)) {
            continue;
        }
        if (!d->plot->points) {
            pintle_priv_plot_tick(x, panel->span.low, pintle_priv_plot_lane(panel));
        }
        double odd = column->odd ? column->odd[r] : column->value[r];
        PLFLT y = pintle_priv_panel_height(panel, odd);
        if (y > pintle_priv_plot_lane(panel) && y < panel->span.high) {
            plssym(0, 0.7 * d->symbol);
            plpoin(1, &x, &y, 5);
        }
    }
}

void pintle_priv_plot_lines(const struct drawing *d, int number)
{
    const struct pintle_panel *panel = &d->panel[number];
    int colour = LINES;
    for (unsigned c = 0; c < d->history->columns; c++) {
        const struct pintle_column *column = &d->history->column[c];
        if (d->place[c] != number) {
            continue;
        }
        if (column->uncertainty && !d->plot->points) {
            pintle_priv_plot_pale(colour, 0.18);
            draw_area(d, panel, column, uncertain_edges);
        }
        if (column->least && !d->plot->points) {
            pintle_priv_plot_pale(colour, 0.35);
            draw_area(d, panel, column, envelope_edges);
        }
        draw_uncorrected(d, panel, column, colour);
        plcol0(colour);
        plwidth(column->least ? 1 : 1.6);
        draw_line(d, panel, column);
        plwidth(1);
        draw_remarks(d, panel, column);
        draw_marks(d, panel, column);
        colour++;
    }
}
