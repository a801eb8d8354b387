#include <stdio.h>
#include <string.h>

#include "cli/past.h"
#include "pintle/host/draw/draw.h"

#define ROWS 2400 /* two for each dot across a page */

struct plot_options {
    struct past_options past;
    char *png;
    char *svg;
};

static bool draw(const struct pintle_history *history, const struct shown *shown, const char *title,
                 const char *path, struct pintle_problem *problem)
{
    bool ok = pintle_draw_plot(history, shown->chosen, title, path, problem);
    if (ok) {
        printf("%s\n", path);
    }
    return ok;
}

/* Beside the run's records, or where one is. */
static char *usual_path(const struct chosen *chosen, const char *ending)
{
    const struct pintle_past *first = chosen->run[0];
    const struct pintle_past *last = chosen->run[chosen->count - 1];
    if (chosen->count == 1 && first->folder) {
        char *name = g_strconcat("plot", ending, NULL);
        char *path = g_build_filename(first->folder, name, NULL);
        g_free(name);
        return path;
    }
    return chosen->count == 1
               ? g_strdup_printf("run-%u%s", first->number, ending)
               : g_strdup_printf("runs-%u-%u%s", first->number, last->number, ending);
}

static bool draw_files(const struct plot_options *o, const struct chosen *chosen,
                       const struct pintle_history *history, const struct shown *shown,
                       struct pintle_problem *problem)
{
    static const char *const endings[] = { ".png", ".svg" };
    char *const named[] = { o->png, o->svg };
    char *title = cli_runs_title(chosen);
    bool ok = true;
    for (unsigned i = 0; ok && i < 2; i++) {
        if (named[i] || (!o->png && !o->svg)) {
            char *path = named[i] ? g_strdup(named[i]) : usual_path(chosen, endings[i]);
            ok = draw(history, shown, title, path, problem);
            g_free(path);
        }
    }
    g_free(title);
    return ok;
}

static bool plot(const struct plot_options *o, char *const *words, struct pintle_problem *problem)
{
    struct chosen chosen;
    struct shown shown = { 0 };
    bool ok = cli_choose(&o->past, words, &chosen, problem);
    struct pintle_progress progress = cli_watch_progress("reading");
    chosen.window.progress = &progress;
    struct pintle_history *history =
        ok ? pintle_history_read(chosen.run, chosen.count, chosen.window, ROWS, problem) : NULL;
    cli_end_progress();
    ok = history && cli_shown_history(&o->past, &chosen, history, &shown, problem)
         && draw_files(o, &chosen, history, &shown, problem);
    cli_shown_free(&shown);
    pintle_history_free(history);
    cli_choose_free(&chosen);
    return ok;
}

static int run(int argc, char **argv)
{
    struct plot_options o = { 0 };
    const GOptionEntry entries[] = {
        PLACE_OPTIONS(o.past),
        WINDOW_OPTIONS(o.past),
        CHANNEL_OPTIONS(o.past),
        { "png", 0, 0, G_OPTION_ARG_FILENAME, &o.png, "write a PNG here", "FILE" },
        { "svg", 0, 0, G_OPTION_ARG_FILENAME, &o.svg, "write an SVG here", "FILE" },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    if (!cli_options(&command_plot, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    return plot(&o, argv + 1, &problem) ? 0 : cli_fail(&problem);
}

const struct command command_plot = {
    .name = "plot",
    .usage = "[RUN...]",
    .summary = "runs as a picture, PNG and SVG",
    .more =
        "RUN is a number, \"2-5\", \"last\" (the usual one), \"all\" or a run's folder; several "
        "are\n"
        "joined. Without --png and --svg both are written, beside the records of a single run.\n"
        "Gaps stay open; readings that are suspect are marked in red.\n\n"
        "Examples:\n  pintle plot --demo 1 --channels sea,engine --png /tmp/water.png\n"
        "  pintle plot --demo last --last 6h",
    .run = run,
};
