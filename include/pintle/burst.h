/* burst.h: many samples at once, from chips that keep them in a FIFO: none is missed although
 * nobody asks for each.
 *
 *     pintle_burst_init      no traffic
 *     pintle_burst_collect   again and again, before the FIFO is full (pintle_burst_room_us says
 * how long that takes); the first calls set the chip up and say NOT_READY
 *
 * Each sample has its time: the chip's rate is measured, against the port's clock, from how many
 * samples come in how long. Where nobody came in time, the oldest are lost: the first sample behind
 * the hole is marked GAP, and `lost` says how many there were by the time that the hole took. After
 * any failure the next call sets the chip up again.
 *
 * Stable.
 */
#ifndef PINTLE_BURST_H
#define PINTLE_BURST_H

#include "pintle/sensor.h"

PINTLE_C_BEGIN

/* A part's FIFO. Programs are steps (part.h); registers are in the part's byte order. */
struct pintle_fifo {
    const struct pintle_step *start; /* behind the part's set-up: it is on, and empty */
    const struct pintle_step *empty; /* throws away what is in it */
    const struct pintle_step *check; /* behind each batch: is the chip still as start left it? */
    const uint32_t *periods_ns;      /* a table: between two samples, by the option of `rate` */
    uint16_t count_reg;              /* how much is in it */
    uint16_t count_mask;
    uint16_t data_reg;
    uint16_t over_reg;   /* PINTLE_NO_REG: it is said by nothing but the count */
    uint16_t depth;      /* samples that it holds */
    uint16_t channels;   /* the set of those that a sample in it has; the others are marked IDLE */
    uint8_t over_mask;   /* bits of over_reg that say that some were lost */
    uint8_t count_width; /* bytes of count_reg: 1 or 2 */
    uint8_t per_count;   /* so many of what is counted make a sample: its bytes, or 1 */
    uint8_t record;      /* bytes of a sample, up to PINTLE_BURST_BYTES, */
    uint8_t at;          /* and where they go in the raw block */
    uint8_t fill;        /* what the bytes of that hold which a sample in the FIFO lacks */
    uint8_t at_once;     /* samples that one transfer may fetch */
    uint8_t torn;        /* 1: after a loss what is left begins anywhere in a sample */
    uint8_t rate;        /* a setting */
};

#define PINTLE_BURST_BYTES 48 /* of one transfer */

/* Only the calls below touch the members. */
struct pintle_burst {
    struct pintle_sensor *sensor;
    uint64_t anchor_us; /* when counting began, by the port's clock */
    uint64_t newest_us; /* of the last sample that was fetched */
    uint32_t since;     /* samples fetched since the anchor */
    uint32_t period_ns; /* as measured so far */
    uint32_t lost;      /* samples, since init */
    uint16_t batch;     /* samples that were fetched last */
    uint8_t state;
    uint8_t gap; /* the next sample is the first behind a hole */
};

/* `sensor` must outlive it; nothing else may measure with it. NO_ABILITY: the part has no FIFO. */
PINTLE_MUST_CHECK enum pintle_status pintle_burst_init(struct pintle_burst *burst,
                                                       struct pintle_sensor *sensor);

/* Fetch what has been measured since the last call, the oldest first, up to `room` samples; *count
 * of them. `readings` has room for them, a reading for each of the part's channels, sample after
 * sample. NOT_READY: it is being set up; call again after pintle_sensor_wait_us. OK with none:
 * nothing new yet. Failures as of pintle_sensor_collect; STAYED_BUSY: nothing new for much longer
 * than there should be. */
PINTLE_MUST_CHECK enum pintle_status pintle_burst_collect(struct pintle_burst *burst,
                                                          struct pintle_reading *readings,
                                                          uint16_t room, uint16_t *count);

/* When sample `index` of those that were fetched last was taken: UTC, microseconds since 1970. 0:
 * the port has no wall clock. */
int64_t pintle_burst_time_us(const struct pintle_burst *burst, uint16_t index);

/* How long the FIFO takes to fill, in microseconds, with the sensor's settings. */
uint32_t pintle_burst_room_us(const struct pintle_burst *burst);

PINTLE_C_END

#endif
