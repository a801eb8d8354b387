#include <math.h>
#include <stdio.h>
#include <string.h>

#include "cli/past.h"
#include "pintle/host/base/duration.h"
#include "pintle/host/past/summary.h"

#define EVENTS 40 /* are printed unless all are asked for */

struct summary_options {
    struct past_options past;
    char *format;
    gboolean all;
};

/* No wider than a column, as long as only places behind the point go. */
static void fit(char *figure)
{
    const char *point = strchr(figure, '.');
    size_t most = 9;
    if (point && strlen(figure) > most) {
        figure[MAX((size_t)(point - figure), most)] = '\0';
    }
}

static void print_columns(const struct pintle_summary *summary, const struct shown *shown)
{
    printf("%s%-24s %-6s %11s %11s %11s %9s %9s %7s %5s%s\n", cli_bold(), "channel", "in", "least",
           "mean", "greatest", "spread", "good", "marked", "gaps", cli_plain());
    for (unsigned i = 0; i < summary->columns; i++) {
        const struct pintle_summed *c = &summary->column[i];
        if (!shown->chosen[i]) {
            continue;
        }
        enum pintle_unit unit = cli_usual(&c->column, shown->unit[i]);
        struct figures f = cli_figures(c, unit);
        fit(f.least);
        fit(f.mean);
        fit(f.greatest);
        fit(f.spread);
        printf("%-24s %-6s %11s %11s %11s %9s %9" G_GUINT64_FORMAT " %s%7" G_GUINT64_FORMAT
               "%s %5" G_GUINT64_FORMAT "\n",
               c->column.name, pintle_unit_symbol(unit), f.least, f.mean, f.greatest, f.spread,
               c->good, c->suspect ? cli_bad() : "", c->suspect, c->suspect ? cli_plain() : "",
               c->gaps);
        cli_figures_free(&f);
    }
}

static void print_head(const struct chosen *chosen, const struct pintle_summary *s,
                       const struct past_options *o)
{
    char *from = cli_moment(s->first_us, o->local);
    char *to = cli_moment(s->last_us, o->local);
    char *title = cli_runs_title(chosen);
    const struct pintle_past *last = chosen->run[chosen->count - 1];
    printf("%s%s%s\n", cli_bold(), title, cli_plain());
    printf("%s to %s %s, %" G_GUINT64_FORMAT " record%s, %s%" G_GUINT64_FORMAT
           " marked%s, %" G_GUINT64_FORMAT " slot%s missed; %s\n",
           from, to, cli_clock_word(o->local), s->records, cli_s(s->records),
           s->marked ? cli_bad() : "", s->marked, s->marked ? cli_plain() : "", s->missed,
           cli_s(s->missed),
           last->writing ? "it is being written"
           : last->ended ? last->ended
                         : "cut off");
    g_free(from);
    g_free(to);
    g_free(title);
}

static void print_events(const struct pintle_summary *s, const struct summary_options *o)
{
    unsigned printed = 0;
    printf("\n%swhat happened%s\n", cli_bold(), cli_plain());
    for (unsigned i = 0; i < s->events->count; i++) {
        const struct pintle_event *event = &s->events->event[i];
        if (printed == EVENTS && !o->all) {
            printf("and %u more; --all prints them\n", s->events->count - i);
            break;
        }
        char *from = cli_moment(event->from_us, o->past.local);
        char *until = cli_moment(event->to_us, o->past.local);
        char *text = pintle_event_text(event, strncmp(from, until, 10) == 0 ? until + 11 : until);
        printf("%-19s  %s\n", from, text);
        printed++;
        g_free(from);
        g_free(until);
        g_free(text);
    }
    if (printed == 0) {
        printf("nothing\n");
    }
}

static void print_csv(const struct pintle_summary *summary, const struct shown *shown)
{
    printf("channel,unit,least,mean,greatest,spread,good,marked,gaps\r\n");
    for (unsigned i = 0; i < summary->columns; i++) {
        const struct pintle_summed *c = &summary->column[i];
        if (shown->chosen[i]) {
            struct figures f = cli_figures(c, shown->unit[i]);
            printf("%s,%s,%s,%s,%s,%s,%" G_GUINT64_FORMAT ",%" G_GUINT64_FORMAT
                   ",%" G_GUINT64_FORMAT "\r\n",
                   c->column.name,
                   shown->unit[i] == PINTLE_UNIT_COUNT ? pintle_quantity_symbol(c->column.quantity)
                                                       : pintle_unit_symbol(shown->unit[i]),
                   f.least, f.mean, f.greatest, f.spread, c->good, c->suspect, c->gaps);
            cli_figures_free(&f);
        }
    }
}

static bool summarize(const struct summary_options *o, char *const *words, enum format format,
                      struct pintle_problem *problem)
{
    struct chosen chosen;
    struct shown shown = { 0 };
    bool ok = cli_choose(&o->past, words, &chosen, problem);
    struct pintle_progress progress = cli_watch_progress("reading");
    chosen.window.progress = &progress;
    struct pintle_summary *summary =
        ok ? pintle_summary_make(chosen.run, chosen.count, chosen.window, problem) : NULL;
    cli_end_progress();
    struct pintle_run_column *columns =
        g_new0(struct pintle_run_column, summary ? summary->columns + 1 : 1);
    for (unsigned i = 0; summary && i < summary->columns; i++) {
        columns[i] = summary->column[i].column;
    }
    ok = summary && cli_shown(&o->past, &chosen, columns, summary->columns, &shown, problem);
    if (ok && format != FORMAT_CSV) {
        cli_shown_as_usual(&chosen, columns, &shown);
    }
    if (ok && format == FORMAT_CSV) {
        print_csv(summary, &shown);
    } else if (ok) {
        print_head(&chosen, summary, &o->past);
        printf("\n");
        print_columns(summary, &shown);
        print_events(summary, o);
    }
    g_free(columns);
    cli_shown_free(&shown);
    pintle_summary_free(summary);
    cli_choose_free(&chosen);
    return ok;
}

static int run(int argc, char **argv)
{
    struct summary_options o = { 0 };
    const GOptionEntry entries[] = { PLACE_OPTIONS(o.past),
                                     WINDOW_OPTIONS(o.past),
                                     CHANNEL_OPTIONS(o.past),
                                     { "format", 'f', 0, G_OPTION_ARG_STRING, &o.format,
                                       "text or csv (the channels alone)", "NAME" },
                                     { "all", 0, 0, G_OPTION_ARG_NONE, &o.all,
                                       "everything that happened, however much", NULL },
                                     { 0 } };
    struct pintle_problem problem = { 0 };
    enum format format = FORMAT_TEXT;
    if (!cli_options(&command_summary, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    bool ok = cli_format(o.format, &format, &problem)
              && (format != FORMAT_SENML
                  || pintle_problem_set(&problem, PINTLE_FAILURE_USE,
                                        "a summary is text or csv; 'pintle export' has senml"))
              && summarize(&o, argv + 1, format, &problem);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_summary = {
    .name = "summary",
    .usage = "[RUN...]",
    .summary = "what runs come to: least, mean, greatest, and what happened when",
    .more =
        "RUN is a number, \"2-5\", \"last\" (the usual one), \"all\" or a run's folder; several "
        "are\n"
        "taken as one. Suspect readings are counted and left out of every figure. Spread is the\n"
        "standard deviation. Angles go round: the mean of 359 and 1 degree is 0.\n\n"
        "Examples:\n  pintle summary --demo 1\n"
        "  pintle summary --demo 1-3 --last 6h --channels sea,pressure --unit hPa",
    .run = run,
};
