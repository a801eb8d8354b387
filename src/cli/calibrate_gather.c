/* Pairs that are typed or in a file, and series: live, from a run, beside somebody's log. */
#include <math.h>
#include <stdio.h>
#include <string.h>

#include "cli/calibrate.h"
#include "pintle/regress.h"

static void add_pair(struct subject *subject, double sensor, double reference)
{
    subject->pairs = g_renew(struct pintle_pair, subject->pairs, subject->count + 1);
    subject->pairs[subject->count++] =
        (struct pintle_pair){ cli_calibrate_base(subject, sensor),
                              cli_calibrate_base(subject, reference) };
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

/* --- series --- */

#define LAG_MOST 600.0 /* seconds that are searched */

static bool find_lag(const struct subject *subject, const struct pintle_series *log, double *lag,
                     struct pintle_problem *problem)
{
    const char *given = subject->options->lag;
    char *end = NULL;
    *lag = 0;
    if (!given) {
        return true;
    }
    if (strcmp(given, "find") == 0) {
        const struct pintle_series *s = &subject->series;
        enum pintle_status status = pintle_regress_lag(s->time, s->value, s->count, log->time,
                                                       log->value, log->count, LAG_MOST, lag);
        if (status == PINTLE_OK) {
            cli_say("The reference's clock is ahead by %.1f s where the two agree best.", *lag);
        }
        return status == PINTLE_OK
               || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                     "no lag within %.0f s makes the two logs agree%s", LAG_MOST,
                                     status == PINTLE_UNSUPPORTED
                                         ? ": this build has no GSL to look for one"
                                         : "; look at the times' zone, and give the lag yourself");
    }
    *lag = g_ascii_strtod(given, &end);
    return (end > given && *end == '\0')
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "--lag takes seconds by which the reference's clock is ahead, or "
                                 "'find', not '%s'",
                                 given);
}

static double usual_gap(const struct pintle_series *log)
{
    double longest = log->time[log->count - 1] - log->time[0];
    return fmax(60, 3 * longest / (log->count - 1));
}

static bool take_log(struct subject *subject, struct pintle_problem *problem)
{
    struct pintle_series log = { 0 };
    double lag = 0;
    double per = cli_calibrate_per_base(subject);
    bool ok = pintle_series_log(subject->options->log, 1 / per,
                                -cli_calibrate_shown(subject, 0) / per, &log, problem)
              && find_lag(subject, &log, &lag, problem)
              && pintle_series_align(&subject->series, &log, lag, usual_gap(&log), problem);
    pintle_series_free(&log);
    return ok;
}

bool cli_calibrate_from_run(struct subject *subject, struct pintle_problem *problem)
{
    struct pintle_history *history = pintle_history_load(subject->rig->runs, subject->rig->database,
                                                         subject->options->run, problem);
    bool ok =
        history
        && pintle_series_run(subject->rig, history, &subject->wanted, &subject->series, problem);
    if (history) {
        subject->at_us = (int64_t)(history->time[history->rows - 1] * 1e6);
    }
    pintle_history_free(history);
    return ok;
}

/* A run, or the live rig, with what stands beside it. */
static bool take_series(struct subject *subject, struct pintle_problem *problem)
{
    const struct calibrate_options *o = subject->options;
    bool ok = o->run
                  ? cli_calibrate_from_run(subject, problem)
                  : pintle_series_live(subject->station, &subject->wanted, o->every_us, o->for_us,
                                       &cli_calibrate_stop, &subject->series, problem);
    if (ok && cli_calibrate_stop) {
        ok = pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                "stopped; nothing was kept or changed");
    }
    ok = ok && (!o->log || take_log(subject, problem));
    if (ok && subject->series.left_out > 0) {
        cli_say("%u of %u measurements are left out: suspect, or with no reference.",
                subject->series.left_out, subject->series.left_out + subject->series.count);
    }
    if (ok && subject->series.reference && subject->wanted.wide == 1) {
        subject->pairs = pintle_series_pairs(&subject->series);
        subject->count = subject->series.count;
    }
    return ok;
}

bool cli_calibrate_gather(struct subject *subject, char **typed, struct pintle_problem *problem)
{
    const struct calibrate_options *o = subject->options;
    bool pairs = o->how <= PINTLE_METHOD_TABLE;
    if (!pairs && (o->pairs || typed[0])) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "the method %s takes no pairs; leave them away",
                                  pintle_method_word(o->how));
    }
    if (pairs && (o->pairs || typed[0])) {
        bool ok = !o->pairs || take_file(subject, o->pairs, problem);
        for (unsigned i = 0; ok && typed[i]; i++) {
            ok = take_typed(subject, typed[i], problem);
        }
        return ok;
    }
    switch (o->how) {
    case PINTLE_METHOD_SIX_POSITIONS:
    case PINTLE_METHOD_ORIENTATIONS:
        return cli_guide_positions(subject, problem);
    case PINTLE_METHOD_REST:
        return cli_guide_rest(subject, problem);
    case PINTLE_METHOD_ELLIPSOID:
        return o->run ? cli_calibrate_from_run(subject, problem) : cli_guide_turn(subject, problem);
    case PINTLE_METHOD_THERMAL:
    case PINTLE_METHOD_HEAT:
        return take_series(subject, problem);
    default:
        break;
    }
    if (o->run && !o->against && !o->log) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "a run has no reference by itself: add --against "
                                  "SENSOR.CHANNEL of the run, or --log FILE");
    }
    return o->against || o->log ? take_series(subject, problem)
                                : cli_guide_points(subject, problem);
}
