#include <math.h>
#include <signal.h>
#include <stdio.h>
#include <string.h>

#include "cli/past.h"
#include "pintle/host/adjust/compare.h"
#include "pintle/host/draw/draw.h"

struct compare_options {
    struct rig_options rig;
    char *run, *length, *every, *figure, *its_height, *height, *plot, *against, *within;
};

/* What is compared, and by what. */
struct comparing {
    const struct compare_options *options;
    struct pintle_rig *rig;
    struct pintle_station *station;
    unsigned channels;
    struct pintle_place_of of[PINTLE_COMPARE_MAX];
    char *name[PINTLE_COMPARE_MAX];
    double may[PINTLE_COMPARE_MAX];
    double within; /* as it was asked for, base unit; 0: as each may be off */
    const struct pintle_channel *about;
    enum pintle_unit unit;
    struct pintle_compared values;
    bool apart; /* some of them are */
};

static volatile sig_atomic_t stop;

static void on_signal(int number)
{
    (void)number;
    stop = 1;
}

static double per_base(const struct comparing *c)
{
    return (double)(pintle_unit_show(c->unit, 1) - pintle_unit_show(c->unit, 0));
}

static const struct pintle_channel *channel_of(const struct comparing *c, unsigned k)
{
    const struct pintle_rig_sensor *s = &c->rig->sensor[c->of[k].sensor];
    return &s->sheet->part->channels[c->of[k].channel];
}

static bool add(struct comparing *c, const char *name, struct pintle_problem *problem)
{
    unsigned wide = 1;
    if (c->channels == PINTLE_COMPARE_MAX) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE, "%d channels at most are compared",
                                  PINTLE_COMPARE_MAX);
    }
    if (!pintle_series_find(c->rig, name, &c->of[c->channels], &wide, problem)) {
        return false;
    }
    if (wide != 1) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "'%s' is three channels; name one of them", name);
    }
    for (unsigned k = 0; k < c->channels; k++) {
        if (strcmp(c->name[k], name) == 0) {
            return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                      "'%s' is named twice; a channel agrees with itself", name);
        }
    }
    c->name[c->channels++] = g_strdup(name);
    const struct pintle_channel *its = channel_of(c, c->channels - 1);
    c->about = c->about ? c->about : its;
    return its->quantity == c->about->quantity
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "'%s' and '%s' are not of one quantity, and can't be compared",
                                 c->name[0], name);
}

/* No names but one: all that measure the same as it. */
static bool add_equals(struct comparing *c, struct pintle_problem *problem)
{
    for (unsigned i = 0; i < c->rig->wired && c->channels < PINTLE_COMPARE_MAX; i++) {
        const struct pintle_rig_sensor *s = &c->rig->sensor[i];
        for (unsigned k = 0; k < s->sheet->part->channel_count; k++) {
            const struct pintle_channel *its = &s->sheet->part->channels[k];
            bool first = c->of[0].sensor == i && c->of[0].channel == k;
            if (!first && its->quantity == c->about->quantity
                && s->sheet == c->rig->sensor[c->of[0].sensor].sheet) {
                char *name = g_strdup_printf("%s.%s", s->name, its->name);
                bool ok = add(c, name, problem);
                g_free(name);
                if (!ok) {
                    return false;
                }
            }
        }
    }
    return c->channels > 1 || c->options->figure
           || pintle_problem_set(
               problem, PINTLE_FAILURE_USE,
               "the rig has no second part like that of '%s'; name the channel to "
               "compare it with, or give a --figure",
               c->name[0]);
}

static bool take_values(struct comparing *c, struct pintle_problem *problem)
{
    const struct compare_options *o = c->options;
    int64_t for_us = 0;
    int64_t every_us = 0;
    if (o->run) {
        struct pintle_history *history =
            pintle_history_load(c->rig->runs, c->rig->database, o->run, problem);
        bool ok = history
                  && pintle_compared_run(c->rig, history, c->of, c->channels, &c->values, problem);
        pintle_history_free(history);
        return ok;
    }
    struct pintle_progress progress = cli_watch_progress("comparing");
    bool ok = cli_duration("for", o->length, 60000000, &for_us, problem)
              && cli_duration("every", o->every, 1000000, &every_us, problem)
              && pintle_compared_live(c->station, c->of, c->channels, every_us, for_us, &stop,
                                      &progress, &c->values, problem);
    cli_end_progress();
    return ok;
}

static double mean_of(const struct comparing *c, unsigned k)
{
    double sum = 0;
    for (unsigned i = 0; i < c->values.count; i++) {
        sum += c->values.value[c->channels * i + k];
    }
    return sum / c->values.count;
}

/* What may be: as it was asked for, of the unit that is shown, or what each may be off by. */
static bool take_mays(struct comparing *c, struct pintle_problem *problem)
{
    const char *within = c->options->within;
    char *end = NULL;
    double most = within ? g_ascii_strtod(within, &end) : 0;
    if (within && (end == within || *end || !(most > 0 && isfinite(most)))) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--within takes a number of %s above 0, as in 0.5, not '%s'",
                                  cli_unit(c->about, c->unit), within);
    }
    c->within = most / per_base(c);
    double each = c->within / 2; /* of a pair */
    for (unsigned k = 0; k < c->channels; k++) {
        c->may[k] = within ? each : pintle_compared_may(c->rig, &c->of[k], mean_of(c, k));
    }
    return true;
}

/* A difference in the unit that is shown; a dash where nobody knows. */
static char *in_unit(const struct comparing *c, const char *sign, double base)
{
    double shown = base * per_base(c);
    if (isnan(shown)) {
        return g_strdup("-");
    }
    return sign[0] ? g_strdup_printf("%+.*f", MIN(c->about->decimals + 2, 4), shown)
                   : g_strdup_printf("%.*f", MIN(c->about->decimals + 2, 4), shown);
}

static void print_pair(struct comparing *c, unsigned a, unsigned b)
{
    struct pintle_apart apart;
    pintle_compared_pair(&c->values, a, b, c->may, &apart);
    char *name = g_strdup_printf("%s - %s", c->name[a], c->name[b]);
    char *mean = in_unit(c, "+", apart.mean);
    char *scatter = in_unit(c, "", apart.scatter);
    char *drift = in_unit(c, "+", apart.drift * 3600);
    char *off = in_unit(c, "", apart.drift_deviation * 3600);
    char *most = in_unit(c, "+", apart.most);
    char *at_times = g_strdup_printf("apart in %u of %u rounds", apart.beyond, c->values.count);
    char *may = apart.may > 0 ? in_unit(c, "", apart.may) : g_strdup("-");
    printf("%-44s %12s %10s %10s %12s %8s %10s   %s%s%s\n", name, mean, most, scatter, drift, off,
           may, apart.agree ? cli_good() : cli_bad(),
           apart.may == 0                 ? "nobody says"
           : apart.agree                  ? "agree"
           : fabs(apart.mean) > apart.may ? "apart"
                                          : at_times,
           cli_plain());
    c->apart = c->apart || !apart.agree;
    g_free(name);
    g_free(mean);
    g_free(scatter);
    g_free(drift);
    g_free(off);
    g_free(may);
    g_free(most);
    g_free(at_times);
}

static void print_head(const struct comparing *c, const char *what)
{
    printf("%s%-44s %12s %10s %10s %12s %8s %10s%s   in %s, %u rounds\n", cli_bold(), what,
           "difference", "at most", "scatter", "drift per h", "+/-", "may be", cli_plain(),
           cli_unit(c->about, c->unit), c->values.count);
}

static void print_pairs(struct comparing *c)
{
    bool reference = c->options->against != NULL; /* it stands first */
    print_head(c, "pair");
    for (unsigned a = 0; a < c->channels; a++) {
        for (unsigned b = a + 1; b < c->channels; b++) {
            if (!reference || a == 0) {
                print_pair(c, reference ? b : a, reference ? a : b);
            }
        }
    }
    int odd = pintle_compared_odd(&c->values, c->may);
    if (odd >= 0) {
        printf("\n%s%s%s is the odd one out: apart from all others, which agree.\n", cli_bad(),
               c->name[odd], cli_plain());
    } else if (c->apart && c->channels == 2) {
        printf("\nTwo that are apart don't say which is wrong: a third would, or --figure.\n");
    }
}

/* --- a figure from elsewhere --- */

static bool take_metres(const char *option, const char *text, double *metres,
                        struct pintle_problem *problem)
{
    const struct pintle_formula_number number = {
        .name = option, .unit = "m", .lowest = -500, .highest = 9000
    };
    float value = 0;
    *metres = 0;
    if (text && !pintle_formula_number_parse(&number, text, &value, problem)) {
        return false;
    }
    *metres = (double)value;
    return true;
}

static bool take_figure(const struct comparing *c, double *figure, struct pintle_problem *problem)
{
    const struct compare_options *o = c->options;
    const struct pintle_formula_number number = {
        .name = "figure", .unit = cli_unit(c->about, c->unit), .lowest = -1e9f, .highest = 1e9f
    };
    float value = 0;
    double its = 0;
    double mine = 0;
    bool pressure = c->about->quantity == PINTLE_QUANTITY_PRESSURE;
    if ((o->its_height || o->height) && !pressure) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "heights matter to pressures; leave --figure-height and --height "
                                  "away");
    }
    if (!pintle_formula_number_parse(&number, o->figure, &value, problem)
        || !take_metres("--figure-height", o->its_height, &its, problem)
        || !take_metres("--height", o->height, &mine, problem)) {
        return false;
    }
    double zero = (double)pintle_unit_show(c->unit, 0);
    *figure = ((double)value - zero) / per_base(c);
    *figure = pressure ? pintle_compared_at_height(*figure, its, mine) : *figure;
    return true;
}

static bool print_figure(struct comparing *c, struct pintle_problem *problem)
{
    double figure = 0;
    if (!take_figure(c, &figure, problem)) {
        return false;
    }
    double zero = (double)pintle_unit_show(c->unit, 0);
    printf("%s%-44s %12s %12s %10s%s   in %s, %u rounds; the figure is %.*f here\n", cli_bold(),
           "channel", "mean", "difference", "may be", cli_plain(), cli_unit(c->about, c->unit),
           c->values.count, c->about->decimals + 1, figure * per_base(c) + zero);
    for (unsigned k = 0; k < c->channels; k++) {
        double mean = mean_of(c, k);
        double most = c->within > 0 ? c->within : c->may[k];
        bool agree = most == 0 || fabs(mean - figure) <= most;
        char *off = in_unit(c, "+", mean - figure);
        char *may = most > 0 ? in_unit(c, "", most) : g_strdup("-");
        printf("%-44s %12.*f %12s %10s   %s%s%s\n", c->name[k], c->about->decimals + 1,
               mean * per_base(c) + zero, off, may, agree ? cli_good() : cli_bad(),
               most == 0 ? "nobody says"
               : agree   ? "agrees"
                         : "apart",
               cli_plain());
        c->apart = c->apart || !agree;
        g_free(off);
        g_free(may);
    }
    return true;
}

/* --- drawn: each less the mean of all, or less the reference --- */

static bool draw(const struct comparing *c, const char *path, struct pintle_problem *problem)
{
    const struct pintle_compared *v = &c->values;
    bool reference = c->options->against != NULL;
    struct pintle_history history = { .path = (char *)(uintptr_t)path,
                                      .rows = v->count,
                                      .columns = c->channels,
                                      .time = v->time,
                                      .column = g_new0(struct pintle_column, c->channels) };
    uint8_t *chosen = g_new0(uint8_t, c->channels);
    bool warmth = c->about->quantity == PINTLE_QUANTITY_TEMPERATURE;
    for (unsigned k = 0; k < c->channels; k++) {
        struct pintle_column *column = &history.column[k];
        column->name = c->name[k];
        column->quantity =
            warmth ? PINTLE_QUANTITY_WARMTH : (enum pintle_quantity)c->about->quantity;
        column->unit = warmth ? pintle_quantity_unit(PINTLE_QUANTITY_WARMTH) : c->unit;
        column->also = PINTLE_UNIT_COUNT;
        column->value = g_new0(double, v->count);
        column->suspect = g_new0(uint8_t, v->count);
        chosen[k] = !reference || k > 0;
        for (unsigned i = 0; i < v->count; i++) {
            const double *row = &v->value[c->channels * i];
            double from = row[0];
            for (unsigned m = 0; m < c->channels && !reference; m++) {
                from = (m == 0 ? 0 : from) + row[m] / c->channels;
            }
            column->value[i] = row[k] - from;
        }
    }
    char *title =
        reference ? g_strdup_printf("less %s", c->name[0]) : g_strdup("less the mean of all");
    history.records = v->count;
    history.first = v->count ? v->time[0] : 0;
    history.last = v->count ? v->time[v->count - 1] : 0;
    pintle_history_reach(&history);
    const struct pintle_plot plot = {
        .history = &history, .chosen = chosen, .title = title, .clock = "UTC"
    };
    bool ok = pintle_draw_plot(&plot, path, problem);
    if (ok) {
        printf("%s\n", path);
    }
    for (unsigned k = 0; k < c->channels; k++) {
        g_free(history.column[k].value);
        g_free(history.column[k].suspect);
    }
    g_free(title);
    g_free(history.reach);
    g_free(history.column);
    g_free(chosen);
    return ok;
}

static bool compare(struct comparing *c, char **names, struct pintle_problem *problem)
{
    const struct compare_options *o = c->options;
    bool ok = o->run ? (c->rig = cli_rig(&o->rig, problem)) != NULL
                     : cli_open(&o->rig, &c->rig, &c->station, problem);
    ok = ok && (!o->against || add(c, o->against, problem));
    for (unsigned i = 0; ok && names[i]; i++) {
        ok = add(c, names[i], problem);
    }
    ok = ok && (c->channels > 1 || add_equals(c, problem));
    if (!ok) {
        return false;
    }
    c->unit = cli_chosen(c->about, c->rig->sensor[c->of[0].sensor].channel[c->of[0].channel].unit);
    if (!take_values(c, problem)) {
        return false;
    }
    if (!take_mays(c, problem)) {
        return false;
    }
    if (c->values.left_out > 0) {
        cli_say("%u of %u rounds are left out: not all were good in them.", c->values.left_out,
                c->values.left_out + c->values.count);
    }
    if (c->channels > 1) {
        print_pairs(c);
    }
    return (!o->figure || print_figure(c, problem)) && (!o->plot || draw(c, o->plot, problem));
}

static int run(int argc, char **argv)
{
    struct compare_options o = { 0 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(o.rig),
        AT_OPTION(o.rig.at),
        UNIT_OPTION(o.rig),
        { "against", 0, 0, G_OPTION_ARG_STRING, &o.against, "the reference among them",
          "SENSOR.CHANNEL" },
        { "run", 0, 0, G_OPTION_ARG_FILENAME, &o.run, "of a logged run, not live", "RUN" },
        { "for", 0, 0, G_OPTION_ARG_STRING, &o.length, "how long (1 min)", "DURATION" },
        { "every", 0, 0, G_OPTION_ARG_STRING, &o.every, "between rounds (1 s)", "DURATION" },
        { "figure", 0, 0, G_OPTION_ARG_STRING, &o.figure, "a value from elsewhere, as in 1013.2hPa",
          "VALUE" },
        { "figure-height", 0, 0, G_OPTION_ARG_STRING, &o.its_height,
          "of a pressure: the height that it is of (0m)", "METRES" },
        { "height", 0, 0, G_OPTION_ARG_STRING, &o.height, "and that of the sensors (0m)",
          "METRES" },
        { "within", 0, 0, G_OPTION_ARG_STRING, &o.within,
          "what may be, in the unit that is shown (by data sheet or calibration)", "NUMBER" },
        { "plot", 0, 0, G_OPTION_ARG_FILENAME, &o.plot, "draw the differences, PNG or SVG",
          "FILE" },
        { 0 }
    };
    if (!cli_options(&command_compare, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc < 2 && !o.against) {
        return cli_misuse("compare: name the channels, as in cabin.temperature baro.temperature");
    }
    struct sigaction action = { .sa_handler = on_signal };
    sigaction(SIGINT, &action, NULL);
    sigaction(SIGTERM, &action, NULL);
    struct pintle_problem problem = { 0 };
    struct comparing c = { .options = &o };
    bool ok = compare(&c, argv + 1, &problem);
    int status = !ok ? cli_fail(&problem) : c.apart ? PINTLE_FAILURE_RIG : 0;
    for (unsigned k = 0; k < c.channels; k++) {
        g_free(c.name[k]);
    }
    pintle_compared_free(&c.values);
    pintle_station_free(c.station);
    pintle_rig_free(c.rig);
    return status;
}

const struct command command_compare = {
    .name = "compare",
    .usage = "SENSOR.CHANNEL...",
    .summary = "channels that measure the same, beside each other",
    .more =
        "Each pair's difference on average and at most, its scatter and its drift, beside what "
        "their\n"
        "data sheets, their calibrations or --within allow for. They agree when they do on average "
        "and in\n"
        "19 of 20 rounds, and never differ by three times that. One name alone is compared with "
        "all "
        "like\n"
        "it. Exit status 1: some are further apart than may be.\n\n"
        "Examples:\n"
        "  pintle compare --demo cabin.temperature baro.temperature motion.temperature\n"
        "  pintle compare --demo baro.pressure --figure 1018.4hPa --figure-height 0m --height 2m\n"
        "  pintle compare --demo --run 1 --against cabin.temperature baro.temperature --plot "
        "diff.png",
    .run = run,
};
