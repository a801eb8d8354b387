#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/host/draw/draw.h"

struct plot_options {
    struct rig_options rig;
    char *channels;
    char **units;
    char *png;
    char *svg;
};

/* A name picks a channel ("sea.temperature"), a sensor ("sea") or a quantity's word. */
static bool matches(const struct pintle_column *column, const char *word)
{
    const char *dot = strrchr(column->name, '.');
    return strcmp(column->name, word) == 0
           || (dot && strncmp(column->name, word, (size_t)(dot - column->name)) == 0
               && word[dot - column->name] == '\0')
           || strcmp(pintle_quantity_word(column->quantity), word) == 0;
}

static bool choose(const struct pintle_history *history, const char *list, uint8_t *chosen,
                   struct pintle_problem *problem)
{
    char **words = g_strsplit(list ? list : "", ",", -1);
    bool ok = true;
    for (unsigned c = 0; c < history->columns; c++) {
        chosen[c] = list == NULL;
    }
    for (unsigned w = 0; words[w] && ok; w++) {
        unsigned found = 0;
        for (unsigned c = 0; c < history->columns; c++) {
            bool match = matches(&history->column[c], words[w]);
            chosen[c] |= match;
            found += match;
        }
        ok = found > 0
             || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                   "%s has no channel '%s'; name a channel such as %s, or a sensor",
                                   history->path, words[w], history->column[0].name);
    }
    g_strfreev(words);
    return ok;
}

/* Each column as the rig shows it, or in the unit that is asked for. */
static bool choose_units(const struct pintle_history *history, const struct pintle_rig *rig,
                         char *const *symbols, struct pintle_problem *problem)
{
    for (unsigned c = 0; c < history->columns; c++) {
        struct pintle_column *column = &history->column[c];
        for (unsigned i = 0; rig && i < rig->sensors; i++) {
            const struct pintle_rig_sensor *s = &rig->sensor[i];
            size_t length = strlen(s->name);
            bool mine = strncmp(column->name, s->name, length) == 0 && column->name[length] == '.';
            int channel = mine ? pintle_sheet_channel(s->sheet, column->name + length + 1) : -1;
            if (channel >= 0 && s->channel[channel].unit != PINTLE_UNIT_COUNT) {
                column->unit = s->channel[channel].unit;
                column->also = s->channel[channel].also;
            }
        }
    }
    struct pintle_unit_slot *slots = g_new0(struct pintle_unit_slot, history->columns + 1);
    for (unsigned c = 0; c < history->columns; c++) {
        struct pintle_column *column = &history->column[c];
        slots[c] = (struct pintle_unit_slot){ column->name, column->quantity, &column->unit,
                                              &column->also };
    }
    bool ok = true;
    for (unsigned i = 0; ok && symbols && symbols[i]; i++) {
        ok = pintle_units_take(symbols[i], slots, history->columns, history->path, problem);
    }
    g_free(slots);
    return ok;
}

static bool draw(const struct pintle_history *history, const uint8_t *chosen, const char *path,
                 struct pintle_problem *problem)
{
    char *name = g_path_get_basename(history->path);
    char *title = g_strdup_printf("run %s", name);
    bool ok = pintle_draw_plot(history, chosen, title, path, problem);
    if (ok) {
        printf("%s\n", path);
    }
    g_free(title);
    g_free(name);
    return ok;
}

static bool plot(const struct plot_options *options, const struct pintle_rig *rig, const char *name,
                 struct pintle_problem *problem)
{
    struct pintle_history *history = pintle_history_load(rig ? rig->runs : ".", name, problem);
    if (!history) {
        return false;
    }
    uint8_t *chosen = g_new0(uint8_t, history->columns);
    bool ok = choose(history, options->channels, chosen, problem)
              && choose_units(history, rig, options->units, problem);
    if (options->png || !options->svg) {
        char *path = options->png ? g_strdup(options->png)
                                  : g_build_filename(history->path, "plot.png", NULL);
        ok = ok && draw(history, chosen, path, problem);
        g_free(path);
    }
    if (options->svg || !options->png) {
        char *path = options->svg ? g_strdup(options->svg)
                                  : g_build_filename(history->path, "plot.svg", NULL);
        ok = ok && draw(history, chosen, path, problem);
        g_free(path);
    }
    g_free(chosen);
    pintle_history_free(history);
    return ok;
}

static int run(int argc, char **argv)
{
    struct plot_options options = { 0 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options.rig),
        UNIT_OPTION(options),
        { "channels", 'c', 0, G_OPTION_ARG_STRING, &options.channels,
          "channels, sensors or quantities, with commas between (all)", "LIST" },
        { "png", 0, 0, G_OPTION_ARG_FILENAME, &options.png, "write a PNG here", "FILE" },
        { "svg", 0, 0, G_OPTION_ARG_FILENAME, &options.svg, "write an SVG here", "FILE" },
        { 0 }
    };
    if (!cli_options(&command_plot, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    struct pintle_problem problem = { 0 };
    if (argc != 2) {
        return cli_misuse("plot: name one run, by its number or its folder");
    }
    if (!options.rig.rig && !options.rig.demo) {
        return plot(&options, NULL, argv[1], &problem) ? 0 : cli_fail(&problem);
    }
    struct pintle_rig *rig = cli_rig(&options.rig, &problem);
    bool ok = rig && plot(&options, rig, argv[1], &problem);
    pintle_rig_free(rig);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_plot = {
    .name = "plot",
    .usage = "RUN",
    .summary = "a run as a picture, PNG and SVG",
    .more =
        "RUN is the path of a run folder or, with --rig or --demo, a run's number. Without --png\n"
        "and --svg both are written into the run's folder. Gaps stay open; readings that are\n"
        "suspect are marked in red.\n\n"
        "Example:\n  pintle plot --demo 1 --channels sea,engine --png /tmp/water.png",
    .run = run,
};
