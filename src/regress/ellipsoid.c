/* Three axes turned freely in a field of one strength: what they say lies on an ellipsoid, and the
 * correction, M (xyz - b) with a symmetric M, makes a sphere of it. A turn of the sphere can't be
 * seen; the symmetric M is the one that turns nothing.
 *
 * Fitted in units of the ellipsoid's size about its middle: nine unknowns, three of b and six of M,
 * by Levenberg and Marquardt's method on |M (xyz - b)| - 1. */
#include <gsl/gsl_blas.h>
#include <gsl/gsl_multifit_nlinear.h>
#include <math.h>
#include <string.h>

#include "regress/regress.h"

#define UNKNOWNS 9
#define ROUNDS 200
#define VAGUE 0.1 /* of the size: an uncertainty beyond which nothing was found */

struct data {
    const double *xyz;
    size_t count;
    double middle[3], size;
};

static const unsigned row_of[] = { 0, 1, 2, 0, 0, 1 };
static const unsigned column_of[] = { 0, 1, 2, 1, 2, 2 };

/* d = xyz - b, v = M d; returns |v|. */
static double corrected(const gsl_vector *p, const struct data *data, size_t i, double d[3],
                        double v[3])
{
    double squares = 0;
    for (unsigned a = 0; a < 3; a++) {
        d[a] = (data->xyz[3 * i + a] - data->middle[a]) / data->size - gsl_vector_get(p, a);
        v[a] = 0;
    }
    for (unsigned k = 0; k < 6; k++) {
        double m = gsl_vector_get(p, 3 + k);
        v[row_of[k]] += m * d[column_of[k]];
        if (row_of[k] != column_of[k]) {
            v[column_of[k]] += m * d[row_of[k]];
        }
    }
    for (unsigned a = 0; a < 3; a++) {
        squares += v[a] * v[a];
    }
    return sqrt(squares);
}

static int residuals(const gsl_vector *p, void *context, gsl_vector *f)
{
    double d[3];
    double v[3];
    const struct data *data = context;
    for (size_t i = 0; i < data->count; i++) {
        gsl_vector_set(f, i, corrected(p, data, i, d, v) - 1);
    }
    return GSL_SUCCESS;
}

static int slopes(const gsl_vector *p, void *context, gsl_matrix *j)
{
    double d[3];
    double v[3];
    const struct data *data = context;
    for (size_t i = 0; i < data->count; i++) {
        double length = corrected(p, data, i, d, v);
        double against[3] = { 0, 0, 0 }; /* M v */
        for (unsigned k = 0; k < 6; k++) {
            unsigned r = row_of[k];
            unsigned c = column_of[k];
            double m = gsl_vector_get(p, 3 + k);
            against[r] += m * v[c];
            against[c] += r == c ? 0 : m * v[r];
            gsl_matrix_set(j, i, 3 + k,
                           (r == c ? v[r] * d[r] : v[r] * d[c] + v[c] * d[r]) / length);
        }
        for (unsigned a = 0; a < 3; a++) {
            gsl_matrix_set(j, i, a, -against[a] / length);
        }
    }
    return GSL_SUCCESS;
}

static void begin(struct data *data, gsl_vector *p)
{
    double half[3];
    data->size = 0;
    for (unsigned a = 0; a < 3; a++) {
        double least = INFINITY;
        double most = -INFINITY;
        for (size_t i = 0; i < data->count; i++) {
            least = fmin(least, data->xyz[3 * i + a]);
            most = fmax(most, data->xyz[3 * i + a]);
        }
        data->middle[a] = (least + most) / 2;
        half[a] = (most - least) / 2;
        data->size += half[a] / 3;
    }
    gsl_vector_set_zero(p);
    for (unsigned a = 0; a < 3; a++) {
        gsl_vector_set(p, 3 + a, half[a] > 0.1 * data->size ? data->size / half[a] : 1);
    }
}

#define APART 0.966 /* cosine of 15 degrees: one direction is not another */
#define DIRECTIONS (UNKNOWNS + 3)

static void direction(const struct data *data, size_t i, double to[3])
{
    double length = 0;
    for (unsigned a = 0; a < 3; a++) {
        to[a] = data->xyz[3 * i + a] - data->middle[a];
        length += to[a] * to[a];
    }
    for (unsigned a = 0; a < 3; a++) {
        to[a] /= sqrt(length);
    }
}

/* Are there as many directions as it takes? Many measurements of a few tell no more than these. */
static int all_around(const struct data *data)
{
    double kept[DIRECTIONS][3];
    unsigned count = 0;
    for (size_t i = 0; i < data->count && count < DIRECTIONS; i++) {
        double is[3];
        unsigned k = 0;
        direction(data, i, is);
        while (k < count && is[0] * kept[k][0] + is[1] * kept[k][1] + is[2] * kept[k][2] < APART) {
            k++;
        }
        if (k == count) {
            memcpy(kept[count++], is, sizeof is);
        }
    }
    return count == DIRECTIONS;
}

static double determinant(const double m[9])
{
    return m[0] * (m[4] * m[8] - m[5] * m[7]) - m[1] * (m[3] * m[8] - m[5] * m[6])
           + m[2] * (m[3] * m[7] - m[4] * m[6]);
}

/* From unknowns to numbers, in the caller's units. */
static void give(const struct data *data, const gsl_vector *p, const gsl_matrix *covariance,
                 double squares, double field, struct pintle_regression *result)
{
    double m[9];
    double dm[9];
    double freedom = (double)data->count - UNKNOWNS;
    double scatter = sqrt(squares / freedom);
    for (unsigned k = 0; k < 6; k++) {
        double off = scatter * sqrt(gsl_matrix_get(covariance, 3 + k, 3 + k));
        m[3 * row_of[k] + column_of[k]] = m[3 * column_of[k] + row_of[k]] =
            gsl_vector_get(p, 3 + k);
        dm[3 * row_of[k] + column_of[k]] = dm[3 * column_of[k] + row_of[k]] = off;
    }
    double strength = field > 0 ? field : data->size / cbrt(fabs(determinant(m)));
    *result = (struct pintle_regression){ .terms = 12,
                                          .freedom = freedom,
                                          .residual = scatter * strength };
    for (unsigned a = 0; a < 3; a++) {
        result->number[a] = data->middle[a] + data->size * gsl_vector_get(p, a);
        result->deviation[a] = data->size * scatter * sqrt(gsl_matrix_get(covariance, a, a));
    }
    for (unsigned k = 0; k < 9; k++) {
        result->number[3 + k] = m[k] * strength / data->size;
        result->deviation[3 + k] = dm[k] * strength / data->size;
    }
}

static enum pintle_status solve(struct data *data, gsl_vector *p, double field,
                                struct pintle_regression *result)
{
    gsl_multifit_nlinear_parameters parameters = gsl_multifit_nlinear_default_parameters();
    gsl_multifit_nlinear_fdf of = {
        .f = residuals, .df = slopes, .n = data->count, .p = UNKNOWNS, .params = data
    };
    gsl_multifit_nlinear_workspace *w =
        gsl_multifit_nlinear_alloc(gsl_multifit_nlinear_trust, &parameters, data->count, UNKNOWNS);
    gsl_matrix *covariance = gsl_matrix_alloc(UNKNOWNS, UNKNOWNS);
    double squares = 0;
    int why = 0;
    int failed = gsl_multifit_nlinear_init(p, &of, w);
    if (!failed) {
        failed = gsl_multifit_nlinear_driver(ROUNDS, 1e-10, 1e-10, 0, NULL, NULL, &why, w);
        failed = failed == GSL_ENOPROG ? 0 : failed; /* it can't get any better */
    }
    gsl_multifit_nlinear_covar(gsl_multifit_nlinear_jac(w), 0, covariance);
    gsl_blas_ddot(gsl_multifit_nlinear_residual(w), gsl_multifit_nlinear_residual(w), &squares);
    double scatter = sqrt(squares / ((double)data->count - UNKNOWNS));
    for (unsigned k = 0; k < UNKNOWNS && !failed; k++) {
        double off = scatter * sqrt(gsl_matrix_get(covariance, k, k));
        failed = !(off < VAGUE) || !isfinite(gsl_vector_get(w->x, k))
                 || gsl_matrix_get(covariance, k, k) == 0;
    }
    if (!failed) {
        give(data, w->x, covariance, squares, field, result);
    }
    gsl_matrix_free(covariance);
    gsl_multifit_nlinear_free(w);
    return failed ? PINTLE_OUT_OF_RANGE : PINTLE_OK;
}

enum pintle_status pintle_regress_ellipsoid(const double *xyz, size_t count, double field,
                                            struct pintle_regression *result)
{
    struct data data = { .xyz = xyz, .count = count };
    if (count < UNKNOWNS + 3) {
        return PINTLE_TOO_FEW;
    }
    gsl_error_handler_t *before = gsl_set_error_handler_off();
    gsl_vector *p = gsl_vector_alloc(UNKNOWNS);
    begin(&data, p);
    enum pintle_status status =
        data.size > 0 && all_around(&data) ? solve(&data, p, field, result) : PINTLE_OUT_OF_RANGE;
    gsl_vector_free(p);
    gsl_set_error_handler(before);
    return status;
}
