#include <signal.h>
#include <stdio.h>
#include <string.h>

#include "cli/watch.h"
#include "pintle/host/base/duration.h"
#include "pintle/host/rig/worth.h"

static volatile sig_atomic_t stop;

static void on_signal(int number)
{
    (void)number;
    stop = 1;
}

/* No SA_RESTART: a sleep ends at once. A reader of the records that has gone away is told by the
 * write that fails. */
static void catch_signals(void)
{
    static const int numbers[] = { SIGINT, SIGTERM, SIGHUP };
    struct sigaction action = { .sa_handler = on_signal };
    struct sigaction ignore = { .sa_handler = SIG_IGN };
    for (size_t i = 0; i < G_N_ELEMENTS(numbers); i++) {
        sigaction(numbers[i], &action, NULL);
    }
    sigaction(SIGPIPE, &ignore, NULL);
}

struct log_options {
    struct rig_options rig;
    char *every;
    char *length;
    char *into;
    char *database;
    char *title;
    char *show;
    gboolean only;
    char *format;
    gboolean real_time;
    gboolean quiet;
    gboolean worth;
};

static bool take_duration(const char *option, const char *text, int64_t *us,
                          struct pintle_problem *problem)
{
    if (!text || (pintle_duration_parse(text, us) && *us >= 1000)) {
        return true;
    }
    return pintle_problem_set(
        problem, PINTLE_FAILURE_USE,
        "%s takes a duration of at least 1 ms, such as \"20 s\" or \"1d\", not "
        "'%s'",
        option, text);
}

#define LAG_US 300000000 /* that is worth a word */

/* A chip's filter counts readings, not time: what holds noise down at one a second is hours behind
 * at one in ten minutes. */
static void say_lags(const struct pintle_rig *rig, int64_t every_us)
{
    for (unsigned i = 0; i < rig->wired; i++) {
        unsigned lag = pintle_worth_lag(&rig->sensor[i]);
        if (lag > 1 && lag * every_us >= LAG_US) {
            char *after = pintle_duration_about(lag * every_us);
            cli_say(
                "sensor '%s': its filter shows three quarters of a step only after %u readings, "
                "%s at this interval; set a smaller one where that is too late",
                rig->sensor[i].name, lag, after);
            g_free(after);
        }
    }
}

/* Nobody can tell from such a chip's value that it is the one before. */
static void say_repeats(const struct pintle_rig *rig, int64_t every_us)
{
    for (unsigned i = 0; i < rig->wired; i++) {
        uint32_t new_us = pintle_worth_renewal_us(&rig->sensor[i]);
        if (every_us < new_us) {
            char *text = pintle_duration_about(new_us);
            cli_say(
                "sensor '%s': a new value may take it %s, and it does not say which are new; at "
                "this interval some are the value before",
                rig->sensor[i].name, text);
            g_free(text);
        }
    }
}

static int log_with(const struct log_options *options, struct pintle_rig *rig,
                    struct pintle_station *station, enum format format)
{
    struct pintle_problem problem = { 0 };
    struct pintle_logged logged = { 0 };
    struct watch watch = { .station = station,
                           .format = format,
                           .quiet = options->quiet,
                           .in_units = options->rig.units != NULL };
    struct pintle_logging logging = { .station = station,
                                      .places = cli_where(rig, options->into, options->database,
                                                          options->only, options->title),
                                      .every_us = rig->every_us,
                                      .stop = &stop,
                                      .record = log_watch_record,
                                      .begun = log_watch_begun,
                                      .shown = log_watch_shown,
                                      .alive = log_watch_wait,
                                      .context = &watch };
    if (!take_duration("--every", options->every, &logging.every_us, &problem)
        || !take_duration("--for", options->length, &logging.for_us, &problem)
        || !take_duration("--show", options->show, &logging.show_us, &problem)) {
        return cli_fail(&problem);
    }
    if (!logging.places.folder && !logging.places.database) {
        return cli_misuse(
            "log: into no folder and no database there is nowhere to log to; name one "
            "with --into or --database");
    }
    rig->every_us = logging.every_us;
    int64_t round_us =
        logging.show_us > 0 ? MIN(logging.show_us, logging.every_us) : logging.every_us;
    say_lags(rig, round_us);
    say_repeats(rig, round_us);
    bool simulated = station->platform->pass != NULL;
    if (options->real_time && !simulated) {
        return cli_misuse("--real-time is for the simulation; on port '%s' time is real anyway",
                          rig->port);
    }
    if (options->real_time) {
        station->platform->pace(station);
    } else if (simulated && !options->length) {
        logging.for_us = 86400000000;
        cli_say("logging one simulated day; --for sets another length, --real-time the real pace");
    }
    catch_signals();
    log_watch_begin(&watch);
    bool ok = pintle_log(&logging, &logged, &problem);
    if (ok) {
        log_watch_first(&watch);
        ok = cli_printed(&problem);
    }
    cli_progress_clear();
    log_watch_end(&watch);
    return cli_logged(&logged, ok, &problem);
}

static int run(int argc, char **argv)
{
    struct log_options options = { 0 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options.rig),
        AT_OPTION(options.rig.at),
        UNIT_OPTION(options.rig),
        { "for", 0, 0, G_OPTION_ARG_STRING, &options.length,
          "how long (until stopped; in the simulation one day)", "DURATION" },
        { "every", 0, 0, G_OPTION_ARG_STRING, &options.every, "instead of the rig's interval",
          "DURATION" },
        { "show", 0, 0, G_OPTION_ARG_STRING, &options.show,
          "and rounds between the records that are only printed, so often", "DURATION" },
        { "title", 0, 0, G_OPTION_ARG_FILENAME, &options.title, "the run's title", "TEXT" },
        { "database", 0, 0, G_OPTION_ARG_FILENAME, &options.database, "also into this database",
          "FILE" },
        { "only-database", 0, 0, G_OPTION_ARG_NONE, &options.only, "and into no folder", NULL },
        { "into", 0, 0, G_OPTION_ARG_FILENAME, &options.into,
          "the folder for what the rig file names by a relative path", "DIR" },
        { "real-time", 0, 0, G_OPTION_ARG_NONE, &options.real_time,
          "pace simulated time to the real clock", NULL },
        { "format", 'f', 0, G_OPTION_ARG_STRING, &options.format,
          "of what is printed: text, csv or senml", "NAME" },
        { "uncertainty", 0, 0, G_OPTION_ARG_NONE, &options.worth,
          "and how exact each is: a column of standard uncertainties", NULL },
        { "quiet", 'q', 0, G_OPTION_ARG_NONE, &options.quiet, "print no records", NULL },
        { 0 }
    };
    if (!cli_options(&command_log, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    struct pintle_problem problem = { 0 };
    struct pintle_rig *rig = NULL;
    struct pintle_station *station = NULL;
    enum format format = FORMAT_TEXT;
    if (argc > 1) {
        return cli_misuse("log: '%s' is one word too many; it logs every sensor of the rig",
                          argv[1]);
    }
    if (options.only && options.into) {
        return cli_misuse("log: --only-database goes into no folder; leave it or --into away");
    }
    if (options.quiet && options.show) {
        return cli_misuse("log: --show only prints, and --quiet doesn't; leave one away");
    }
    if (!cli_format(options.format, &format, &problem)
        || !cli_units_fit(options.rig.units, format, FORMAT_CSV, &problem)
        || !cli_open(&options.rig, &rig, &station, &problem)) {
        return cli_fail(&problem);
    }
    rig->uncertain = rig->uncertain || options.worth;
    int status = log_with(&options, rig, station, format);
    pintle_station_free(station);
    pintle_rig_free(rig);
    return status;
}

const struct command command_log = {
    .name = "log",
    .summary = "log every sensor into a new run folder, aligned to the clock",
    .more =
        "Each record is on the disk before the next is taken. Ctrl-C ends a run whole; a pulled\n"
        "plug costs at most the record being written. A failing sensor is marked, tried again\n"
        "every time, and comes back by itself. With --into a database that the rig file\n"
        "names by a relative path lies in that folder too.\n\n"
        "Example:\n  pintle log --demo --for 1d --quiet\n"
        "  pintle log --demo --for 1min --every 5s --real-time",
    .run = run,
};
