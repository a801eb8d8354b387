/* Which column is drawn where, and over which values. */
#ifndef PINTLE_PRIV_DRAW_PANEL_H
#define PINTLE_PRIV_DRAW_PANEL_H

#include "pintle/host/draw/draw.h"

#define PANEL_LINES 4 /* in one panel at most */

/* Values from the least to the greatest. */
struct pintle_span {
    double low, high;
};

struct pintle_panel {
    enum pintle_quantity quantity;
    enum pintle_unit unit; /* of its first channel */
    enum pintle_unit also; /* on its right side; or PINTLE_UNIT_COUNT */
    bool decades;          /* its scale is logarithmic: span and heights are of logarithms */
    double floor;          /* where what is not above zero is drawn on such a scale */
    unsigned lines;
    struct pintle_span span; /* in that unit */
};

/* A value of its column as its panel shows it; not a number: there is none. */
double pintle_priv_panel_height(const struct pintle_panel *panel, double base);

/* Each chosen column's panel (-1: not chosen); how many panels there are. `panel` has room for each
 * column. Columns share one if they are of one quantity, none of them is pressed flat, and none
 * covers another. */
int pintle_priv_panels(const struct pintle_history *history, const uint8_t *chosen,
                       struct pintle_panel *panel, int *place);

/* A row's good values: the least and the greatest of them. False: it has none. */
bool pintle_priv_row(const struct pintle_column *column, unsigned row, struct pintle_span *span);

#endif
