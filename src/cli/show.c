#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/ability.h"
#include "pintle/host/base/picture.h"

static bool able(const struct pintle_part *part)
{
    return part->can && part->can->screen;
}

static bool act(const struct one *one, const char *path, struct pintle_problem *problem)
{
    uint8_t dots[PINTLE_PICTURE_MAX] = { 0 };
    struct pintle_picture picture;
    const struct pintle_screen *screen = one->sensor->part->can->screen;
    if (!pintle_picture_load(path, &picture, problem)) {
        return false;
    }
    bool ok = (picture.width <= screen->width && picture.height <= screen->height)
              || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                    "%s has %u x %u dots, and '%s' shows %u x %u; make it smaller",
                                    path, picture.width, picture.height, one->from->name,
                                    screen->width, screen->height);
    for (unsigned i = 0; ok && i < picture.width * picture.height; i++) {
        pintle_screen_dot(one->sensor->part, dots, (uint16_t)(i % picture.width),
                          (uint16_t)(i / picture.width), picture.dot[i]);
    }
    enum pintle_status status = ok ? pintle_screen_show(one->sensor, dots) : PINTLE_OK;
    pintle_picture_free(&picture);
    return ok && (status == PINTLE_OK || cli_one_failed(one, "showing on", status, problem));
}

static int run(int argc, char **argv)
{
    struct rig_options options = { 0 };
    const GOptionEntry entries[] = { RIG_OPTIONS(options), { 0 } };
    struct pintle_problem problem = { 0 };
    struct one one;
    if (!cli_options(&command_show, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc != 2 && argc != 3) {
        return cli_misuse("show: give a display and a picture (PBM)");
    }
    if (!cli_open_one(&options, argc == 3 ? argv[1] : NULL, "display", able, &one, &problem)) {
        return cli_fail(&problem);
    }
    bool ok = act(&one, argv[argc - 1], &problem);
    if (ok) {
        printf("sent; a display doesn't answer, so only a look tells whether it is there\n");
    }
    cli_close_one(&one);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_show = {
    .name = "show",
    .usage = "[SENSOR] FILE",
    .summary = "a picture (PBM, plain or raw) on a small display",
    .more = "It goes to the upper left corner; what is left stays empty.\n\n"
            "Example:\n  pintle show --rig boat.rig panel tide.pbm",
    .run = run,
};
