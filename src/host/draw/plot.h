/* What the files share that draw a plot. */
#ifndef PINTLE_PRIV_DRAW_PLOT_H
#define PINTLE_PRIV_DRAW_PLOT_H

#include "host/draw/axis.h"
#include "host/draw/page.h"
#include "host/draw/panel.h"

#define LANE 0.09 /* of a panel's height, beneath its values: when readings were suspect */

/* Colours of map 0: paper, ink, grid, then the lines, told apart without red and green alone; what
 * stands for a line's paler self comes last. */
enum { PAPER, INK, GRID, LINES, MARK = LINES + PANEL_LINES, FLAG, LANES, PALE };
/* What is drawn, and a panel's place on the page. */
struct drawing {
    const struct pintle_plot *plot;
    const struct pintle_history *history;
    struct pintle_panel *panel;
    int *place;
    int panels;
    double scale;       /* of a page of the usual height to this one */
    char *legend;       /* "" where there is nothing to explain */
    double symbol;      /* of a symbol's usual size to what it is here */
    double left, right; /* across */
    double edge;        /* the right one on the page */
    struct pintle_axis axis;
};

/* The same colour, paler. */
void pintle_priv_plot_pale(int colour, double strength);

/* Flags as lines through a panel, in the topmost one numbered; what they mean, two to a row where
 * they are short, from `top` downwards; and in so many rows. */
#define FLAG_ROW 0.026
void pintle_priv_plot_flags(const struct drawing *d, const struct pintle_panel *panel,
                            bool topmost);
void pintle_priv_plot_explain(const struct drawing *d, double top);
unsigned pintle_priv_plot_explained(const struct drawing *d);

/* As much of a text as fits into a page's width, in letters of the size that it is drawn in;
 * `width` of it, where 1 is a letter of usual width. To be freed. */
#define LETTERS 130 /* such letters in the usual size */
char *pintle_priv_plot_cut(const char *text, double room, double *width);

/* A time of the plot's zone as "2026-06-12 00:01:00". To be freed. */
char *pintle_priv_plot_time(double seconds);

/* Every line of a panel, with its marks. */
void pintle_priv_plot_lines(const struct drawing *d, int number);

/* A row's place across. */
double pintle_priv_plot_across(const struct drawing *d, unsigned row);

/* Where the lane ends. */
double pintle_priv_plot_lane(const struct pintle_panel *panel);

void pintle_priv_plot_tick(double x, double from, double to);

#endif
