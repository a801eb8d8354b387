#include <gsl/gsl_cdf.h>
#include <math.h>
#include <string.h>

#include "regress/regress.h"

/* Powers of x about its middle, in halves of its span: as well conditioned as powers can be. */
static enum pintle_status powers(const double *x, size_t count, unsigned terms, gsl_matrix *to,
                                 double *middle, double *half)
{
    double least = INFINITY;
    double most = -INFINITY;
    for (size_t i = 0; i < count; i++) {
        least = fmin(least, x[i]);
        most = fmax(most, x[i]);
    }
    *middle = (least + most) / 2;
    *half = (most - least) / 2;
    if (!(*half > 0) || !isfinite(*half)) {
        return PINTLE_TOO_FEW;
    }
    for (size_t i = 0; i < count; i++) {
        double power = 1;
        for (unsigned k = 0; k < terms; k++) {
            gsl_matrix_set(to, i, k, power);
            power *= (x[i] - *middle) / *half;
        }
    }
    return PINTLE_OK;
}

/* So many scatters off a pair counts for next to nothing in Tukey's biweight; of very many pairs
 * some are that far off by chance, so it takes more there: what one in a hundred such sets has. */
#define FAR 4.45
#define BY_CHANCE 0.01

/* Which are outliers? */
static enum pintle_status find_outliers(struct pintle_priv_linear *l, uint8_t *outlier)
{
    size_t n = l->x->size1;
    size_t terms = l->x->size2;
    memset(outlier, 0, n);
    if (n < terms + 3 || l->residual < 1e-12 * l->scale) {
        return PINTLE_OK; /* nothing to be robust against */
    }
    gsl_multifit_robust_workspace *w =
        gsl_multifit_robust_alloc(gsl_multifit_robust_bisquare, n, terms);
    int failed = gsl_multifit_robust(l->x, l->y, l->c, l->covariance, w);
    gsl_multifit_robust_stats is = gsl_multifit_robust_statistics(w);
    double far = fmax(FAR, gsl_cdf_ugaussian_Qinv(BY_CHANCE / 2 / (double)n));
    double least = fmax(far * is.sigma_mad, 1e-9 * l->scale);
    for (size_t i = 0; i < n && !failed; i++) {
        outlier[i] = fabs(gsl_vector_get(is.r, i)) > least;
    }
    gsl_multifit_robust_free(w);
    return failed ? PINTLE_OUT_OF_RANGE : PINTLE_OK;
}

/* The rest by least squares: what it says of itself then is true of the rest. */
static enum pintle_status without(struct pintle_priv_linear *l, const uint8_t *outlier)
{
    size_t n = l->x->size1;
    size_t terms = l->x->size2;
    size_t left = 0;
    for (size_t i = 0; i < n; i++) {
        left += !outlier[i];
    }
    if (left < terms) {
        return PINTLE_TOO_FEW;
    }
    struct pintle_priv_linear rest = pintle_priv_linear_make(left, terms);
    double *y = gsl_vector_ptr(rest.y, 0);
    for (size_t i = 0, k = 0; i < n; i++) {
        if (!outlier[i]) {
            for (size_t t = 0; t < terms; t++) {
                gsl_matrix_set(rest.x, k, t, gsl_matrix_get(l->x, i, t));
            }
            y[k++] = gsl_vector_get(l->y, i);
        }
    }
    enum pintle_status status = pintle_priv_linear_solve(&rest, y);
    struct pintle_priv_linear all = *l;
    *l = rest;
    pintle_priv_linear_free(&all);
    return status;
}

enum pintle_status pintle_regress_polynomial(const double *x, const double *y, size_t count,
                                             unsigned order, uint8_t *outlier,
                                             struct pintle_regression *result)
{
    double middle = 0;
    double half = 0;
    unsigned terms = order + 1;
    if (order < 1 || order > 3 || count < terms) {
        return PINTLE_TOO_FEW;
    }
    gsl_error_handler_t *before = gsl_set_error_handler_off();
    struct pintle_priv_linear l = pintle_priv_linear_make(count, terms);
    enum pintle_status status = powers(x, count, terms, l.x, &middle, &half);
    if (status == PINTLE_OK) {
        status = pintle_priv_linear_solve(&l, y);
    }
    if (status == PINTLE_OK && outlier) {
        status = find_outliers(&l, outlier);
    }
    if (status == PINTLE_OK && outlier) {
        status = without(&l, outlier);
    }
    if (status == PINTLE_OK) {
        pintle_priv_linear_give(&l, result);
        double scale = 1;
        for (unsigned k = terms; k-- > 0;) {
            scale = pow(half, k);
            result->number[k + 1] = result->number[k] / scale;
            result->deviation[k + 1] = result->deviation[k] / scale;
        }
        result->number[0] = middle;
        result->deviation[0] = 0;
        result->terms = terms + 1;
    }
    pintle_priv_linear_free(&l);
    gsl_set_error_handler(before);
    return status;
}
