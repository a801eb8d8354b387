/* What pairs say, by the core's sums, and what speaks against it. */
#include "pintle/host/keep/calibration.h"

#include <glib.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

static const char *const words[] = {
#define WORD(name, word, finds) word,
    PINTLE_METHOD_LIST(WORD)
#undef WORD
};

static const char *const found[] = {
#define FINDS(name, word, finds) finds,
    PINTLE_METHOD_LIST(FINDS)
#undef FINDS
};

const char *pintle_method_word(enum pintle_method method)
{
    return method < PINTLE_METHOD_COUNT ? words[method] : NULL;
}

const char *pintle_method_finds(enum pintle_method method)
{
    return method < PINTLE_METHOD_COUNT ? found[method] : NULL;
}

void pintle_calibration_init(struct pintle_calibration *c, enum pintle_method method)
{
    *c = (struct pintle_calibration){
        .method = method, .second = -1, .freedom = 0, .residual = NAN, .uncertainty = NAN
    };
    for (unsigned i = 0; i < PINTLE_STAGE_NUMBERS; i++) {
        c->deviation[i] = NAN;
    }
}

static void ends_of(const struct pintle_calibration *c, double *least, double *most)
{
    *least = INFINITY;
    *most = -INFINITY;
    for (unsigned i = 0; i < c->pair_count; i++) {
        *least = fmin(*least, c->pairs[i].sensor);
        *most = fmax(*most, c->pairs[i].sensor);
    }
}

void pintle_calibration_take_span(struct pintle_calibration *c, double more)
{
    double least = 0;
    double most = 0;
    ends_of(c, &least, &most);
    c->lowest = least - more * (most - least);
    c->highest = most + more * (most - least);
}

void pintle_calibration_take_line(struct pintle_calibration *c,
                                  const struct pintle_fit_result *line)
{
    bool known = line->freedom > 0;
    c->kind = PINTLE_STAGE_POLYNOMIAL;
    c->count = 3;
    pintle_fit_numbers(line, c->numbers);
    c->freedom = line->freedom;
    c->residual = known ? sqrt((double)line->variance) : (double)NAN;
    c->uncertainty = known ? sqrt((double)line->offset_variance) : (double)NAN;
    c->deviation[0] = 0;
    c->deviation[1] = c->uncertainty;
    c->deviation[2] = known ? sqrt((double)line->gain_variance) : (double)NAN;
    if (c->method == PINTLE_METHOD_LINE && c->pair_count > 0) {
        pintle_calibration_take_span(c, PINTLE_SPAN_OF_LINE);
    }
}

static bool fit_line(struct pintle_calibration *c, struct pintle_problem *problem)
{
    struct pintle_fit fit = { 0 };
    struct pintle_fit_result line;
    for (unsigned i = 0; i < c->pair_count; i++) {
        const struct pintle_pair *pair = &c->pairs[i];
        if (pintle_fit_add(&fit, (float)pair->sensor, (float)pair->reference) != PINTLE_OK) {
            return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                      "pair %u (%g, %g) is too large for a reading", i + 1,
                                      pair->sensor, pair->reference);
        }
    }
    bool straight = c->method == PINTLE_METHOD_LINE;
    enum pintle_status status =
        straight ? pintle_fit_line(&fit, &line) : pintle_fit_offset(&fit, &line);
    if (status == PINTLE_OUT_OF_RANGE) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "these pairs make no correction: its gain is 0 or its numbers are "
            "beyond all bounds; look for a mistyped one");
    }
    if (status != PINTLE_OK) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE, "%s",
            straight
                ? "a straight line needs two pairs at different values; add pairs, or calibrate "
                  "with --method offset"
                : "an offset needs one pair at least; give one as RAW=REFERENCE");
    }
    pintle_calibration_take_line(c, &line);
    return true;
}

static int by_sensor(const void *a, const void *b)
{
    double x = ((const struct pintle_pair *)a)->sensor;
    double y = ((const struct pintle_pair *)b)->sensor;
    return (x > y) - (x < y);
}

#define POINTS 16u

/* Pairs next to each other make a point, their mean; residuals are what they scatter about the
 * table. */
static bool fit_table(struct pintle_calibration *c, struct pintle_problem *problem)
{
    struct pintle_pair *sorted = g_memdup2(c->pairs, c->pair_count * sizeof *sorted);
    unsigned n = c->pair_count;
    unsigned points = 0;
    double last = -INFINITY;
    qsort(sorted, n, sizeof *sorted, by_sensor);
    for (unsigned i = 0; i < n;) {
        unsigned most = (n - i + POINTS - points - 1) / MAX(POINTS - points, 1);
        double x = 0;
        double y = 0;
        unsigned many = 0;
        while (i < n && (many < most || sorted[i].sensor == sorted[i - 1].sensor)) {
            x += sorted[i].sensor;
            y += sorted[i].reference;
            many++;
            i++;
        }
        c->numbers[2 * points] = (float)(x / many);
        c->numbers[2 * points + 1] = (float)(y / many);
        points += x / many > last;
        last = x / many;
    }
    g_free(sorted);
    if (points < 2) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "a table needs two points or more at different values; add pairs, "
            "or calibrate with --method offset");
    }
    c->kind = PINTLE_STAGE_TABLE;
    c->count = (uint8_t)(2 * points);
    c->freedom = n - points;
    pintle_calibration_take_span(c, 0);
    double squares = 0;
    for (unsigned i = 0; i < n; i++) {
        double off = c->pairs[i].reference - pintle_calibration_correct(c, c->pairs[i].sensor);
        squares += off * off;
    }
    c->residual = n > points ? sqrt(squares / c->freedom) : (double)NAN;
    c->uncertainty = n > points ? c->residual * sqrt((double)points / n) : (double)NAN;
    return true;
}

bool pintle_calibration_fit(struct pintle_calibration *c, struct pintle_problem *problem)
{
    c->samples = c->pair_count;
    return c->method == PINTLE_METHOD_TABLE ? fit_table(c, problem) : fit_line(c, problem);
}

void pintle_calibration_take_reference(struct pintle_calibration *c, double reference)
{
    if (reference > 0) {
        c->reference = reference;
        c->uncertainty = isnan(c->uncertainty) ? c->uncertainty : hypot(c->uncertainty, reference);
    }
}

double pintle_calibration_freedom(const struct pintle_calibration *c)
{
    double fit = sqrt(fmax(c->uncertainty * c->uncertainty - c->reference * c->reference, 0));
    return fit > 0 && c->reference > 0 ? c->freedom * pow(c->uncertainty / fit, 4) : c->freedom;
}

double pintle_calibration_correct(const struct pintle_calibration *c, double value)
{
    const struct pintle_correct_stage stage = { .kind = c->kind,
                                                .count = c->count,
                                                .numbers = c->numbers };
    struct pintle_reading reading = { .value = (float)value };
    pintle_correct(&stage, 1, &reading, 1);
    return (double)reading.value;
}

/* How far the correction moves a value. */
static double moved(const struct pintle_calibration *fit, double value)
{
    return fabs(pintle_calibration_correct(fit, value) - value);
}

/* The shares of a channel's range that tell a correction from a mistake. */
#define MUCH 0.1
#define LITTLE 0.02

/* Does a curve give two values one, somewhere in its span? */
static bool turns_round(const struct pintle_calibration *c)
{
    double step = (c->highest - c->lowest) / 200;
    double before = pintle_calibration_correct(c, c->lowest);
    for (unsigned i = 1; i <= 200; i++) {
        double now = pintle_calibration_correct(c, c->lowest + i * step);
        if (now <= before && step > 0) {
            return true;
        }
        before = now;
    }
    return false;
}

#define STRETCHED 0.3 /* of an axis: no specimen is so far off */

static char *doubt_axes(const struct pintle_calibration *fit)
{
    for (unsigned i = 0; i < 9; i++) {
        double off = fabs((double)fit->numbers[3 + i] - (i % 4 == 0));
        if (!(off < STRETCHED)) {
            return g_strdup_printf("it bends an axis by %.0f %%, which no specimen is off by; a "
                                   "position may be wrong, or the field's strength",
                                   100 * off);
        }
    }
    return NULL;
}

static char *doubt_second(const struct pintle_calibration *fit)
{
    double share = (double)fit->numbers[0];
    if (fit->kind == PINTLE_STAGE_HEAT && !(share >= 0 && share < 1)) {
        return g_strdup_printf("a share of %.3g is none of a warmth: the second channel does not "
                               "warm it, or is the reference",
                               share);
    }
    return NULL;
}

char *pintle_calibration_doubt(const struct pintle_sheet *sheet, unsigned channel,
                               enum pintle_unit in, const struct pintle_calibration *fit)
{
    const struct pintle_channel *c = &sheet->part->channels[channel];
    double range = (double)c->highest - (double)c->lowest;
    double accuracy = sheet->channels ? (double)sheet->channels[channel].accuracy_wide : 0;
    double most = fmax(MUCH * range, 3 * accuracy);
    bool anywhere = fit->lowest == 0 && fit->highest == 0;
    double low = anywhere ? (double)c->lowest : fmax(fit->lowest, (double)c->lowest);
    double high = anywhere ? (double)c->highest : fmin(fit->highest, (double)c->highest);
    bool straight = fit->kind == PINTLE_STAGE_POLYNOMIAL && fit->count == 3;
    const char *unit = pintle_unit_symbol(in);
    double shown = (double)(pintle_unit_show(in, 1) - pintle_unit_show(in, 0));
    double least = 0;
    double greatest = 0;
    if (fit->kind == PINTLE_STAGE_AXES) {
        return doubt_axes(fit);
    }
    if (fit->kind != PINTLE_STAGE_POLYNOMIAL && fit->kind != PINTLE_STAGE_TABLE) {
        return doubt_second(fit);
    }
    if (straight && fit->numbers[2] <= 0) {
        return g_strdup_printf("a gain of %.4g turns the sensor upside down",
                               (double)fit->numbers[2]);
    }
    if (straight && fit->method == PINTLE_METHOD_LINE) { /* it will be taken for one everywhere */
        low = (double)c->lowest;
        high = (double)c->highest;
    }
    double far = fmax(moved(fit, low), moved(fit, high));
    if (far > most) {
        return g_strdup_printf(
            "within the sensor's range it moves values by up to %.4g %s, where the "
            "data sheet has it right to %.4g; a pair may be mistyped, or of another "
            "sensor or unit",
            far * shown, unit, accuracy * shown);
    }
    ends_of(fit, &least, &greatest);
    if (!anywhere && fit->pair_count > 0 && greatest - least < LITTLE * range) {
        return g_strdup_printf(
            "the pairs lie within %.4g %s of each other, so that a line through them "
            "says little about the rest; take them further apart, or calibrate with "
            "--method offset",
            (greatest - least) * shown, unit);
    }
    if (!straight && turns_round(fit)) {
        return g_strdup("the curve turns round within its span, so that two values become one; "
                        "take a lower order, or look for a mistyped pair");
    }
    return NULL;
}
