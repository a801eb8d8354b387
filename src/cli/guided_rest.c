/* Rest, and a free turn: samples into the series. */
#include <math.h>
#include <string.h>

#include "cli/guided.h"
#include "pintle/host/rig/worth.h"

struct gathering {
    struct pintle_fit_still still;
    unsigned room, needed;
    unsigned octant[8]; /* how many from each eighth of all directions */
    double least;       /* that an axis has to change by to have been turned */
    bool moved;
};

static void begin_series(struct subject *s, struct gathering *g, unsigned usual)
{
    unsigned needed = s->options->samples > 0 ? (unsigned)s->options->samples : usual;
    g->needed = g->room = needed;
    pintle_series_free(&s->series);
    s->series = (struct pintle_series){ .wide = s->wanted.wide,
                                        .time = g_new0(double, g->room),
                                        .value = g_new0(double, (gsize)s->wanted.wide * g->room) };
}

static void put(struct subject *s, const float values[3])
{
    struct pintle_series *series = &s->series;
    for (unsigned a = 0; a < series->wide; a++) {
        series->value[series->wide * series->count + a] = (double)values[a];
    }
    series->time[series->count++] = (double)pintle_station_now(s->station) / 1e6;
}

static int take_rest(struct subject *s, void *own, const float values[3], bool good)
{
    struct gathering *g = own;
    if (good && pintle_fit_still_add(&g->still, values) == 0) {
        if (s->series.count >= g->needed / 4 || (s->series.count > 0 && !g->moved)) {
            cli_progress_clear();
            cli_say("It was moved; the %u samples so far are dropped. Don't touch it, nor what it "
                    "lies on.",
                    s->series.count);
            g->moved = true;
        }
        s->series.count = 0;
    } else if (good) {
        put(s, values);
    }
    cli_progress("at rest, %u of %u", s->series.count, g->needed);
    return s->series.count >= g->needed;
}

static int listen_gathering(struct subject *s, void *own, const char *line)
{
    struct gathering *g = own;
    cli_progress_clear();
    if (strcmp(line, "quit") == 0) {
        return -1;
    }
    if (strcmp(line, "done") == 0) {
        g->needed = MIN(g->needed, s->series.count);
        return 1;
    }
    if (strcmp(line, "back") == 0 || strcmp(line, "again") == 0) {
        s->series.count = 0;
        memset(g->octant, 0, sizeof g->octant);
        g->still.count = 0;
        cli_say("All is forgotten; it begins anew.");
    } else {
        cli_say("Type 'again' to begin anew, 'done' or 'quit'.");
    }
    return 0;
}

/* Its time is over, and nobody said that it is enough. */
static bool enough(const struct subject *s, const struct gathering *g,
                   struct pintle_problem *problem)
{
    return s->series.count >= g->needed
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "too few samples: %u of %u without being disturbed; give it more "
                                 "time with --for, or ask for less with --samples",
                                 s->series.count, g->needed);
}

#define USUAL 400     /* samples */
#define AT_REST 0.02f /* rad/s from one extreme to the other: more is a hand, or a boat */

/* The longest stretch of a run in which nobody moved it. */
static bool rest_of_run(struct subject *s, struct gathering *g, struct pintle_problem *problem)
{
    unsigned longest = 0;
    unsigned end = 0;
    struct pintle_series *series = &s->series;
    if (!cli_calibrate_from_run(s, problem)) {
        return false;
    }
    for (unsigned i = 0; i < series->count; i++) {
        float values[3] = { 0, 0, 0 };
        for (unsigned a = 0; a < series->wide; a++) {
            values[a] = (float)series->value[series->wide * i + a];
        }
        unsigned still = pintle_fit_still_add(&g->still, values);
        end = still > longest ? i + 1 : end;
        longest = MAX(longest, still);
    }
    memmove(series->value, &series->value[series->wide * (end - longest)],
            (gsize)series->wide * longest * sizeof *series->value);
    series->count = longest;
    g->needed = s->options->samples > 0 ? (unsigned)s->options->samples : USUAL;
    return enough(s, g, problem);
}

bool cli_guide_rest(struct subject *s, struct pintle_problem *problem)
{
    struct gathering g = { .still = { .axes = (uint8_t)s->wanted.wide, .limit = AT_REST } };
    if (s->options->run) {
        return rest_of_run(s, &g, problem);
    }
    begin_series(s, &g, USUAL);
    cli_say("Lay the gyroscope down and don't touch it, nor what it lies on.");
    return cli_stream(s, take_rest, listen_gathering, &g, problem) && enough(s, &g, problem);
}

/* The eighth that a direction lies in, seen from the middle of all so far. */
static void count_octants(const struct subject *s, struct gathering *g)
{
    const struct pintle_series *series = &s->series;
    double least[3] = { INFINITY, INFINITY, INFINITY };
    double most[3] = { -INFINITY, -INFINITY, -INFINITY };
    memset(g->octant, 0, sizeof g->octant);
    for (unsigned pass = 0; pass < 2; pass++) {
        for (unsigned i = 0; i < series->count; i++) {
            unsigned octant = 0;
            for (unsigned a = 0; a < 3; a++) {
                double v = series->value[3 * i + a];
                least[a] = fmin(least[a], v);
                most[a] = fmax(most[a], v);
                octant |= (v > (least[a] + most[a]) / 2 ? 1u : 0u) << a;
            }
            g->octant[octant] += pass;
        }
    }
    for (unsigned a = 0; a < 3; a++) { /* noise has directions too */
        if (!(most[a] - least[a] >= g->least)) {
            memset(g->octant, 0, sizeof g->octant);
        }
    }
}

static unsigned octants_seen(const struct gathering *g)
{
    unsigned seen = 0;
    for (unsigned i = 0; i < 8; i++) {
        seen += g->octant[i] * 24 >= g->needed; /* a third of its share */
    }
    return seen;
}

/* Where all eighths were seen it is enough; where some are missing, the oldest half makes room. */
static int take_turn(struct subject *s, void *own, const float values[3], bool good)
{
    struct gathering *g = own;
    if (good) {
        put(s, values);
    }
    if (s->series.count % 16 == 0 || s->series.count == g->needed) {
        count_octants(s, g);
    }
    cli_progress("%u of %u, %u of 8 directions", s->series.count, g->needed, octants_seen(g));
    if (s->series.count < g->needed) {
        return 0;
    }
    if (octants_seen(g) == 8) {
        return 1;
    }
    cli_progress_clear();
    cli_say("Only %u of 8 directions were seen: turn it over all its sides, head over heels too.",
            octants_seen(g));
    unsigned kept = 0;
    for (unsigned i = 0; i < s->series.count; i += 2, kept++) {
        s->series.time[kept] = s->series.time[i];
        memmove(&s->series.value[3 * kept], &s->series.value[3 * i], 3 * sizeof *s->series.value);
    }
    s->series.count = kept;
    return 0;
}

bool cli_guide_turn(struct subject *s, struct pintle_problem *problem)
{
    const struct pintle_rig_sensor *sensor = &s->rig->sensor[s->wanted.of.sensor];
    struct gathering g = { .room = 0 };
    g.least = fmax(30 * pintle_worth_count(sensor, s->wanted.of.channel, 0), s->options->strength);
    begin_series(s, &g, USUAL);
    cli_say("Turn the sensor slowly through all directions, away from iron and wires, until it has "
            "enough.");
    return cli_stream(s, take_turn, listen_gathering, &g, problem) && enough(s, &g, problem);
}
