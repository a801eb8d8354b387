/* Units, corrections, judging, schedules. Oracles: the SI definitions, GSL, worked-out cases. */
#include <gsl/gsl_fit.h>
#include <gsl/gsl_statistics.h>

#include "support.h"

/* Exact by definition: 1 mmHg = 133.322387415 Pa, 1 inHg = 3386.389 Pa, 0 degC = 273.15 K. */
static void units(void)
{
    static const struct {
        double value;
        const char *from;
        const char *to;
        double result;
        double tolerance;
    } rows[] = {
        { 0, "degC", "degF", 32, 1e-5 },
        { 100, "degC", "degF", 212, 1e-4 },
        { -40, "degF", "degC", -40, 1e-5 },
        { 20, "degC", "K", 293.15, 1e-4 },
        { 0, "K", "degC", -273.15, 1e-4 },
        { 101325, "Pa", "hPa", 1013.25, 1e-3 },
        { 1013.25, "hPa", "mmHg", 760, 1e-3 },
        { 1013.25, "hPa", "inHg", 29.9213, 1e-3 },
        { 29.92, "inHg", "kPa", 101.3207, 1e-3 },
        { 50, "%RH", "%RH", 50, 0 },
        { 1, "g", "m/s2", 9.80665, 1e-6 },
        { -19.6133, "m/s2", "g", -2, 1e-5 },
        { 180, "deg/s", "rad/s", 3.14159, 1e-5 },
        { 1, "rad/s", "deg/s", 57.29578, 1e-4 },
        { 3.14159265, "rad", "deg", 180, 1e-4 },
        { 90, "deg", "rad", 1.570796, 1e-6 },
        { 1650, "mV", "V", 1.65, 1e-6 },
        { 0.25, "m", "mm", 250, 1e-4 },
        { 12, "A", "A", 12, 0 },
        { 400, "lx", "lx", 400, 0 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        float result = 0;
        EXPECT(pintle_unit_convert((float)rows[i].value, pintle_unit_find(rows[i].from),
                                   pintle_unit_find(rows[i].to), &result)
                   == PINTLE_OK,
               "%s to %s", rows[i].from, rows[i].to);
        EXPECT_NEAR(result, rows[i].result, rows[i].tolerance, rows[i].to);
    }
    float untouched = 7;
    CU_ASSERT_EQUAL(
        pintle_unit_convert(1, pintle_unit_find("K"), pintle_unit_find("Pa"), &untouched),
        PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_unit_convert(1, PINTLE_UNIT_COUNT, PINTLE_UNIT_CEL, &untouched),
                    PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(untouched, 7);
    CU_ASSERT_EQUAL(pintle_unit_find("furlong"), PINTLE_UNIT_COUNT);
    EXPECT_NEAR(pintle_quantity_show(PINTLE_QUANTITY_PRESSURE, 101325), 1013.25, 1e-3, "shown");
}

/* Noise with a fixed seed around a line, far from the origin, where naive sums lose everything. */
static unsigned make_pairs(double *x, double *y, unsigned count, double middle)
{
    srand(3);
    for (unsigned i = 0; i < count; i++) {
        double noise = (double)rand() / RAND_MAX - 0.5;
        x[i] = (float)(middle + i * 0.37);
        y[i] = (float)(1.02 * x[i] - 3.5 + noise * 0.2);
    }
    return count;
}

static void a_line_agrees_with_gsl(void)
{
    static const struct {
        const char *name;
        unsigned count;
        double middle;
        double tolerance; /* of the line's value at the middle */
    } rows[] = {
        { "three pairs", 3, 20, 1e-4 },
        { "a hundred pairs", 100, 20, 1e-4 },
        { "pressures", 100, 101325, 0.05 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        double x[100];
        double y[100];
        double c0, c1, v00, v01, v11, squares;
        unsigned n = make_pairs(x, y, rows[i].count, rows[i].middle);
        gsl_fit_linear(x, 1, y, 1, n, &c0, &c1, &v00, &v01, &v11, &squares);
        struct pintle_fit fit = { 0 };
        struct pintle_line line;
        for (unsigned k = 0; k < n; k++) {
            pintle_fit_add(&fit, (float)x[k], (float)y[k]);
        }
        EXPECT(pintle_fit_line(&fit, &line) == PINTLE_OK, "%s", rows[i].name);
        double middle = gsl_stats_mean(x, 1, n);
        double ours = (double)line.correction.gain * middle + (double)line.correction.offset;
        EXPECT_NEAR(ours, c0 + c1 * middle, rows[i].tolerance, rows[i].name);
        EXPECT_NEAR(line.correction.gain, c1, fabs(c1) * 2e-3, rows[i].name);
        EXPECT_NEAR(line.variance, squares / (n - 2), squares / (n - 2) * 0.05, rows[i].name);
        double at_middle = v00 + 2 * middle * v01 + middle * middle * v11;
        EXPECT_NEAR(line.offset_variance, at_middle, at_middle * 0.05, rows[i].name);
        EXPECT_NEAR(line.gain_variance, v11, v11 * 0.05, rows[i].name);
    }
}

static void an_offset_is_the_mean_difference(void)
{
    double x[50];
    double y[50];
    double difference[50];
    struct pintle_fit fit = { 0 };
    struct pintle_line line;
    unsigned n = make_pairs(x, y, 50, 20);
    CU_ASSERT_EQUAL(pintle_fit_offset(&fit, &line), PINTLE_NOT_READY);
    for (unsigned i = 0; i < n; i++) {
        difference[i] = y[i] - x[i];
        pintle_fit_add(&fit, (float)x[i], (float)y[i]);
    }
    CU_ASSERT_EQUAL(pintle_fit_offset(&fit, &line), PINTLE_OK);
    CU_ASSERT_EQUAL(line.correction.gain, 1);
    EXPECT_NEAR(line.correction.offset, gsl_stats_mean(difference, 1, n), 1e-4, "offset");
    EXPECT_NEAR(line.variance, gsl_stats_variance(difference, 1, n), 1e-3, "variance");
}

static void a_line_needs_two_places(void)
{
    struct pintle_fit fit = { 0 };
    struct pintle_line line;
    pintle_fit_add(&fit, 20, 21);
    CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_NOT_READY);
    pintle_fit_add(&fit, 20, 21.5f);
    CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_NOT_READY);
    pintle_fit_add(&fit, 30, 31);
    CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_OK);
}

static void corrections(void)
{
    const struct pintle_correction line = { 1.1f, -2, 1 };
    const struct pintle_correction none = { 1.1f, -2, 0 };
    struct pintle_reading reading = { 20, 320, 0 };
    pintle_correction_apply(&line, &reading);
    EXPECT_NEAR(reading.value, 20, 1e-5, "20 x 1.1 - 2");
    CU_ASSERT_EQUAL(reading.quality, 0);
    pintle_correction_apply(&none, &reading);
    EXPECT_NEAR(reading.value, 20, 1e-5, "untouched");
    CU_ASSERT_EQUAL(reading.quality, PINTLE_QUALITY_UNCORRECTED);
    struct pintle_reading failed = { 0, 0, PINTLE_QUALITY_BUS };
    pintle_correction_apply(&line, &failed);
    CU_ASSERT_EQUAL(failed.value, 0);
}

/* A series of values, one letter each for what is found: g good, j jump, f frozen. */
static void judging(void)
{
    static const struct {
        const char *name;
        float jump;
        uint16_t frozen;
        float values[10];
        const char *found;
    } rows[] = {
        { "steady", 2, 0, { 20, 21, 20, 19 }, "gggg" },
        { "a spike", 2, 0, { 20, 21, 40, 21, 22 }, "ggjgg" },
        { "a spike down", 2, 0, { 20, 21, -40, 21 }, "ggjg" },
        { "a new level is believed after three", 2, 0, { 20, 40, 40, 41, 41, 41 }, "gjjjgg" },
        { "not watched", 0, 0, { 20, 400, -400 }, "ggg" },
        { "frozen from the fourth on", 0, 4, { 5, 5, 5, 5, 5, 6, 6 }, "gggffgg" },
        { "frozen and back", 0, 2, { 5, 5, 6, 6, 7 }, "gfgfg" },
        { "both", 2, 2, { 20, 20, 40, 20 }, "gfjg" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_judge judge = { .jump = rows[i].jump, .frozen = rows[i].frozen };
        for (size_t k = 0; rows[i].found[k]; k++) {
            float value = rows[i].values[k];
            struct pintle_reading reading = { value, (int32_t)(value * 16), 0 };
            pintle_judge_reading(&judge, &reading);
            char found = reading.quality & PINTLE_QUALITY_JUMP     ? 'j'
                         : reading.quality & PINTLE_QUALITY_FROZEN ? 'f'
                                                                   : 'g';
            EXPECT(found == rows[i].found[k], "%s, value %zu: %c", rows[i].name, k, found);
        }
    }
}

static void suspects_are_not_remembered(void)
{
    struct pintle_judge judge = { .jump = 2 };
    struct pintle_reading first = { -100, 1, PINTLE_QUALITY_FIRST };
    struct pintle_reading second = { 20, 2, 0 };
    struct pintle_reading third = { 21, 3, 0 };
    pintle_judge_reading(&judge, &first);
    pintle_judge_reading(&judge, &second);
    pintle_judge_reading(&judge, &third);
    CU_ASSERT_EQUAL(first.quality, PINTLE_QUALITY_FIRST);
    CU_ASSERT_EQUAL(second.quality, 0);
    CU_ASSERT_EQUAL(third.quality, 0);
}

/* Each row: the clock at the time of asking, the slot given out, how many were missed. Seconds. */
static void schedule(void)
{
    static const struct {
        const char *name;
        int64_t now, slot;
        uint32_t missed;
    } rows[] = {
        { "the first slot ahead", 1007, 1020, 0 },
        { "asked again at the slot itself", 1020, 1040, 0 },
        { "a little after it", 1041, 1060, 0 },
        { "exactly a slot later", 1080, 1080, 0 },
        { "long asleep: three passed by", 1145, 1160, 3 },
        { "the clock set back", 500, 500, 0 },
        { "and on from there", 501, 520, 0 },
    };
    struct pintle_schedule twenty = { .interval_us = 20000000 };
    for (size_t i = 0; i < COUNT(rows); i++) {
        uint32_t missed = 99;
        int64_t slot = pintle_schedule_next(&twenty, rows[i].now * 1000000, &missed);
        EXPECT(slot == rows[i].slot * 1000000, "%s: slot %lld", rows[i].name, (long long)slot);
        EXPECT(missed == rows[i].missed, "%s: missed %u", rows[i].name, missed);
    }
    struct pintle_schedule before = { .interval_us = 20000000 };
    CU_ASSERT_EQUAL(pintle_schedule_next(&before, -30000000, NULL), -20000000);
}

void add_numbers_suite(void)
{
    SUITE("numbers", { "units", units }, { "a line agrees with GSL", a_line_agrees_with_gsl },
          { "an offset is the mean difference", an_offset_is_the_mean_difference },
          { "a line needs two places", a_line_needs_two_places }, { "corrections", corrections },
          { "jumps and frozen values", judging },
          { "suspects are not remembered", suspects_are_not_remembered },
          { "slots of a schedule", schedule });
}
