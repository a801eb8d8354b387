#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "cli/past.h"
#include "pintle/ability.h"
#include "pintle/host/adjust/series.h"
#include "pintle/host/base/picture.h"
#include "pintle/host/draw/draw.h"

#define TREND 240 /* readings of a trend at most */
#define HOUR_US 3600000000LL
#define RECORDS 20000 /* of a run that are looked at one by one */

struct show_options {
    struct past_options past;
    char *values, *trend;
    char *run;
    char *length, *every;
    char *size;
    char *to, *look;
};

/* A page that is made, as the display wants it. */
struct making {
    const struct show_options *o;
    uint8_t dots[PINTLE_PICTURE_MAX];
    struct pintle_page page;
};

static bool able(const struct pintle_part *part)
{
    return part->can && part->can->screen;
}

/* --- a picture from a file --- */

static bool take_file(struct making *m, const char *path, struct pintle_problem *problem)
{
    struct pintle_picture picture;
    if (!pintle_picture_load(path, &picture, problem)) {
        return false;
    }
    bool ok =
        (picture.width <= m->page.width && picture.height <= m->page.height)
        || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                              "%s has %u x %u dots, and there is room for %u x %u; make it "
                              "smaller",
                              path, picture.width, picture.height, m->page.width, m->page.height);
    for (unsigned i = 0; ok && i < picture.width * picture.height; i++) {
        pintle_page_dot(&m->page, (int16_t)(i % picture.width), (int16_t)(i / picture.width),
                        picture.dot[i]);
    }
    pintle_picture_free(&picture);
    return ok;
}

/* --- a page of values --- */

/* A channel's readings, of which the last is the value. */
struct shown_channel {
    struct pintle_run_column column;
    enum pintle_unit unit;
    struct pintle_reading *reading;
    unsigned count;
};

static void keep(struct shown_channel *c, double value, bool good)
{
    if (c->count == TREND) { /* every second one remains */
        for (unsigned i = 0; i < TREND / 2; i++) {
            c->reading[i] = c->reading[2 * i + 1];
        }
        c->count = TREND / 2;
    }
    c->reading[c->count++] =
        (struct pintle_reading){ .value = (float)value, .quality = good ? 0 : PINTLE_QUALITY_BUS };
}

static struct shown_channel begin_channel(const struct pintle_run_column *column,
                                          enum pintle_unit unit)
{
    struct shown_channel c = { *column, cli_usual(column, unit),
                               g_new0(struct pintle_reading, TREND), 0 };
    c.column.name = g_strdup(column->name);
    return c;
}

static void put_value(struct making *m, const struct shown_channel *c, int16_t *y)
{
    const struct pintle_reading *last = c->count ? &c->reading[c->count - 1] : NULL;
    bool good = last && pintle_reading_good(last);
    char *number = cli_number(&c->column, c->unit, last ? (double)last->value : (double)NAN, 0);
    char *value = g_strdup_printf("%s %s", number[0] ? number : "-", pintle_unit_symbol(c->unit));
    const char *dot = strrchr(c->column.name, '.');
    bool fits =
        pintle_page_width(c->column.name, 1) + pintle_page_width(value, 1) < (int16_t)m->page.width;
    *y = pintle_page_row(&m->page, *y, 1, fits || !dot ? c->column.name : dot + 1, value, !good);
    g_free(value);
    g_free(number);
}

static void put_trend(struct making *m, const struct shown_channel *c, int16_t y)
{
    int16_t left = (int16_t)((int16_t)m->page.height - y - 1);
    float span = (float)(4 * pow(10, -(double)c->column.decimals));
    if (left >= 6) {
        pintle_page_line(&m->page, 0, y, (int16_t)((int16_t)m->page.width - 1), y);
        pintle_page_trend(&m->page, 0, (int16_t)(y + 1), (int16_t)m->page.width, left, c->reading,
                          (uint16_t)c->count, span);
    }
}

static bool put_page(struct making *m, const struct shown_channel *c, unsigned count, int trend)
{
    int16_t y = 0;
    for (unsigned i = 0; i < count; i++) {
        if ((int)i != trend || trend < (int)count - 1 || m->o->values) {
            put_value(m, &c[i], &y);
        }
    }
    if (trend >= 0) {
        put_trend(m, &c[trend], y);
    }
    return true;
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

/* Out of a run: its last values, its course. */
static bool take_run(struct making *m, char **names, int trend, struct pintle_problem *problem)
{
    char *const words[] = { m->o->run, NULL };
    struct chosen chosen;
    struct shown shown = { 0 };
    struct shown_channel *c = g_new0(struct shown_channel, g_strv_length(names) + 1);
    unsigned count = 0;
    bool ok = cli_choose(&m->o->past, words, &chosen, problem);
    struct pintle_history *history =
        ok ? pintle_history_read(chosen.run, chosen.count, chosen.window, RECORDS, problem) : NULL;
    ok = history && cli_shown_history(&m->o->past, &chosen, history, &shown, problem);
    for (unsigned i = 0; ok && names[i]; i++) {
        unsigned k = 0;
        while (k < history->columns && strcmp(history->column[k].name, names[i]) != 0) {
            k++;
        }
        ok = k < history->columns || no_channel(names[i], chosen.run[0]->where, problem);
        const struct pintle_column *column = ok ? &history->column[k] : NULL;
        if (ok) {
            const struct pintle_run_column about = { .name = column->name,
                                                     .quantity = column->quantity,
                                                     .decimals = column->decimals };
            c[count++] = begin_channel(&about, column->unit);
        }
        for (unsigned r = 0; ok && r < history->rows; r++) {
            bool good = !isnan(column->value[r]) && (column->least || !column->suspect[r]);
            keep(&c[count - 1], column->value[r], good);
        }
    }
    ok = ok && put_page(m, c, count, trend);
    for (unsigned i = 0; i < count; i++) {
        g_free(c[i].column.name);
        g_free(c[i].reading);
    }
    g_free(c);
    cli_shown_free(&shown);
    pintle_history_free(history);
    cli_choose_free(&chosen);
    return ok;
}

/* Measured now, for as long as is asked for. */
static bool take_live(struct making *m, struct pintle_station *station, char **names, int trend,
                      struct pintle_problem *problem)
{
    struct shown_channel *c = g_new0(struct shown_channel, g_strv_length(names) + 1);
    struct pintle_place_of *of = g_new0(struct pintle_place_of, g_strv_length(names) + 1);
    const struct pintle_rig *rig = station->rig;
    unsigned count = 0;
    int64_t length = 0;
    int64_t every = 0;
    bool ok = cli_duration("for", m->o->length, 0, &length, problem)
              && cli_duration("every", m->o->every, 1000000, &every, problem);
    for (unsigned i = 0; ok && names[i]; i++) {
        unsigned wide = 1;
        ok = pintle_series_find(rig, names[i], &of[i], &wide, problem)
             && (wide == 1 || no_channel(names[i], "a page", problem));
        if (ok) {
            const struct pintle_rig_sensor *s = &rig->sensor[of[i].sensor];
            const struct pintle_channel *its = &s->sheet->part->channels[of[i].channel];
            const struct pintle_run_column about = { .name = names[i],
                                                     .quantity =
                                                         (enum pintle_quantity)its->quantity,
                                                     .decimals = its->decimals };
            c[count++] = begin_channel(&about, s->channel[of[i].channel].unit);
        }
    }
    struct pintle_progress progress = cli_watch_progress("measuring");
    for (int64_t done = 0; ok && done <= length; done += every) {
        (void)pintle_station_round(station, NULL);
        for (unsigned i = 0; i < count; i++) {
            const struct pintle_reading *r =
                &station->turn[of[i].sensor].sample.channel[of[i].channel];
            bool none = r->quality & (PINTLE_QUALITY_BUS | PINTLE_QUALITY_IDLE);
            keep(&c[i], none ? (double)NAN : (double)r->value, pintle_reading_good(r));
        }
        for (int64_t left = done + every <= length ? every : 0; left > 0; left -= HOUR_US) {
            pintle_station_wait(station, (uint32_t)MIN(left, HOUR_US), NULL);
        }
        ok = cli_goes_on(&progress, length ? (double)done / (double)length : 1, "nothing was shown",
                         problem);
    }
    cli_end_progress();
    ok = ok && put_page(m, c, count, trend);
    for (unsigned i = 0; i < count; i++) {
        g_free(c[i].column.name);
        g_free(c[i].reading);
    }
    g_free(c);
    g_free(of);
    return ok;
}

/* --- where it goes --- */

/* As PBM, or drawn, by the file's name. */
static bool write_dots(const char *path, const struct pintle_picture *picture,
                       struct pintle_problem *problem)
{
    bool ok = g_str_has_suffix(path, ".pbm") ? pintle_picture_save(path, picture, problem)
                                             : pintle_draw_dots(picture, path, problem);
    if (ok) {
        printf("%s\n", path);
    }
    return ok;
}

static bool write_page(const struct making *m, struct pintle_problem *problem)
{
    struct pintle_picture picture = { m->page.width, m->page.height,
                                      g_malloc0((gsize)m->page.width * m->page.height) };
    for (unsigned i = 0; i < picture.width * picture.height; i++) {
        picture.dot[i] =
            pintle_page_is(&m->page, (int16_t)(i % picture.width), (int16_t)(i / picture.width));
    }
    bool ok = write_dots(m->o->to, &picture, problem);
    pintle_picture_free(&picture);
    return ok;
}

static bool send(const struct making *m, const struct one *one, struct pintle_problem *problem)
{
    enum pintle_status status = pintle_screen_show(one->sensor, m->dots);
    if (status != PINTLE_OK) {
        return cli_one_failed(one, "showing on", status, problem);
    }
    printf("sent; a display doesn't answer, so only a look tells whether it is there\n");
    return true;
}

/* The simulated one, as somebody sees it. */
static bool look(const struct making *m, const struct one *one, struct pintle_problem *problem)
{
    const struct pintle_platform *platform = one->station->platform;
    const struct pintle_screen *screen = one->sensor->part->can->screen;
    struct pintle_picture picture = { screen->width, screen->height,
                                      g_malloc0((gsize)screen->width * screen->height) };
    bool ok = platform->dot != NULL;
    for (unsigned i = 0; ok && i < picture.width * picture.height; i++) {
        bool dark = false;
        ok = platform->dot(one->station, one->index, i % picture.width, i / picture.width, &dark);
        picture.dot[i] = dark;
    }
    ok = ok ? write_dots(m->o->look, &picture, problem)
            : pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "--look sees simulated displays only; of a real one take a photo");
    pintle_picture_free(&picture);
    return ok;
}

/* --- all of it --- */

static bool take_size(const char *words, uint16_t *width, uint16_t *height,
                      struct pintle_problem *problem)
{
    char *end = NULL;
    unsigned long w = strtoul(words, &end, 10);
    unsigned long h = *end == 'x' ? strtoul(end + 1, &end, 10) : 0;
    bool ok = *end == '\0' && w >= 16 && w <= PINTLE_PICTURE_MAX && h >= 8
              && h <= PINTLE_PICTURE_MAX && h % 8 == 0
              && PINTLE_PAGE_BYTES(w, h) <= PINTLE_PICTURE_MAX;
    *width = (uint16_t)w;
    *height = (uint16_t)h;
    return ok
           || pintle_problem_set(
               problem, PINTLE_FAILURE_USE,
               "--size is as in 84x48: a height in whole bytes of 8 dots, no more "
               "than %d dots in all, not '%s'",
               PINTLE_PICTURE_MAX * 8, words);
}

static bool fill(struct making *m, struct pintle_station *station, const char *file,
                 struct pintle_problem *problem)
{
    if (file) {
        return take_file(m, file, problem);
    }
    int trend = -1;
    char **names = names_of(m->o, &trend);
    bool ok = m->o->run ? take_run(m, names, trend, problem)
                        : take_live(m, station, names, trend, problem);
    g_strfreev(names);
    return ok;
}

static bool on_display(struct making *m, const char *sensor, const char *file,
                       struct pintle_problem *problem)
{
    struct rig_options rig = m->o->past.rig;
    struct one one;
    rig.units = m->o->past.units;
    if (!cli_open_one(&rig, sensor, "display", able, &one, problem)) {
        return false;
    }
    const struct pintle_screen *screen = one.sensor->part->can->screen;
    pintle_page_init(&m->page, m->dots, screen->width, screen->height);
    bool ok = fill(m, one.station, file, problem) && send(m, &one, problem)
              && (!m->o->to || write_page(m, problem)) && (!m->o->look || look(m, &one, problem));
    cli_close_one(&one);
    return ok;
}

static bool without_display(struct making *m, const char *file, struct pintle_problem *problem)
{
    uint16_t width = 0;
    uint16_t height = 0;
    struct rig_options options = m->o->past.rig;
    struct pintle_rig *rig = NULL;
    struct pintle_station *station = NULL;
    options.units = m->o->past.units;
    if (!take_size(m->o->size, &width, &height, problem)) {
        return false;
    }
    if (m->o->look || !m->o->to) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--size makes a page for no display; say where it goes with "
                                  "--write FILE");
    }
    pintle_page_init(&m->page, m->dots, width, height);
    bool ok = (file || m->o->run || cli_open(&options, &rig, &station, problem))
              && fill(m, station, file, problem) && write_page(m, problem);
    pintle_station_free(station);
    pintle_rig_free(rig);
    return ok;
}

static int run(int argc, char **argv)
{
    struct show_options o = { 0 };
    const GOptionEntry entries[] = {
        PLACE_OPTIONS(o.past),
        WINDOW_OPTIONS(o.past),
        UNIT_OPTION(o.past),
        AT_OPTION(o.past.rig.at),
        { "values", 0, 0, G_OPTION_ARG_STRING, &o.values, "a page of these channels", "CHANNELS" },
        { "trend", 0, 0, G_OPTION_ARG_STRING, &o.trend, "and the course of this one beneath",
          "CHANNEL" },
        { "run", 0, 0, G_OPTION_ARG_STRING, &o.run, "out of a run, not measured now", "RUN" },
        { "for", 0, 0, G_OPTION_ARG_STRING, &o.length, "measure so long for a trend (once)",
          "DURATION" },
        { "every", 0, 0, G_OPTION_ARG_STRING, &o.every, "so often (1 s)", "DURATION" },
        { "size", 0, 0, G_OPTION_ARG_STRING, &o.size, "for no display: of so many dots (84x48)",
          "DOTS" },
        { "write", 'w', 0, G_OPTION_ARG_FILENAME, &o.to, "the page as PBM, PNG or SVG", "FILE" },
        { "look", 0, 0, G_OPTION_ARG_FILENAME, &o.look,
          "what the simulated display then shows, likewise", "FILE" },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    struct making m = { .o = &o };
    if (!cli_options(&command_show, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    bool page = o.values || o.trend;
    int most = page ? 2 : 3;
    if (argc > most || (!page && argc < 2) || (o.size && argc > (page ? 1 : 2))) {
        return cli_misuse(page ? "show: beside --values and --trend name a display at most"
                               : "show: give a display and a picture (PBM), or --values");
    }
    const char *file = page ? NULL : argv[argc - 1];
    const char *sensor = argc == most ? argv[1] : NULL;
    bool ok = o.size ? without_display(&m, file, &problem) : on_display(&m, sensor, file, &problem);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_show = {
    .name = "show",
    .usage = "[DISPLAY] [FILE]",
    .summary = "a page of values, or a picture (PBM), on a small display",
    .more =
        "A picture goes to the upper left corner; what is left stays empty. A page has a line\n"
        "for each channel, inverted where it is suspect, and a trend beneath; firmware draws it\n"
        "with the same calls (pintle/page.h).\n\n"
        "Examples:\n  pintle show --rig boat.rig panel tide.pbm\n"
        "  pintle show --demo --values cabin.temperature,baro.pressure --trend baro.pressure\n"
        "      --for 2min --size 84x48 --write page.pbm",
    .run = run,
};
