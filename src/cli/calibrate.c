#include <math.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "cli/cli.h"
#include "pintle/host/keep/calibration.h"

struct calibrate_options {
    struct rig_options rig;
    char *method;
    char *pairs;
    char *settle;
    gboolean yes;
};

/* What is calibrated, and the pairs so far (base units). */
struct subject {
    struct pintle_station *station;
    unsigned sensor;
    unsigned channel;
    const struct pintle_channel *about;
    enum pintle_unit unit;
    struct pintle_pair *pairs;
    unsigned count;
};

/* People type and read the unit that the channel is shown in. */
static double shown(const struct subject *subject, double base)
{
    double zero = (double)pintle_unit_show(subject->unit, 0);
    return base * ((double)pintle_unit_show(subject->unit, 1) - zero) + zero;
}

/* A difference of 1 in the base unit. */
static double shown_per_base(const struct subject *subject)
{
    return shown(subject, 1) - shown(subject, 0);
}

static double to_base(const struct subject *subject, double value)
{
    return (value - shown(subject, 0)) / shown_per_base(subject);
}

static const char *unit(const struct subject *subject)
{
    return cli_unit(subject->about, subject->unit);
}

static void add_pair(struct subject *subject, double sensor, double reference)
{
    subject->pairs = g_renew(struct pintle_pair, subject->pairs, subject->count + 1);
    subject->pairs[subject->count++] =
        (struct pintle_pair){ to_base(subject, sensor), to_base(subject, reference) };
}

static bool take_typed(struct subject *subject, const char *text, struct pintle_problem *problem)
{
    char *end = NULL;
    double sensor = g_ascii_strtod(text, &end);
    bool ok = end > text && *end == '=';
    const char *second = end + ok;
    double reference = g_ascii_strtod(second, &end);
    if (!ok || end == second || *end != '\0' || !isfinite(sensor) || !isfinite(reference)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "'%s' is no pair; write the sensor's value, '=', the "
                                  "reference's, as in 20.4=20.0",
                                  text + (*text == ' '));
    }
    add_pair(subject, sensor, reference);
    return true;
}

static bool take_file(struct subject *subject, const char *path, struct pintle_problem *problem)
{
    unsigned count = 0;
    struct pintle_pair *pairs = pintle_calibration_pairs(path, &count, problem);
    for (unsigned i = 0; pairs && i < count; i++) {
        add_pair(subject, pairs[i].sensor, pairs[i].reference);
    }
    pintle_host_free(pairs);
    return pairs != NULL;
}

/* One reading without its correction. */
static bool measure(struct subject *subject, double *value, struct pintle_problem *problem)
{
    struct pintle_station *station = subject->station;
    enum pintle_status status = pintle_station_read(station, subject->sensor, true);
    uint16_t quality = station->turn[subject->sensor].sample.channel[subject->channel].quality;
    if (status != PINTLE_OK) {
        const char *words = station->rigged[subject->sensor].words;
        return pintle_problem_set(problem, PINTLE_FAILURE_RIG, "sensor '%s': %s%s",
                                  station->rig->sensor[subject->sensor].name,
                                  words[0] ? words : pintle_status_sentence(status),
                                  words[0] ? "" : "; 'pintle scan' looks for the cause");
    }
    if (quality & PINTLE_QUALITY_SUSPECT) {
        char *words = cli_quality(quality);
        pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                           "sensor '%s' gives a suspect reading (%s); nothing is calibrated on "
                           "that",
                           station->rig->sensor[subject->sensor].name, words);
        g_free(words);
        return false;
    }
    *value = shown(subject, (double)station->rigged[subject->sensor].before[subject->channel]);
    return true;
}

/* Ask for the reference's value beside each reading until an empty line. */
static bool ask_pairs(struct subject *subject, int64_t settle_us, struct pintle_problem *problem)
{
    const struct pintle_clock *clock = &subject->station->clock;
    char line[128];
    cli_say("Let sensor and reference settle side by side. Type what the reference shows in %s; an "
            "empty line ends.",
            unit(subject));
    for (;;) {
        double value = 0;
        if (!measure(subject, &value, problem)) {
            return false;
        }
        fprintf(stderr, "sensor %.3f %s, reference? ", value, unit(subject));
        if (!fgets(line, sizeof line, stdin)) {
            fputc('\n', stderr);
            return true;
        }
        if (line[strspn(line, " \t\r\n")] == '\0') {
            return true;
        }
        char *end = NULL;
        double reference = g_ascii_strtod(line, &end);
        if (end == line || end[strspn(end, " \t\r\n")] != '\0' || !isfinite(reference)) {
            cli_say("That is no number; nothing was taken.");
            continue;
        }
        add_pair(subject, value, reference);
        for (int64_t left = settle_us; left > 0; left -= 1000000000) {
            clock->calls->sleep_us(clock->context, (uint32_t)MIN(left, 1000000000));
        }
    }
}

static void print_fit(const struct subject *subject, const struct pintle_calibration *fit)
{
    const struct pintle_correction *c = &fit->line.correction;
    double per = shown_per_base(subject);
    printf("%s%12s %12s %12s %12s%s   in %s\n", cli_bold(), "sensor", "reference", "corrected",
           "residual", cli_plain(), unit(subject));
    for (unsigned i = 0; i < subject->count; i++) {
        double sensor = subject->pairs[i].sensor;
        double corrected = sensor * (double)c->gain + (double)c->offset;
        double residual = (corrected - subject->pairs[i].reference) * per;
        printf("%12.3f %12.3f %12.3f %+12.3f\n", shown(subject, sensor),
               shown(subject, subject->pairs[i].reference), shown(subject, corrected),
               round(residual * 1000) / 1000 + 0.0); /* never -0.000 */
    }
    printf("\n%-14s %s\n", "method",
           fit->method == PINTLE_METHOD_LINE ? "straight line, least squares" : "offset");
    printf("%-14s %.6f\n", "gain", (double)c->gain);
    printf("%-14s %+.4f %s\n", "offset",
           shown(subject, (double)c->offset) - (double)c->gain * shown(subject, 0), unit(subject));
    unsigned needs = fit->method == PINTLE_METHOD_LINE ? 3 : 2;
    if (subject->count < needs) {
        printf("%-14s unknown: it takes %u pairs or more\n\n", "uncertainty", needs);
        return;
    }
    printf("%-14s %.4f %s (standard deviation)\n", "residual", fit->residual * per, unit(subject));
    printf("%-14s %.4f %s (standard, at the middle of the pairs)\n\n", "uncertainty",
           fit->uncertainty * per, unit(subject));
}

/* Yes, y: keep. Anything else, or no answer: don't. */
static bool answer_is_yes(void)
{
    char line[16] = "";
    if (!fgets(line, sizeof line, stdin)) {
        fputc('\n', stderr);
    }
    return line[0] == 'y' || line[0] == 'Y';
}

/* What speaks against keeping it, all of it; to be freed with g_free. Empty: nothing does. */
static char *objections(const struct subject *subject, const struct pintle_calibration *fit)
{
    const struct pintle_rig *rig = subject->station->rig;
    unsigned kept = pintle_calibration_kept(rig, subject->sensor, subject->channel);
    char *doubt = pintle_calibration_doubt(rig->sensor[subject->sensor].sheet, subject->channel,
                                           subject->unit, fit);
    GString *all = g_string_new(doubt ? doubt : "");
    if (kept > fit->pair_count) {
        g_string_append_printf(all, "%sit takes the place of one from %u pairs, and is from %u",
                               doubt ? "; " : "", kept, fit->pair_count);
    }
    pintle_host_free(doubt);
    return g_string_free(all, FALSE);
}

/* May it be kept? What speaks against it is said, and only a person may keep it all the same. */
static bool consent(const struct subject *subject, const struct pintle_calibration *fit,
                    const struct calibrate_options *options, const char *path, bool *refused)
{
    char *against = objections(subject, fit);
    *refused = options->yes && against[0];
    fflush(stdout);
    if (against[0]) {
        cli_say("pintle: this is doubtful: %s.", against);
    }
    if (!options->yes) {
        fprintf(stderr, against[0] ? "Keep it in %s all the same? [y/N] " : "Keep it in %s? [y/N] ",
                path);
    }
    g_free(against);
    return options->yes ? !*refused : answer_is_yes();
}

static bool keep(const struct subject *subject, const struct pintle_calibration *fit,
                 const struct calibrate_options *options, struct pintle_problem *problem)
{
    const struct pintle_rig *rig = subject->station->rig;
    char *path = pintle_calibration_path(rig);
    bool ok = true;
    bool refused = false;
    if (consent(subject, fit, options, path, &refused)) {
        ok = pintle_calibration_keep(rig, subject->sensor, subject->channel, fit,
                                     pintle_station_now(subject->station), problem);
        if (ok) {
            printf("kept in %s; every command uses it from now on\n", path);
        }
    } else {
        printf("not kept\n");
        ok =
            !refused
            || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "a doubtful correction is not kept with --yes; leave --yes away, "
                                  "and answer for it");
    }
    g_free(path);
    return ok;
}

static bool find_subject(struct subject *subject, const char *name, struct pintle_problem *problem)
{
    char **names = g_strsplit(name, ".", 2);
    const struct pintle_rig *rig = subject->station->rig;
    int sensor = pintle_rig_find_wired(rig, names[0] ? names[0] : "", problem);
    int channel = -1;
    if (sensor >= 0) {
        const struct pintle_sheet *sheet = rig->sensor[sensor].sheet;
        channel = names[1] ? pintle_sheet_channel(sheet, names[1]) : -1;
        if (channel >= 0 && sheet->part->channels[channel].quantity == PINTLE_QUANTITY_TIME) {
            channel = -1;
        }
        if (channel < 0) {
            pintle_problem_set(problem, PINTLE_FAILURE_USE,
                               "'%s' names no channel to calibrate; write SENSOR.CHANNEL, as in "
                               "%s.%s",
                               name, rig->sensor[sensor].name, sheet->part->channels[0].name);
        } else {
            subject->sensor = (unsigned)sensor;
            subject->channel = (unsigned)channel;
            subject->about = &sheet->part->channels[channel];
            subject->unit = cli_chosen(subject->about, rig->sensor[sensor].channel[channel].unit);
        }
    }
    g_strfreev(names);
    return channel >= 0;
}

static bool take_method(const char *name, unsigned count, enum pintle_method *method,
                        struct pintle_problem *problem)
{
    if (!name) {
        *method = count > 1 ? PINTLE_METHOD_LINE : PINTLE_METHOD_OFFSET;
        return true;
    }
    *method = strcmp(name, "line") == 0 ? PINTLE_METHOD_LINE : PINTLE_METHOD_OFFSET;
    return strcmp(name, "line") == 0 || strcmp(name, "offset") == 0
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "there is no method '%s'; there are offset and line", name);
}

static bool gather(struct subject *subject, const struct calibrate_options *options, char **typed,
                   struct pintle_problem *problem)
{
    int64_t settle_us = 600000000;
    if (options->settle && !pintle_duration_parse(options->settle, &settle_us)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--settle takes a duration such as \"10 min\", not '%s'",
                                  options->settle);
    }
    if (options->pairs && !take_file(subject, options->pairs, problem)) {
        return false;
    }
    for (unsigned i = 0; typed[i]; i++) {
        if (!take_typed(subject, typed[i], problem)) {
            return false;
        }
    }
    return options->pairs || typed[0] || ask_pairs(subject, settle_us, problem);
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

static int calibrate(int argc, char **argv)
{
    struct calibrate_options options = { 0 };
    const GOptionEntry entries[] = { RIG_OPTIONS(options.rig),
                                     UNIT_OPTION(options.rig),
                                     { "method", 'm', 0, G_OPTION_ARG_STRING, &options.method,
                                       "offset, or line (as soon as there are two pairs)", "NAME" },
                                     { "pairs", 'p', 0, G_OPTION_ARG_FILENAME, &options.pairs,
                                       "a CSV file: the sensor's value, the reference's", "FILE" },
                                     { "settle", 0, 0, G_OPTION_ARG_STRING, &options.settle,
                                       "wait between readings when asking (10 min)", "DURATION" },
                                     { "yes", 'y', 0, G_OPTION_ARG_NONE, &options.yes,
                                       "keep it without asking", NULL },
                                     { 0 } };
    if (!cli_options(&command_calibrate, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc < 2) {
        return cli_misuse("calibrate: name what to calibrate, as in cabin.temperature");
    }
    struct pintle_problem problem = { 0 };
    struct pintle_rig *rig = NULL;
    struct subject subject = { 0 };
    if (!cli_open(&options.rig, &rig, &subject.station, &problem)) {
        return cli_fail(&problem);
    }
    struct pintle_calibration fit = { 0 };
    bool ok = find_subject(&subject, argv[1], &problem)
              && gather(&subject, &options, argv + 2, &problem)
              && take_method(options.method, subject.count, &fit.method, &problem);
    fit.pairs = subject.pairs;
    fit.pair_count = subject.count;
    ok = ok && pintle_calibration_fit(&fit, &problem);
    if (ok) {
        print_fit(&subject, &fit);
        ok = keep(&subject, &fit, &options, &problem);
    }
    g_free(subject.pairs);
    pintle_station_free(subject.station);
    pintle_rig_free(rig);
    return ok ? 0 : cli_fail(&problem);
}

static int run(int argc, char **argv)
{
    char **words = protect(argc, argv);
    char **moved = g_memdup2(words, (gsize)(argc + 1) * sizeof *words); /* options are taken out */
    int status = calibrate(argc, moved);
    g_free(moved);
    g_strfreev(words);
    return status;
}

const struct command command_calibrate = {
    .name = "calibrate",
    .usage = "SENSOR.CHANNEL [RAW=REFERENCE...]",
    .summary = "correct a channel against a reference, and keep that",
    .more =
        "Values are in the unit that 'read' shows; RAW is the sensor's value with no correction.\n"
        "Without pairs the sensor is read and you are asked what the reference shows.\n\n"
        "Example:\n  pintle calibrate --demo baro.temperature 13.5=12.9 22.0=21.4 18.7=18.0",
    .run = run,
};
