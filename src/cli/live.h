/* What the files share that show a rig, or a run played back, in a terminal. */
#ifndef PINTLE_CLI_LIVE_H
#define PINTLE_CLI_LIVE_H

#include "cli/past.h"
#include "pintle/host/run/logger.h"
#include "pintle/host/watch/dots.h"

#define LIVE_TRAIL 4096 /* points of each channel */

enum live_view {
    VIEW_TABLE,
    VIEW_ONE,
    VIEW_CHANGE,
    VIEW_PAIR,
    VIEW_BARS,
    VIEW_ATTITUDE,
    VIEW_WEATHER,
    VIEW_COUNT
};

/* A channel that is shown. */
struct live_channel {
    struct pintle_run_column column;
    enum pintle_unit unit;
    struct pintle_trail trail;
    double threshold; /* base unit; not a number: none */
    bool marked;      /* of the pair */
};

/* What one channel measured at one time. */
struct live_point {
    unsigned channel;
    double time;
    struct pintle_cell cell;
};

struct live {
    /* what is shown */
    unsigned channels;
    struct live_channel *channel;
    char *name; /* of the rig or run */
    double time;
    int64_t over_us; /* the readings are averages over so long; 0: they are not */
    bool local;
    uint64_t rounds;
    int heel, trim, heading; /* channels; -1: none */
    char said[200];          /* at the bottom, until the next key */

    /* how it is shown */
    enum live_view view;
    unsigned selected, first; /* the first line of a table */
    double window_s;
    bool held, over, interrupted; /* the picture is held; the end is reached; by a signal */
    bool braille, colours;
    bool typing;
    char note[100];
    unsigned note_used;

    /* from where, and how fast */
    int64_t (*step)(struct live *live, struct pintle_problem *problem);
    double pace;
    double usual_s; /* between readings */

    /* a rig */
    struct pintle_rig *rig;
    struct pintle_station *station;
    struct pintle_logger *logger;
    struct pintle_logging logging;
    unsigned *sensor_of, *channel_of;
    uint64_t failing; /* sensors that fail */
    GArray *waiting;  /* what was measured while the picture is held: struct live_point */

    /* a run */
    struct chosen chosen;
    struct pintle_reader *reader;
    struct pintle_record ahead;
    bool has_ahead;
    unsigned *column_of;
};

/* --- live_source.c --- */
bool live_open_rig(struct live *live, const struct rig_options *options,
                   struct pintle_problem *problem);
bool live_open_run(struct live *live, const struct past_options *options, const char *run,
                   struct pintle_problem *problem);
bool live_choose(struct live *live, char *const *names, struct pintle_problem *problem);
bool live_begin(struct live *live, struct pintle_problem *problem);
bool live_note(struct live *live, const char *text, struct pintle_problem *problem);
void live_close(struct live *live);

/* Let go of the picture: what was measured meanwhile is shown. */
void live_release(struct live *live);

/* --- live_screen.c: the terminal; until a key ends it --- */
bool live_run(struct live *live, struct pintle_problem *problem);

/* --- live_views.c and live_figures.c: what stands between the first line and the last two --- */
void live_draw(struct live *live, int top, int rows, int columns);
void live_draw_one(struct live *live, int top, int rows, int columns);
void live_draw_pair(struct live *live, int top, int rows, int columns);
void live_draw_bars(struct live *live, int top, int rows, int columns);
void live_draw_attitude(struct live *live, int top, int rows, int columns);
void live_draw_weather(struct live *live, int top, int rows, int columns);

/* A channel's value, "-" where it has none; its unit; what is said against it, "" of nothing. To be
 * freed. */
char *live_value(const struct live_channel *c, double base, unsigned extra);
char *live_marks(const struct live_channel *c);
const char *live_unit(const struct live_channel *c);

/* The two that are compared. False: there are no two of one quantity. */
bool live_pair(const struct live *live, unsigned *a, unsigned *b);

/* A graph with its scale, in `rows` lines. */
void live_graph(const struct live *live, const struct live_channel *c,
                const struct pintle_trail *trail, int top, int rows, int columns);

/* Colours, and what stands for them without. */
enum { PAINT_PLAIN, PAINT_BAD, PAINT_GOOD, PAINT_LINE, PAINT_DIM };
void live_paint(const struct live *live, int paint, bool on);

#endif
