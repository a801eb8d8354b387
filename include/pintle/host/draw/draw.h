/* host/draw/draw.h: pictures, 1280x800. The file's ending, .png or .svg, says the format.
 */
#ifndef PINTLE_HOST_DRAW_DRAW_H
#define PINTLE_HOST_DRAW_DRAW_H

#include "pintle/host/base/picture.h"
#include "pintle/host/past/history.h"
#include "pintle/host/rig/rig.h"
#include "pintle/host/trace/trace.h"

PINTLE_C_BEGIN

/* Can this build draw? One without plotting answers each call below with a sentence. */
bool pintle_draw_can(void);

/* Something that happened, marked in a plot. */
struct pintle_happening {
    double time;      /* seconds since 1970 */
    const char *text; /* beneath the plot, by its number */
};

/* A run: the columns whose `chosen` byte is 1, over time or over something else. Columns of one
 * quantity share a panel where none covers another or is pressed flat. Gaps stay open; suspect
 * readings are marked; where rows stand for several records, their least and greatest are drawn. */
struct pintle_plot {
    const struct pintle_history *history;
    const uint8_t *chosen;
    const char *title;
    const struct pintle_happening *flag;
    unsigned flags;
    double zone_s;         /* times are shown so far east of UTC, */
    const char *clock;     /* in the zone of this name */
    const double *across;  /* of each row, as it is shown; null: its time */
    const char *across_as; /* what that is */
    bool points;           /* rows don't follow each other along it */
    int skip, most;        /* panels that are left out first, and that are drawn; 0: all */
};
bool pintle_draw_plot(const struct pintle_plot *plot, const char *path,
                      struct pintle_problem *problem);

/* How many panels there would be in all. */
int pintle_draw_panels(const struct pintle_plot *plot);

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

/* Dots of a small display, as large as fits. */
bool pintle_draw_dots(const struct pintle_picture *picture, const char *path,
                      struct pintle_problem *problem);

/* The wiring card of a rig. */
bool pintle_draw_card(const struct pintle_rig *rig, const char *path,
                      struct pintle_problem *problem);

/* Transfer number `number` (from 1) of a trace as a timing diagram. */
bool pintle_draw_timing(const struct pintle_trace *trace, const struct pintle_rig *rig,
                        unsigned number, const char *path, struct pintle_problem *problem);

PINTLE_C_END

#endif
