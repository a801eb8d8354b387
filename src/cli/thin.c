#include <stdio.h>

#include "cli/past.h"
#include "pintle/host/past/thin.h"

#define DAY_US 86400000000LL

struct thin_options {
    struct past_options past;
    char *whole, *minutes, *hours;
    gboolean yes;
};

static bool take_ages(const struct thin_options *o, struct pintle_thinning *how,
                      struct pintle_problem *problem)
{
    how->really = o->yes;
    return cli_duration("whole", o->whole, 30 * DAY_US, &how->whole_us, problem)
           && cli_duration("minutes", o->minutes, 365 * DAY_US, &how->minutes_us, problem)
           && cli_duration("hours", o->hours, 3650 * DAY_US, &how->hours_us, problem)
           && ((how->whole_us <= how->minutes_us && how->minutes_us <= how->hours_us)
               || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                     "--whole, --minutes and --hours are ages, each no less than "
                                     "the one before"));
}

static void report(const struct pintle_thinned *t, bool really, bool local)
{
    char *from = cli_moment(t->whole_from_us, local);
    if (t->before == 0) {
        printf("nothing to thin: no two records before %s fall into one interval\n", from);
    } else {
        printf("%" G_GUINT64_FORMAT " records before %s %s averages of %" G_GUINT64_FORMAT
               " interval%s, in %u run%s\n",
               t->before, from, really ? "are now" : "would become", t->after, cli_s(t->after),
               t->runs, cli_s(t->runs));
        printf(really ? "the file gave back the room that they took\n"
                      : "nothing was changed; --yes does it\n");
    }
    if (t->left > 0) {
        printf("%u run%s left alone: %s clock was moved, never set, or can't be read\n", t->left,
               t->left == 1 ? " is" : "s are", t->left == 1 ? "its" : "their");
    }
    g_free(from);
}

static int run(int argc, char **argv)
{
    struct thin_options o = { 0 };
    const GOptionEntry entries[] = {
        PLACE_OPTIONS(o.past),
        { "whole", 0, 0, G_OPTION_ARG_STRING, &o.whole, "younger than this all stay (30d)", "AGE" },
        { "minutes", 0, 0, G_OPTION_ARG_STRING, &o.minutes,
          "up to this one remains for each minute (1y)", "AGE" },
        { "hours", 0, 0, G_OPTION_ARG_STRING, &o.hours,
          "up to this for each hour, then for each day (10y)", "AGE" },
        { "yes", 'y', 0, G_OPTION_ARG_NONE, &o.yes, "do it; else it is only counted", NULL },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    struct pintle_thinning how = { 0 };
    struct pintle_thinned thinned;
    struct pintle_rig *rig = NULL;
    if (!cli_options(&command_thin, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc > 1) {
        return cli_misuse("thin: '%s' is one word too many; it thins a whole database", argv[1]);
    }
    bool ok = take_ages(&o, &how, &problem);
    if (ok && !o.past.in) {
        rig = cli_rig(&o.past.rig, &problem);
        ok = rig
             && (rig->database
                 || pintle_problem_set(&problem, PINTLE_FAILURE_USE,
                                       "this rig logs into no database; name one with --in (run "
                                       "folders are never thinned)"));
    }
    struct pintle_progress progress = cli_watch_progress("thinning");
    how.progress = &progress;
    ok = ok && pintle_thin(o.past.in ? o.past.in : rig->database, &how, &thinned, &problem);
    cli_end_progress();
    if (ok) {
        report(&thinned, o.yes, o.past.local);
    }
    pintle_rig_free(rig);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_thin = {
    .name = "thin",
    .summary = "average a database's old records over minutes, hours, days",
    .more =
        "Ages count back from the newest record. Each interval keeps the mean, the least and the\n"
        "greatest of its good readings, how many there were, and the marks; figures of a summary\n"
        "stay what they were. What was thinned is noted in the run. Runs in folders are never\n"
        "thinned.\n\n"
        "Examples:\n  pintle thin --in sloop.db\n  pintle thin --in sloop.db --whole 1w --yes",
    .run = run,
};
