/* What was measured becomes a correction; what it is worth is printed and drawn. */
#include <math.h>
#include <stdio.h>
#include <string.h>

#include "cli/calibrate.h"
#include "pintle/host/draw/draw.h"
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

static void take_ends(const struct pintle_pair *pairs, unsigned count, double *least, double *most)
{
    *least = INFINITY;
    *most = -INFINITY;
    for (unsigned i = 0; i < count; i++) {
        *least = fmin(*least, pairs[i].sensor);
        *most = fmax(*most, pairs[i].sensor);
    }
}

/* A line robustly, or a curve. */
static bool fit_curve(struct subject *s, struct pintle_problem *problem)
{
    struct pintle_calibration *c = add(s, s->wanted.of.channel);
    struct pintle_regression r;
    double *x = NULL;
    double *y = NULL;
    double least = 0;
    double most = 0;
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
    take_ends(s->pairs, s->count, &least, &most);
    c->lowest = least - (line ? 0.5 : 0.1) * (most - least);
    c->highest = most + (line ? 0.5 : 0.1) * (most - least);
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
        struct pintle_line line;
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
        const struct pintle_stage *stage = &sensor->stage[i].stage;
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
    case PINTLE_METHOD_ORIENTATIONS: {
        unsigned axis = 0;
        while (axis < 2 && !(s->positions.wanted >> 2 * axis & 2)) {
            axis++; /* the one that is wanted up and down */
        }
        add(s, s->wanted.of.channel);
        return pintle_positions_solve_axis(&s->positions, axis, &s->found[0], problem);
    }
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

/* --- residuals --- */

/* Of each measurement: where it is drawn, and how far it was off before and is now. */
struct residuals {
    unsigned count;
    double *at, *before, *after;
    const char *across;
};

static void make_room(struct residuals *r, unsigned count)
{
    r->count = count;
    r->at = g_new0(double, count + 1);
    r->before = g_new0(double, count + 1);
    r->after = g_new0(double, count + 1);
}

static void free_residuals(struct residuals *r)
{
    g_free(r->at);
    g_free(r->before);
    g_free(r->after);
}

static struct pintle_stage stage_of(const struct pintle_calibration *c,
                                    const struct pintle_reading *second)
{
    return (struct pintle_stage){
        .kind = c->kind, .count = c->count, .numbers = c->numbers, .second = second
    };
}

static double corrected(const struct subject *s, double value, double second)
{
    const struct pintle_reading other = { .value = (float)second };
    struct pintle_reading reading = { .value = (float)value };
    for (unsigned i = 0; i < s->found_count; i++) {
        struct pintle_stage stage = stage_of(&s->found[i], &other);
        pintle_correct(&stage, 1, &reading, 1);
    }
    return (double)reading.value;
}

static double strength(const double xyz[3])
{
    return sqrt(xyz[0] * xyz[0] + xyz[1] * xyz[1] + xyz[2] * xyz[2]);
}

static void of_axes(const struct subject *s, const double *xyz, unsigned count, double wanted,
                    struct residuals *r)
{
    struct pintle_stage stage = stage_of(&s->found[0], NULL);
    double mean = 0;
    make_room(r, count);
    for (unsigned i = 0; i < count; i++) {
        struct pintle_reading now[3] = { 0 };
        double after[3];
        for (unsigned a = 0; a < 3; a++) {
            now[a].value = (float)xyz[3 * i + a];
        }
        pintle_correct(&stage, 1, now, 3);
        for (unsigned a = 0; a < 3; a++) {
            after[a] = (double)now[a].value;
        }
        r->at[i] = i + 1;
        r->before[i] = strength(&xyz[3 * i]);
        r->after[i] = strength(after);
        mean += r->after[i] / count;
    }
    for (unsigned i = 0; i < count; i++) {
        r->before[i] -= wanted > 0 ? wanted : mean;
        r->after[i] -= wanted > 0 ? wanted : mean;
    }
    r->across = "measurement";
}

static void of_positions(const struct subject *s, struct residuals *r)
{
    double xyz[3 * PINTLE_FACES];
    for (unsigned i = 0; i < 3 * PINTLE_FACES; i++) {
        xyz[i] = (double)pintle_spread_mean(&s->positions.faces.of[i / 3][i % 3]);
    }
    of_axes(s, xyz, PINTLE_FACES, s->options->strength, r);
    r->across = "position: x up, x down, y up, ...";
}

/* Of an axis by itself: what it should have felt, up, down and level. */
static void of_axis(const struct subject *s, struct residuals *r)
{
    unsigned axis = 0;
    const struct pintle_positions *p = &s->positions;
    while (axis < 2 && !(p->wanted >> 2 * axis & 2)) {
        axis++;
    }
    make_room(r, PINTLE_FACES);
    r->count = 0;
    for (unsigned face = 0; face < PINTLE_FACES; face++) {
        if (p->taken >> face & 1) {
            double felt = face / 2 != axis ? 0
                          : face % 2       ? -s->options->strength
                                           : s->options->strength;
            double value = (double)pintle_spread_mean(&p->faces.of[face][axis]);
            r->at[r->count] = cli_calibrate_shown(s, value);
            r->before[r->count] = value - felt;
            r->after[r->count++] = corrected(s, value, 0) - felt;
        }
    }
    r->across = s->name;
}

/* Against the reference; with a second channel over it; else what changed of what didn't. */
static void of_series(const struct subject *s, struct residuals *r)
{
    const struct pintle_series *series = &s->series;
    double mean = 0;
    make_room(r, series->count);
    for (unsigned i = 0; i < series->count; i++) {
        mean += series->value[i] / series->count;
    }
    for (unsigned i = 0; i < series->count; i++) {
        double reference = series->reference ? series->reference[i] : mean;
        r->at[i] = series->second[i];
        r->before[i] = series->value[i] - reference;
        r->after[i] = corrected(s, series->value[i], series->second[i]) - reference;
    }
    r->across = s->options->second;
}

static void of_rest(const struct subject *s, struct residuals *r)
{
    const struct pintle_series *series = &s->series;
    make_room(r, series->count * series->wide);
    for (unsigned i = 0; i < r->count; i++) {
        unsigned a = i % series->wide;
        unsigned row = i / series->wide;
        r->at[i] = row + 1;
        r->before[i] = series->value[i];
        r->after[i] =
            series->value[i] + (double)s->found[a].numbers[1] - (double)s->found[a].numbers[0];
    }
    r->across = "measurement";
}

static void of_pairs(const struct subject *s, struct residuals *r)
{
    make_room(r, s->count);
    for (unsigned i = 0; i < s->count; i++) {
        r->at[i] = cli_calibrate_shown(s, s->pairs[i].sensor);
        r->before[i] = s->pairs[i].sensor - s->pairs[i].reference;
        r->after[i] = corrected(s, s->pairs[i].sensor, 0) - s->pairs[i].reference;
    }
    r->across = s->name;
}

static void residuals_of(const struct subject *s, struct residuals *r)
{
    switch (s->options->how) {
    case PINTLE_METHOD_SIX_POSITIONS:
        of_positions(s, r);
        break;
    case PINTLE_METHOD_ORIENTATIONS:
        of_axis(s, r);
        break;
    case PINTLE_METHOD_ELLIPSOID:
        of_axes(s, s->series.value, s->series.count, s->options->strength, r);
        break;
    case PINTLE_METHOD_REST:
        of_rest(s, r);
        break;
    case PINTLE_METHOD_THERMAL:
    case PINTLE_METHOD_HEAT:
        of_series(s, r);
        break;
    default:
        of_pairs(s, r);
        break;
    }
    double per = cli_calibrate_per_base(s);
    for (unsigned i = 0; i < r->count; i++) {
        r->before[i] *= per;
        r->after[i] *= per;
    }
}

/* --- said --- */

#define PAIRS_SHOWN 12

static double positive_zero(double x)
{
    return x == 0 ? 0 : x;
}

static double thousandths(double x)
{
    return positive_zero(round(x * 1000) / 1000);
}

static void print_pairs(const struct subject *s)
{
    double per = cli_calibrate_per_base(s);
    unsigned shown = s->count > PAIRS_SHOWN ? PAIRS_SHOWN / 2 : s->count;
    printf("%s%12s %12s %12s %12s%s   in %s\n", cli_bold(), "sensor", "reference", "corrected",
           "residual", cli_plain(), cli_calibrate_unit(s));
    for (unsigned i = 0; i < s->count; i++) {
        const struct pintle_pair *pair = &s->pairs[i];
        double after = corrected(s, pair->sensor, 0);
        bool outlier = s->outlier && s->outlier[i];
        if (i >= shown && i + shown < s->count && !outlier) {
            if (i == shown) {
                printf("%12s %u more\n", "...", s->count - 2 * shown);
            }
            continue;
        }
        printf("%12.3f %12.3f %12.3f %+12.3f%s\n", cli_calibrate_shown(s, pair->sensor),
               cli_calibrate_shown(s, pair->reference), cli_calibrate_shown(s, after),
               thousandths((after - pair->reference) * per),
               !outlier             ? ""
               : s->options->robust ? "   outlier, not counted"
                                    : "   outlier");
    }
    printf("\n");
}

static void print_deviation(double deviation)
{
    if (deviation > 0) {
        printf("  +/- %.2g", deviation);
    }
    printf("\n");
}

/* Scale and offset as people want them, about 0. */
static void print_line(const struct subject *s, const struct pintle_calibration *c)
{
    double gain = (double)c->numbers[2];
    double offset = (double)c->numbers[1] - gain * (double)c->numbers[0];
    printf("%-14s %.6f", "gain", gain);
    print_deviation(c->deviation[2]);
    printf("%-14s %+.4f %s\n", "offset",
           positive_zero(cli_calibrate_shown(s, offset) - gain * cli_calibrate_shown(s, 0)),
           cli_calibrate_unit(s));
}

static void print_axes(const struct subject *s, const struct pintle_calibration *c)
{
    static const char *const rows[] = { "bias", "matrix", "", "" };
    double per = cli_calibrate_per_base(s);
    for (unsigned row = 0; row < 4; row++) {
        double scale = row == 0 ? per : 1;
        printf("%-14s", rows[row]);
        for (unsigned a = 0; a < 3; a++) {
            printf(" %+10.6f", (double)c->numbers[3 * row + a] * scale);
        }
        printf(" %-5s", row == 0 ? cli_calibrate_unit(s) : "");
        if (row < 2 && c->deviation[3 * row] > 0) {
            printf("  each +/- %.2g", c->deviation[3 * row] * scale);
        }
        printf("\n");
    }
}

static void print_numbers(const struct subject *s, const struct pintle_calibration *c)
{
    if (c->kind == PINTLE_STAGE_AXES) {
        print_axes(s, c);
        return;
    }
    static const char *const names[PINTLE_STAGE_KINDS][5] = {
        [PINTLE_STAGE_HEAT] = { "share" },
        [PINTLE_STAGE_THERMAL] = { "at", "offset per", "scale per" },
        [PINTLE_STAGE_POLYNOMIAL] = { "middle x0", "c0", "c1", "c2", "c3" }
    };
    for (unsigned i = 0; i < MIN(c->count, 5u) && names[c->kind][i]; i++) {
        printf("%-14s %+.6g", names[c->kind][i], (double)c->numbers[i]);
        print_deviation(c->deviation[i]);
    }
    if (c->kind == PINTLE_STAGE_TABLE) {
        printf("%-14s %u, from %.3f to %.3f %s\n", "points", c->count / 2,
               cli_calibrate_shown(s, (double)c->numbers[0]),
               cli_calibrate_shown(s, (double)c->numbers[c->count - 2]), cli_calibrate_unit(s));
    } else {
        printf("%-14s base units: %s\n", "", pintle_quantity_symbol(s->about->quantity));
    }
}

static void print_figure(const char *name, double value, const char *unit)
{
    char *text = cli_figure(value);
    printf("%-14s %s %s", name, text, unit);
    g_free(text);
}

static void print_worth(const struct subject *s, const struct pintle_calibration *c)
{
    double per = cli_calibrate_per_base(s);
    const char *unit = cli_calibrate_unit(s);
    double factor = pintle_regress_student(pintle_calibration_freedom(c));
    bool compares = c->method <= PINTLE_METHOD_TABLE || s->wanted.reference;
    if (isnan(c->residual)) {
        unsigned needs = c->method == PINTLE_METHOD_OFFSET ? 2 : c->count;
        printf("%-14s unknown: it takes %u pairs or more\n", "uncertainty", needs);
    } else {
        print_figure("residual", c->residual * per, unit);
        printf(" (standard deviation, %.0f degrees of freedom)\n", c->freedom);
        if (compares && c->reference > 0) {
            printf("%-14s %.4f %s (standard uncertainty of it)\n", "reference", c->reference * per,
                   unit);
        } else if (compares) {
            printf("%-14s taken for exact; --reference says how exact it is\n", "reference");
        }
        print_figure("uncertainty", c->uncertainty * per, unit);
        printf(" (standard, at the middle)");
        if (!isnan(factor)) {
            char *reach = cli_figure(factor * c->uncertainty * per);
            printf("; 95 %% within +/- %s %s", reach, unit);
            g_free(reach);
        }
        printf("\n");
    }
    if (c->lowest == 0 && c->highest == 0) {
        printf("%-14s anywhere\n", "holds");
    } else if (c->kind == PINTLE_STAGE_HEAT || c->kind == PINTLE_STAGE_THERMAL) {
        printf("%-14s while %s is within %.3f and %.3f (base unit)\n", "holds", s->options->second,
               c->lowest, c->highest);
    } else {
        printf("%-14s from %.3f to %.3f %s\n", "holds", cli_calibrate_shown(s, c->lowest),
               cli_calibrate_shown(s, c->highest), unit);
    }
}

static void print_before_after(const struct subject *s, const struct residuals *r)
{
    double mean[2] = { 0, 0 };
    double squares[2] = { 0, 0 };
    double most[2] = { 0, 0 };
    for (unsigned i = 0; i < r->count; i++) {
        const double of[2] = { r->before[i], r->after[i] };
        for (unsigned k = 0; k < 2; k++) {
            mean[k] += of[k] / r->count;
            squares[k] += of[k] * of[k] / r->count;
            most[k] = fabs(of[k]) > fabs(most[k]) ? of[k] : most[k];
        }
    }
    printf("\n%s%-16s %12s %12s%s   in %s\n", cli_bold(), "off by", "before", "after", cli_plain(),
           cli_calibrate_unit(s));
    int places = MIN(s->about->decimals + 2, 6);
    double least = pow(10, -places);
    for (unsigned k = 0; k < 2; k++) { /* never -0.0000 */
        mean[k] = positive_zero(round(mean[k] / least) * least);
        most[k] = positive_zero(round(most[k] / least) * least);
    }
    printf("%-16s %+12.*f %+12.*f\n", "on average", places, mean[0], places, mean[1]);
    printf("%-16s %12.*f %12.*f\n", "root of squares", places, sqrt(squares[0]), places,
           sqrt(squares[1]));
    printf("%-16s %+12.*f %+12.*f\n\n", "at most", places, most[0], places, most[1]);
}

#define WARM 0.25 /* degC from which on it is worth a word */

/* Moving a sensor is better than a number that hides why it is wrong. */
static void advise(const struct subject *s, const struct residuals *r)
{
    const struct pintle_sheet *sheet = s->rig->sensor[s->wanted.of.sensor].sheet;
    double mean = 0;
    for (unsigned i = 0; i < r->count; i++) {
        mean += r->before[i] / r->count;
    }
    double accuracy = sheet->channels
                          ? (double)sheet->channels[s->wanted.of.channel].accuracy_narrow
                                * cli_calibrate_per_base(s)
                          : 0;
    double scatter = isnan(s->found[0].residual) ? 0 : s->found[0].residual;
    bool warm = s->about->quantity == PINTLE_QUANTITY_TEMPERATURE && s->found[0].second < 0
                && mean > WARM * cli_calibrate_per_base(s)
                && mean > 3 * scatter * cli_calibrate_per_base(s);
    if (s->options->how == PINTLE_METHOD_HEAT) {
        printf(
            "Better than this correction is a sensor away from the warmth: on a cable, below the "
            "board, out of its box's stale air.\n\n");
    } else if (warm) {
        printf("It reads %.3f %s too warm", mean, cli_calibrate_unit(s));
        if (accuracy > 0) {
            printf(" (the data sheet has it right to %.3g)", accuracy);
        }
        printf(
            ". If its board, a regulator or a lamp warms it, move it\naway first: a number hides "
            "that, and only while the warmth stays as it is.\n\n");
    }
}

static unsigned outliers(const struct subject *s)
{
    unsigned count = 0;
    for (unsigned i = 0; s->outlier && i < s->count; i++) {
        count += s->outlier[i];
    }
    return count;
}

void cli_calibrate_print(const struct subject *s)
{
    struct residuals r = { 0 };
    residuals_of(s, &r);
    printf("\n");
    advise(s, &r);
    if (s->count > 0 && s->found[0].second < 0) {
        print_pairs(s);
    }
    for (unsigned i = 0; i < s->found_count; i++) {
        const struct pintle_calibration *c = &s->found[i];
        if (s->found_count > 1) {
            printf(
                "%s%s.%s%s\n", cli_bold(), s->rig->sensor[s->wanted.of.sensor].name,
                s->rig->sensor[s->wanted.of.sensor].sheet->part->channels[s->found_channel[i]].name,
                cli_plain());
        }
        printf("%-14s %s: %s%s; %u samples\n", "method", pintle_method_word(c->method),
               pintle_method_finds(c->method), s->options->robust ? ", robustly" : "", c->samples);
        if (c->kind == PINTLE_STAGE_POLYNOMIAL && c->count == 3) {
            print_line(s, c);
        } else {
            print_numbers(s, c);
        }
        print_worth(s, c);
    }
    if (outliers(s) > 0 && !s->options->robust) {
        printf("%-14s %u of the pairs lie far off the others: look whether they are mistyped, or "
               "take --robust\n",
               "outliers", outliers(s));
    }
    print_before_after(s, &r);
    free_residuals(&r);
}

bool cli_calibrate_draw(const struct subject *s, const char *path, struct pintle_problem *problem)
{
    struct residuals r = { 0 };
    residuals_of(s, &r);
    double residual = s->found[0].residual * cli_calibrate_per_base(s);
    char *title = g_strdup_printf("%s: %s, %u samples", s->name,
                                  pintle_method_word(s->options->how), s->found[0].samples);
    char *up = g_strdup_printf("off by, %s", cli_calibrate_unit(s));
    bool by_channel = r.across == s->name;
    char *across =
        by_channel ? g_strdup_printf("%s, %s", s->name, cli_calibrate_unit(s)) : g_strdup(r.across);
    const struct pintle_scatter scatter = { .title = title,
                                            .across = across,
                                            .up = up,
                                            .count = r.count,
                                            .at = r.at,
                                            .before = r.before,
                                            .after = r.after,
                                            .outlier = s->outlier,
                                            .band = isnan(residual) ? 0 : 2 * residual };
    bool ok = pintle_draw_scatter(&scatter, path, problem);
    if (ok) {
        printf("%s\n\n", path);
    }
    g_free(title);
    g_free(up);
    g_free(across);
    free_residuals(&r);
    return ok;
}
