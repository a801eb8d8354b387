/* Two logs whose clocks differ. */
#include <gsl/gsl_fit.h>
#include <gsl/gsl_interp.h>
#include <gsl/gsl_min.h>
#include <math.h>
#include <stdlib.h>

#include "regress/regress.h"

struct logs {
    const double *time_a, *value_a, *time_b, *value_b;
    size_t count_a, count_b;
    gsl_interp *between;
    double *x, *y; /* room for pairs */
};

/* What a line leaves over of the two, b's clock set back by the lag; infinite where they have too
 * little in common. */
static double left_over(double lag, void *context)
{
    struct logs *logs = context;
    size_t pairs = 0;
    double c0, c1, v00, v01, v11;
    double squares = 0;
    for (size_t i = 0; i < logs->count_a; i++) {
        double at = logs->time_a[i] + lag;
        if (at >= logs->time_b[0] && at <= logs->time_b[logs->count_b - 1]) {
            logs->x[pairs] = logs->value_a[i];
            logs->y[pairs++] =
                gsl_interp_eval(logs->between, logs->time_b, logs->value_b, at, NULL);
        }
    }
    if (pairs < 4 || 2 * pairs < logs->count_a) {
        return HUGE_VAL;
    }
    gsl_fit_linear(logs->x, 1, logs->y, 1, pairs, &c0, &c1, &v00, &v01, &v11, &squares);
    return squares / (double)(pairs - 2);
}

#define STEPS 200

static enum pintle_status search(struct logs *logs, double most, double *lag)
{
    double best = HUGE_VAL;
    int at = 0;
    for (int i = -STEPS; i <= STEPS; i++) {
        double left = left_over(most * i / STEPS, logs);
        if (left < best) {
            best = left;
            at = i;
        }
    }
    if (best == HUGE_VAL) {
        return PINTLE_TOO_FEW;
    }
    if (abs(at) == STEPS) { /* it would be further still */
        return PINTLE_OUT_OF_RANGE;
    }
    gsl_function f = { left_over, logs };
    gsl_min_fminimizer *m = gsl_min_fminimizer_alloc(gsl_min_fminimizer_brent);
    *lag = most * at / STEPS;
    if (gsl_min_fminimizer_set(m, &f, *lag, most * (at - 1) / STEPS, most * (at + 1) / STEPS)
        == GSL_SUCCESS) {
        for (int i = 0; i < 60 && gsl_min_fminimizer_iterate(m) == GSL_SUCCESS; i++) {
            *lag = gsl_min_fminimizer_x_minimum(m);
        }
    }
    gsl_min_fminimizer_free(m);
    return PINTLE_OK;
}

enum pintle_status pintle_regress_lag(const double *time_a, const double *value_a, size_t count_a,
                                      const double *time_b, const double *value_b, size_t count_b,
                                      double most, double *lag)
{
    struct logs logs = { time_a, value_a, time_b, value_b, count_a, count_b, NULL, NULL, NULL };
    *lag = 0;
    if (count_a < 4 || count_b < 2 || !(most > 0)) {
        return PINTLE_TOO_FEW;
    }
    gsl_error_handler_t *before = gsl_set_error_handler_off();
    logs.x = malloc(count_a * sizeof *logs.x);
    logs.y = malloc(count_a * sizeof *logs.y);
    logs.between = gsl_interp_alloc(gsl_interp_linear, count_b);
    int failed = !logs.x || !logs.y || gsl_interp_init(logs.between, time_b, value_b, count_b);
    enum pintle_status status = failed ? PINTLE_OUT_OF_RANGE : search(&logs, most, lag);
    gsl_interp_free(logs.between);
    free(logs.x);
    free(logs.y);
    gsl_set_error_handler(before);
    return status;
}
