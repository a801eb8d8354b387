/* correction.h: what a calibration adds to a reading, and how it is found.
 *
 * A correction is a straight line: corrected = value x gain + offset. It is fitted to pairs of a
 * sensor's value and a reference's, by running sums: any number of pairs in fixed memory, in
 * single precision without losing it to large means.
 */
#ifndef PINTLE_CORRECTION_H
#define PINTLE_CORRECTION_H

#include <stdint.h>

#include "pintle/reading.h"
#include "pintle/status.h"

struct pintle_correction {
    float gain;
    float offset; /* base unit */
    uint8_t set;  /* 0: there is none */
};

/* Correct a reading that is not PINTLE_QUALITY_BUS; with no correction set, mark it UNCORRECTED. */
void pintle_correction_apply(const struct pintle_correction *correction,
                             struct pintle_reading *reading);

/* Running sums of a fit. Zero it to begin. */
struct pintle_fit {
    uint16_t count;
    float origin_x, origin_y; /* the first pair: all that follows is counted from it */
    float mean_x, mean_y;
    float xx, xy, yy; /* sums of squared and mixed deviations from the means */
};

/* The outcome of a fit. */
struct pintle_line {
    struct pintle_correction correction;
    float variance;        /* of the residuals, with the fit's degrees of freedom; 0 if exact */
    float offset_variance; /* of the line's height at mean_x */
    float gain_variance;
    float mean_x;
};

/* Add one pair: what the sensor said and what the reference said. */
void pintle_fit_add(struct pintle_fit *fit, float sensor, float reference);

/* The constant offset that fits best (gain 1). NOT_READY: no pair yet. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_offset(const struct pintle_fit *fit,
                                                       struct pintle_line *line);

/* The straight line that fits best, by least squares. NOT_READY: fewer than two pairs, or all at
 * one sensor value. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_line(const struct pintle_fit *fit,
                                                     struct pintle_line *line);

#endif
