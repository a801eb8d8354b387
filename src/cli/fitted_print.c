/* What a correction is worth: residuals before and after, printed and drawn. */
#include <math.h>
#include <stdio.h>

#include "cli/calibrate.h"
#include "pintle/host/draw/draw.h"
#include "pintle/regress.h"

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

static struct pintle_correct_stage stage_of(const struct pintle_calibration *c,
                                            const struct pintle_reading *second)
{
    return (struct pintle_correct_stage){
        .kind = c->kind, .count = c->count, .numbers = c->numbers, .second = second
    };
}

static double corrected(const struct subject *s, double value, double second)
{
    const struct pintle_reading other = { .value = (float)second };
    struct pintle_reading reading = { .value = (float)value };
    for (unsigned i = 0; i < s->found_count; i++) {
        struct pintle_correct_stage stage = stage_of(&s->found[i], &other);
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
    struct pintle_correct_stage stage = stage_of(&s->found[0], NULL);
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
        xyz[i] = (double)pintle_fit_spread_mean(&s->positions.faces.of[i / 3][i % 3]);
    }
    of_axes(s, xyz, PINTLE_FACES, s->options->strength, r);
    r->across = "position: x up, x down, y up, ...";
}

/* Of an axis by itself: what it should have felt, up, down and level. */
static void of_axis(const struct subject *s, struct residuals *r)
{
    unsigned axis = s->axis;
    const struct pintle_positions *p = &s->positions;
    make_room(r, PINTLE_FACES);
    r->count = 0;
    for (unsigned face = 0; face < PINTLE_FACES; face++) {
        if (p->taken >> face & 1) {
            double felt = face / 2 != axis ? 0
                          : face % 2       ? -s->options->strength
                                           : s->options->strength;
            double value = (double)pintle_fit_spread_mean(&p->faces.of[face][axis]);
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

static unsigned outliers(const struct subject *s)
{
    unsigned count = 0;
    for (unsigned i = 0; s->outlier && i < s->count; i++) {
        count += s->outlier[i];
    }
    return count;
}

static void print_before_after(const struct subject *s, const struct residuals *r)
{
    double mean[2] = { 0, 0 };
    double squares[2] = { 0, 0 };
    double most[2] = { 0, 0 };
    unsigned left_out = s->options->robust ? outliers(s) : 0;
    double counted = r->count - left_out;
    for (unsigned i = 0; i < r->count; i++) {
        const double of[2] = { r->before[i], r->after[i] };
        for (unsigned k = 0; k < 2 && !(left_out && s->outlier[i]); k++) {
            mean[k] += of[k] / counted;
            squares[k] += of[k] * of[k] / counted;
            most[k] = fabs(of[k]) > fabs(most[k]) ? of[k] : most[k];
        }
    }
    printf("\n%s%-16s %12s %12s%s   in %s", cli_bold(), "off by", "before", "after", cli_plain(),
           cli_calibrate_unit(s));
    if (left_out > 0) {
        printf(", without %u outlier%s", left_out, left_out == 1 ? "" : "s");
    }
    printf("\n");
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
