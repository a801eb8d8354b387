#include <math.h>
#include <string.h>

#include "cli/live.h"

struct live_options {
    struct past_options past;
    char *every, *length;
    char *play;
    double pace;
    gboolean log;
    char *store_every, *into, *database, *title;
    char **thresholds;
    char *view;
};

/* "deck.illuminance=50lx" */
static bool take_threshold(struct live *live, const char *words, struct pintle_problem *problem)
{
    const char *sign = strchr(words, '=');
    size_t length = sign ? (size_t)(sign - words) : 0;
    for (unsigned k = 0; k < live->channels; k++) {
        struct live_channel *c = &live->channel[k];
        if (strncmp(c->column.name, words, length) == 0 && c->column.name[length] == '\0') {
            const struct pintle_formula_number number = {
                .name = c->column.name, .unit = live_unit(c), .lowest = -1e9f, .highest = 1e9f
            };
            float shown = 0;
            if (!pintle_formula_number_parse(&number, sign + 1, &shown, problem)) {
                return false;
            }
            double zero = cli_in_unit(c->unit, 0);
            c->threshold = ((double)shown - zero) / (cli_in_unit(c->unit, 1) - zero);
            return true;
        }
    }
    return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                              "--threshold takes a channel and a value, as in "
                              "deck.illuminance=0.05klx, not '%s'",
                              words);
}

static bool take_view(struct live *live, const char *word, struct pintle_problem *problem)
{
    static const char *const views[] = { "table", "one",      "change", "pair",
                                         "bars",  "attitude", "weather" };
    for (unsigned i = 0; word && i < G_N_ELEMENTS(views); i++) {
        if (strcmp(word, views[i]) == 0) {
            live->view = (enum live_view)i;
            return true;
        }
    }
    return !word
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "--view is one of table, one, change, pair, bars, attitude, "
                                 "weather, not '%s'",
                                 word);
}

static bool open_rig(const struct live_options *o, struct live *live,
                     struct pintle_problem *problem)
{
    struct rig_options rig = o->past.rig;
    int64_t every = 0;
    rig.units = o->past.units;
    if (o->past.in || o->past.last || o->past.from || o->past.to) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--in, --last, --from and --to are for a run that was logged; "
                                  "--play plays it");
    }
    if (!live_open_rig(live, &rig, problem)
        || !cli_duration("every", o->every, 1000000, &every, problem)
        || !cli_duration("for", o->length, 0, &live->logging.for_us, problem)
        || !cli_duration("store-every", o->store_every, live->rig->every_us,
                         &live->logging.every_us, problem)) {
        return false;
    }
    live->logging.show_us = every;
    live->rig->every_us = live->logging.every_us;
    live->usual_s = (double)every / 1e6;
    if (o->pace > 0 && o->pace != 1 && !live->station->platform->pass) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "--pace is for simulations and for runs played back; on port '%s' "
            "time is real",
            live->rig->port);
    }
    if (o->log) {
        live->logging.places = cli_where(live->rig, o->into, o->database, false, o->title);
    } else if (o->into || o->database || o->title || o->store_every) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--into, --database, --title and --store-every say how to log; "
                                  "--log asks for it");
    }
    return true;
}

static bool open_run(const struct live_options *o, struct live *live,
                     struct pintle_problem *problem)
{
    if (o->log || o->past.rig.at || o->every || o->length || o->into || o->database || o->title
        || o->store_every) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--play shows a run that was logged; --at, --every, --for, --log "
                                  "and what says how to log are for a rig");
    }
    if (!live_open_run(live, &o->past, o->play, problem)) {
        return false;
    }
    live->usual_s = (double)live->chosen.run[0]->every_us / 1e6;
    return true;
}

static bool show(const struct live_options *o, char **names, struct live *live,
                 struct pintle_problem *problem)
{
    live->local = o->past.local;
    live->pace = o->pace > 0 ? o->pace : 1;
    bool ok = take_view(live, o->view, problem)
              && (o->play ? open_run(o, live, problem) : open_rig(o, live, problem));
    for (unsigned i = 0; ok && o->thresholds && o->thresholds[i]; i++) {
        ok = take_threshold(live, o->thresholds[i], problem);
    }
    ok = ok && live_choose(live, names, problem);
    live->window_s = live->usual_s > 20 ? 4 * 3600 : live->usual_s > 2 ? 600 : 120;
    return ok && live_begin(live, problem) && live_run(live, problem);
}

/* End what was logged meanwhile. Returns the exit status. */
static int end_logging(struct live *live, bool ok, struct pintle_problem *problem)
{
    struct pintle_logged logged = { 0 };
    struct pintle_problem why = { 0 };
    if (!live->logger) {
        return ok ? 0 : cli_fail(problem);
    }
    const char *how = !ok ? "failed" : live->interrupted ? "interrupted" : "done";
    bool ended = pintle_logger_close(live->logger, how, &logged, &why);
    logged.interrupted = live->interrupted;
    return cli_logged(&logged, ok && ended, ok ? &why : problem);
}

static int run(int argc, char **argv)
{
    struct live_options o = { 0 };
    const GOptionEntry entries[] = {
        PLACE_OPTIONS(o.past),
        WINDOW_OPTIONS(o.past),
        UNIT_OPTION(o.past),
        AT_OPTION(o.past.rig.at),
        { "every", 0, 0, G_OPTION_ARG_STRING, &o.every, "measure so often (1 s)", "DURATION" },
        { "for", 0, 0, G_OPTION_ARG_STRING, &o.length, "how long (until q)", "DURATION" },
        { "pace", 0, 0, G_OPTION_ARG_DOUBLE, &o.pace,
          "so many times faster than it was, or than real (1)", "FACTOR" },
        { "play", 0, 0, G_OPTION_ARG_FILENAME, &o.play, "a run that was logged, not the rig",
          "RUN" },
        { "view", 0, 0, G_OPTION_ARG_STRING, &o.view,
          "begin with table, one, change, pair, bars, attitude or weather", "NAME" },
        { "threshold", 0, 0, G_OPTION_ARG_STRING_ARRAY, &o.thresholds,
          "a mark on a bar: deck.illuminance=0.05klx", "CHANNEL=VALUE" },
        { "log", 0, 0, G_OPTION_ARG_NONE, &o.log, "log meanwhile, as 'pintle log' does", NULL },
        { "store-every", 0, 0, G_OPTION_ARG_STRING, &o.store_every,
          "a record so often (the rig's interval)", "DURATION" },
        { "title", 0, 0, G_OPTION_ARG_FILENAME, &o.title, "the run's title", "TEXT" },
        { "into", 0, 0, G_OPTION_ARG_FILENAME, &o.into,
          "the folder for what the rig file names by a relative path", "DIR" },
        { "database", 0, 0, G_OPTION_ARG_FILENAME, &o.database, "also into this database", "FILE" },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    struct live live = { .heel = -1, .trim = -1, .heading = -1 };
    if (!cli_options(&command_live, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (o.pace < 0) {
        return cli_misuse("live: --pace is a factor above 0");
    }
    bool ok = show(&o, argv + 1, &live, &problem);
    int status = end_logging(&live, ok, &problem);
    live_close(&live);
    return status;
}

const struct command command_live = {
    .name = "live",
    .usage = "[CHANNEL...]",
    .summary = "readings in the terminal as they come, or a run played back",
    .more =
        "Channels, sensors or quantities; without any all of them. Keys: t table, o one large "
        "with\n"
        "its graph, c changes since it began and when they settle, d two and their difference, b\n"
        "bars, a the attitude, w the weather's tendency, arrows to choose, m to mark, z to zoom, "
        "n\n"
        "for a note, space to hold the picture (measuring and logging go on), + and - for the\n"
        "pace, q to quit.\n\n"
        "Examples:\n  pintle live --demo\n"
        "  pintle live --demo cabin.temperature baro.temperature --view pair --log\n"
        "  pintle live --demo --play 1 --pace 600 --view weather",
    .run = run,
};
