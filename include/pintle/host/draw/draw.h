/* host/draw/draw.h: pictures, 1280x800. The file's ending, .png or .svg, says the format.
 */
#ifndef PINTLE_HOST_DRAW_DRAW_H
#define PINTLE_HOST_DRAW_DRAW_H

#include "pintle/host/past/history.h"
#include "pintle/host/rig/rig.h"
#include "pintle/host/trace/trace.h"

/* Can this build draw? One without plotting answers each call below with a sentence. */
bool pintle_draw_can(void);

/* A run: the columns whose `chosen` byte is 1 over time, one panel per quantity. Gaps stay open;
 * suspect readings are marked. */
bool pintle_draw_plot(const struct pintle_history *history, const uint8_t *chosen,
                      const char *title, const char *path, struct pintle_problem *problem);

/* Points about zero: how far each measurement was off before a correction, and is now. */
struct pintle_scatter {
    const char *title, *across, *up; /* the axes' names */
    unsigned count;
    const double *at, *before, *after;
    const uint8_t *outlier; /* 1: ringed; null: none */
    double band;            /* drawn as far to either side of zero; 0: none */
};
bool pintle_draw_scatter(const struct pintle_scatter *scatter, const char *path,
                         struct pintle_problem *problem);

/* The wiring card of a rig. */
bool pintle_draw_card(const struct pintle_rig *rig, const char *path,
                      struct pintle_problem *problem);

/* Transfer number `number` (from 1) of a trace as a timing diagram. */
bool pintle_draw_timing(const struct pintle_trace *trace, const struct pintle_rig *rig,
                        unsigned number, const char *path, struct pintle_problem *problem);

#endif
