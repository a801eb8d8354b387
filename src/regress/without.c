/* Built without GSL. */
#include <math.h>

#include "pintle/regress.h"

#define UNUSED(x) ((void)(x))

enum pintle_status pintle_regress_polynomial(const double *x, const double *y, size_t count,
                                             unsigned order, uint8_t *outlier,
                                             struct pintle_regression *result)
{
    UNUSED(x), UNUSED(y), UNUSED(count), UNUSED(order), UNUSED(outlier), UNUSED(result);
    return PINTLE_UNSUPPORTED;
}

enum pintle_status pintle_regress_ellipsoid(const double *xyz, size_t count, double field,
                                            struct pintle_regression *result)
{
    UNUSED(xyz), UNUSED(count), UNUSED(field), UNUSED(result);
    return PINTLE_UNSUPPORTED;
}

enum pintle_status pintle_regress_thermal(const double *x, const double *second,
                                          const double *reference, size_t count, int scale,
                                          struct pintle_regression *result)
{
    UNUSED(x), UNUSED(second), UNUSED(reference), UNUSED(count), UNUSED(scale), UNUSED(result);
    return PINTLE_UNSUPPORTED;
}

enum pintle_status pintle_regress_heat(const double *x, const double *second,
                                       const double *reference, size_t count,
                                       struct pintle_regression *result)
{
    UNUSED(x), UNUSED(second), UNUSED(reference), UNUSED(count), UNUSED(result);
    return PINTLE_UNSUPPORTED;
}

enum pintle_status pintle_regress_lag(const double *time_a, const double *value_a, size_t count_a,
                                      const double *time_b, const double *value_b, size_t count_b,
                                      double most, double *lag)
{
    UNUSED(time_a), UNUSED(value_a), UNUSED(count_a), UNUSED(time_b), UNUSED(value_b);
    UNUSED(count_b), UNUSED(most), UNUSED(lag);
    return PINTLE_UNSUPPORTED;
}

double pintle_regress_student(double freedom)
{
    UNUSED(freedom);
    return (double)NAN;
}
