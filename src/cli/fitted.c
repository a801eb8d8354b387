/* What was measured becomes a correction. */
#include <math.h>
#include <string.h>

#include "cli/calibrate.h"
#include "pintle/host/rig/worth.h"
#include "pintle/regress.h"

static struct pintle_calibration *add(struct subject *s, unsigned channel)
{
    struct pintle_calibration *c = &s->found[s->found_count];
    s->found_channel[s->found_count++] = channel;
    pintle_calibration_init(c, s->options->how);
    return c;
}

static bool regressed(enum pintle_status status, const char *what, struct pintle_problem *problem)
{
    switch (status) {
    case PINTLE_OK:
        return true;
    case PINTLE_TOO_FEW:
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "too few measurements for %s, or all at one value; take more, "
                                  "further apart",
                                  what);
    case PINTLE_UNSUPPORTED:
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "this build has no GSL, which %s needs; build with "
                                  "-DPINTLE_REGRESS=ON",
                                  what);
    default:
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "the measurements don't tell %s: something did not change that "
                                  "has to; let it change more",
                                  what);
    }
}

static void take(struct pintle_calibration *c, const struct pintle_regression *r, unsigned from,
                 unsigned count)
{
    c->count = (uint8_t)count;
    for (unsigned i = 0; i < count; i++) {
        c->numbers[i] = (float)r->number[from + i];
        c->deviation[i] = r->deviation[from + i];
    }
    c->freedom = r->freedom;
    c->residual = r->freedom > 0 ? r->residual : (double)NAN;
}

static void columns(const struct subject *s, double **x, double **y)
{
    *x = g_new(double, s->count + 1);
    *y = g_new(double, s->count + 1);
    for (unsigned i = 0; i < s->count; i++) {
        (*x)[i] = s->pairs[i].sensor;
        (*y)[i] = s->pairs[i].reference;
    }
}

/* A line robustly, or a curve. */
static bool fit_curve(struct subject *s, struct pintle_problem *problem)
{
    struct pintle_calibration *c = add(s, s->wanted.of.channel);
    struct pintle_regression r;
    double *x = NULL;
    double *y = NULL;
    bool line = s->options->how == PINTLE_METHOD_LINE;
    unsigned order = line ? 1 : (unsigned)s->options->order;
    columns(s, &x, &y);
    enum pintle_status status = pintle_regress_polynomial(
        x, y, s->count, order, s->options->robust ? s->outlier : NULL, &r);
    g_free(x);
    g_free(y);
    if (!regressed(status, line ? "a line" : "a polynomial", problem)) {
        return false;
    }
    take(c, &r, 0, order + 2);
    c->kind = PINTLE_STAGE_POLYNOMIAL;
    c->uncertainty = r.freedom > 0 ? r.deviation[1] : (double)NAN;
    c->samples = c->pair_count = s->count;
    c->pairs = s->pairs;
    pintle_calibration_take_span(c, line ? PINTLE_SPAN_OF_LINE : PINTLE_SPAN_OF_CURVE);
    return true;
}

/* Whoever doesn't ask for it is told all the same. */
static void look_for_outliers(struct subject *s)
{
    struct pintle_regression unused;
    double *x = NULL;
    double *y = NULL;
    if (s->count < 6 || s->options->how == PINTLE_METHOD_TABLE) {
        return;
    }
    s->outlier = g_new0(uint8_t, s->count);
    if (s->options->robust) {
        return;
    }
    columns(s, &x, &y);
    unsigned order = s->options->how == PINTLE_METHOD_POLYNOMIAL ? (unsigned)s->options->order : 1;
    if (pintle_regress_polynomial(x, y, s->count, order, s->outlier, &unused) != PINTLE_OK) {
        memset(s->outlier, 0, s->count);
    }
    g_free(x);
    g_free(y);
}

static bool fit_pairs(struct subject *s, struct pintle_problem *problem)
{
    enum pintle_method how = s->options->how;
    if (s->options->robust && how != PINTLE_METHOD_LINE && how != PINTLE_METHOD_POLYNOMIAL) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--robust is of the methods line and polynomial, not of %s",
                                  pintle_method_word(how));
    }
    look_for_outliers(s);
    if (s->options->robust && !s->outlier) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "--robust needs six pairs or more: among fewer nobody knows which "
            "is the odd one");
    }
    if (how == PINTLE_METHOD_POLYNOMIAL || s->options->robust) {
        return fit_curve(s, problem);
    }
    struct pintle_calibration *c = add(s, s->wanted.of.channel);
    c->pairs = s->pairs;
    c->pair_count = s->count;
    return pintle_calibration_fit(c, problem);
}

/* One offset for each axis. */
static bool fit_rest(struct subject *s, struct pintle_problem *problem)
{
    const struct pintle_series *series = &s->series;
    if (series->count < 2) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "too few samples at rest: %u, and it takes 2 or more",
                                  series->count);
    }
    for (unsigned a = 0; a < series->wide; a++) {
        struct pintle_calibration *c = add(s, s->wanted.of.channel + a);
        struct pintle_fit fit = { 0 };
        struct pintle_fit_result line;
        for (unsigned i = 0; i < series->count; i++) {
            (void)!pintle_fit_add(&fit, (float)series->value[series->wide * i + a], 0);
        }
        if (pintle_fit_offset(&fit, &line) != PINTLE_OK) {
            return regressed(PINTLE_OUT_OF_RANGE, "what it says at rest", problem);
        }
        pintle_calibration_take_line(c, &line);
        c->samples = series->count;
    }
    return true;
}

static bool fit_ellipsoid(struct subject *s, struct pintle_problem *problem)
{
    struct pintle_calibration *c = add(s, s->wanted.of.channel);
    struct pintle_regression r;
    if (!regressed(
            pintle_regress_ellipsoid(s->series.value, s->series.count, s->options->strength, &r),
            "an ellipsoid", problem)) {
        return false;
    }
    take(c, &r, 0, 12);
    c->kind = PINTLE_STAGE_AXES;
    c->uncertainty = r.residual / sqrt((double)s->series.count / 9);
    c->samples = s->series.count;
    return true;
}

/* What it does, and with a reference the offset that is left. */
static bool fit_second(struct subject *s, struct pintle_problem *problem)
{
    const struct pintle_series *series = &s->series;
    struct pintle_regression r;
    bool heat = s->options->how == PINTLE_METHOD_HEAT;
    enum pintle_status status =
        heat ? pintle_regress_heat(series->value, series->second, series->reference, series->count,
                                   &r)
             : pintle_regress_thermal(series->value, series->second, series->reference,
                                      series->count, s->options->scale, &r);
    if (!regressed(status, heat ? "how much of the warmth it feels" : "how it follows", problem)) {
        return false;
    }
    struct pintle_calibration *c = add(s, s->wanted.of.channel);
    take(c, &r, 0, heat ? 1 : 3);
    c->kind = heat ? PINTLE_STAGE_HEAT : PINTLE_STAGE_THERMAL;
    c->second = (int)s->second.sensor;
    c->second_channel = s->second.channel;
    c->samples = series->count;
    c->uncertainty = r.freedom > 0 ? r.residual / sqrt((double)series->count) : (double)NAN;
    c->lowest = INFINITY;
    c->highest = -INFINITY;
    for (unsigned i = 0; i < series->count; i++) {
        c->lowest = fmin(c->lowest, series->second[i]);
        c->highest = fmax(c->highest, series->second[i]);
    }
    double air = 0.5 * (c->highest - c->lowest);
    c->lowest -= air;
    c->highest += air;
    if (!heat && series->reference) {
        struct pintle_calibration *offset = add(s, s->wanted.of.channel);
        offset->kind = PINTLE_STAGE_POLYNOMIAL;
        offset->method = PINTLE_METHOD_OFFSET;
        offset->count = 3;
        offset->numbers[1] = (float)r.number[3];
        offset->numbers[2] = 1;
        offset->deviation[0] = offset->deviation[2] = 0;
        offset->deviation[1] = offset->uncertainty = r.deviation[3];
        offset->freedom = r.freedom;
        offset->residual = c->residual;
        offset->samples = series->count;
    }
    return true;
}

/* What is known of the reference: as it was said, or of another sensor by its data sheet and its
 * own correction; 0: nothing. */
static double reference_of(const struct subject *s)
{
    const struct pintle_place_of *of = s->wanted.reference;
    if (s->options->reference > 0 || !of) {
        return s->options->reference;
    }
    const struct pintle_rig_sensor *sensor = &s->rig->sensor[of->sensor];
    double worth =
        s->station ? pintle_station_uncertainty(s->station, of->sensor, of->channel) : (double)NAN;
    for (unsigned i = 0; i < sensor->stages && isnan(worth); i++) {
        const struct pintle_correct_stage *stage = &sensor->stage[i].stage;
        bool its = stage->channel == of->channel && stage->uncertainty > 0;
        worth = its ? (double)stage->uncertainty : worth;
    }
    double mean = s->count ? s->pairs[0].reference : 0;
    return isnan(worth) ? pintle_worth_accuracy(sensor, of->channel, mean) / sqrt(3) : worth;
}

static bool fit(struct subject *s, struct pintle_problem *problem)
{
    switch (s->options->how) {
    case PINTLE_METHOD_SIX_POSITIONS:
        add(s, s->wanted.of.channel);
        return pintle_positions_solve(&s->positions, &s->found[0], problem);
    case PINTLE_METHOD_ORIENTATIONS:
        add(s, s->wanted.of.channel);
        return pintle_positions_solve_axis(&s->positions, s->axis, &s->found[0], problem);
    case PINTLE_METHOD_REST:
        return fit_rest(s, problem);
    case PINTLE_METHOD_ELLIPSOID:
        return fit_ellipsoid(s, problem);
    case PINTLE_METHOD_THERMAL:
    case PINTLE_METHOD_HEAT:
        return fit_second(s, problem);
    default:
        return fit_pairs(s, problem);
    }
}

bool cli_calibrate_fit(struct subject *s, struct pintle_problem *problem)
{
    if (!fit(s, problem)) {
        return false;
    }
    for (unsigned i = 0; i < s->found_count; i++) {
        pintle_calibration_take_reference(&s->found[i], reference_of(s));
    }
    return true;
}
