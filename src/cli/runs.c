#include <stdio.h>
#include <string.h>

#include "cli/past.h"
#include "pintle/host/base/duration.h"
#include "pintle/host/run/run.h"

#define FEW 50 /* records don't tell what one takes */

static const char *how_of(const struct pintle_past *run)
{
    return run->writing ? "is written" : run->ended ? run->ended : "cut off";
}

/* Without what a clock was moved by; "-" where it has no record. */
static char *length_of(const struct pintle_past *run)
{
    struct pintle_problem problem = { 0 };
    int64_t last = 0;
    return pintle_past_last(run, &last, &problem)
               ? pintle_duration_text(last - run->began_us - run->stepped_us)
               : g_strdup("-");
}

static void print_run(const struct pintle_past *run, const struct past_options *options)
{
    char *began = cli_moment(run->began_us, options->local);
    char *length = length_of(run);
    bool bad = !run->writing && g_strcmp0(run->ended, "done") != 0
               && g_strcmp0(run->ended, "interrupted") != 0;
    printf("%6u  %-19s  %12s  %s%-11s%s %9" G_GUINT64_FORMAT " %9" G_GUINT64_FORMAT
           " %9" G_GUINT64_FORMAT "  %s%s\n",
           run->number, run->unset ? "never set" : began, length, bad ? cli_bad() : "", how_of(run),
           bad ? cli_plain() : "", run->records, run->suspect, run->missed,
           run->title ? run->title : "", run->folder ? "" : "  (database)");
    g_free(began);
    g_free(length);
}

static char *years(double seconds)
{
    return seconds > 100 * 365.25 * 86400 ? g_strdup("more than 100 years")
           : seconds > 2 * 365.25 * 86400 ? g_strdup_printf("%.0f years", seconds / 365.25 / 86400)
                                          : pintle_duration_text((int64_t)(seconds * 1e6));
}

/* How long what is free lasts, by the run that was logged last. */
static void print_room(const struct chosen *chosen)
{
    const struct pintle_past *run = chosen->archive->run[chosen->archive->count - 1];
    char *path =
        run->folder ? g_build_filename(run->folder, "readings.csv", NULL) : g_strdup(run->database);
    double size = pintle_run_size(path);
    uint64_t records = 0;
    for (unsigned i = 0; i < chosen->archive->count; i++) { /* a database has those of all runs */
        const struct pintle_past *its = chosen->archive->run[i];
        bool here = run->folder ? its == run : !its->folder;
        records += here ? its->records : 0;
    }
    double room = 0;
    double seconds = 0;
    if (records >= FEW && run->every_us > 0
        && pintle_run_room(path, size / (double)records, run->every_us, &room, &seconds)) {
        char *last = years(seconds);
        char *every = pintle_duration_text(run->every_us);
        printf("\nAt %.0f bytes a record and one every %s, the %.1f GB that are free last %s.\n",
               size / (double)records, every, room / 1e9, last);
        g_free(every);
        g_free(last);
    }
    g_free(path);
}

static bool list(const struct past_options *options, struct chosen *chosen,
                 struct pintle_problem *problem)
{
    struct pintle_archive *archive = chosen->archive;
    unsigned broken = 0;
    printf("%s%6s  %-19s  %12s  %-11s %9s %9s %9s  %s%s\n", cli_bold(), "run",
           options->local ? "began (local)" : "began (UTC)", "lasted", "ended", "records", "marked",
           "missed", "title", cli_plain());
    for (unsigned i = 0; i < archive->count; i++) {
        struct pintle_past *run = archive->run[i];
        struct pintle_problem why = { 0 };
        if (run->broken || !pintle_past_count(run, &why)) {
            printf("%6u  %s%s%s\n", run->number, cli_bad(), run->broken ? run->broken : why.text,
                   cli_plain());
            broken++;
        } else {
            print_run(run, options);
        }
    }
    if (archive->count > 0) {
        print_room(chosen);
    }
    return broken == 0
           || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "%u of %u runs can't be read",
                                 broken, archive->count);
}

static int run(int argc, char **argv)
{
    struct past_options options = { 0 };
    const GOptionEntry entries[] = { PLACE_OPTIONS(options), { 0 } };
    struct pintle_problem problem = { 0 };
    struct chosen chosen;
    if (!cli_options(&command_runs, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc > 1) {
        return cli_misuse("runs: '%s' is one word too many; 'pintle summary %s' looks at one run",
                          argv[1], argv[1]);
    }
    bool ok = cli_archive(&options, &chosen, &problem);
    ok = ok
         && (chosen.archive->count > 0
             || pintle_problem_set(&problem, PINTLE_FAILURE_USE,
                                   "there is no run in %s; 'pintle log' makes one",
                                   chosen.archive->where))
         && list(&options, &chosen, &problem);
    cli_choose_free(&chosen);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_runs = {
    .name = "runs",
    .summary = "the runs that were logged: when, how long, how they ended",
    .more =
        "A run that was cut off, by a pulled plug or a kill, has all its records but perhaps\n"
        "the one that was being written. Marked: records with a suspect reading, a missed slot\n"
        "or a clock that was moved; missed: slots in which nobody measured.\n\n"
        "Example:\n  pintle runs --demo\n  pintle runs --in sloop.db --local",
    .run = run,
};
