/* What the commands share that look at runs. */
#ifndef PINTLE_CLI_PAST_H
#define PINTLE_CLI_PAST_H

#include "cli/cli.h"
#include "pintle/host/past/average.h"
#include "pintle/host/draw/draw.h"
#include "pintle/host/past/history.h"
#include "pintle/host/past/summary.h"

struct past_options {
    struct rig_options rig;
    char *in;
    char *from, *to, *last;
    char *channels;
    char **units;
    gboolean local;
};
#define PLACE_OPTIONS(options)                                                                     \
    {                                                                                              \
        "rig",                                                                                     \
        'r',                                                                                       \
        0,                                                                                         \
        G_OPTION_ARG_FILENAME,                                                                     \
        &(options).rig.rig,                                                                        \
        "the rig file, for where runs are",                                                        \
        "FILE"                                                                                     \
    },                                                                                             \
        { "demo",                                                                                  \
          0,                                                                                       \
          0,                                                                                       \
          G_OPTION_ARG_NONE,                                                                       \
          &(options).rig.demo,                                                                     \
          "use the built-in rig, a moored sloop",                                                  \
          NULL },                                                                                  \
        { "in",   0, 0, G_OPTION_ARG_FILENAME, &(options).in, "a folder of runs, or a database",   \
          "PLACE" },                                                                               \
    {                                                                                              \
        "local", 0, 0, G_OPTION_ARG_NONE, &(options).local, "times in this machine's zone", NULL   \
    }
#define WINDOW_OPTIONS(options)                                                                    \
    {                                                                                              \
        "last",    0, 0, G_OPTION_ARG_STRING, &(options).last, "only so long before the end",      \
        "DURATION"                                                                                 \
    },                                                                                             \
        { "from",                                                                                  \
          0,                                                                                       \
          0,                                                                                       \
          G_OPTION_ARG_STRING,                                                                     \
          &(options).from,                                                                         \
          "only from here on (2026-06-13 04:00)",                                                  \
          "TIME" },                                                                                \
    {                                                                                              \
        "to", 0, 0, G_OPTION_ARG_STRING, &(options).to, "and up to here", "TIME"                   \
    }
#define CHANNEL_OPTIONS(options)                                                                   \
    { "channels",                                                                                  \
      'c',                                                                                         \
      0,                                                                                           \
      G_OPTION_ARG_STRING,                                                                         \
      &(options).channels,                                                                         \
      "channels, sensors or quantities, with commas between (all)",                                \
      "LIST" },                                                                                    \
        UNIT_OPTION(options)

/* Runs that were asked for. */
struct chosen {
    struct pintle_rig *rig; /* null: none was named */
    struct pintle_archive *archive;
    struct pintle_past **run;
    unsigned count;
    struct pintle_window window;
    struct pintle_progress progress;
    gint64 since_us; /* when it began */
};

/* Find them: the words are runs, with none of them the last. */
bool cli_choose(const struct past_options *options, char *const *words, struct chosen *chosen,
                struct pintle_problem *problem);

/* Only the archive. */
bool cli_archive(const struct past_options *options, struct chosen *chosen,
                 struct pintle_problem *problem);
void cli_choose_free(struct chosen *chosen);

/* May it be written to, or is it a file that a run is kept in? */
bool cli_may_write(const struct chosen *chosen, const char *path, struct pintle_problem *problem);

/* "run 1: Two days", "runs 1, 3 to 5", with every title that there is. To be freed. */
char *cli_runs_title(const struct chosen *chosen);

/* A word picks a channel ("sea.temperature"), a sensor ("sea") or a quantity ("pressure"). */
bool cli_column_matches(const struct pintle_run_column *column, const char *word);

/* Of columns which are asked for, and in which unit each is shown. */
struct shown {
    unsigned count;
    uint8_t *chosen;
    enum pintle_unit *unit, *also; /* PINTLE_UNIT_COUNT: nobody asked for one */
};
bool cli_shown(const struct past_options *options, const struct chosen *chosen,
               const struct pintle_run_column *columns, unsigned count, struct shown *shown,
               struct pintle_problem *problem);

/* Where nobody asked: as the rig shows it, or the rig that was kept with the first run. */
void cli_shown_as_usual(const struct chosen *chosen, const struct pintle_run_column *columns,
                        struct shown *shown);

/* Both, of a history, whose columns get their units. */
bool cli_shown_history(const struct past_options *options, const struct chosen *chosen,
                       struct pintle_history *history, struct shown *shown,
                       struct pintle_problem *problem);
void cli_shown_free(struct shown *shown);

/* A moment as "2026-06-12 00:01:00", with milliseconds where it has some. To be freed. */
char *cli_moment(int64_t time_us, bool local);

/* "2026-06-13", "2026-06-13 04:00", "2026-06-13T04:00:10Z", with a zone of its own or without. */
bool cli_moment_parse(const char *option, const char *text, bool local, int64_t *time_us,
                      struct pintle_problem *problem);

/* The zone of this machine at that moment: "+02:00". To be freed. */
char *cli_zone(int64_t time_us);

/* So many seconds east of UTC is it then; 0 unless local time is asked for. */
double cli_zone_s(int64_t time_us, bool local);

/* "UTC", or "local". */
const char *cli_clock_word(bool local);

/* A value in a unit, with a double's digits. */
double cli_in_unit(enum pintle_unit unit, double base);

/* A value of a column in a unit with `extra` more places than its readings are worth; "" where
 * there is none. A scale only, without the unit's zero, of differences. To be freed. */
char *cli_number(const struct pintle_run_column *column, enum pintle_unit unit, double base,
                 unsigned extra);
char *cli_difference(const struct pintle_run_column *column, enum pintle_unit unit, double base,
                     unsigned extra);

/* Shown in the unit that is asked for, or the usual one. */
enum pintle_unit cli_usual(const struct pintle_run_column *column, enum pintle_unit unit);

/* A channel's figures in a unit; "all round" where angles have no mean. */
struct figures {
    char *least, *mean, *greatest, *spread;
};
struct figures cli_figures(const struct pintle_summed *c, enum pintle_unit unit);
void cli_figures_free(struct figures *f);

/* What happened, as a plot marks it. */
void cli_take_happenings(const struct pintle_summary *summary, struct pintle_plot *plot);
void cli_free_happenings(struct pintle_plot *plot);

/* How far something is, on a terminal, once it takes longer than a second; Ctrl-C gives it up.
 * `what` is done: "reading". */
struct pintle_progress cli_watch_progress(const char *what);
void cli_end_progress(void);

/* It is so far. False: given up, as the problem; `left` says how things are then. */
bool cli_goes_on(const struct pintle_progress *progress, double share, const char *left,
                 struct pintle_problem *problem);

#endif
