/* Linear least squares, as all but one of the fits need it. */
#ifndef PINTLE_PRIV_REGRESS_H
#define PINTLE_PRIV_REGRESS_H

#include <gsl/gsl_errno.h>
#include <gsl/gsl_multifit.h>

#include "pintle/regress.h"

struct pintle_priv_linear {
    gsl_matrix *x;
    gsl_vector *y, *c;
    gsl_matrix *covariance;
    double residual; /* standard deviation, with `freedom` */
    double freedom;
    double scale; /* the largest y */
};

/* Fill in x, a row for each of `count` measurements; then solve for y. OUT_OF_RANGE: the columns
 * are not independent. */
struct pintle_priv_linear pintle_priv_linear_make(size_t count, size_t terms);
enum pintle_status pintle_priv_linear_solve(struct pintle_priv_linear *linear, const double *y);
void pintle_priv_linear_give(const struct pintle_priv_linear *linear,
                             struct pintle_regression *result);
void pintle_priv_linear_free(struct pintle_priv_linear *linear);

#endif
