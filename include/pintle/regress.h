/* regress.h: fits that need a numeric library.
 *
 * A library of its own, pintle-regress, which links GSL, and is therefore, as is what links it,
 * under GPL-3 where it is handed on; everything else of Pintle is not, and does without it. Arrays
 * are the caller's. Standard uncertainties are those of the fit, with its degrees of freedom.
 *
 * Statuses: TOO_FEW measurements for as many unknowns; OUT_OF_RANGE: they don't tell the unknowns
 * apart, or make no correction; UNSUPPORTED: built without GSL.
 *
 * May still change.
 */
#ifndef PINTLE_REGRESS_H
#define PINTLE_REGRESS_H

#include <stddef.h>
#include <stdint.h>

#include "pintle/config.h"
#include "pintle/status.h"

PINTLE_C_BEGIN

#define PINTLE_REGRESS_TERMS 12

struct pintle_regression {
    unsigned terms;
    double number[PINTLE_REGRESS_TERMS];
    double deviation[PINTLE_REGRESS_TERMS]; /* standard uncertainties; 0 of what was given */
    double freedom;
    double residual; /* standard deviation of what is left over */
};

/* y = c0 + c1 (x - x0) + ... up to `order`, 1 to 3, by least squares; numbers x0, c0, c1, ... as of
 * a PINTLE_STAGE_POLYNOMIAL, x0 in the middle. With `outlier`, which has room for `count`,
 * robustly: a pair that is too far off a fit by Tukey's biweight gets a 1 there, the others 0, and
 * it is fitted to these. */
PINTLE_MUST_CHECK enum pintle_status pintle_regress_polynomial(const double *x, const double *y,
                                                               size_t count, unsigned order,
                                                               uint8_t *outlier,
                                                               struct pintle_regression *result);

/* Three axes, turned freely in a field of strength `field` (0: unknown, the sensor's volume is
 * kept): xyz[3 i + axis]. Numbers as of a PINTLE_STAGE_AXES, the matrix symmetric; the residual is
 * of the corrected strength. At least 12 measurements, of as many directions, 15 degrees apart. */
PINTLE_MUST_CHECK enum pintle_status pintle_regress_ellipsoid(const double *xyz, size_t count,
                                                              double field,
                                                              struct pintle_regression *result);

/* How a sensor follows a second channel: reference = c + x + (a + b x) (s - s0). Numbers s0, a, b,
 * c; b is 0 unless `scale`. No reference (null): what was measured did not change, and c is 0. */
PINTLE_MUST_CHECK enum pintle_status pintle_regress_thermal(const double *x, const double *second,
                                                            const double *reference, size_t count,
                                                            int scale,
                                                            struct pintle_regression *result);

/* How much of a second channel's warmth it feels: reference = x - k (s - x). Number k. */
PINTLE_MUST_CHECK enum pintle_status pintle_regress_heat(const double *x, const double *second,
                                                         const double *reference, size_t count,
                                                         struct pintle_regression *result);

/* By how many seconds, up to `most` either way, log b's clock is ahead of a's: where the two agree
 * best, but for a line. Times rise. */
PINTLE_MUST_CHECK enum pintle_status pintle_regress_lag(const double *time_a, const double *value_a,
                                                        size_t count_a, const double *time_b,
                                                        const double *value_b, size_t count_b,
                                                        double most, double *lag);

/* The factor that makes an interval of 95 % out of a standard uncertainty with so many degrees of
 * freedom (Student's); NaN with none, or without GSL. */
double pintle_regress_student(double freedom);

PINTLE_C_END

#endif
