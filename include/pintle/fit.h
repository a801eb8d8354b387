/* fit.h: finding corrections, by running sums.
 *
 * Millions of values in fixed memory, whatever their means: the sums have twice a float's digits.
 * Each object is zeroed to begin. Regress.h of the host has the methods that need a library.
 *
 *     pintle_fit_spread   mean and variance: a gyroscope's bias at rest, one end of two points
 *     pintle_fit      an offset or a straight line through pairs, by least squares
 *     pintle_fit_faces    positions of an accelerometer: of all six biases, scales, what one axis
 * sees of another; of one axis up, level and down its bias and scale pintle_fit_still    was it
 * held still, has it settled?
 *
 * Stable.
 */
#ifndef PINTLE_FIT_H
#define PINTLE_FIT_H

#include <stdint.h>

#include "pintle/reading.h"
#include "pintle/status.h"

PINTLE_C_BEGIN

/* A number of twice a float's digits: the sum of the two. */
struct pintle_fit_wide {
    float high, low;
};

/* --- one series --- */

struct pintle_fit_spread {
    uint32_t count;
    struct pintle_fit_wide mean;
    struct pintle_fit_wide squares; /* squared deviations from it */
    float least, greatest;
};

/* OUT_OF_RANGE, and nothing added: it is no finite number, or there are 2^32 - 1 already. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_spread_add(struct pintle_fit_spread *spread,
                                                           float value);

float pintle_fit_spread_mean(const struct pintle_fit_spread *spread); /* 0 of none */
float pintle_fit_spread_variance(
    const struct pintle_fit_spread *spread); /* of one value; 0 of fewer than 2 */

/* --- pairs --- */

struct pintle_fit {
    uint32_t count;
    struct pintle_fit_wide mean_x, mean_y;
    struct pintle_fit_wide xx, xy, yy; /* squared and mixed deviations from the means */
};

/* corrected = gain x value + offset = mean_y + gain (value - mean_x) */
struct pintle_fit_result {
    float gain;
    float offset;
    float mean_x, mean_y;
    uint32_t freedom;      /* degrees of it: pairs less what was fitted */
    float variance;        /* of the residuals, with those; 0 if exact, or nobody knows */
    float offset_variance; /* of the line's height at mean_x */
    float gain_variance;
};

/* Add one pair: what the sensor said and what the reference said. OUT_OF_RANGE, and nothing added:
 * one of them is no finite number. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_add(struct pintle_fit *fit, float sensor,
                                                    float reference);

/* The constant offset that fits best (gain 1). TOO_FEW: no pair yet. OUT_OF_RANGE: the numbers are
 * beyond all bounds. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_offset(const struct pintle_fit *fit,
                                                       struct pintle_fit_result *line);

/* The straight line that fits best, by least squares. TOO_FEW: fewer than two pairs, or all at
 * one sensor value. OUT_OF_RANGE likewise, and of a gain of 0. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_line(const struct pintle_fit *fit,
                                                     struct pintle_fit_result *line);

/* The line through two points, each the mean of what the sensor said while the reference said one
 * value; its variances follow from the scatter. Statuses likewise. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_two_points(const struct pintle_fit_spread *low,
                                                           float low_reference,
                                                           const struct pintle_fit_spread *high,
                                                           float high_reference,
                                                           struct pintle_fit_result *line);

/* The line as numbers of a PINTLE_STAGE_POLYNOMIAL. */
void pintle_fit_numbers(const struct pintle_fit_result *line, float numbers[3]);

/* Its standard uncertainty, squared, for this value of the sensor. */
float pintle_fit_variance(const struct pintle_fit_result *line, float value);

/* --- six positions: each axis up and down once --- */

#define PINTLE_FACES 6

struct pintle_fit_faces {
    struct pintle_fit_spread of[PINTLE_FACES][3]; /* x up, x down, y up, ... */
};

/* Which face is up, of one measurement of an accelerometer: 0 x up, 1 x down, 2 y up, ... 5 z down;
 * -1: none is within 15 degrees of up. */
int8_t pintle_fit_face_up(const float xyz[3]);

/* Add a measurement with that face up. BAD_ARGUMENT: there is no such face; OUT_OF_RANGE as of
 * pintle_fit_spread_add. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_faces_add(struct pintle_fit_faces *faces,
                                                          uint8_t face, const float xyz[3]);

/* What six positions tell. */
struct pintle_fit_axes {
    float numbers[12];    /* of a PINTLE_STAGE_AXES */
    float variance;       /* of a position's mean, from what the model leaves over of all six: how
                             they were held, and noise; 6 degrees of freedom */
    float noise_variance; /* of a single measurement */
    float bias_variance;  /* of each bias */
    float
        scale_variance; /* of each element of the inverse matrix, which the sensor multiplies by */
};

/* `gravity`: what is felt at rest, 9.80665 m/s2 or what the place has. TOO_FEW: a position is
 * missing; OUT_OF_RANGE: they make no correction. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_faces_solve(const struct pintle_fit_faces *faces,
                                                            float gravity,
                                                            struct pintle_fit_axes *axes);

/* One axis by its orientations: up, down and, where any other face was taken, level. TOO_FEW: it
 * was not both up and down; BAD_ARGUMENT: there are three axes; else as pintle_fit_line. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_faces_axis(const struct pintle_fit_faces *faces,
                                                           uint8_t axis, float gravity,
                                                           struct pintle_fit_result *line);

/* --- still, or settled --- */

/* Set `axes` and `limit`. */
struct pintle_fit_still {
    uint8_t axes;   /* 1 to 3 */
    float limit;    /* from the least to the greatest of each axis */
    uint32_t count; /* so many measurements in a row were within it, this one among them */
    float least[3], greatest[3];
};

/* Count a measurement. One that lies further from another than the limit begins anew: 0 then, else
 * the count. What is no number begins anew too, and counts nothing. */
uint32_t pintle_fit_still_add(struct pintle_fit_still *still, const float *values);

PINTLE_C_END

#endif
