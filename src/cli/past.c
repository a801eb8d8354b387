#include "cli/past.h"

#include <math.h>
#include <string.h>

#include "pintle/host/base/duration.h"

/* --- which runs --- */

static const char *existing(const char *path, GFileTest test)
{
    return path && g_file_test(path, test) ? path : NULL;
}

bool cli_archive(const struct past_options *options, struct chosen *chosen,
                 struct pintle_problem *problem)
{
    *chosen = (struct chosen){ .window = PINTLE_ALL_TIME };
    const char *folder = NULL;
    const char *database = NULL;
    if (options->rig.rig || options->rig.demo) {
        chosen->rig = cli_rig(&options->rig, problem);
        if (!chosen->rig) {
            return false;
        }
        folder = existing(chosen->rig->runs, G_FILE_TEST_IS_DIR);
        database = existing(chosen->rig->database, G_FILE_TEST_EXISTS);
        if (!folder && !database && !options->in) {
            return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                      "this rig has no run yet: there is no %s; 'pintle log' makes "
                                      "one",
                                      chosen->rig->runs);
        }
    }
    if (options->in) {
        bool is_folder = g_file_test(options->in, G_FILE_TEST_IS_DIR);
        folder = is_folder ? options->in : NULL;
        database = is_folder ? NULL : options->in;
        if (is_folder && chosen->rig) {
            pintle_rig_move_database(chosen->rig, options->in);
            database = existing(chosen->rig->database, G_FILE_TEST_EXISTS);
        }
    }
    chosen->archive = pintle_archive_open(folder || database ? folder : ".", database, problem);
    return chosen->archive != NULL;
}

bool cli_moment_parse(const char *option, const char *text, bool local, int64_t *time_us,
                      struct pintle_problem *problem)
{
    size_t length = strlen(text);
    char *whole = length == 10   ? g_strdup_printf("%sT00:00:00", text)
                  : length == 16 ? g_strdup_printf("%s:00", text)
                                 : g_strdup(text);
    if (strlen(whole) > 10 && whole[10] == ' ') {
        whole[10] = 'T';
    }
    GTimeZone *zone = local ? g_time_zone_new_local() : g_time_zone_new_utc();
    GDateTime *time = g_date_time_new_from_iso8601(whole, zone);
    if (time) {
        *time_us = g_date_time_to_unix(time) * 1000000 + (int64_t)g_date_time_get_microsecond(time);
        g_date_time_unref(time);
    }
    g_time_zone_unref(zone);
    g_free(whole);
    return time
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "--%s takes a time such as \"2026-06-13 04:00\", not '%s'", option,
                                 text);
}

static bool take_window(const struct past_options *o, struct chosen *chosen,
                        struct pintle_problem *problem)
{
    int64_t length = 0;
    if (o->last && (o->from || o->to)) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "--last counts back from the end; leave it away beside --from and "
            "--to");
    }
    if ((o->from && !cli_moment_parse("from", o->from, o->local, &chosen->window.from_us, problem))
        || (o->to && !cli_moment_parse("to", o->to, o->local, &chosen->window.to_us, problem))
        || !cli_duration("last", o->last, 0, &length, problem)) {
        return false;
    }
    if (chosen->window.from_us >= chosen->window.to_us) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--from %s is not before --to %s; exchange them", o->from, o->to);
    }
    for (unsigned i = 0; o->last && i < chosen->count; i++) { /* before the end of the latest */
        int64_t end = 0;
        if (pintle_past_last(chosen->run[i], &end, problem)) {
            chosen->window.from_us = MAX(chosen->window.from_us, end - length + 1);
        }
    }
    return problem->text[0] == '\0';
}

bool cli_choose(const struct past_options *options, char *const *words, struct chosen *chosen,
                struct pintle_problem *problem)
{
    static char *const last[] = { (char *)(uintptr_t) "last", NULL };
    bool ok = cli_archive(options, chosen, problem);
    for (char *const *word = words[0] ? words : last; ok && *word; word++) {
        ok = pintle_archive_choose(chosen->archive, *word, &chosen->run, &chosen->count, problem);
    }
    for (unsigned i = 0; ok && i < chosen->count; i++) {
        for (unsigned k = 0; ok && k < i; k++) {
            ok = chosen->run[i] != chosen->run[k]
                 || pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s is named twice",
                                       chosen->run[i]->where);
        }
    }
    for (unsigned i = 0; ok && i < chosen->count; i++) {
        uint64_t lost = pintle_past_lost(chosen->run[i]);
        if (lost > 0) {
            cli_say("%s ended with %" G_GUINT64_FORMAT " records, and the last %" G_GUINT64_FORMAT
                    " of them are missing: the file was cut off or changed",
                    chosen->run[i]->where, chosen->run[i]->records, lost);
        }
    }
    return ok && take_window(options, chosen, problem);
}

void cli_choose_free(struct chosen *chosen)
{
    g_free(chosen->run);
    pintle_archive_free(chosen->archive);
    pintle_rig_free(chosen->rig);
    *chosen = (struct chosen){ 0 };
}

bool cli_may_write(const struct chosen *chosen, const char *path, struct pintle_problem *problem)
{
    for (unsigned i = 0; i < chosen->archive->count; i++) {
        const struct pintle_past *run = chosen->archive->run[i];
        if (pintle_past_owns(run, path)) {
            return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                      "%s would be overwritten, and %s is kept there; name another "
                                      "file",
                                      path, run->where);
        }
    }
    return true;
}

/* "1", or "1 to 3", "1, 3 to 5", or the paths of folders. */
static char *runs_name(const struct chosen *chosen)
{
    GString *name = g_string_new(NULL);
    for (unsigned i = 0; i < chosen->count; i++) {
        const struct pintle_past *first = chosen->run[i];
        while (i + 1 < chosen->count && first->number > 0
               && chosen->run[i + 1]->number == chosen->run[i]->number + 1) {
            i++;
        }
        g_string_append(name, name->len ? ", " : "");
        if (first->number == 0) {
            g_string_append(name, first->where);
        } else if (first == chosen->run[i]) {
            g_string_append_printf(name, "%u", first->number);
        } else {
            g_string_append_printf(name, "%u to %u", first->number, chosen->run[i]->number);
        }
    }
    return g_string_free(name, FALSE);
}

char *cli_runs_title(const struct chosen *chosen)
{
    char *name = runs_name(chosen);
    GString *text = g_string_new(chosen->count > 1 ? "runs " : "run ");
    const char *told = NULL;
    g_string_append(text, name);
    for (unsigned i = 0; i < chosen->count; i++) {
        const char *title = chosen->run[i]->title;
        if (title && (!told || strcmp(title, told) != 0)) {
            g_string_append_printf(text, "%s%s", told ? "; " : ": ", title);
            told = title;
        }
    }
    g_free(name);
    return g_string_free(text, FALSE);
}

/* --- which columns, in which units --- */

bool cli_column_matches(const struct pintle_run_column *column, const char *word)
{
    const char *name = column->name ? column->name : "";
    const char *dot = strrchr(name, '.');
    return strcmp(name, word) == 0
           || (dot && strncmp(name, word, (size_t)(dot - name)) == 0 && word[dot - name] == '\0')
           || strcmp(pintle_quantity_word(column->quantity), word) == 0;
}

static bool choose_columns(const char *list, const char *where,
                           const struct pintle_run_column *columns, struct shown *shown,
                           struct pintle_problem *problem)
{
    char **words = g_strsplit(list ? list : "", ",", -1);
    bool ok = true;
    for (unsigned c = 0; c < shown->count; c++) {
        shown->chosen[c] = list == NULL;
    }
    for (unsigned w = 0; words[w] && ok; w++) {
        unsigned found = 0;
        for (unsigned c = 0; c < shown->count; c++) {
            bool match = cli_column_matches(&columns[c], words[w]);
            shown->chosen[c] |= match;
            found += match;
        }
        ok = found > 0
             || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                   "%s has no channel '%s'; name a channel such as %s, or a sensor",
                                   where, words[w], shown->count ? columns[0].name : "sea");
    }
    g_strfreev(words);
    return ok;
}

/* Each column as the rig shows it. */
static void take_units(const struct pintle_rig *rig, const struct pintle_run_column *columns,
                       struct shown *shown)
{
    for (unsigned c = 0; c < shown->count; c++) {
        for (unsigned i = 0; rig && i < rig->sensors; i++) {
            const struct pintle_rig_sensor *s = &rig->sensor[i];
            const char *name = columns[c].name ? columns[c].name : "";
            size_t length = strlen(s->name);
            bool mine = strncmp(name, s->name, length) == 0 && name[length] == '.';
            int channel = mine ? pintle_sheet_channel(s->sheet, name + length + 1) : -1;
            if (channel >= 0 && shown->unit[c] == PINTLE_UNIT_COUNT
                && s->channel[channel].unit != PINTLE_UNIT_COUNT) {
                shown->unit[c] = s->channel[channel].unit;
                shown->also[c] = s->channel[channel].also;
            }
        }
    }
}

bool cli_shown(const struct past_options *options, const struct chosen *chosen,
               const struct pintle_run_column *columns, unsigned count, struct shown *shown,
               struct pintle_problem *problem)
{
    const char *where = chosen->run[0]->where;
    struct pintle_unit_slot *slots = g_new0(struct pintle_unit_slot, count + 1);
    *shown = (struct shown){ count, g_new0(uint8_t, count + 1), g_new0(enum pintle_unit, count + 1),
                             g_new0(enum pintle_unit, count + 1) };
    for (unsigned c = 0; c < count; c++) {
        shown->unit[c] = shown->also[c] = PINTLE_UNIT_COUNT;
        slots[c] = (struct pintle_unit_slot){ columns[c].name, columns[c].quantity, &shown->unit[c],
                                              &shown->also[c] };
    }
    bool ok = choose_columns(options->channels, where, columns, shown, problem);
    for (unsigned i = 0; ok && options->units && options->units[i]; i++) {
        ok = pintle_units_take(options->units[i], slots, count, where, problem);
    }
    g_free(slots);
    return ok;
}

/* As the rig shows it, or the rig that was kept with the run. */
void cli_shown_as_usual(const struct chosen *chosen, const struct pintle_run_column *columns,
                        struct shown *shown)
{
    struct pintle_problem ignored = { 0 };
    char *text = chosen->rig ? NULL : pintle_past_text(chosen->run[0], "rig");
    struct pintle_rig *kept = text ? pintle_rig_parse("rig", text, &ignored) : NULL;
    take_units(chosen->rig ? chosen->rig : kept, columns, shown);
    pintle_rig_free(kept);
    pintle_host_free(text);
}

bool cli_shown_history(const struct past_options *options, const struct chosen *chosen,
                       struct pintle_history *history, struct shown *shown,
                       struct pintle_problem *problem)
{
    struct pintle_run_column *columns = g_new0(struct pintle_run_column, history->columns + 1);
    for (unsigned c = 0; c < history->columns; c++) {
        columns[c].name = history->column[c].name;
        columns[c].quantity = history->column[c].quantity;
    }
    bool ok = cli_shown(options, chosen, columns, history->columns, shown, problem);
    cli_shown_as_usual(chosen, columns, shown);
    for (unsigned c = 0; c < history->columns; c++) {
        history->column[c].unit = cli_usual(&columns[c], shown->unit[c]);
        history->column[c].also = shown->also[c];
    }
    g_free(columns);
    return ok;
}

void cli_shown_free(struct shown *shown)
{
    g_free(shown->chosen);
    g_free(shown->unit);
    g_free(shown->also);
    *shown = (struct shown){ 0 };
}

/* --- times and numbers as text --- */

static GDateTime *moment_of(int64_t time_us, bool local)
{
    gint64 seconds = time_us / 1000000 - (time_us % 1000000 < 0);
    return local ? g_date_time_new_from_unix_local(seconds)
                 : g_date_time_new_from_unix_utc(seconds);
}

char *cli_moment(int64_t time_us, bool local)
{
    GDateTime *time = moment_of(time_us, local);
    char *rest = time ? g_date_time_format(time, "%m-%d %H:%M:%S") : NULL;
    char *text = time ? g_strdup_printf("%04d-%s", g_date_time_get_year(time), rest)
                      : g_strdup("---------- --:--:--"); /* where there is no such local year */
    g_free(rest);
    int ms = (int)((time_us % 1000000 + 1000000) % 1000000 / 1000);
    if (time) {
        g_date_time_unref(time);
    }
    if (ms == 0) {
        return text;
    }
    char *whole = g_strdup_printf("%s.%03d", text, ms);
    g_free(text);
    return whole;
}

char *cli_zone(int64_t time_us)
{
    GDateTime *time = moment_of(time_us, true);
    char *text = time ? g_date_time_format(time, "%:z") : g_strdup("-");
    if (time) {
        g_date_time_unref(time);
    }
    return text;
}

double cli_zone_s(int64_t time_us, bool local)
{
    return local ? (double)pintle_zone_us(time_us) / 1e6 : 0;
}

const char *cli_clock_word(bool local)
{
    return local ? "local" : "UTC";
}

enum pintle_unit cli_usual(const struct pintle_run_column *column, enum pintle_unit unit)
{
    return unit == PINTLE_UNIT_COUNT ? pintle_quantity_unit(column->quantity) : unit;
}

static double per_base(enum pintle_unit unit)
{
    return (double)(pintle_unit_show(unit, 1) - pintle_unit_show(unit, 0));
}

static char *number(const struct pintle_run_column *column, enum pintle_unit unit, double shown,
                    unsigned extra)
{
    const struct pintle_channel about = { .quantity = (uint8_t)column->quantity,
                                          .decimals = column->decimals };
    bool base = unit == PINTLE_UNIT_COUNT || column->quantity == PINTLE_QUANTITY_COUNT;
    unsigned places = (base ? column->decimals : cli_places(&about, unit)) + extra;
    if (!isfinite(shown)) {
        return g_strdup("");
    }
    char *text = g_strdup_printf("%.*f", (int)places, shown);
    if (text[0] == '-' && strspn(text + 1, "0.") == strlen(text + 1)) {
        memmove(text, text + 1, strlen(text)); /* no minus in front of nothing */
    }
    return text;
}

double cli_in_unit(enum pintle_unit unit, double base)
{
    return base * per_base(unit) + (double)pintle_unit_show(unit, 0);
}

char *cli_number(const struct pintle_run_column *column, enum pintle_unit unit, double base,
                 unsigned extra)
{
    return number(column, unit, cli_in_unit(unit, base), extra);
}

char *cli_difference(const struct pintle_run_column *column, enum pintle_unit unit, double base,
                     unsigned extra)
{
    return number(column, unit, base * per_base(unit), extra);
}

static char *or_dash(char *text)
{
    if (!text[0]) {
        g_free(text);
        return g_strdup("-");
    }
    return text;
}

struct figures cli_figures(const struct pintle_summed *c, enum pintle_unit unit)
{
    bool round = pintle_cell_all_round(&c->cell, c->column.quantity);
    return (struct figures){
        or_dash(cli_number(&c->column, unit, round ? (double)NAN : c->cell.least, 0)),
        round ? g_strdup("all round") : or_dash(cli_number(&c->column, unit, c->cell.value, 1)),
        or_dash(cli_number(&c->column, unit, round ? (double)NAN : c->cell.greatest, 0)),
        or_dash(
            cli_difference(&c->column, unit, round ? (double)NAN : pintle_cell_spread(&c->cell), 1))
    };
}

void cli_figures_free(struct figures *f)
{
    g_free(f->least);
    g_free(f->mean);
    g_free(f->greatest);
    g_free(f->spread);
}

/* --- what is marked in plots --- */

static bool is_flag(const struct pintle_event *event)
{
    return event->kind == PINTLE_EVENT_NOTED || event->kind == PINTLE_EVENT_BETWEEN
           || event->kind == PINTLE_EVENT_STEPPED || event->kind == PINTLE_EVENT_THINNED
           || (event->kind == PINTLE_EVENT_POWERED && event->count > 1);
}

void cli_take_happenings(const struct pintle_summary *summary, struct pintle_plot *plot)
{
    struct pintle_happening *flags = g_new0(struct pintle_happening, summary->events->count + 1);
    for (unsigned i = 0; i < summary->events->count; i++) {
        const struct pintle_event *event = &summary->events->event[i];
        if (is_flag(event)) {
            char *text = event->kind == PINTLE_EVENT_NOTED ? g_strdup(event->name)
                                                           : pintle_event_text(event, "");
            flags[plot->flags++] = (struct pintle_happening){ (double)event->from_us / 1e6, text };
        }
    }
    plot->flag = flags;
}

void cli_free_happenings(struct pintle_plot *plot)
{
    for (unsigned i = 0; i < plot->flags; i++) {
        g_free((char *)(uintptr_t)plot->flag[i].text);
    }
    g_free((void *)(uintptr_t)plot->flag);
    plot->flag = NULL;
    plot->flags = 0;
}
