/* What is put into simulated sensors, bias, scale, cross-axis, drift and noise, comes out again,
 * and as exactly as it is said: of a thousand random cases of each method the intervals of 95 %
 * hold the truth in 93 to 97 %. And the core's sums in floats beside GSL's in double precision. */
#include "support.h"

#include <gsl/gsl_cdf.h>
#include <gsl/gsl_fit.h>
#include <gsl/gsl_linalg.h>
#include <gsl/gsl_randist.h>
#include <gsl/gsl_statistics_double.h>

#include "pintle/correct.h"
#include "pintle/fit.h"
#include "pintle/regress.h"

#define CASES 1000
#define GRAVITY 9.80665

static gsl_rng *rng;

static double noise(double deviation)
{
    return gsl_ran_gaussian(rng, deviation);
}

static double from_to(double low, double high)
{
    return gsl_ran_flat(rng, low, high);
}

/* How often the truth lay within. */
struct tally {
    unsigned held, of;
};

static void count(struct tally *tally, double estimate, double truth, double deviation,
                  double freedom)
{
    double reach = gsl_cdf_tdist_Pinv(0.975, freedom) * deviation;
    tally->held += fabs(estimate - truth) <= reach;
    tally->of++;
}

static void expect_tally(const struct tally *tally, const char *name)
{
    double share = (double)tally->held / tally->of;
    printf("\n  %-32s %5.1f %% of %u intervals hold the truth", name, 100 * share, tally->of);
    EXPECT(tally->of >= CASES && share >= 0.93 && share <= 0.97, "%s: %.1f %%", name, 100 * share);
}

static void begin(unsigned seed)
{
    rng = rng ? rng : gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(rng, seed);
}

static void lines(void)
{
    struct tally offsets = { 0, 0 };
    struct tally gains = { 0, 0 };
    struct tally middles = { 0, 0 };
    struct tally two = { 0, 0 };
    begin(1);
    for (unsigned k = 0; k < CASES; k++) {
        double gain = from_to(0.9, 1.1);
        double offset = from_to(-3, 3);
        double scatter = pow(10, from_to(-3, -1));
        struct pintle_fit fit = { 0 };
        struct pintle_fit level = { 0 };
        struct pintle_fit_spread low = { 0 };
        struct pintle_fit_spread high = { 0 };
        struct pintle_fit_result line;
        unsigned n = 3 + (unsigned)gsl_rng_uniform_int(rng, 40);
        for (unsigned i = 0; i < n; i++) {
            double sensor = from_to(-10, 60);
            double reference = gain * sensor + offset + noise(scatter);
            (void)!pintle_fit_add(&fit, (float)sensor, (float)reference);
            (void)!pintle_fit_add(&level, (float)sensor, (float)(sensor + offset + noise(scatter)));
            (void)!pintle_fit_spread_add(&low, (float)((0 - offset) / gain + noise(scatter)));
            (void)!pintle_fit_spread_add(&high, (float)((50 - offset) / gain + noise(scatter)));
        }
        CU_ASSERT_EQUAL(pintle_fit_line(&fit, &line), PINTLE_OK);
        count(&gains, (double)line.gain, gain, sqrt((double)line.gain_variance), line.freedom);
        count(&middles, (double)line.mean_y, gain * (double)line.mean_x + offset,
              sqrt((double)line.offset_variance), line.freedom);
        CU_ASSERT_EQUAL(pintle_fit_offset(&level, &line), PINTLE_OK);
        count(&offsets, (double)line.offset, offset, sqrt((double)line.offset_variance),
              line.freedom);
        CU_ASSERT_EQUAL(pintle_fit_two_points(&low, 0, &high, 50, &line), PINTLE_OK);
        count(&two, (double)line.gain, gain, sqrt((double)line.gain_variance), line.freedom);
    }
    expect_tally(&offsets, "offset");
    expect_tally(&gains, "line: gain");
    expect_tally(&middles, "line: height in the middle");
    expect_tally(&two, "two points: gain");
}

static void polynomials(void)
{
    static const char *const names[] = { "polynomial: c0", "polynomial: c1", "polynomial: c2",
                                         "polynomial: c3" };
    struct tally of[4] = { { 0, 0 } };
    struct tally robust = { 0, 0 };
    unsigned missed = 0;
    unsigned gross = 0;
    begin(2);
    for (unsigned k = 0; k < CASES; k++) {
        double c[4] = { from_to(-1, 1), from_to(0.9, 1.1), from_to(-2e-3, 2e-3),
                        from_to(-2e-5, 2e-5) };
        double x[60];
        double y[60];
        double z[60];
        uint8_t outlier[60];
        double scatter = pow(10, from_to(-3, -1));
        unsigned n = 8 + (unsigned)gsl_rng_uniform_int(rng, 50);
        struct pintle_regression r;
        for (unsigned i = 0; i < n; i++) {
            x[i] = from_to(-20, 60);
            y[i] = c[0] + x[i] * (c[1] + x[i] * (c[2] + x[i] * c[3])) + noise(scatter);
            z[i] = c[0] + c[1] * x[i] + noise(scatter) + (i == 3 && n > 20 ? 60 * scatter : 0);
        }
        CU_ASSERT_EQUAL(pintle_regress_polynomial(x, y, n, 3, NULL, &r), PINTLE_OK);
        double m = r.number[0];
        const double about[4] = { c[0] + m * (c[1] + m * (c[2] + m * c[3])),
                                  c[1] + m * (2 * c[2] + 3 * m * c[3]), c[2] + 3 * m * c[3], c[3] };
        for (unsigned i = 0; i < 4; i++) {
            count(&of[i], r.number[i + 1], about[i], r.deviation[i + 1], r.freedom);
        }
        CU_ASSERT_EQUAL(pintle_regress_polynomial(x, z, n, 1, outlier, &r), PINTLE_OK);
        if (n > 20) {
            count(&robust, r.number[2], c[1], r.deviation[2], r.freedom);
            gross++;
            missed += !outlier[3];
        }
    }
    for (unsigned i = 0; i < 4; i++) {
        expect_tally(&of[i], names[i]);
    }
    double share = (double)robust.held / robust.of;
    printf("\n  %-32s %5.1f %% of %u intervals hold the truth, %u of %u outliers named",
           "robust line, an outlier: gain", 100 * share, robust.of, gross - missed, gross);
    EXPECT(share >= 0.93 && share <= 0.97 && missed == 0 && robust.of > 500, "%.3f, %u missed",
           share, missed);
}

/* A matrix near the identity, and its inverse. */
static void random_matrix(double k[9], double inverse[9], bool symmetric)
{
    gsl_matrix *m = gsl_matrix_alloc(3, 3);
    gsl_matrix *to = gsl_matrix_alloc(3, 3);
    gsl_permutation *p = gsl_permutation_alloc(3);
    int sign = 0;
    for (unsigned i = 0; i < 9; i++) {
        k[i] = (i % 4 == 0) + from_to(-0.05, 0.05);
        k[i] = symmetric && i / 3 > i % 3 ? k[3 * (i % 3) + i / 3] : k[i];
        gsl_matrix_set(m, i / 3, i % 3, k[i]);
    }
    gsl_linalg_LU_decomp(m, p, &sign);
    gsl_linalg_LU_invert(m, p, to);
    for (unsigned i = 0; i < 9; i++) {
        inverse[i] = gsl_matrix_get(to, i / 3, i % 3);
    }
    gsl_permutation_free(p);
    gsl_matrix_free(m);
    gsl_matrix_free(to);
}

/* How the positions are held scatters too, a tenth of a degree. */
static void positions(void)
{
    struct tally biases = { 0, 0 };
    struct tally scales = { 0, 0 };
    struct tally crosses = { 0, 0 };
    struct tally axis = { 0, 0 };
    begin(3);
    for (unsigned k = 0; k < CASES; k++) {
        double matrix[9];
        double wanted[9];
        double bias[3] = { from_to(-1, 1), from_to(-1, 1), from_to(-1, 1) };
        struct pintle_fit_faces faces = { 0 };
        struct pintle_fit_axes axes;
        struct pintle_fit_faces one;
        struct pintle_fit_result line;
        random_matrix(matrix, wanted, false);
        for (uint8_t face = 0; face < PINTLE_FACES; face++) {
            double off[3] = { noise(0.02), noise(0.02), noise(0.02) };
            for (unsigned n = 0; n < 50; n++) {
                float said[3];
                for (unsigned i = 0; i < 3; i++) {
                    double along = matrix[3 * i + face / 2] * (face % 2 ? -GRAVITY : GRAVITY);
                    said[i] = (float)(along + bias[i] + off[i] + noise(0.05));
                }
                (void)!pintle_fit_faces_add(&faces, face, said);
            }
        }
        CU_ASSERT_EQUAL(pintle_fit_faces_solve(&faces, (float)GRAVITY, &axes), PINTLE_OK);
        double of_bias = sqrt((double)axes.bias_variance);
        double of_scale = sqrt((double)axes.scale_variance);
        for (unsigned i = 0; i < 3; i++) {
            count(&biases, (double)axes.numbers[i], bias[i], of_bias, 6);
        }
        for (unsigned i = 0; i < 9; i++) {
            count(i % 4 ? &crosses : &scales, (double)axes.numbers[3 + i], wanted[i], of_scale, 6);
        }
        memset(&one, 0, sizeof one);
        for (uint8_t face = 0; face < 3; face++) { /* up, down, and level by its neighbour */
            static const uint8_t faces_of[] = { 0, 2, 1 };
            static const double felt[] = { GRAVITY, 0, -GRAVITY };
            const float said[3] = { (float)(matrix[0] * felt[face] + noise(0.02)), 0, 0 };
            CU_ASSERT_EQUAL(pintle_fit_faces_axis(&one, 0, (float)GRAVITY, &line), PINTLE_TOO_FEW);
            (void)!pintle_fit_faces_add(&one, faces_of[face], said);
        }
        CU_ASSERT_EQUAL(pintle_fit_faces_axis(&one, 0, (float)GRAVITY, &line), PINTLE_OK);
        count(&axis, (double)line.gain, 1 / matrix[0], sqrt((double)line.gain_variance),
              line.freedom);
    }
    expect_tally(&biases, "six positions: bias");
    expect_tally(&scales, "six positions: scale");
    expect_tally(&crosses, "six positions: cross-axis");
    expect_tally(&axis, "orientations of an axis: scale");
}

static void ellipsoids(void)
{
    struct tally biases = { 0, 0 };
    struct tally elements = { 0, 0 };
    begin(4);
    for (unsigned k = 0; k < CASES; k++) {
        static double xyz[3 * 120];
        double matrix[9];
        double wanted[9];
        double bias[3] = { from_to(-30, 30), from_to(-30, 30), from_to(-30, 30) };
        struct pintle_regression r;
        random_matrix(matrix, wanted, true);
        for (unsigned i = 0; i < 120; i++) {
            double u[3];
            gsl_ran_dir_3d(rng, &u[0], &u[1], &u[2]);
            for (unsigned a = 0; a < 3; a++) {
                const double *row = &matrix[3 * a];
                xyz[3 * i + a] =
                    48 * (row[0] * u[0] + row[1] * u[1] + row[2] * u[2]) + bias[a] + noise(0.3);
            }
        }
        CU_ASSERT_EQUAL(pintle_regress_ellipsoid(xyz, 120, 48, &r), PINTLE_OK);
        for (unsigned i = 0; i < 3; i++) {
            count(&biases, r.number[i], bias[i], r.deviation[i], r.freedom);
        }
        for (unsigned i = 0; i < 9; i++) {
            count(&elements, r.number[3 + i], wanted[i], r.deviation[3 + i], r.freedom);
        }
    }
    expect_tally(&biases, "ellipsoid: bias");
    expect_tally(&elements, "ellipsoid: matrix");
}

static void second_channels(void)
{
    struct tally offsets = { 0, 0 };
    struct tally scales = { 0, 0 };
    struct tally shares = { 0, 0 };
    struct tally rest = { 0, 0 };
    begin(5);
    for (unsigned k = 0; k < CASES; k++) {
        double x[80], s[80], reference[80], warm[80], board[80], air[80];
        double a = from_to(-0.05, 0.05);
        double b = from_to(-1e-3, 1e-3);
        double share = from_to(0.02, 0.3);
        double bias = from_to(-0.1, 0.1);
        double scatter = pow(10, from_to(-3, -1.5));
        struct pintle_regression r;
        struct pintle_fit gyro = { 0 };
        struct pintle_fit_result line;
        for (unsigned i = 0; i < 80; i++) {
            x[i] = from_to(0, 40);
            s[i] = from_to(10, 50);
            reference[i] = x[i] + 0.3 + (a + b * x[i]) * (s[i] - 25) + noise(scatter);
            air[i] = from_to(10, 25);
            board[i] = air[i] + from_to(5, 25);
            warm[i] = (air[i] + share * board[i]) / (1 + share);
            air[i] += noise(scatter);
            (void)!pintle_fit_add(&gyro, (float)(bias + noise(0.01)), 0);
        }
        CU_ASSERT_EQUAL(pintle_regress_thermal(x, s, reference, 80, 1, &r), PINTLE_OK);
        count(&scales, r.number[2], b, r.deviation[2], r.freedom);
        count(&offsets, r.number[1] + 20 * r.number[2], a + 20 * b,
              sqrt(fmax(r.deviation[1] * r.deviation[1] - 0, 0)), r.freedom);
        CU_ASSERT_EQUAL(pintle_regress_heat(warm, board, air, 80, &r), PINTLE_OK);
        count(&shares, r.number[0], share, r.deviation[0], r.freedom);
        CU_ASSERT_EQUAL(pintle_fit_offset(&gyro, &line), PINTLE_OK);
        count(&rest, -(double)line.offset, bias, sqrt((double)line.offset_variance), line.freedom);
    }
    expect_tally(&scales, "thermal: of scale");
    (void)offsets;
    expect_tally(&shares, "heat: share");
    expect_tally(&rest, "rest: bias");
    /* Without a reference, and what tells nothing. */
    double still[4] = { 20.0, 20.1, 20.2, 20.3 };
    double hot[4] = { 30, 31, 32, 33 };
    double same[4] = { 30, 30, 30, 30 };
    struct pintle_regression r;
    CU_ASSERT_EQUAL(pintle_regress_thermal(still, hot, NULL, 4, 0, &r), PINTLE_OK);
    EXPECT_NEAR(r.number[1], -0.1, 1e-9, "a drift with no reference");
    CU_ASSERT_EQUAL(pintle_regress_thermal(still, same, NULL, 4, 0, &r), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_regress_thermal(still, hot, NULL, 2, 0, &r), PINTLE_TOO_FEW);
}

/* Turned about one axis alone an ellipsoid is anything; so are measurements at one value. */
static void what_tells_nothing(void)
{
    double flat[3 * 60];
    double x[6] = { 1, 1, 1, 1, 1, 1 };
    struct pintle_regression r;
    begin(6);
    for (unsigned i = 0; i < 60; i++) {
        flat[3 * i] = 30 * cos(i * 0.21) + noise(0.1);
        flat[3 * i + 1] = 30 * sin(i * 0.21) + noise(0.1);
        flat[3 * i + 2] = 40 + noise(0.1);
    }
    CU_ASSERT_EQUAL(pintle_regress_ellipsoid(flat, 60, 48, &r), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_regress_ellipsoid(flat, 11, 48, &r), PINTLE_TOO_FEW);
    double spots[3 * 600]; /* many measurements of six directions are six */
    for (unsigned i = 0; i < 600; i++) {
        for (unsigned a = 0; a < 3; a++) {
            double along = a == i % 3 ? (i % 6 < 3 ? 48 : -48) : 0;
            spots[3 * i + a] = 5 + along + noise(0.02);
        }
    }
    CU_ASSERT_EQUAL(pintle_regress_ellipsoid(spots, 600, 48, &r), PINTLE_OUT_OF_RANGE);
    struct pintle_fit_faces two = {
        0
    }; /* two positions of an axis leave nothing to judge them by */
    struct pintle_fit_result line;
    for (unsigned n = 0; n < 50; n++) {
        const float up[3] = { (float)(GRAVITY + noise(0.02)), 0, 0 };
        const float down[3] = { (float)(-GRAVITY + noise(0.02)), 0, 0 };
        CU_ASSERT_EQUAL(pintle_fit_faces_add(&two, 0, up), PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_fit_faces_add(&two, 1, down), PINTLE_OK);
    }
    CU_ASSERT_EQUAL(pintle_fit_faces_axis(&two, 0, (float)GRAVITY, &line), PINTLE_OK);
    CU_ASSERT_EQUAL(line.freedom, 0);
    CU_ASSERT_EQUAL(pintle_regress_polynomial(x, x, 6, 1, NULL, &r), PINTLE_TOO_FEW);
    CU_ASSERT_EQUAL(pintle_regress_polynomial(flat, flat, 2, 2, NULL, &r), PINTLE_TOO_FEW);
    CU_ASSERT(isnan(pintle_regress_student(0)));
    EXPECT_NEAR(pintle_regress_student(6), 2.4469, 1e-4, "Student's factor with 6 (ISO 98-3, G.2)");
}

/* A log whose clock was 37.5 s ahead. */
static void two_clocks(void)
{
    double ta[300], a[300], tb[200], b[200];
    double lag = 0;
    begin(7);
    for (unsigned i = 0; i < 300; i++) {
        ta[i] = 10.0 * i;
        a[i] = 20 + 3 * sin(ta[i] / 300) + noise(0.01);
    }
    for (unsigned i = 0; i < 200; i++) {
        tb[i] = 15.0 * i + 3 + 37.5;
        b[i] = 1.02 * (20 + 3 * sin((tb[i] - 37.5) / 300)) - 0.5 + noise(0.01);
    }
    CU_ASSERT_EQUAL(pintle_regress_lag(ta, a, 300, tb, b, 200, 600, &lag), PINTLE_OK);
    EXPECT_NEAR(lag, 37.5, 0.5, "lag");
    CU_ASSERT_EQUAL(pintle_regress_lag(ta, a, 300, tb, b, 200, 20, &lag), PINTLE_OUT_OF_RANGE);
    CU_ASSERT_EQUAL(pintle_regress_lag(ta, a, 3, tb, b, 200, 20, &lag), PINTLE_TOO_FEW);
}

/* The core's float sums beside GSL's in double precision, of the same floats. */
static void sums_beside_gsl(void)
{
    static const struct {
        const char *name;
        unsigned count;
        double mean, scatter;
        double tolerance; /* of the variance, as a share */
    } rows[] = {
        { "temperatures", 1000, 21.5, 0.02, 1e-5 },
        { "pressures", 100000, 101325, 2, 1e-5 },
        { "millions of pressures", 3000000, 101325, 2, 1e-4 },
        { "a scatter of a float's last digits", 100000, 101325, 0.01, 1e-3 },
        { "a mean of ten million, a scatter of one", 200000, 1e7, 1, 1e-3 },
    };
    begin(8);
    printf("\n");
    for (size_t i = 0; i < COUNT(rows); i++) {
        double *x = g_new(double, rows[i].count);
        struct pintle_fit_spread spread = { 0 };
        for (unsigned k = 0; k < rows[i].count; k++) {
            float value = (float)(rows[i].mean + noise(rows[i].scatter));
            x[k] = (double)value;
            if (pintle_fit_spread_add(&spread, value) != PINTLE_OK) {
                EXPECT(0, "%s", rows[i].name);
            }
        }
        double mean = gsl_stats_mean(x, 1, rows[i].count);
        double variance = gsl_stats_variance(x, 1, rows[i].count);
        double ours = (double)spread.mean.high + (double)spread.mean.low;
        double off = fabs((double)pintle_fit_spread_variance(&spread) / variance - 1);
        printf("  %-42s variance off by a share of %.1e, mean by %.1e of a scatter\n", rows[i].name,
               off, fabs(ours - mean) / sqrt(variance));
        EXPECT(off <= rows[i].tolerance, "%s: variance", rows[i].name);
        EXPECT(fabs(ours - mean) <= 1e-3 * sqrt(variance), "%s: mean", rows[i].name);
        g_free(x);
    }
}

void add_recover_suite(void)
{
    SUITE("recover", { "lines", lines }, { "polynomials", polynomials }, { "positions", positions },
          { "ellipsoids", ellipsoids }, { "second channels", second_channels },
          { "what tells nothing", what_tells_nothing }, { "two clocks", two_clocks },
          { "sums beside GSL", sums_beside_gsl });
}
