/* Ticks and their labels. */
#ifndef PINTLE_PRIV_DRAW_AXIS_H
#define PINTLE_PRIV_DRAW_AXIS_H

#include <plplot/plplot.h>
#include <stdbool.h>

/* What the labels of a frame are made of. */
struct pintle_axis {
    bool time;     /* across is time, seconds since 1970 */
    double across; /* steps of the ticks */
    double up;
    bool decades; /* up are logarithms */
};

/* Round steps for so many ticks at most; of time whole hours, minutes, days. */
double pintle_priv_axis_step(double span, int ticks);
double pintle_priv_axis_time_step(double span);

/* Likewise, with two ticks between the ends at least. */
double pintle_priv_axis_two(double low, double high, int ticks);

/* From now on labels are made by this, which must outlive the frames. */
void pintle_priv_axis_use(const struct pintle_axis *axis);

#endif
