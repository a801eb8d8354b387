/* What a second channel does to a sensor. */
#include <math.h>

#include "regress/regress.h"

static double mean(const double *values, size_t count)
{
    double sum = 0;
    for (size_t i = 0; i < count; i++) {
        sum += values[i];
    }
    return sum / (double)count;
}

enum pintle_status pintle_regress_thermal(const double *x, const double *second,
                                          const double *reference, size_t count, int scale,
                                          struct pintle_regression *result)
{
    unsigned terms = scale ? 3 : 2;
    if (count < terms + 1) {
        return PINTLE_TOO_FEW;
    }
    gsl_error_handler_t *before = gsl_set_error_handler_off();
    struct pintle_priv_linear l = pintle_priv_linear_make(count, terms);
    double s0 = mean(second, count);
    double middle = mean(x, count);
    double *left = gsl_vector_ptr(l.y, 0);
    for (size_t i = 0; i < count; i++) {
        gsl_matrix_set(l.x, i, 0, 1);
        gsl_matrix_set(l.x, i, 1, second[i] - s0);
        if (scale) {
            gsl_matrix_set(l.x, i, 2, (x[i] - middle) * (second[i] - s0));
        }
        left[i] = (reference ? reference[i] : middle) - x[i];
    }
    enum pintle_status status = pintle_priv_linear_solve(&l, left);
    if (status == PINTLE_OK) {
        struct pintle_regression r;
        pintle_priv_linear_give(&l, &r);
        double b = scale ? r.number[2] : 0;
        *result = r;
        result->terms = 4;
        result->number[0] = s0;
        result->deviation[0] = 0;
        result->number[1] = r.number[1] - b * middle;
        result->deviation[1] = hypot(r.deviation[1], scale ? r.deviation[2] * middle : 0);
        result->number[2] = b;
        result->deviation[2] = scale ? r.deviation[2] : 0;
        result->number[3] = reference ? r.number[0] : 0;
        result->deviation[3] = r.deviation[0];
    }
    pintle_priv_linear_free(&l);
    gsl_set_error_handler(before);
    return status;
}

enum pintle_status pintle_regress_heat(const double *x, const double *second,
                                       const double *reference, size_t count,
                                       struct pintle_regression *result)
{
    if (count < 2) {
        return PINTLE_TOO_FEW;
    }
    gsl_error_handler_t *before = gsl_set_error_handler_off();
    struct pintle_priv_linear l = pintle_priv_linear_make(count, 1);
    double *left = gsl_vector_ptr(l.y, 0);
    for (size_t i = 0; i < count; i++) {
        gsl_matrix_set(l.x, i, 0, x[i] - second[i]);
        left[i] = reference[i] - x[i];
    }
    enum pintle_status status = pintle_priv_linear_solve(&l, left);
    if (status == PINTLE_OK) {
        pintle_priv_linear_give(&l, result);
    }
    pintle_priv_linear_free(&l);
    gsl_set_error_handler(before);
    return status;
}
