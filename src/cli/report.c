/* A run as one HTML file that needs nothing else, and prints well. */
#include <glib/gstdio.h>
#include <stdio.h>
#include <string.h>

#include "cli/report.h"
#include "pintle/host/base/output.h"
#include "pintle/host/base/duration.h"

#define ROWS 700
#define PANELS 6 /* in one picture, so that it fits on a sheet */

static const char style[] =
    "body{font:15px/1.45 sans-serif;color:#222;max-width:1180px;margin:1.5em auto;padding:0 1em}\n"
    "h1{font-size:1.6em;margin-bottom:.2em}h2{font-size:1.15em;margin:1.6em 0 .4em;"
    "border-bottom:1px solid #bbb}\n"
    "table{border-collapse:collapse;width:100%}th,td{text-align:left;padding:.15em .6em .15em 0;"
    "vertical-align:top}\n"
    "thead{display:table-header-group}tr{break-inside:avoid}tbody "
    "tr:nth-child(odd){background:#f5f4f0}"
    "\nth{border-bottom:1px solid "
    "#888}td.n,th.n{text-align:right;font-variant-numeric:tabular-nums}"
    "\n.bad{color:#b0122a}img{max-width:100%;break-inside:avoid;display:block;margin:.6em 0}\n"
    "@media print{body{font-size:10.5px;margin:0;max-width:none}h2{break-after:avoid}}\n"
    "@page{margin:14mm}\n";

/* Text that may be anything. */
void report_put(const struct reporting *r, const char *text)
{
    char *escaped = g_markup_escape_text(text, -1);
    fputs(escaped, r->out);
    g_free(escaped);
}

void report_cell(const struct reporting *r, const char *kind, const char *text)
{
    fprintf(r->out, "<td%s>", kind);
    report_put(r, text);
    fputs("</td>", r->out);
}

#define NUMBER " class=\"n\""

/* --- head --- */

static void put_head(const struct reporting *r)
{
    const struct pintle_summary *s = r->summary;
    const struct pintle_past *last = r->chosen->run[r->chosen->count - 1];
    bool local = r->o->past.local;
    char *title = cli_runs_title(r->chosen);
    char *from = cli_moment(s->first_us, local);
    char *to = cli_moment(s->last_us, local);
    char *length = pintle_duration_text(s->last_us - s->first_us);
    fputs("<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\">\n<title>", r->out);
    report_put(r, title);
    fprintf(r->out, "</title>\n<style>\n%s</style></head><body>\n<h1>", style);
    report_put(r, title);
    fputs("</h1>\n<p>", r->out);
    report_put(r, r->chosen->run[0]->board ? r->chosen->run[0]->board : "");
    fprintf(r->out,
            ", %s to %s %s (%s). %" G_GUINT64_FORMAT " record%s, <span%s>%" G_GUINT64_FORMAT
            " marked</span>, %" G_GUINT64_FORMAT " slot%s missed; %s.</p>\n",
            from, to, cli_clock_word(local), length, s->records, cli_s(s->records),
            s->marked ? " class=\"bad\"" : "", s->marked, s->missed, cli_s(s->missed),
            last->writing ? "still being written"
            : last->ended ? last->ended
                          : "cut off");
    g_free(title);
    g_free(from);
    g_free(to);
    g_free(length);
}

/* --- figures --- */

static void put_figures(const struct reporting *r)
{
    fputs(
        "<h2>Channels</h2>\n<table><thead><tr><th>channel</th><th>in</th><th class=\"n\">least</th>"
        "<th class=\"n\">mean</th><th class=\"n\">greatest</th><th class=\"n\">spread</th>"
        "<th class=\"n\">good</th><th class=\"n\">marked</th><th class=\"n\">gaps</th></tr></thead>"
        "<tbody>\n",
        r->out);
    for (unsigned i = 0; i < r->summary->columns; i++) {
        const struct pintle_summed *c = &r->summary->column[i];
        if (!r->shown.chosen[i]) {
            continue;
        }
        enum pintle_unit unit = cli_usual(&c->column, r->shown.unit[i]);
        struct figures f = cli_figures(c, unit);
        fputs("<tr>", r->out);
        report_cell(r, "", c->column.name);
        report_cell(r, "", pintle_unit_symbol(unit));
        report_cell(r, NUMBER, f.least);
        report_cell(r, NUMBER, f.mean);
        report_cell(r, NUMBER, f.greatest);
        report_cell(r, NUMBER, f.spread);
        fprintf(r->out,
                "<td class=\"n\">%" G_GUINT64_FORMAT "</td><td class=\"n%s\">%" G_GUINT64_FORMAT
                "</td><td class=\"n\">%" G_GUINT64_FORMAT "</td></tr>\n",
                c->good, c->suspect ? " bad" : "", c->suspect, c->gaps);
        cli_figures_free(&f);
    }
    fputs(
        "</tbody></table>\n<p>Suspect readings are counted and left out of every figure. Spread is "
        "the standard deviation.</p>\n",
        r->out);
}

/* --- pictures --- */

bool report_picture(const struct reporting *r, const char *path, const char *what,
                    struct pintle_problem *problem)
{
    char *bytes = NULL;
    gsize size = 0;
    bool ok =
        g_file_get_contents(path, &bytes, &size, NULL)
        || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                              "cannot read the drawing %s again; check the temporary folder", path);
    if (ok) {
        char *text = g_base64_encode((const guchar *)bytes, size);
        fprintf(r->out, "<img alt=\"%s\" src=\"data:image/svg+xml;base64,%s\">\n", what, text);
        g_free(text);
    }
    g_free(bytes);
    g_unlink(path);
    return ok;
}

static bool put_plots(const struct reporting *r, struct pintle_problem *problem)
{
    char *path = g_build_filename(r->drawings, "drawing.svg", NULL);
    char *title = cli_runs_title(r->chosen);
    int64_t first_us = (int64_t)r->history->first * 1000000;
    char *zone = r->o->past.local ? cli_zone(first_us) : g_strdup("UTC");
    struct pintle_plot plot = { .history = r->history,
                                .chosen = r->shown.chosen,
                                .title = title,
                                .zone_s = cli_zone_s(first_us, r->o->past.local),
                                .clock = zone,
                                .most = PANELS };
    int panels = pintle_draw_panels(&plot);
    bool ok = true;
    cli_take_happenings(r->summary, &plot);
    fputs("<h2>Plots</h2>\n", r->out);
    for (; ok && plot.skip < panels; plot.skip += PANELS) {
        ok = pintle_draw_plot(&plot, path, problem) && report_picture(r, path, "plot", problem);
    }
    cli_free_happenings(&plot);
    g_free(zone);
    g_free(title);
    g_free(path);
    return ok;
}

/* --- what happened --- */

static bool is_gap(const struct pintle_event *event)
{
    return event->kind == PINTLE_EVENT_FAILED || event->kind == PINTLE_EVENT_MISSED
           || event->kind == PINTLE_EVENT_BETWEEN;
}

static void put_events(const struct reporting *r, const char *title, bool gaps)
{
    bool local = r->o->past.local;
    unsigned count = 0;
    fprintf(r->out, "<h2>%s</h2>\n<table><tbody>\n", title);
    for (unsigned i = 0; i < r->summary->events->count; i++) {
        const struct pintle_event *event = &r->summary->events->event[i];
        if (is_gap(event) != gaps) {
            continue;
        }
        char *from = cli_moment(event->from_us, local);
        char *until = cli_moment(event->to_us, local);
        char *text = pintle_event_text(event, until);
        fputs("<tr>", r->out);
        report_cell(r, " style=\"white-space:nowrap\"", from);
        report_cell(r, "", text);
        fputs("</tr>\n", r->out);
        count++;
        g_free(from);
        g_free(until);
        g_free(text);
    }
    fprintf(r->out, "</tbody></table>\n%s", count ? "" : "<p>None.</p>\n");
}

static bool write_all(const struct reporting *r, struct pintle_problem *problem)
{
    put_head(r);
    put_figures(r);
    bool ok = !pintle_draw_can() || put_plots(r, problem);
    put_events(r, "Events", false);
    put_events(r, "Gaps", true);
    report_corrections(r);
    ok = ok && report_rigs(r, problem);
    fputs("</body></html>\n", r->out);
    return ok;
}

static char *report_path(const struct reporting *r)
{
    const struct pintle_past *run = r->chosen->run[0];
    if (r->o->to) {
        return g_strdup(r->o->to);
    }
    return r->chosen->count == 1 && run->folder ? g_build_filename(run->folder, "report.html", NULL)
           : r->chosen->count == 1              ? g_strdup_printf("report-%u.html", run->number)
                                                : g_strdup_printf("report-%u-%u.html", run->number,
                                                                  r->chosen->run[r->chosen->count - 1]->number);
}

static bool write_file(struct reporting *r, struct pintle_problem *problem)
{
    char *path = report_path(r);
    if (!cli_may_write(r->chosen, path, problem)) {
        g_free(path);
        return false;
    }
    struct pintle_output file;
    bool ok = pintle_output_open(&file, path, problem);
    r->out = file.file;
    ok = ok && pintle_output_close(&file, write_all(r, problem), problem);
    if (ok) {
        printf("%s\n", path);
    }
    g_free(path);
    return ok;
}

static bool begin_drawings(struct reporting *r, struct pintle_problem *problem)
{
    GError *error = NULL;
    r->drawings = g_dir_make_tmp("pintle-XXXXXX", &error);
    if (!r->drawings) {
        pintle_problem_set(
            problem, PINTLE_FAILURE_UNABLE,
            "cannot draw in the temporary folder: %s; set TMPDIR to one that is yours",
            error->message);
        g_error_free(error);
    }
    return r->drawings != NULL;
}

static void end_drawings(struct reporting *r)
{
    if (r->drawings) {
        g_rmdir(r->drawings);
    }
    g_free(r->drawings);
}

static bool report(const struct report_options *o, char *const *words,
                   struct pintle_problem *problem)
{
    struct chosen chosen;
    struct reporting r = { .o = o, .chosen = &chosen };
    bool ok = cli_choose(&o->past, words, &chosen, problem);
    struct pintle_progress progress = cli_watch_progress("reading");
    chosen.window.progress = &progress;
    r.summary = ok ? pintle_summary_make(chosen.run, chosen.count, chosen.window, problem) : NULL;
    r.history = r.summary
                    ? pintle_history_read(chosen.run, chosen.count, chosen.window, ROWS, problem)
                    : NULL;
    cli_end_progress();
    ok = r.history && cli_shown_history(&o->past, &chosen, r.history, &r.shown, problem);
    if (ok) {
        ok = begin_drawings(&r, problem) && write_file(&r, problem);
        end_drawings(&r);
    }
    cli_shown_free(&r.shown);
    pintle_history_free(r.history);
    pintle_summary_free(r.summary);
    cli_choose_free(&chosen);
    return ok;
}

static int run(int argc, char **argv)
{
    struct report_options o = { 0 };
    const GOptionEntry entries[] = { PLACE_OPTIONS(o.past),
                                     WINDOW_OPTIONS(o.past),
                                     CHANNEL_OPTIONS(o.past),
                                     { "write", 'w', 0, G_OPTION_ARG_FILENAME, &o.to,
                                       "into this file (report.html in the run's folder)", "FILE" },
                                     { 0 } };
    struct pintle_problem problem = { 0 };
    if (!cli_options(&command_report, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    return report(&o, argv + 1, &problem) ? 0 : cli_fail(&problem);
}

const struct command command_report = {
    .name = "report",
    .usage = "[RUN...]",
    .summary = "runs as one HTML file: figures, plots, events, corrections, wiring",
    .more = "RUN is a number, \"2-5\", \"last\" (the usual one), \"all\" or a run's folder; "
            "several are\n"
            "joined. The file needs nothing else and prints well.\n\n"
            "Example:\n  pintle report --demo 1 --write day.html",
    .run = run,
};
