#include <math.h>
#include <stdio.h>
#include <string.h>

#include "cli/past.h"
#include "pintle/host/draw/draw.h"
#include "pintle/host/past/summary.h"

#define ROWS 700        /* more are averaged: the page is some 1100 dots wide */
#define POINTS 20000    /* of one channel over another */
#define RECORD "record" /* instead of a channel */

struct plot_options {
    struct past_options past;
    char *png;
    char *svg;
    char *against;
};

/* --- over what --- */

static bool take_across(const struct plot_options *o, const struct pintle_history *history,
                        struct pintle_plot *plot, struct pintle_problem *problem)
{
    if (!o->against) {
        return true;
    }
    if (strcmp(o->against, RECORD) == 0) {
        plot->across = g_memdup2(history->record, history->rows * sizeof *history->record);
        plot->across_as = g_strdup("record");
        return true;
    }
    for (unsigned c = 0; c < history->columns; c++) {
        const struct pintle_column *column = &history->column[c];
        if (strcmp(column->name, o->against) != 0) {
            continue;
        }
        double *values = g_new(double, history->rows);
        for (unsigned r = 0; r < history->rows; r++) {
            bool good = !isnan(column->value[r]) && (column->least || !column->suspect[r]);
            values[r] = good ? cli_in_unit(column->unit, column->value[r]) : (double)NAN;
        }
        plot->across = values;
        plot->points = true;
        plot->across_as = g_strdup_printf("%s, %s", column->name, pintle_unit_symbol(column->unit));
        return true;
    }
    return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                              "%s has no channel '%s' to plot against; name one such as %s, or "
                              "'record'",
                              history->path, o->against, history->column[0].name);
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
                       const struct pintle_plot *plot, struct pintle_problem *problem)
{
    static const char *const endings[] = { ".png", ".svg" };
    char *const named[] = { o->png, o->svg };
    bool ok = true;
    for (unsigned i = 0; ok && i < 2; i++) {
        if (named[i] || (!o->png && !o->svg)) {
            char *path = named[i] ? g_strdup(named[i]) : usual_path(chosen, endings[i]);
            ok = cli_may_write(chosen, path, problem) && pintle_draw_plot(plot, path, problem);
            if (ok) {
                printf("%s\n", path);
            }
            g_free(path);
        }
    }
    return ok;
}

static bool draw(const struct plot_options *o, const struct chosen *chosen,
                 const struct pintle_history *history, const struct shown *shown,
                 struct pintle_problem *problem)
{
    char *title = cli_runs_title(chosen);
    char *zone = o->past.local ? cli_zone((int64_t)history->time[0] * 1000000) : g_strdup("UTC");
    struct pintle_plot plot = { .history = history,
                                .chosen = shown->chosen,
                                .title = title,
                                .zone_s =
                                    cli_zone_s((int64_t)history->time[0] * 1000000, o->past.local),
                                .clock = zone };
    struct pintle_summary *summary =
        pintle_summary_make(chosen->run, chosen->count, chosen->window, problem);
    if (summary) {
        cli_take_happenings(summary, &plot);
    }
    bool ok =
        summary && take_across(o, history, &plot, problem) && draw_files(o, chosen, &plot, problem);
    cli_free_happenings(&plot);
    pintle_summary_free(summary);
    g_free((void *)(uintptr_t)plot.across);
    g_free((char *)(uintptr_t)plot.across_as);
    g_free(zone);
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
        ok ? pintle_history_read(chosen.run, chosen.count, chosen.window,
                                 o->against ? POINTS : ROWS, problem)
           : NULL;
    ok = history && cli_shown_history(&o->past, &chosen, history, &shown, problem)
         && draw(o, &chosen, history, &shown, problem);
    cli_end_progress();
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
        { "against", 0, 0, G_OPTION_ARG_STRING, &o.against,
          "over another channel instead of time, or over 'record', its number", "CHANNEL" },
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
        "Gaps stay open; when readings were suspect is marked in red beneath each panel. Of many\n"
        "records the least and the greatest are drawn as an area. Notes, restarts and steps of "
        "the\n"
        "clock are numbered lines.\n\n"
        "Examples:\n  pintle plot --demo 1 --channels sea,engine --png /tmp/water.png\n"
        "  pintle plot --demo last --last 6h\n"
        "  pintle plot --demo 1 --channels baro.temperature --against cabin.temperature",
    .run = run,
};
