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
        EXPECT(pintle_unit_convert((float)rows[i].value,
                                   pintle_unit_find(rows[i].from, PINTLE_QUANTITY_COUNT),
                                   pintle_unit_find(rows[i].to, PINTLE_QUANTITY_COUNT), &result)
                   == PINTLE_OK,
               "%s to %s", rows[i].from, rows[i].to);
        EXPECT_NEAR(result, rows[i].result, rows[i].tolerance, rows[i].to);
    }
    float untouched = 7;
    CU_ASSERT_EQUAL(pintle_unit_convert(1, pintle_unit_find("K", PINTLE_QUANTITY_COUNT),
                                        pintle_unit_find("Pa", PINTLE_QUANTITY_COUNT), &untouched),
                    PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(pintle_unit_convert(1, PINTLE_UNIT_COUNT, PINTLE_UNIT_CEL, &untouched),
                    PINTLE_BAD_ARGUMENT);
    CU_ASSERT_EQUAL(untouched, 7);
    CU_ASSERT_EQUAL(pintle_unit_find("furlong", PINTLE_QUANTITY_COUNT), PINTLE_UNIT_COUNT);
    EXPECT_NEAR(pintle_unit_show(PINTLE_UNIT_HPA, 101325), 1013.25, 1e-3, "shown");
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
        struct pintle_fit_result line;
        for (unsigned k = 0; k < n; k++) {
            CU_ASSERT_EQUAL(pintle_fit_add(&fit, (float)x[k], (float)y[k]), PINTLE_OK);
        }
        EXPECT(pintle_fit_line(&fit, &line) == PINTLE_OK, "%s", rows[i].name);
        double middle = gsl_stats_mean(x, 1, n);
        double ours = (double)line.gain * middle + (double)line.offset;
        EXPECT_NEAR(ours, c0 + c1 * middle, rows[i].tolerance, rows[i].name);
        EXPECT_NEAR(line.gain, c1, fabs(c1) * 2e-3, rows[i].name);
        EXPECT_NEAR(line.variance, squares / (n - 2), squares / (n - 2) * 0.05, rows[i].name);
        double at_middle = v00 + 2 * middle * v01 + middle * middle * v11;
        EXPECT_NEAR(line.offset_variance, at_middle, at_middle * 0.05, rows[i].name);
        EXPECT_NEAR(line.gain_variance, v11, v11 * 0.05, rows[i].name);
    }
}

/* Millions of pairs, far from the origin, the first of them an outlier: gain, residual and what is
 * left over agree with GSL's figures in double precision; with sums of floats nothing of it was
 * left. */
static void millions_of_pairs(void)
{
    static const struct {
        const char *name;
        unsigned count;
        double middle, span, noise, tolerance; /* the last: of variances, as a share */
    } rows[] = {
        { "pressures", 70000, 101325, 40, 3, 1e-4 },
        { "hectopascals, a fine residual", 3000000, 1013.25, 5, 0.0214, 1e-4 },
        { "temperatures for months", 5000000, 21, 12, 0.05, 1e-4 },
        { "all but exact", 1000000, 20, 30, 0.0004, 2e-2 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        double *x = g_new(double, rows[i].count);
        double *y = g_new(double, rows[i].count);
        double c0, c1, v00, v01, v11, squares;
        struct pintle_fit fit = { 0 };
        struct pintle_fit_result line, offset;
        srand(9);
        for (unsigned k = 0; k < rows[i].count; k++) {
            double u = (double)rand() / RAND_MAX - 0.5;
            double v = (double)rand() / RAND_MAX + (double)rand() / RAND_MAX - 1;
            x[k] = (float)(rows[i].middle + (k == 0 ? 20 : u) * rows[i].span);
            y[k] = (float)(1.013 * x[k] - 0.4 + v * rows[i].noise);
            if (pintle_fit_add(&fit, (float)x[k], (float)y[k]) != PINTLE_OK) {
                EXPECT(0, "%s: pair %u", rows[i].name, k);
            }
        }
        gsl_fit_linear(x, 1, y, 1, rows[i].count, &c0, &c1, &v00, &v01, &v11, &squares);
        CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_fit_offset(&fit, &offset), PINTLE_OK);
        double variance = squares / (rows[i].count - 2);
        double middle = gsl_stats_mean(x, 1, rows[i].count);
        double ours = (double)line.gain * middle + (double)line.offset;
        EXPECT_NEAR(line.gain, c1, 2e-7, rows[i].name);
        EXPECT_NEAR(ours, c0 + c1 * middle, fabs(middle) * 1.3e-7, rows[i].name);
        EXPECT_NEAR(line.variance, variance, variance * rows[i].tolerance, rows[i].name);
        EXPECT_NEAR(line.gain_variance, v11, v11 * rows[i].tolerance, rows[i].name);
        EXPECT_NEAR(offset.offset, gsl_stats_mean(y, 1, rows[i].count) - middle,
                    fabs(offset.offset) * 1e-5 + 1e-5, rows[i].name);
        g_free(x);
        g_free(y);
    }
}

/* Numbers that aren't: neither added, nor found, nor kept, nor applied. */
static void what_is_no_correction(void)
{
    const float nan = NAN;
    const float infinite = INFINITY;
    struct pintle_fit fit = { 0 };
    struct pintle_fit_result line;
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, nan, 1), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, 1, infinite), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(fit.count, 0);
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, 0, -3e38f), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, 1, 3e38f), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_OUT_OF_RANGE);
    fit = (struct pintle_fit){ 0 };
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, 1, 5), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, 2, 5), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_OUT_OF_RANGE); /* a gain of 0 */
}

static void an_offset_is_the_mean_difference(void)
{
    double x[50];
    double y[50];
    double difference[50];
    struct pintle_fit fit = { 0 };
    struct pintle_fit_result line;
    unsigned n = make_pairs(x, y, 50, 20);
    CU_ASSERT_EQUAL(pintle_fit_offset(&fit, &line), PINTLE_TOO_FEW);
    for (unsigned i = 0; i < n; i++) {
        difference[i] = y[i] - x[i];
        CU_ASSERT_EQUAL(pintle_fit_add(&fit, (float)x[i], (float)y[i]), PINTLE_OK);
    }
    CU_ASSERT_EQUAL(pintle_fit_offset(&fit, &line), PINTLE_OK);
    CU_ASSERT_EQUAL(line.gain, 1);
    EXPECT_NEAR(line.offset, gsl_stats_mean(difference, 1, n), 1e-4, "offset");
    EXPECT_NEAR(line.variance, gsl_stats_variance(difference, 1, n), 1e-3, "variance");
}

static void a_line_needs_two_places(void)
{
    struct pintle_fit fit = { 0 };
    struct pintle_fit_result line;
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, 20, 21), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_TOO_FEW);
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, 20, 21.5f), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_TOO_FEW);
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, 30, 31), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_OK);
    /* Through two pairs it goes exactly; nothing of what was there before is left. */
    fit = (struct pintle_fit){ 0 };
    memset(&line, 0x55, sizeof line);
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, 20, 21), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_fit_add(&fit, 30, 31), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_OK);
    CU_ASSERT(line.variance == 0 && line.gain_variance == 0 && line.offset_variance == 0);
}

/* A series of values, one letter each for what is found: g good, j jump, f frozen. */
static void judging(void)
{
    static const struct {
        const char *name;
        float jump, rate;
        uint16_t frozen;
        float values[10]; /* a second apart */
        const char *found;
    } rows[] = {
        { "steady", 2, 0, 0, { 20, 21, 20, 19 }, "gggg" },
        { "a spike", 2, 0, 0, { 20, 21, 40, 21, 22 }, "ggjgg" },
        { "a spike down", 2, 0, 0, { 20, 21, -40, 21 }, "ggjg" },
        { "a spike that lasts", 2, 0, 0, { 20, 40, 40, 40, 40, 40, 40, 40, 20 }, "gjjjjjjjg" },
        { "half a step is enough", 2, 0, 0, { 20, 22, 24, 26.5f, 26 }, "gggjg" },
        { "by the rate", 0, 0.5f, 0, { 20, 20.4f, 21, 21 }, "ggjj" },
        { "by both", 1, 1, 0, { 20, 22, 24.1f, 23 }, "ggjg" },
        { "not watched", 0, 0, 0, { 20, 400, -400 }, "ggg" },
        { "frozen from the fourth on", 0, 0, 4, { 5, 5, 5, 5, 5, 6, 6 }, "gggffgg" },
        { "frozen and back", 0, 0, 2, { 5, 5, 6, 6, 7 }, "gfgfg" },
        { "both", 2, 0, 2, { 20, 20, 40, 20 }, "gfjg" },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_judge judge = { .jump = rows[i].jump,
                                      .rate = rows[i].rate,
                                      .frozen = rows[i].frozen };
        for (size_t k = 0; rows[i].found[k]; k++) {
            float value = rows[i].values[k];
            struct pintle_reading reading = { value, (int32_t)(value * 16), 0 };
            pintle_judge_reading(&judge, &reading, (uint32_t)(1000 * k));
            char found = reading.quality & PINTLE_QUALITY_JUMP     ? 'j'
                         : reading.quality & PINTLE_QUALITY_FROZEN ? 'f'
                                                                   : 'g';
            EXPECT(found == rows[i].found[k], "%s, value %zu: %c", rows[i].name, k, found);
        }
    }
}

/* A real step is believed in the end, one that swings about never; over a gap as many steps are
 * allowed as readings are missing. */
static void a_new_level(void)
{
    struct pintle_judge judge = { .jump = 2 };
    struct pintle_judge swings = { .jump = 2 };
    for (unsigned k = 0; k < 40; k++) {
        struct pintle_reading step = { k == 0 ? 20 : 60 + (float)(k % 2), (int32_t)k, 0 };
        struct pintle_reading swing = { k == 0 ? 20 : k % 2 ? 60 : 70, (int32_t)k, 0 };
        pintle_judge_reading(&judge, &step, 1000 * k);
        pintle_judge_reading(&swings, &swing, 1000 * k);
        bool believed = k == 0 || k >= PINTLE_JUDGE_BELIEVES;
        EXPECT(!(step.quality & PINTLE_QUALITY_JUMP) == believed, "reading %u of a new level", k);
        EXPECT(!(swing.quality & PINTLE_QUALITY_JUMP) == (k == 0), "reading %u that swings", k);
    }
    struct pintle_judge unsure = { .jump = 2, .unsure = 1 };
    for (unsigned k = 0; k < 100; k++) {
        struct pintle_reading power_on = { k == 0 ? 20 : 85, (int32_t)k, 0 };
        pintle_judge_reading(&unsure, &power_on, 1000 * k);
        EXPECT(!(power_on.quality & PINTLE_QUALITY_JUMP) == (k == 0), "as after power-up: %u", k);
    }
    struct pintle_judge gap = { .jump = 2, .rate = 0.1f };
    for (unsigned k = 0; k < 12; k++) {
        bool bus = k > 0 && k < 10;
        struct pintle_reading reading = { k == 10   ? 41
                                          : k == 11 ? 44
                                                    : 20,
                                          (int32_t)k, bus ? PINTLE_QUALITY_BUS : 0 };
        pintle_judge_reading(&gap, &reading, 1000 * k);
        EXPECT(k < 10 || !(reading.quality & PINTLE_QUALITY_JUMP) == (k == 10),
               "behind a gap: reading %u", k);
    }
}

/* At any interval the limit means something: from 20 on, by so much at once after so long. */
static void at_any_interval(void)
{
    static const struct {
        uint32_t seconds;
        float by;
        bool far;
    } rows[] = { { 1, 2.4f, false },  { 1, 2.6f, true },      { 10, 20.4f, false },
                 { 10, 20.6f, true }, { 60, 21.4f, false },   { 60, 21.6f, true },
                 { 60, -60, true },   { 3600, 92.2f, false }, { 3600, 92.4f, true } };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_judge judge = { .jump = 0.5f, .rate = 2, .fast_s = 10 };
        struct pintle_reading before = { 20, 1, 0 };
        struct pintle_reading after = { 20 + rows[i].by, 2, 0 };
        pintle_judge_reading(&judge, &before, 5000);
        pintle_judge_reading(&judge, &after, 5000 + 1000 * rows[i].seconds);
        EXPECT(!(after.quality & PINTLE_QUALITY_JUMP) == !rows[i].far, "%g after %u s",
               (double)rows[i].by, rows[i].seconds);
    }
}

static void suspects_are_not_remembered(void)
{
    struct pintle_judge judge = { .jump = 2 };
    struct pintle_reading first = { -100, 1, PINTLE_QUALITY_FIRST };
    struct pintle_reading second = { 20, 2, 0 };
    struct pintle_reading third = { 21, 3, 0 };
    pintle_judge_reading(&judge, &first, 0);
    pintle_judge_reading(&judge, &second, 0);
    pintle_judge_reading(&judge, &third, 0);
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

/* A clock that sleeps short, is woken by something else, or stands still. */
static struct {
    uint64_t now_us;
    uint32_t sleeps, wakes;
    int how;
} dozer;

static uint64_t doze_now(void *context)
{
    (void)context;
    return dozer.now_us;
}

static void doze(void *context, uint32_t us)
{
    (void)context;
    dozer.sleeps++;
    dozer.now_us += dozer.how == 2 ? 0 : us;
}

static void doze_until(void *context, uint64_t at_us)
{
    (void)context;
    dozer.wakes++;
    dozer.now_us += dozer.how == 2   ? 0
                    : dozer.how == 1 ? (at_us - dozer.now_us + 1) / 2
                                     : at_us - dozer.now_us;
}

static void long_sleeps(void)
{
    static const struct pintle_clock_calls shallow = { doze_now, doze, NULL, NULL, NULL };
    static const struct pintle_clock_calls deep = { doze_now, doze, NULL, NULL, doze_until };
    const int64_t day_us = 86400000000;
    for (int how = 0; how < 6; how++) {
        const struct pintle_clock clock = { how < 3 ? &shallow : &deep, NULL };
        memset(&dozer, 0, sizeof dozer);
        dozer.how = how % 3;
        enum pintle_status status = pintle_schedule_sleep(&clock, day_us);
        EXPECT(status == (dozer.how == 2 ? PINTLE_CLOCK_STOPPED : PINTLE_OK), "%d: %s", how,
               pintle_status_word(status));
        EXPECT(dozer.now_us == (dozer.how == 2 ? 0 : (uint64_t)day_us), "%d: it woke early", how);
        EXPECT(how < 3 ? dozer.wakes == 0 : dozer.sleeps == 0, "%d: slept by another call", how);
        EXPECT(dozer.wakes + dozer.sleeps <= 1500, "%d: %u calls", how, dozer.wakes + dozer.sleeps);
    }
    dozer.sleeps = dozer.wakes = 0;
    const struct pintle_clock clock = { &deep, NULL };
    CU_ASSERT_EQUAL(pintle_schedule_sleep(&clock, 0), PINTLE_OK);
    CU_ASSERT_EQUAL(pintle_schedule_sleep(&clock, -5), PINTLE_OK);
    CU_ASSERT_EQUAL(dozer.wakes, 0);
}

void add_numbers_suite(void)
{
    SUITE("numbers", { "long sleeps", long_sleeps }, { "units", units },
          { "a line agrees with GSL", a_line_agrees_with_gsl },
          { "an offset is the mean difference", an_offset_is_the_mean_difference },
          { "a line needs two places", a_line_needs_two_places },
          { "millions of pairs", millions_of_pairs },
          { "what is no correction", what_is_no_correction },
          { "jumps and frozen values", judging }, { "a new level", a_new_level },
          { "at any interval", at_any_interval },
          { "suspects are not remembered", suspects_are_not_remembered },
          { "slots of a schedule", schedule });
}
