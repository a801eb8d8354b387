/* Four drivers as one would write them by hand for one program, with nothing general in them. */
#ifndef BENCH_BY_HAND_H
#define BENCH_BY_HAND_H

#include "pintle/pintle.h"
#include "pintle/sample.h"

struct hand {
    const struct pintle_i2c *bus;
    const struct pintle_clock *clock;
    uint8_t address;
    int32_t T1, T2, T3;
    int64_t P1, P2, P3, P4, P5, P6, P7, P8, P9;
    int32_t H1, H2, H3, H4, H5, H6;
    float last[3]; /* every channel is worked out, as the engine does */
    uint32_t seconds;
};

/* `trim`: the BME280's, as the engine has read it. */
void hand_init(struct hand *hand, const struct pintle_i2c *bus, uint8_t address,
               const uint8_t *trim);

/* One measurement; returns the first channel, NaN where a transfer or a check fails. */
float hand_tmp102(struct hand *hand);
float hand_sht31(struct hand *hand);
float hand_bme280(struct hand *hand);
float hand_ds3231(struct hand *hand);

/* Likewise with everything that the engine's user gets: raw bytes and integers, what is known
 * against each value, a time limit that follows from the length, a time stamp, and the question
 * behind the data whether the chip has lost its supply. Returns 0 where a transfer or a check
 * fails. */
int marked_tmp102(struct hand *hand, struct pintle_sample *sample);
int marked_sht31(struct hand *hand, struct pintle_sample *sample);
int marked_bme280(struct hand *hand, struct pintle_sample *sample);
int marked_ds3231(struct hand *hand, struct pintle_sample *sample);

#endif
