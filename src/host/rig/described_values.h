/* What a described part's decode function works on: coefficients, expressions, marks over several
 * bytes; and commands with bytes behind them. */
#ifndef PINTLE_PRIV_RIG_DESCRIBED_VALUES_H
#define PINTLE_PRIV_RIG_DESCRIBED_VALUES_H

#include "host/rig/expression.h"
#include "pintle/sample.h"
#include "pintle/sheet.h"

#define COEFFICIENTS 32
#define WIDE_MARKS 32
#define SENDS 8
#define SEND_BYTES 31

struct coefficient {
    const char *name;
    uint16_t bit; /* of the trim, from the high bit of its first byte on */
    uint8_t bits, is_signed;
};

/* Where the bytes, read as one number, are so, or unless they are: this is known of the channel. */
struct wide_mark {
    uint32_t mask, want;
    pintle_marks quality;
    uint8_t channel, at, count, low_first, unless, unused[3]; /* no gaps: they are compared */
};

/* A command that takes bytes with it. */
struct described_send {
    uint16_t code;
    uint8_t count;
    uint8_t bytes[SEND_BYTES];
};

/* The part itself comes first, so that its functions find the rest. */
struct described_part {
    struct pintle_part part;
    struct pintle_part plain; /* the same without expressions and such marks */
    struct pintle_link link;
    const struct pintle_link *bus; /* that `link` goes over */
    unsigned coefficients, marks, sends;
    struct coefficient coefficient[COEFFICIENTS];
    struct expression value[PINTLE_MOST_CHANNELS];
    struct wide_mark mark[WIDE_MARKS];
    struct described_send send[SENDS];
};

static inline const struct described_part *pintle_priv_described_of(const struct pintle_part *part)
{
    return (const struct described_part *)(const void *)part;
}

/* Do all its channels follow from what others read, so that a simulated chip can read these? */
bool pintle_priv_described_turns(const struct pintle_sheet *sheet);

/* How far a channel's expression is off where each channel in it is by this much, in whatever
 * direction (the root of the squares); NaN: it has none. */
double pintle_priv_described_spread(const struct pintle_part *part,
                                    const struct pintle_block *block, unsigned channel,
                                    const double *each);

#endif
