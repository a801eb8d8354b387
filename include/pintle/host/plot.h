/* host/plot.h: a run as a picture.
 */
#ifndef PINTLE_HOST_PLOT_H
#define PINTLE_HOST_PLOT_H

#include "pintle/host/run.h"

/* Draw the columns whose `chosen` byte is 1 over time, one panel per quantity, 1280x800. The
 * file's ending, .png or .svg, says the format. Gaps stay open; suspect readings are marked. */
bool pintle_plot_write(const struct pintle_history *history, const uint8_t *chosen,
                       const char *title, const char *path, struct pintle_problem *problem);

#endif
