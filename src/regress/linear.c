#include <gsl/gsl_cdf.h>
#include <math.h>
#include <string.h>

#include "regress/regress.h"

struct pintle_priv_linear pintle_priv_linear_make(size_t count, size_t terms)
{
    struct pintle_priv_linear l = { .x = gsl_matrix_alloc(count, terms),
                                    .y = gsl_vector_alloc(count),
                                    .c = gsl_vector_alloc(terms),
                                    .covariance = gsl_matrix_alloc(terms, terms) };
    return l;
}

void pintle_priv_linear_free(struct pintle_priv_linear *l)
{
    gsl_matrix_free(l->x);
    gsl_vector_free(l->y);
    gsl_vector_free(l->c);
    gsl_matrix_free(l->covariance);
}

#define INDEPENDENT 1e-10 /* the share of its largest singular value below which one is none */

enum pintle_status pintle_priv_linear_solve(struct pintle_priv_linear *l, const double *y)
{
    size_t n = l->x->size1;
    size_t terms = l->x->size2;
    size_t rank = 0;
    double squares = 0;
    l->scale = 0;
    for (size_t i = 0; i < n; i++) {
        gsl_vector_set(l->y, i, y[i]);
        l->scale = fmax(l->scale, fabs(y[i]));
    }
    gsl_multifit_linear_workspace *w = gsl_multifit_linear_alloc(n, terms);
    int failed =
        gsl_multifit_linear_tsvd(l->x, l->y, INDEPENDENT, l->c, l->covariance, &squares, &rank, w);
    gsl_multifit_linear_free(w);
    l->freedom = (double)n - (double)terms;
    l->residual = l->freedom > 0 ? sqrt(squares / l->freedom) : 0;
    return failed || rank < terms ? PINTLE_OUT_OF_RANGE : PINTLE_OK;
}

void pintle_priv_linear_give(const struct pintle_priv_linear *l, struct pintle_regression *result)
{
    *result = (struct pintle_regression){ .terms = (unsigned)l->c->size,
                                          .freedom = l->freedom,
                                          .residual = l->residual };
    for (unsigned i = 0; i < result->terms; i++) {
        result->number[i] = gsl_vector_get(l->c, i);
        result->deviation[i] =
            l->freedom > 0 ? sqrt(fmax(gsl_matrix_get(l->covariance, i, i), 0)) : (double)NAN;
    }
}

double pintle_regress_student(double freedom)
{
    return freedom > 0 ? gsl_cdf_tdist_Pinv(0.975, freedom) : (double)NAN;
}
