/* correction.h: what a calibration adds to a reading, and how it is found.
 *
 * A correction is a straight line: corrected = value x gain + offset. It is fitted to pairs of a
 * sensor's value and a reference's, by running sums: millions of pairs in fixed memory, whatever
 * their means. Floats are all that is needed; the sums have twice a float's digits.
 */
#ifndef PINTLE_CORRECTION_H
#define PINTLE_CORRECTION_H

#include <stdint.h>

#include "pintle/reading.h"
#include "pintle/status.h"

struct pintle_correction {
    float gain;
    float offset; /* base unit */
    uint8_t set;  /* 1: there is one; anything else, such as erased memory: none */
};

/* May it be applied? It is set, its numbers are finite, its gain isn't 0. */
uint8_t pintle_correction_is_valid(const struct pintle_correction *correction);

/* Correct a reading that is not PINTLE_QUALITY_BUS; with no valid correction, mark it UNCORRECTED.
 * Where the outcome is no number any more it is marked RANGE. */
void pintle_correction_apply(const struct pintle_correction *correction,
                             struct pintle_reading *reading);

/* A correction as bytes, for an EEPROM or a page of flash: a mark, gain and offset as IEEE 754
 * binary32 low byte first, and a CRC-16 (polynomial 0x1021 from 0xffff). */
#define PINTLE_CORRECTION_BYTES 11
void pintle_correction_pack(const struct pintle_correction *correction,
                            uint8_t bytes[PINTLE_CORRECTION_BYTES]);

/* And back. BAD_CRC: this is none (erased memory, for one); OUT_OF_RANGE: it isn't valid. There is
 * no correction then. */
PINTLE_MUST_CHECK enum pintle_status
pintle_correction_unpack(struct pintle_correction *correction,
                         const uint8_t bytes[PINTLE_CORRECTION_BYTES]);

/* A number of twice a float's digits: the sum of the two. */
struct pintle_wide {
    float high, low;
};

/* Running sums of a fit. Zero it to begin. */
struct pintle_fit {
    uint32_t count;
    struct pintle_wide mean_x, mean_y;
    struct pintle_wide xx, xy, yy; /* squared and mixed deviations from the means */
};

/* The outcome of a fit. */
struct pintle_line {
    struct pintle_correction correction;
    float variance;        /* of the residuals, with the fit's degrees of freedom; 0 if exact */
    float offset_variance; /* of the line's height at mean_x */
    float gain_variance;
    float mean_x;
};

/* Add one pair: what the sensor said and what the reference said. OUT_OF_RANGE, and nothing added:
 * one of them is no finite number. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_add(struct pintle_fit *fit, float sensor,
                                                    float reference);

/* The constant offset that fits best (gain 1). TOO_FEW: no pair yet. OUT_OF_RANGE: the correction
 * is not valid. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_offset(const struct pintle_fit *fit,
                                                       struct pintle_line *line);

/* The straight line that fits best, by least squares. TOO_FEW: fewer than two pairs, or all at
 * one sensor value. OUT_OF_RANGE likewise. */
PINTLE_MUST_CHECK enum pintle_status pintle_fit_line(const struct pintle_fit *fit,
                                                     struct pintle_line *line);

#endif
