#include "cli/calibrate.h"

#include <math.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "pintle/regress.h"

volatile sig_atomic_t cli_calibrate_stop;

static void on_signal(int number)
{
    (void)number;
    cli_calibrate_stop = 1;
}

static void catch_signals(void)
{
    struct sigaction action = { .sa_handler = on_signal };
    sigaction(SIGINT, &action, NULL);
    sigaction(SIGTERM, &action, NULL);
    sigaction(SIGHUP, &action, NULL);
}

double cli_calibrate_shown(const struct subject *subject, double base)
{
    double zero = (double)pintle_unit_show(subject->unit, 0);
    return base * ((double)pintle_unit_show(subject->unit, 1) - zero) + zero;
}

double cli_calibrate_per_base(const struct subject *subject)
{
    return cli_calibrate_shown(subject, 1) - cli_calibrate_shown(subject, 0);
}

double cli_calibrate_base(const struct subject *subject, double shown)
{
    return (shown - cli_calibrate_shown(subject, 0)) / cli_calibrate_per_base(subject);
}

const char *cli_calibrate_unit(const struct subject *subject)
{
    return cli_unit(subject->about, subject->unit);
}

/* --- what is to be done --- */

static bool take_method(const struct subject *subject, struct calibrate_options *options,
                        unsigned typed, struct pintle_problem *problem)
{
    static const enum pintle_method of_axes[] = { PINTLE_METHOD_SIX_POSITIONS, PINTLE_METHOD_REST,
                                                  PINTLE_METHOD_ELLIPSOID };
    bool turns = subject->about->quantity == PINTLE_QUANTITY_ANGULAR_RATE;
    bool feels = subject->about->quantity == PINTLE_QUANTITY_ACCELERATION;
    bool many = typed > 1 || options->pairs || options->against || options->log;
    GString *all = g_string_new(NULL);
    if (!options->method) {
        options->how = subject->wanted.wide == 3 ? of_axes[feels   ? 0
                                                           : turns ? 1
                                                                   : 2]
                       : options->second         ? PINTLE_METHOD_THERMAL
                       : turns && !many          ? PINTLE_METHOD_REST
                       : feels && !many          ? PINTLE_METHOD_ORIENTATIONS
                                                 : PINTLE_METHOD_LINE;
        g_string_free(all, TRUE);
        return true;
    }
    for (unsigned m = 0; m < PINTLE_METHOD_TYPED; m++) {
        options->how = (enum pintle_method)m;
        if (strcmp(options->method, pintle_method_word(options->how)) == 0) {
            g_string_free(all, TRUE);
            return true;
        }
        g_string_append_printf(all, "%s%s",
                               m == 0                         ? ""
                               : m + 1 == PINTLE_METHOD_TYPED ? " and "
                                                              : ", ",
                               pintle_method_word(options->how));
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "there is no method '%s'; there are %s",
                       options->method, all->str);
    g_string_free(all, TRUE);
    return false;
}

static enum pintle_stage_kind kind_of(enum pintle_method method)
{
    switch (method) {
    case PINTLE_METHOD_SIX_POSITIONS:
    case PINTLE_METHOD_ELLIPSOID:
        return PINTLE_STAGE_AXES;
    case PINTLE_METHOD_THERMAL:
        return PINTLE_STAGE_THERMAL;
    case PINTLE_METHOD_HEAT:
        return PINTLE_STAGE_HEAT;
    case PINTLE_METHOD_TABLE:
        return PINTLE_STAGE_TABLE;
    default:
        return PINTLE_STAGE_POLYNOMIAL;
    }
}

/* Does the method fit what is calibrated, and what it is given? */
static bool method_fits(struct subject *subject, struct pintle_problem *problem)
{
    const struct calibrate_options *o = subject->options;
    uint8_t quantity = subject->about->quantity;
    const char *word = pintle_method_word(o->how);
    bool second = o->how == PINTLE_METHOD_THERMAL || o->how == PINTLE_METHOD_HEAT;
    bool positions = o->how == PINTLE_METHOD_SIX_POSITIONS || o->how == PINTLE_METHOD_ORIENTATIONS;
    bool axes = o->how == PINTLE_METHOD_SIX_POSITIONS || o->how == PINTLE_METHOD_ELLIPSOID;
    if (axes != (subject->wanted.wide == 3) && o->how != PINTLE_METHOD_REST) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  axes
                                      ? "the method %s is of three axes; name them together, as in "
                                        "motion.accel, or take --method orientations for one"
                                      : "the method %s is of one channel; name one, as in "
                                        "motion.accel-x",
                                  word);
    }
    if (positions && quantity != PINTLE_QUANTITY_ACCELERATION) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "the method %s is of an accelerometer, which gravity tells up "
                                  "from down; '%s' is none",
                                  word, subject->name);
    }
    if (o->how == PINTLE_METHOD_REST && quantity != PINTLE_QUANTITY_ANGULAR_RATE) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "the method rest is of a gyroscope, which has to say 0 at rest; "
                                  "'%s' is none",
                                  subject->name);
    }
    if (second != (o->second != NULL)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  second ? "the method %s needs the channel that does it: add "
                                           "--second SENSOR.CHANNEL"
                                         : "the method %s has no second channel; leave --second "
                                           "away, or take --method thermal or heat",
                                  word);
    }
    if (o->how > PINTLE_METHOD_TABLE && !second && (o->against || o->log)) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "the method %s takes no reference; leave --against and --log away", word);
    }
    if (second && o->span) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "the method %s holds where the second channel was, and a half more; "
            "leave --span away",
            word);
    }
    if (o->watch && o->run) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--watch is live, and --run is not; leave one of them away");
    }
    if (o->how == PINTLE_METHOD_HEAT && !o->against && !o->log) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "the method heat needs a reference that stands away from the "
                                  "warmth: add --against SENSOR.CHANNEL or --log FILE");
    }
    return true;
}

/* "9.81", "48uT": in the unit that is shown, or with its own. */
static bool take_strength(const struct subject *subject, struct calibrate_options *o,
                          struct pintle_problem *problem)
{
    const struct pintle_formula_number number = { .name = "field strength",
                                                  .unit = cli_calibrate_unit(subject),
                                                  .lowest = 1e-9f,
                                                  .highest = 1e9f };
    float value = 0;
    bool feels = subject->about->quantity == PINTLE_QUANTITY_ACCELERATION;
    o->strength = feels ? 9.80665 : 0;
    if (!o->field) {
        return true;
    }
    if (!pintle_formula_number_parse(&number, o->field, &value, problem)) {
        return false;
    }
    o->strength = cli_calibrate_base(subject, (double)value);
    return true;
}

/* Of a difference: no zero is shifted. */
static bool take_worth(const struct subject *subject, struct calibrate_options *o,
                       struct pintle_problem *problem)
{
    char *end = NULL;
    double given = o->worth ? g_ascii_strtod(o->worth, &end) : 0;
    o->reference = given / fabs(cli_calibrate_per_base(subject));
    return !o->worth || (end > o->worth && *end == '\0' && given > 0 && isfinite(given))
           || pintle_problem_set(
               problem, PINTLE_FAILURE_USE,
               "--reference takes the reference's standard uncertainty in %s, more "
               "than 0, not '%s'",
               cli_calibrate_unit(subject), o->worth);
}

static bool number_of(const char *text, double *number)
{
    char *end = NULL;
    *number = g_ascii_strtod(text, &end);
    return end > text && *end == '\0' && isfinite(*number);
}

/* Where it holds, if somebody knows better. The dots are looked for first: "5..15" begins with
 * "5.". */
static bool take_span(const struct subject *subject, struct calibrate_options *o,
                      struct pintle_problem *problem)
{
    const char *dots = o->span ? strstr(o->span, "..") : NULL;
    double low = 0;
    double high = 0;
    if (!o->span) {
        return true;
    }
    char *first = dots ? g_strndup(o->span, (gsize)(dots - o->span)) : g_strdup(o->span);
    bool ok = dots && number_of(first, &low) && number_of(dots + 2, &high) && high > low;
    g_free(first);
    o->lowest = cli_calibrate_base(subject, low);
    o->highest = cli_calibrate_base(subject, high);
    return ok
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "--span takes two values, as in 0..40, not '%s'", o->span);
}

/* What would be found out too late, behind an hour of measuring. */
static bool take_plot(const struct calibrate_options *o, struct pintle_problem *problem)
{
    bool known = !o->plot || g_str_has_suffix(o->plot, ".png") || g_str_has_suffix(o->plot, ".svg");
    return known
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "--plot %s: a drawing's file name ends in .png or .svg", o->plot);
}

static bool take_numbers(const struct subject *subject, struct calibrate_options *o,
                         struct pintle_problem *problem)
{
    bool streams = subject->wanted.wide == 3 || o->how == PINTLE_METHOD_ORIENTATIONS
                   || o->how == PINTLE_METHOD_REST;
    if (o->order == 0) {
        o->order = 2;
    }
    if (o->order < 1 || o->order > 3) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--order is 1, 2 or 3, not %d: more follows the noise", o->order);
    }
    if (o->samples < 0 || o->samples == 1) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE, "--samples is 2 or more, not %d",
                                  o->samples);
    }
    return take_span(subject, o, problem) && take_plot(o, problem)
           && cli_duration("settle", o->settle, 60000000, &o->settle_us, problem)
           && cli_duration("for", o->length, streams ? 1800000000 : 600000000, &o->for_us, problem)
           && cli_duration("every", o->every, streams ? 50000 : 1000000, &o->every_us, problem)
           && take_worth(subject, o, problem) && take_strength(subject, o, problem);
}

/* A second channel, or a reference: one channel. */
static bool find_other(const struct subject *subject, const char *name, struct pintle_place_of *of,
                       struct pintle_problem *problem)
{
    unsigned wide = 1;
    if (!pintle_series_find(subject->rig, name, of, &wide, problem)) {
        return false;
    }
    return wide == 1
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "'%s' is three channels; name one of them", name);
}

/* Is it the channel itself, or made of it? */
static bool comes_from(const struct subject *subject, const struct pintle_place_of *other)
{
    const struct pintle_place_of *of = &subject->wanted.of;
    return other->sensor == of->sensor ? other->channel - of->channel < subject->wanted.wide
                                       : pintle_rig_needs(subject->rig, other->sensor, of->sensor);
}

static bool find(struct subject *subject, const char *name, struct calibrate_options *options,
                 unsigned typed, struct pintle_problem *problem)
{
    struct pintle_wanted *w = &subject->wanted;
    subject->name = name;
    if (!pintle_series_find(subject->rig, name, &w->of, &w->wide, problem)) {
        return false;
    }
    const struct pintle_rig_sensor *s = &subject->rig->sensor[w->of.sensor];
    subject->about = &s->sheet->part->channels[w->of.channel];
    subject->unit = cli_chosen(subject->about, s->channel[w->of.channel].unit);
    if (options->second) {
        w->second = &subject->second;
    }
    if (options->against) {
        w->reference = &subject->reference;
    }
    bool ok = (!options->second || find_other(subject, options->second, &subject->second, problem))
              && (!options->against
                  || find_other(subject, options->against, &subject->reference, problem));
    if (ok && options->against
        && subject->rig->sensor[subject->reference.sensor]
                   .sheet->part->channels[subject->reference.channel]
                   .quantity
               != subject->about->quantity) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "'%s' and '%s' are not of one quantity; a reference is", name,
                                  options->against);
    }
    bool circular = ok && options->against && comes_from(subject, &subject->reference);
    bool turning = ok && options->second && comes_from(subject, &subject->second);
    if (circular || turning) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "'%s' is made of what is to be calibrated, and proves nothing",
                                  circular ? options->against : options->second);
    }
    ok = ok && take_method(subject, options, typed, problem) && method_fits(subject, problem)
         && take_numbers(subject, options, problem);
    w->kind = kind_of(options->how);
    return ok;
}

static bool calibrate(struct subject *subject, struct calibrate_options *options, const char *name,
                      char **typed, struct pintle_problem *problem)
{
    if (!find(subject, name, options, g_strv_length(typed), problem)) {
        return false;
    }
    if (options->watch) {
        return cli_calibrate_watch(subject, problem);
    }
    bool ok = cli_calibrate_gather(subject, typed, problem);
    if (!options->method && options->how == PINTLE_METHOD_LINE && subject->count < 2) {
        options->how = PINTLE_METHOD_OFFSET;
    }
    ok = ok && cli_calibrate_fit(subject, problem);
    if (!ok) {
        return false;
    }
    for (unsigned i = 0; i < subject->found_count; i++) {
        subject->found[i].conditions = options->conditions;
        if (options->span) {
            subject->found[i].lowest = options->lowest;
            subject->found[i].highest = options->highest;
        }
    }
    cli_calibrate_print(subject);
    struct pintle_problem undrawn = { 0 };
    if (options->plot && !cli_calibrate_draw(subject, options->plot, &undrawn)) {
        cli_say("pintle: %s; the correction is none the worse.", undrawn.text);
    }
    return cli_calibrate_keep(subject, problem);
}

/* Below zero a pair looks like an option; behind a blank it doesn't. */
static char **protect(int argc, char **argv)
{
    char **words = g_strdupv(argv);
    for (int i = 0; i < argc; i++) {
        if (argv[i][0] == '-' && (g_ascii_isdigit(argv[i][1]) || argv[i][1] == '.')) {
            g_free(words[i]);
            words[i] = g_strconcat(" ", argv[i], NULL);
        }
    }
    return words;
}

/* From a run the rig's chips aren't needed. */
static bool open_subject(struct subject *subject, struct pintle_problem *problem)
{
    const struct calibrate_options *o = subject->options;
    if (o->run) {
        subject->rig = cli_rig(&o->rig, problem);
        subject->at_us = g_get_real_time();
        return subject->rig != NULL;
    }
    return cli_open(&o->rig, &subject->rig, &subject->station, problem);
}

static int start(int argc, char **argv)
{
    struct calibrate_options o = { 0 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(o.rig),
        AT_OPTION(o.rig.at),
        UNIT_OPTION(o.rig),
        { "method", 'm', 0, G_OPTION_ARG_STRING, &o.method, "how; see below", "NAME" },
        { "pairs", 'p', 0, G_OPTION_ARG_FILENAME, &o.pairs,
          "a CSV file: the sensor's value, the reference's", "FILE" },
        { "against", 0, 0, G_OPTION_ARG_STRING, &o.against, "another sensor is the reference",
          "SENSOR.CHANNEL" },
        { "log", 0, 0, G_OPTION_ARG_FILENAME, &o.log, "a reference's log, a CSV file: time, value",
          "FILE" },
        { "lag", 0, 0, G_OPTION_ARG_STRING, &o.lag,
          "seconds by which its clock is ahead, or 'find'", "SECONDS" },
        { "run", 0, 0, G_OPTION_ARG_FILENAME, &o.run, "from a logged run, not live", "RUN" },
        { "second", 0, 0, G_OPTION_ARG_STRING, &o.second, "the channel that it follows",
          "SENSOR.CHANNEL" },
        { "scale", 0, 0, G_OPTION_ARG_NONE, &o.scale, "thermal: its scale follows too", NULL },
        { "order", 0, 0, G_OPTION_ARG_INT, &o.order, "of a polynomial, 1 to 3 (2)", "N" },
        { "robust", 0, 0, G_OPTION_ARG_NONE, &o.robust, "outliers don't count", NULL },
        { "field", 0, 0, G_OPTION_ARG_STRING, &o.field,
          "strength of gravity (9.80665 m/s2) or of the field (unknown)", "STRENGTH" },
        { "samples", 0, 0, G_OPTION_ARG_INT, &o.samples, "of each position or point", "N" },
        { "settle", 0, 0, G_OPTION_ARG_STRING, &o.settle,
          "how long a point has to keep still (1 min)", "DURATION" },
        { "every", 0, 0, G_OPTION_ARG_STRING, &o.every, "between measurements", "DURATION" },
        { "for", 0, 0, G_OPTION_ARG_STRING, &o.length, "how long at most, or against a reference",
          "DURATION" },
        { "reference", 0, 0, G_OPTION_ARG_STRING, &o.worth,
          "the reference's standard uncertainty (of another sensor what is known of it)", "VALUE" },
        { "span", 0, 0, G_OPTION_ARG_STRING, &o.span, "where it holds: 0..40", "LOW..HIGH" },
        { "note", 0, 0, G_OPTION_ARG_STRING, &o.conditions, "under which conditions, in your words",
          "TEXT" },
        { "plot", 0, 0, G_OPTION_ARG_FILENAME, &o.plot, "draw the residuals, PNG or SVG", "FILE" },
        { "watch", 'w', 0, G_OPTION_ARG_NONE, &o.watch,
          "raw and corrected side by side, live, and nothing else", NULL },
        { "afresh", 0, 0, G_OPTION_ARG_NONE, &o.afresh, "don't go on where one was broken off",
          NULL },
        { "yes", 'y', 0, G_OPTION_ARG_NONE, &o.yes, "keep it without asking", NULL },
        { 0 }
    };
    if (!cli_options(&command_calibrate, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc < 2) {
        return cli_misuse("calibrate: name what to calibrate, as in cabin.temperature");
    }
    struct pintle_problem problem = { 0 };
    struct subject subject = { .options = &o };
    catch_signals();
    bool ok =
        open_subject(&subject, &problem) && calibrate(&subject, &o, argv[1], argv + 2, &problem);
    g_free(subject.pairs);
    g_free(subject.outlier);
    pintle_series_free(&subject.series);
    pintle_station_free(subject.station);
    pintle_rig_free(subject.rig);
    return !ok ? cli_fail(&problem) : subject.declined ? PINTLE_FAILURE_RIG : 0;
}

static int run(int argc, char **argv)
{
    char **words = protect(argc, argv);
    char **moved = g_memdup2(words, (gsize)(argc + 1) * sizeof *words); /* options are taken out */
    int status = start(argc, moved);
    g_free(moved);
    g_strfreev(words);
    return status;
}

const struct command command_calibrate = {
    .name = "calibrate",
    .usage = "SENSOR.CHANNEL [RAW=REFERENCE...]",
    .summary = "correct a channel against a reference, and keep that",
    .more =
        "Values are in the unit that 'read' shows; RAW is the sensor's value in front of this\n"
        "correction. Without pairs, reference or run you are led through it, step by step; the\n"
        "same lines may come from a script.\n\n"
        "Methods: offset, line, polynomial, table: from pairs. orientations (one axis of an\n"
        "accelerometer), six-positions (all three, as in motion.accel), rest (a gyroscope),\n"
        "ellipsoid (a magnetometer or an accelerometer, turned freely). thermal, heat: with\n"
        "--second, from a reference or, of thermal, from what did not change.\n\n"
        "Examples:\n"
        "  pintle calibrate --demo baro.temperature 13.5=12.9 22.0=21.4 18.7=18.0\n"
        "  pintle calibrate --demo baro.temperature --against cabin.temperature --for 12h --every "
        "1min\n"
        "  pintle calibrate --rig examples/calibrate/table.rig motion.accel\n"
        "  pintle calibrate --demo motion.accel --watch",
    .run = run,
};
