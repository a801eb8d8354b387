/* correct.h: what a calibration adds to readings.
 *
 * A correction is a few stages, an array that the caller owns; each changes one channel of a sample
 * (three, of axes). They are applied in the order of the array, which has to be the order of their
 * kinds: first what a second channel does to this one, then its own curve, then the axes. That is
 * behind the chip's trim, in front of whatever is derived.
 *
 *     static const float line[] = { 20, 19.4f, 1.012f };
 *     static const struct pintle_correct_stage stage = { .kind = PINTLE_STAGE_POLYNOMIAL,
 *                                                .count = 3,
 *                                                .numbers = line,
 *                                                .lowest = 0,
 *                                                .highest = 40 };
 *     pintle_correct(&stage, 1, sea.reading, 1);
 *
 * Each stage says where it holds; beyond that a reading is marked SPAN. Estimate.h finds the
 * numbers of most kinds; keep.h keeps stages in a memory chip.
 *
 * Stable.
 */
#ifndef PINTLE_CORRECT_H
#define PINTLE_CORRECT_H

#include <stdint.h>

#include "pintle/reading.h"
#include "pintle/status.h"

PINTLE_C_BEGIN

/* x is the value that goes in, s the second channel's; numbers in this order. */
enum pintle_stage_kind {
    PINTLE_STAGE_NONE,
    PINTLE_STAGE_HEAT,    /* k: x - k (s - x). The second is what warms it */
    PINTLE_STAGE_THERMAL, /* s0, a, b: x + (a + b x) (s - s0): offset and scale that depend on it */
    PINTLE_STAGE_POLYNOMIAL, /* x0, c0, c1, c2, c3: c0 + c1 (x - x0) + ...; c2 and c3 may
                                be missing: a line, and with c1 = 1 an offset */
    PINTLE_STAGE_TABLE,      /* x, y, x, y, ...: x rising, straight between; at least two points.
                                Beyond its ends on as straight as there, and marked */
    PINTLE_STAGE_AXES        /* three biases, then a matrix by rows: M (xyz - bias) */
};
#define PINTLE_STAGE_KINDS (PINTLE_STAGE_AXES + 1)

#define PINTLE_STAGE_NUMBERS 64 /* of one stage at most */

struct pintle_correct_stage {
    uint8_t kind;    /* enum pintle_stage_kind; anything else, such as erased memory: none */
    uint8_t channel; /* of the sample; of axes x, with y and z behind it */
    uint8_t count;   /* of numbers */
    uint8_t by;      /* which second channel, by the caller's own numbering: keep.h keeps it */
    float lowest,
        highest;       /* x, of HEAT and THERMAL s, where it holds; both 0: anywhere. Base units */
    float uncertainty; /* standard, of what comes out; base unit. 0: nobody knows */
    const float *numbers;
    const struct pintle_reading *second; /* of HEAT and THERMAL; null: there is none now */
};

/* May it be applied? Its kind has as many numbers, they are finite, it tells one value from another
 * (no gain of 0, no matrix that flattens), its table rises. */
uint8_t pintle_correct_is_valid(const struct pintle_correct_stage *stage);

/* Correct the first `channels` readings of a sample by stages which pintle_correct_is_valid has
 * passed. Readings with no value (BUS, IDLE) are left alone. A channel with no stage is marked
 * UNCORRECTED, one whose second channel is missing SPAN besides; what speaks against the second
 * speaks against it too. Where the outcome is no number any more it is marked RANGE. From an
 * interrupt as well. */
void pintle_correct(const struct pintle_correct_stage *stages, uint8_t count,
                    struct pintle_reading *readings, uint8_t channels);

PINTLE_C_END

#endif
