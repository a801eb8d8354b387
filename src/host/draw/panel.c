#include "host/draw/panel.h"

#include <glib.h>
#include <math.h>

#define COVERS 0.02   /* closer than this share of the height, on average, one line hides another */
#define LEAST_SHARE 3 /* each line has a third of the height or more */
#define DECADES 100   /* light and resistances that span so much get a logarithmic scale */

bool pintle_priv_row(const struct pintle_column *column, unsigned row, struct pintle_span *span)
{
    double value = column->value[row];
    if (isnan(value) || (column->suspect[row] && !column->least)) {
        return false;
    }
    *span = column->least ? (struct pintle_span){ column->least[row], column->greatest[row] }
                          : (struct pintle_span){ value, value };
    return !isnan(span->low);
}

double pintle_priv_panel_height(const struct pintle_panel *panel, double base)
{
    double zero = (double)pintle_unit_show(panel->unit, 0);
    double shown = zero + base * ((double)pintle_unit_show(panel->unit, 1) - zero);
    return !panel->decades || isnan(shown) ? shown : log10(fmax(shown, panel->floor));
}

static struct pintle_span joined(struct pintle_span a, struct pintle_span b)
{
    return (struct pintle_span){ fmin(a.low, b.low), fmax(a.high, b.high) };
}

/* Of the good values as they are; of all where there is no good one. */
static struct pintle_span span_of(const struct pintle_column *column, unsigned rows)
{
    struct pintle_span span = { INFINITY, -INFINITY };
    struct pintle_span any = span;
    for (unsigned r = 0; r < rows; r++) {
        struct pintle_span row;
        double value = column->value[r];
        if (pintle_priv_row(column, r, &row)) {
            span = joined(span, row);
        } else if (!isnan(value)) {
            any = joined(any, (struct pintle_span){ value, value });
        }
    }
    return span.low > span.high ? any : span;
}

/* The least that is above zero. */
static double least_above(const struct pintle_column *column, unsigned rows)
{
    double least = INFINITY;
    for (unsigned r = 0; r < rows; r++) {
        struct pintle_span row;
        if (pintle_priv_row(column, r, &row)) {
            least = row.low > 0    ? fmin(least, row.low)
                    : row.high > 0 ? fmin(least, row.high)
                                   : least;
        }
    }
    return least;
}

static void choose_scale(struct pintle_panel *panel, const struct pintle_column *column,
                         unsigned rows, struct pintle_span base)
{
    bool may = column->quantity == PINTLE_QUANTITY_ILLUMINANCE
               || column->quantity == PINTLE_QUANTITY_RESISTANCE;
    double least = may ? least_above(column, rows) : INFINITY;
    if (may && base.low >= 0 && isfinite(least) && base.high / least >= DECADES) {
        panel->floor =
            (double)pintle_unit_show(panel->unit, (float)(base.low > 0 ? least : least / 2));
        panel->decades = true;
    }
}

/* Heights in a panel. */
static struct pintle_span heights(const struct pintle_panel *panel, struct pintle_span base)
{
    return (struct pintle_span){ pintle_priv_panel_height(panel, base.low),
                                 pintle_priv_panel_height(panel, base.high) };
}

/* How much there is to see: what a value moves, or a hundredth of what it is. */
static double extent(struct pintle_span span)
{
    return span.low > span.high
               ? 0
               : fmax(span.high - span.low, 0.01 * fmax(fabs(span.low), fabs(span.high)));
}

static bool share(struct pintle_span a, struct pintle_span b)
{
    return extent(joined(a, b)) <= LEAST_SHARE * fmin(extent(a), extent(b));
}

/* Do the two lines lie on each other? */
static bool covers(const struct pintle_history *history, const struct pintle_panel *panel,
                   const struct pintle_column *a, const struct pintle_column *b,
                   struct pintle_span all)
{
    double sum = 0;
    unsigned count = 0;
    for (unsigned r = 0; r < history->rows; r++) {
        double apart = fabs(pintle_priv_panel_height(panel, a->value[r])
                            - pintle_priv_panel_height(panel, b->value[r]));
        if (!isnan(apart) && !a->suspect[r] && !b->suspect[r]) {
            sum += apart;
            count++;
        }
    }
    return count > 0 && sum / count < COVERS * extent(all);
}

static bool fits(const struct pintle_history *history, const struct pintle_panel *panel, int number,
                 const int *place, unsigned c, struct pintle_span span)
{
    const struct pintle_column *column = &history->column[c];
    if (panel->quantity != column->quantity || panel->unit != column->unit
        || panel->lines >= PANEL_LINES || !share(panel->span, span)) {
        return false;
    }
    for (unsigned k = 0; k < c; k++) {
        if (place[k] == number
            && covers(history, panel, &history->column[k], column, joined(panel->span, span))) {
            return false;
        }
    }
    return true;
}

int pintle_priv_panels(const struct pintle_history *history, const uint8_t *chosen,
                       struct pintle_panel *panel, int *place)
{
    int count = 0;
    for (unsigned c = 0; c < history->columns; c++) {
        const struct pintle_column *column = &history->column[c];
        struct pintle_span base = span_of(column, history->rows);
        place[c] = -1;
        for (int p = 0; chosen[c] && p < count && place[c] < 0; p++) {
            bool here = fits(history, &panel[p], p, place, c, heights(&panel[p], base));
            place[c] = here ? p : -1;
        }
        if (!chosen[c]) {
            continue;
        }
        if (place[c] < 0) {
            panel[count] = (struct pintle_panel){ .quantity = column->quantity,
                                                  .unit = column->unit,
                                                  .also = column->also };
            choose_scale(&panel[count], column, history->rows, base);
            panel[count].span = heights(&panel[count], base);
            place[c] = count++;
        }
        struct pintle_panel *its = &panel[place[c]];
        its->span = joined(its->span, heights(its, base));
        its->lines++;
    }
    return count;
}
