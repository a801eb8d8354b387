/* A page of values for a small display. */
#include <math.h>
#include <string.h>

#include "cli/show.h"
#include "pintle/host/adjust/series.h"
#include "pintle/host/watch/course.h"

#define TREND 240 /* readings of a trend at most; even */
#define HOUR_US 3600000000LL

struct shown_channel {
    struct pintle_run_column column;
    enum pintle_unit unit;
    struct pintle_course course;
};

static struct shown_channel begin_channel(const struct pintle_run_column *column,
                                          enum pintle_unit unit)
{
    struct shown_channel c = { .column = *column, .unit = cli_usual(column, unit) };
    c.column.name = g_strdup(column->name);
    pintle_course_init(&c.course, TREND);
    return c;
}

static void put_value(struct pintle_page *page, const struct shown_channel *c, int16_t *y)
{
    char *number = cli_number(&c->column, c->unit, (double)c->course.last.value, 0);
    char *value = g_strdup_printf("%s %s", number[0] ? number : "-", pintle_unit_symbol(c->unit));
    const char *dot = strrchr(c->column.name, '.');
    bool fits =
        pintle_page_width(c->column.name, 1) + pintle_page_width(value, 1) < (int16_t)page->width;
    *y = pintle_page_row(page, *y, 1, fits || !dot ? c->column.name : dot + 1, value,
                         !pintle_reading_good(&c->course.last));
    g_free(value);
    g_free(number);
}

static void put_trend(struct pintle_page *page, const struct shown_channel *c, int16_t y)
{
    int16_t left = (int16_t)((int16_t)page->height - y - 1);
    float span = (float)(4 * pow(10, -(double)c->column.decimals));
    if (left >= 6) {
        pintle_page_line(page, 0, y, (int16_t)((int16_t)page->width - 1), y);
        pintle_page_trend(page, 0, (int16_t)(y + 1), (int16_t)page->width, left, c->course.point,
                          (uint16_t)c->course.used, span);
    }
}

/* The channels of a page, and which of them has its course beneath; -1: none. */
struct shown_channels {
    unsigned count;
    struct shown_channel *channel;
    int trend;
};

static void put_page(const struct show_options *o, struct pintle_page *page,
                     const struct shown_channels *s)
{
    int16_t y = 0;
    for (unsigned i = 0; i < s->count; i++) {
        if ((int)i != s->trend || s->trend < (int)s->count - 1 || o->values) {
            put_value(page, &s->channel[i], &y);
        }
    }
    if (s->trend >= 0) {
        put_trend(page, &s->channel[s->trend], y);
    }
}

/* The words of --values, then that of --trend if it is not among them; its place. */
static char **names_of(const struct show_options *o, int *trend)
{
    char *all = g_strconcat(o->values ? o->values : "", o->values && o->trend ? "," : "",
                            o->trend ? o->trend : "", NULL);
    char **names = g_strsplit(all, ",", -1);
    *trend = -1;
    for (unsigned i = 0; o->trend && names[i]; i++) {
        if (strcmp(names[i], o->trend) == 0 && *trend < 0) {
            *trend = (int)i;
        }
    }
    unsigned last = g_strv_length(names) - 1;
    if (*trend >= 0 && (unsigned)*trend < last) { /* named twice: once is enough */
        g_free(names[last]);
        names[last] = NULL;
    }
    g_free(all);
    return names;
}

static bool no_channel(const char *name, const char *where, struct pintle_problem *problem)
{
    return pintle_problem_set(
        problem, PINTLE_FAILURE_USE,
        "%s has no channel '%s'; name channels such as cabin.temperature, with "
        "commas between",
        where, name);
}

/* --- out of a run --- */

static bool find_columns(const struct show_options *o, char **names, const struct chosen *chosen,
                         const struct pintle_reader *reader, struct shown_channels *s,
                         unsigned *column, struct pintle_problem *problem)
{
    struct shown shown = { 0 };
    bool ok = cli_shown(&o->past, chosen, reader->column, reader->columns, &shown, problem);
    if (ok) {
        cli_shown_as_usual(chosen, reader->column, &shown);
    }
    for (unsigned i = 0; ok && names[i]; i++) {
        unsigned k = 0;
        while (k < reader->columns && strcmp(reader->column[k].name, names[i]) != 0) {
            k++;
        }
        ok = k < reader->columns || no_channel(names[i], chosen->run[0]->where, problem);
        if (ok) {
            column[i] = k;
            s->channel[s->count++] = begin_channel(&reader->column[k], shown.unit[k]);
        }
    }
    cli_shown_free(&shown);
    return ok;
}

static bool read_all(struct pintle_reader *reader, struct shown_channels *s, const unsigned *column,
                     const char *where, struct pintle_problem *problem)
{
    struct pintle_record record;
    int64_t over_us = 0; /* of the last one */
    bool any = false;
    while (pintle_reader_next(reader, &record, problem)) {
        any = true;
        over_us = record.over_us;
        for (unsigned i = 0; i < s->count; i++) {
            const struct pintle_cell *cell = &record.cell[column[i]];
            pintle_course_add(&s->channel[i].course, cell->value, pintle_cell_good(cell));
        }
    }
    if (over_us > 0) {
        char *over = pintle_duration_text(over_us);
        cli_say("these are averages over %s: so old records of %s were thinned", over, where);
        g_free(over);
    }
    return problem->text[0] == '\0'
           && (any
               || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                     "%s has no record in that time; 'pintle runs' says when it "
                                     "was",
                                     where));
}

/* Its last values, its course. */
static bool take_run(const struct show_options *o, char **names, struct shown_channels *s,
                     struct pintle_problem *problem)
{
    char *const words[] = { o->run, NULL };
    struct chosen chosen;
    unsigned *column = g_new0(unsigned, g_strv_length(names) + 1);
    bool ok = cli_choose(&o->past, words, &chosen, problem);
    struct pintle_progress progress = cli_watch_progress("reading");
    chosen.window.progress = &progress;
    struct pintle_reader *reader =
        ok ? pintle_reader_open(chosen.run, chosen.count, chosen.window, problem) : NULL;
    ok = reader && find_columns(o, names, &chosen, reader, s, column, problem)
         && read_all(reader, s, column, chosen.run[0]->where, problem);
    cli_end_progress();
    pintle_reader_free(reader);
    cli_choose_free(&chosen);
    g_free(column);
    return ok;
}

/* --- measured now, for as long as is asked for --- */

static bool find_places(const struct pintle_rig *rig, char **names, struct shown_channels *s,
                        struct pintle_place_of *of, struct pintle_problem *problem)
{
    for (unsigned i = 0; names[i]; i++) {
        unsigned wide = 1;
        if (!pintle_series_find(rig, names[i], &of[i], &wide, problem)
            || (wide > 1 && !no_channel(names[i], "a page", problem))) {
            return false;
        }
        const struct pintle_rig_sensor *sensor = &rig->sensor[of[i].sensor];
        const struct pintle_channel *its = &sensor->sheet->part->channels[of[i].channel];
        const struct pintle_run_column about = { .name = names[i],
                                                 .quantity = (enum pintle_quantity)its->quantity,
                                                 .decimals = its->decimals };
        s->channel[s->count++] = begin_channel(&about, sensor->channel[of[i].channel].unit);
    }
    return true;
}

static void take_round(struct pintle_station *station, struct shown_channels *s,
                       const struct pintle_place_of *of)
{
    (void)pintle_station_round(station, NULL);
    for (unsigned i = 0; i < s->count; i++) {
        const struct pintle_reading *r = &station->turn[of[i].sensor].sample.channel[of[i].channel];
        bool none = r->quality & (PINTLE_QUALITY_BUS | PINTLE_QUALITY_IDLE);
        pintle_course_add(&s->channel[i].course, none ? (double)NAN : (double)r->value,
                          pintle_reading_good(r));
    }
}

static bool take_live(const struct show_options *o, struct pintle_station *station, char **names,
                      struct shown_channels *s, struct pintle_problem *problem)
{
    struct pintle_place_of *of = g_new0(struct pintle_place_of, g_strv_length(names) + 1);
    int64_t length = 0;
    int64_t every = 0;
    bool ok = cli_duration("for", o->length, 0, &length, problem)
              && cli_duration("every", o->every, 1000000, &every, problem)
              && find_places(station->rig, names, s, of, problem);
    struct pintle_progress progress = cli_watch_progress("measuring");
    for (int64_t done = 0; ok && done <= length; done += every) {
        take_round(station, s, of);
        for (int64_t left = done + every <= length ? every : 0; left > 0; left -= HOUR_US) {
            pintle_station_wait(station, (uint32_t)MIN(left, HOUR_US), NULL);
        }
        ok = cli_goes_on(&progress, length ? (double)done / (double)length : 1, "nothing was shown",
                         problem);
    }
    cli_end_progress();
    g_free(of);
    return ok;
}

bool show_fill(const struct show_options *o, struct pintle_page *page,
               struct pintle_station *station, struct pintle_problem *problem)
{
    struct shown_channels s = { 0 };
    char **names = names_of(o, &s.trend);
    s.channel = g_new0(struct shown_channel, g_strv_length(names) + 1);
    bool ok = o->run ? take_run(o, names, &s, problem) : take_live(o, station, names, &s, problem);
    if (ok) {
        put_page(o, page, &s);
    }
    for (unsigned i = 0; i < s.count; i++) {
        g_free(s.channel[i].column.name);
        pintle_course_free(&s.channel[i].course);
    }
    g_free(s.channel);
    g_strfreev(names);
    return ok;
}
