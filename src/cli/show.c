#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "cli/show.h"
#include "pintle/ability.h"
#include "pintle/host/base/picture.h"
#include "pintle/host/draw/draw.h"

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
    return show_fill(m->o, &m->page, station, problem);
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

/* What would be left unheard is better refused. */
static bool is_use(const struct show_options *o, struct pintle_problem *problem)
{
    const struct past_options *past = &o->past;
    if (o->run && (o->length || o->every || past->rig.at)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--run shows what was logged; --at, --for and --every are for "
                                  "what is measured now");
    }
    return o->run || !(past->in || past->last || past->from || past->to)
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "--in, --last, --from and --to are for a run that was logged; "
                                 "give one with --run");
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
        { "run", 0, 0, G_OPTION_ARG_FILENAME, &o.run, "out of a run, not measured now", "RUN" },
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
    if (!is_use(&o, &problem)) {
        return cli_fail(&problem);
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
