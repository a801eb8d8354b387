#include <math.h>
#include <stdarg.h>
#include <stdio.h>
#include <string.h>

#include "cli/past.h"
#include "pintle/host/base/output.h"
#include "pintle/host/past/summary.h"
#include "pintle/host/run/senml.h"

enum target { TARGET_CSV, TARGET_JSONL, TARGET_SENML };
enum suspects { SUSPECTS_BLANK, SUSPECTS_KEEP, SUSPECTS_DROP };

struct export_options {
    struct past_options past;
    char *format;
    char *suspect;
    char *every, *mean;
    char *to;
    gboolean comma, blank;
};

struct exporting {
    struct pintle_output file; /* with --write */
    const struct export_options *o;
    const struct chosen *chosen;
    const struct pintle_reader *reader;
    struct shown shown;
    enum target target;
    enum suspects suspects;
    int64_t every_us, mean_us;
    int64_t last_slot; /* of those that are thinned, the interval that was written last */
    bool any;
    uint64_t written, dropped, timeless;
    FILE *out;
};

/* --- one record --- */

static bool is_suspect(const struct exporting *e, const struct pintle_record *record)
{
    for (unsigned i = 0; i < e->reader->columns; i++) {
        if (e->shown.chosen[i] && record->cell[i].suspect > 0) {
            return true;
        }
    }
    return false;
}

/* What is written of a cell: a suspect single reading only where it is asked for. */
static double value_of(const struct exporting *e, const struct pintle_cell *cell)
{
    bool keep = cell->good > 0 || e->suspects == SUSPECTS_KEEP;
    return keep ? cell->value : (double)NAN;
}

static void __attribute__((format(printf, 2, 3))) say(GString *text, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_string_append(text, text->len ? "; " : "");
    g_string_append_vprintf(text, format, arguments);
    va_end(arguments);
}

/* What is to be said of a record as a whole. */
static void say_of_record(GString *text, const struct exporting *e,
                          const struct pintle_record *record)
{
    if (record->over_us > e->mean_us) {
        say(text, "averaged-over=%.9gs", (double)record->over_us / 1e6);
    }
    if (record->missed > 0) {
        say(text, "missed=%u", record->missed);
    }
    if (record->stepped_us != 0) {
        say(text, "clock-step=%" G_GINT64_FORMAT "ms", record->stepped_us / 1000);
    }
    if (record->unset) {
        say(text, "clock=never-set");
    }
}

/* And of a cell: its marks; of an interval how many readings its mean leaves out, or why there is
 * none. "" where there is nothing to say. */
static char *words_of(const struct exporting *e, const struct pintle_record *record, unsigned i)
{
    const struct pintle_cell *cell = &record->cell[i];
    char *marks = pintle_marks_text(cell->quality & (pintle_marks)~PINTLE_QUALITY_UNCORRECTED);
    if (record->over_us == 0) {
        return marks;
    }
    GString *text = g_string_new(NULL);
    if (pintle_cell_all_round(cell, e->reader->column[i].quantity)) {
        g_string_append(text, "all round");
    }
    if (cell->suspect > 0) {
        g_string_append_printf(text, "%s%u of %u left out (%s)", text->len ? " and " : "",
                               cell->suspect, cell->suspect + cell->good, marks);
    }
    g_free(marks);
    return g_string_free(text, FALSE);
}

static char *quality_of(const struct exporting *e, const struct pintle_record *record)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < e->reader->columns; i++) {
        char *words = e->shown.chosen[i] ? words_of(e, record, i) : NULL;
        if (words && words[0]) {
            say(text, "%s=%s", e->reader->column[i].name, words);
        }
        g_free(words);
    }
    say_of_record(text, e, record);
    return g_string_free(text, FALSE);
}

static const char *symbol_of(const struct exporting *e, unsigned i)
{
    return e->shown.unit[i] == PINTLE_UNIT_COUNT
               ? pintle_quantity_symbol(e->reader->column[i].quantity)
               : pintle_unit_symbol(e->shown.unit[i]);
}

static char *number_of(const struct exporting *e, unsigned i, const struct pintle_record *record)
{
    return cli_number(&e->reader->column[i], e->shown.unit[i], value_of(e, &record->cell[i]),
                      record->over_us > 0);
}

static unsigned number_in(const struct exporting *e, const struct pintle_record *record)
{
    return e->chosen->run[record->run]->number;
}

/* --- CSV: RFC 4180 or, with decimal commas, what spreadsheets of such countries take --- */

static char separator(const struct exporting *e)
{
    return e->o->comma ? ';' : ',';
}

static void put_csv_head(const struct exporting *e)
{
    fprintf(e->out, "time/%s%c", cli_clock_word(e->o->past.local), separator(e));
    if (e->o->past.local) {
        fprintf(e->out, "zone%c", separator(e));
    }
    fprintf(e->out, "run%crecord", separator(e));
    for (unsigned i = 0; i < e->reader->columns; i++) {
        if (e->shown.chosen[i]) {
            fprintf(e->out, "%c%s/%s", separator(e), e->reader->column[i].name, symbol_of(e, i));
        }
    }
    fprintf(e->out, "%cquality\r\n", separator(e));
}

static void put_csv(const struct exporting *e, const struct pintle_record *record)
{
    char *time = cli_moment(record->time_us, e->o->past.local);
    char *quality = quality_of(e, record);
    time[10] = e->o->blank ? ' ' : 'T';
    fprintf(e->out, "%s%c", time, separator(e));
    if (e->o->past.local) {
        char *zone = cli_zone(record->time_us);
        fprintf(e->out, "%s%c", zone, separator(e));
        g_free(zone);
    }
    fprintf(e->out, "%u%c%" G_GUINT64_FORMAT, number_in(e, record), separator(e), record->number);
    for (unsigned i = 0; i < e->reader->columns; i++) {
        if (e->shown.chosen[i]) {
            char *number = number_of(e, i, record);
            g_strdelimit(number, ".", e->o->comma ? ',' : '.');
            fprintf(e->out, "%c%s", separator(e), number);
            g_free(number);
        }
    }
    bool quoted = strchr(quality, separator(e)) != NULL;
    fprintf(e->out, "%c%s%s%s\r\n", separator(e), quoted ? "\"" : "", quality, quoted ? "\"" : "");
    g_free(time);
    g_free(quality);
}

/* --- JSON --- */

/* With its zone (RFC 3339). */
static char *stamp_of(const struct exporting *e, int64_t time_us)
{
    char *moment = cli_moment(time_us, e->o->past.local);
    char *zone = e->o->past.local ? cli_zone(time_us) : g_strdup("Z");
    char *stamp = g_strconcat(moment, zone, NULL);
    stamp[10] = 'T';
    g_free(moment);
    g_free(zone);
    return stamp;
}

/* The text of a number, so that its places are kept. */
static void put_json(const struct exporting *e, const struct pintle_record *record)
{
    char *stamp = stamp_of(e, record->time_us);
    char *quality = quality_of(e, record);
    fprintf(e->out, "{\"time\":\"%s\",\"run\":%u,\"record\":%" G_GUINT64_FORMAT, stamp,
            number_in(e, record), record->number);
    for (unsigned i = 0; i < e->reader->columns; i++) {
        if (e->shown.chosen[i]) {
            char *number = number_of(e, i, record);
            fprintf(e->out, ",\"%s/%s\":%s", e->reader->column[i].name, symbol_of(e, i),
                    number[0] ? number : "null");
            g_free(number);
        }
    }
    fprintf(e->out, ",\"quality\":\"%s\"}\n", quality[0] ? quality : "good");
    g_free(stamp);
    g_free(quality);
}

static void begin_senml(struct exporting *e, const struct pintle_record *record, const char *name,
                        const char *suffix)
{
    fprintf(e->out, "%s{\"n\":\"%s%s\",\"t\":%.14g", e->any ? ",\n" : "", name, suffix,
            (double)record->time_us / 1e6);
    e->any = true;
}

/* One pack; the base time is that of each record (RFC 8428). */
static void put_senml(struct exporting *e, const struct pintle_record *record)
{
    for (unsigned i = 0; i < e->reader->columns; i++) {
        const struct pintle_cell *cell = &record->cell[i];
        const char *name = e->reader->column[i].name;
        char *number = number_of(e, i, record);
        if (e->shown.chosen[i] && number[0]) {
            begin_senml(e, record, name, "");
            fprintf(e->out, ",\"u\":\"%s\",\"v\":%s}", symbol_of(e, i), number);
        }
        if (e->shown.chosen[i] && (cell->suspect > 0 || (cell->good > 0 && !number[0]))) {
            char *words = words_of(e, record, i);
            begin_senml(e, record, name, ".quality");
            fprintf(e->out, ",\"vs\":\"%s\"}", words);
            g_free(words);
        }
        g_free(number);
    }
    GString *text = g_string_new(NULL);
    say_of_record(text, e, record);
    if (text->len > 0) {
        begin_senml(e, record, "record", ".quality");
        fprintf(e->out, ",\"vs\":\"%s\"}", text->str);
    }
    g_string_free(text, TRUE);
}

/* --- all of them --- */

/* Of those that are thinned the first in each interval. */
static bool is_due(struct exporting *e, const struct pintle_record *record)
{
    if (e->every_us == 0) {
        return true;
    }
    int64_t slot = pintle_interval_begin(record->time_us, e->every_us, e->o->past.local);
    bool due = e->written == 0 || slot != e->last_slot;
    e->last_slot = slot;
    return due;
}

static void put(struct exporting *e, const struct pintle_record *record)
{
    if (e->suspects == SUSPECTS_DROP && record->over_us == 0 && is_suspect(e, record)) {
        e->dropped++;
        return;
    }
    if (!is_due(e, record)) {
        return;
    }
    if (e->target == TARGET_SENML && record->time_us < PINTLE_SENML_FROM_US) {
        e->timeless++;
        return;
    }
    switch (e->target) {
    case TARGET_CSV:
        put_csv(e, record);
        break;
    case TARGET_JSONL:
        put_json(e, record);
        break;
    default:
        put_senml(e, record);
        break;
    }
    e->written++;
}

static bool all_records(struct exporting *e, struct pintle_reader *reader,
                        struct pintle_problem *problem)
{
    struct pintle_record record;
    while (pintle_reader_next(reader, &record, problem) && !ferror(e->out)) {
        put(e, &record);
    }
    return problem->text[0] == '\0';
}

static bool all_means(struct exporting *e, struct pintle_reader *reader,
                      struct pintle_problem *problem)
{
    struct pintle_record record;
    struct pintle_averager *averager = pintle_averager_open(reader, e->mean_us, e->o->past.local);
    while (pintle_averager_next(averager, &record, problem) && !ferror(e->out)) {
        put(e, &record);
    }
    pintle_averager_free(averager);
    return problem->text[0] == '\0';
}

static bool export_all(struct exporting *e, struct pintle_reader *reader,
                       struct pintle_problem *problem)
{
    if (e->target == TARGET_CSV) {
        put_csv_head(e);
    }
    fputs(e->target == TARGET_SENML ? "[" : "", e->out);
    bool ok = e->mean_us ? all_means(e, reader, problem) : all_records(e, reader, problem);
    fputs(e->target == TARGET_SENML ? "]\n" : "", e->out);
    return ok
           && (e->written + e->dropped + e->timeless > 0
               || pintle_problem_set(
                   problem, PINTLE_FAILURE_UNABLE,
                   "%s has no record%s; 'pintle runs' says when it was", e->chosen->run[0]->where,
                   e->chosen->window.from_us == INT64_MIN && e->chosen->window.to_us == INT64_MAX
                       ? " yet"
                       : " in that time"));
}

static bool open_target(struct exporting *e, struct pintle_problem *problem)
{
    if (e->o->to && !cli_may_write(e->chosen, e->o->to, problem)) {
        return false;
    }
    bool ok = !e->o->to || pintle_output_open(&e->file, e->o->to, problem);
    e->out = e->o->to ? e->file.file : stdout;
    return ok;
}

static void report(const struct exporting *e)
{
    if (e->o->to) {
        cli_say("%" G_GUINT64_FORMAT " record%s in %s", e->written, cli_s(e->written), e->o->to);
    }
    if (e->dropped > 0) {
        cli_say("%" G_GUINT64_FORMAT " record%s with suspect readings dropped", e->dropped,
                cli_s(e->dropped));
    }
    if (e->timeless > 0) {
        cli_say("%" G_GUINT64_FORMAT
                " record%s left out: the clock was never set, and senml takes so "
                "early a time for one from now on; csv and jsonl have %s",
                e->timeless, cli_s(e->timeless), e->timeless == 1 ? "it" : "them");
    }
}

static bool one_of(const char *what, const char *word, const char *const *words, unsigned count,
                   unsigned *index, struct pintle_problem *problem)
{
    char *all = g_strjoinv(", ", (char **)(uintptr_t)words);
    *index = 0;
    while (word && *index < count && strcmp(word, words[*index]) != 0) {
        ++*index;
    }
    bool ok = *index < count
              || pintle_problem_set(problem, PINTLE_FAILURE_USE, "--%s is one of %s, not '%s'",
                                    what, all, word);
    g_free(all);
    return ok;
}

static bool take_options(struct exporting *e, struct pintle_problem *problem)
{
    static const char *const targets[] = { "csv", "jsonl", "senml", NULL };
    static const char *const suspects[] = { "blank", "keep", "drop", NULL };
    unsigned target = 0;
    unsigned suspect = 0;
    if (!one_of("format", e->o->format, targets, 3, &target, problem)
        || !one_of("suspect", e->o->suspect, suspects, 3, &suspect, problem)
        || !cli_duration("every", e->o->every, 0, &e->every_us, problem)
        || !cli_duration("mean", e->o->mean, 0, &e->mean_us, problem)) {
        return false;
    }
    e->target = (enum target)target;
    e->suspects = (enum suspects)suspect;
    if (e->every_us && e->mean_us) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--every takes single readings and --mean averages; give one");
    }
    if (e->mean_us && e->suspects != SUSPECTS_BLANK) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "a mean never has suspect readings in it; leave --suspect away "
                                  "beside --mean");
    }
    if (e->o->comma && e->target != TARGET_CSV) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--comma is for csv; JSON has points");
    }
    if (e->o->blank && e->target != TARGET_CSV) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE, "--blank is for csv");
    }
    return e->target != TARGET_SENML || !e->o->past.units
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "senml has base units always; leave --unit or --format away");
}

static bool export_to(const struct export_options *o, char *const *words,
                      struct pintle_problem *problem)
{
    struct chosen chosen = { 0 };
    struct exporting e = { .o = o, .chosen = &chosen };
    bool ok = take_options(&e, problem) && cli_choose(&o->past, words, &chosen, problem);
    struct pintle_progress progress = cli_watch_progress("exporting");
    chosen.window.progress = &progress;
    struct pintle_reader *reader =
        ok ? pintle_reader_open(chosen.run, chosen.count, chosen.window, problem) : NULL;
    e.reader = reader;
    ok = reader && cli_shown(&o->past, &chosen, reader->column, reader->columns, &e.shown, problem);
    for (unsigned i = 0; ok && e.target == TARGET_SENML && i < e.shown.count; i++) {
        e.shown.unit[i] = PINTLE_UNIT_COUNT;
    }
    ok = ok && open_target(&e, problem);
    ok = ok && export_all(&e, reader, problem);
    ok = pintle_output_close(&e.file, ok, problem);
    cli_end_progress();
    if (ok) {
        report(&e);
    }
    cli_shown_free(&e.shown);
    pintle_reader_free(reader);
    cli_choose_free(&chosen);
    return ok;
}

static int run(int argc, char **argv)
{
    struct export_options o = { 0 };
    const GOptionEntry entries[] = {
        PLACE_OPTIONS(o.past),
        WINDOW_OPTIONS(o.past),
        CHANNEL_OPTIONS(o.past),
        { "format", 'f', 0, G_OPTION_ARG_STRING, &o.format, "csv, jsonl or senml (csv)", "NAME" },
        { "suspect", 0, 0, G_OPTION_ARG_STRING, &o.suspect,
          "suspect readings: blank their cells, keep them, drop their records (blank)", "WHAT" },
        { "every", 0, 0, G_OPTION_ARG_STRING, &o.every, "one record in each such interval",
          "DURATION" },
        { "mean", 0, 0, G_OPTION_ARG_STRING, &o.mean, "averages over such intervals", "DURATION" },
        { "comma", 0, 0, G_OPTION_ARG_NONE, &o.comma, "decimal commas, semicolons between fields",
          NULL },
        { "blank", 0, 0, G_OPTION_ARG_NONE, &o.blank,
          "a blank between date and time, not the T of ISO 8601", NULL },
        { "write", 'w', 0, G_OPTION_ARG_FILENAME, &o.to, "into a file", "FILE" },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    if (!cli_options(&command_export, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    return export_to(&o, argv + 1, &problem) ? 0 : cli_fail(&problem);
}

const struct command command_export = {
    .name = "export",
    .usage = "[RUN...]",
    .summary = "runs for a spreadsheet or a program, averaged or thinned, in any unit",
    .more =
        "RUN is a number, \"2-5\", \"last\" (the usual one), \"all\" or a run's folder; "
        "several are\n"
        "joined. A suspect reading's cell is empty and the column 'quality' says why, unless\n"
        "--suspect asks for something else; a mean leaves it out and says how many. Times are\n"
        "written as spreadsheets take them for dates, with their seconds; if yours takes them for\n"
        "text, --blank.\n\n"
        "Examples:\n  pintle export --demo 1 --local --unit degF --write day.csv\n"
        "  pintle export --demo 1-3 --mean 1h --channels sea,pressure\n"
        "  pintle export --in sloop.db last --format jsonl --last 6h",
    .run = run,
};
