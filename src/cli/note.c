#include <stdio.h>
#include <string.h>

#include "cli/past.h"

struct note_options {
    struct past_options past;
    char *run;
    char *at;
    gboolean title;
};

/* In simulation a run's time is its own: that of its last record. */
static bool when(const struct note_options *o, const struct pintle_past *run, int64_t *time_us,
                 struct pintle_problem *problem)
{
    if (o->at) {
        return cli_moment_parse("at", o->at, o->past.local, time_us, problem);
    }
    bool any = run->simulated && pintle_past_last(run, time_us, problem);
    if (!any) {
        *time_us = run->simulated ? run->began_us : g_get_real_time() / 1000000 * 1000000;
    }
    return problem->text[0] == '\0';
}

/* A slip of the pen in a date would hide it. */
static void warn_outside(const struct note_options *o, const struct pintle_past *run,
                         int64_t time_us)
{
    int64_t last_us = run->began_us;
    struct pintle_problem ignored = { 0 };
    pintle_past_last(run, &last_us, &ignored);
    if (o->at && !run->unset && (time_us < run->began_us - 1000000 || time_us > last_us)) {
        char *from = cli_moment(run->began_us / 1000000 * 1000000, o->past.local);
        char *to = cli_moment(last_us, o->past.local);
        cli_say("that is outside the run, which has records from %s to %s", from, to);
        g_free(from);
        g_free(to);
    }
}

static bool note(const struct note_options *o, char **words, struct pintle_problem *problem)
{
    char *const which[] = { o->run ? o->run : (char *)(uintptr_t) "last", NULL };
    char *text = g_strjoinv(" ", words);
    struct chosen chosen;
    int64_t time_us = 0;
    bool ok =
        cli_choose(&o->past, which, &chosen, problem)
        && (chosen.count == 1
            || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "a note belongs to one run; give one with --run"))
        && (!chosen.run[0]->broken
            || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "%s", chosen.run[0]->broken))
        && when(o, chosen.run[0], &time_us, problem)
        && pintle_past_note(chosen.run[0], time_us, o->title, text, problem);
    if (ok) {
        char *moment = cli_moment(time_us, o->past.local);
        printf("%s: %s\n", chosen.run[0]->where, o->title ? "its title is set" : moment);
        warn_outside(o, chosen.run[0], time_us);
        g_free(moment);
    }
    cli_choose_free(&chosen);
    g_free(text);
    return ok;
}

static int run(int argc, char **argv)
{
    struct note_options o = { 0 };
    const GOptionEntry entries[] = {
        PLACE_OPTIONS(o.past),
        { "run", 0, 0, G_OPTION_ARG_FILENAME, &o.run, "of which run (the last)", "RUN" },
        { "at", 0, 0, G_OPTION_ARG_STRING, &o.at, "the time that it is about (now)", "TIME" },
        { "title", 0, 0, G_OPTION_ARG_NONE, &o.title, "the text is the run's title", NULL },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    if (!cli_options(&command_note, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc < 2 || strspn(argv[1], " ") == strlen(argv[1])) {
        return cli_misuse("note: give the text, as in: pintle note --demo hatch closed");
    }
    return note(&o, argv + 1, &problem) ? 0 : cli_fail(&problem);
}

const struct command command_note = {
    .name = "note",
    .usage = "TEXT...",
    .summary = "say something of a run, with the time, also while it is being logged",
    .more =
        "Notes are shown in summary, plot and report. Those of a simulated run get the time of\n"
        "its last record.\n\n"
        "Examples:\n  pintle note --demo hatch closed, heater on\n"
        "  pintle note --demo --run 2 --title Two days with the new anemometer mast",
    .run = run,
};
