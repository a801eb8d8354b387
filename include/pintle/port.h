/* port.h: the platform underneath, as small tables of callbacks.
 *
 * A port is a const table of functions and a context pointer that is handed back to each of them.
 * A new platform fills the tables in; src/port/mcu/skeleton.c has every callback stubbed and
 * explained. The core never calls hardware in any other way. New members go at the end; a null
 * member means that the platform cannot do it.
 *
 * Interfaces: I2C, SPI, 1-Wire, serial lines (streams of bytes), pins, a clock. A program fills in
 * those that it uses.
 *
 * A bus may be shared: with another task, another process, a second master. Where several users of
 * this library can get at one bus, give it `claims`; the core claims it for whatever must not be
 * torn apart (a transfer, read and write of one register, bank and register behind it, a 1-Wire
 * chip's address and command) and gives it back in between, so that nobody waits for a conversion,
 * unless the chip has one register for all its results.
 * Whoever else talks on the bus takes the same claim. What a chip's pointer or bank register holds
 * is remembered only on a bus that says it has no other master.
 *
 * Stable.
 */
#ifndef PINTLE_PORT_H
#define PINTLE_PORT_H

#include <stddef.h>
#include <stdint.h>

#include "pintle/config.h"
#include "pintle/status.h"

PINTLE_C_BEGIN

/* One stretch of a transfer: bytes to send, room for bytes to receive, or both.
 * I2C goes in one direction at a time: exactly one of `out` and `in` is set; both may be null when
 * length is 0, which is a write of nothing: the address alone.
 * SPI goes in both at once: without `out` zeros are sent, without `in` what comes is dropped; both
 * may be the same bytes. */
struct pintle_segment {
    const uint8_t *out;
    uint8_t *in;
    uint16_t length;
};

/* Taking turns on a bus where somebody else may be. Both are needed. */
struct pintle_claims {
    /* Wait until nobody else holds the bus, and hold it. TIME_LIMIT where that takes too long. The
     * core claims a bus once at a time and never while it holds another. */
    enum pintle_status (*acquire)(void *context);

    /* Let it go. */
    void (*release)(void *context);
};

struct pintle_clock;

/* What all buses have in common. */
struct pintle_bus {
    void *context;                      /* handed back to each call */
    const struct pintle_clock *clock;   /* must outlive it */
    const struct pintle_claims *claims; /* null: no one else uses the bus */
    uint8_t sole_master;                /* 1: only this object's users talk on the bus */
    uint8_t upsets; /* the core's: how often its chips may have heard what no one said */
};

/* What a bus remembers of a chip between transfers: the core's. Ports leave it zero. */
struct pintle_memory {
    uint8_t key; /* which chip; 0: none */
    uint16_t value;
};
#define PINTLE_REMEMBERED 4 /* chips per bus whose pointer or bank is known; a power of two */

struct pintle_i2c_calls {
    /* Send START and the 7-bit `address`, do the segments in order with a repeated START wherever
     * a new segment begins, acknowledge every received byte but the last of a segment, and STOP.
     * Return once the bus is free again, within `limit_us` whatever the chip does. No retries.
     * Statuses: NO_ANSWER, DATA_REFUSED, CLOCK_STUCK, DATA_STUCK, TIME_LIMIT, ARBITRATION_LOST;
     * NO_DEVICE: the bus is switched off; UNSUPPORTED: it cannot do this, and nothing was sent;
     * on a machine with an operating system also DENIED, HELD, IO_ERROR. */
    enum pintle_status (*transfer)(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us);

    /* Free a bus whose data line a chip holds low: up to nine clocks and a STOP (UM10204 section
     * 3.1.16). OK when both lines are high afterwards, else CLOCK_STUCK or DATA_STUCK. May be null.
     */
    enum pintle_status (*recover)(void *context);

    /* What the port has to add to the status of its last call, a clause for people ("" for
     * nothing); may be null. */
    const char *(*words)(void *context);

    /* Does anybody answer at this address? With as little effect on who does as there can be. OK,
     * NO_ANSWER, or what is wrong with the bus. Null: by a write of nothing. */
    enum pintle_status (*probe)(void *context, uint8_t address, uint32_t limit_us);

    /* For controllers that go on by themselves, by interrupts or DMA: both, or neither. Begin such
     * a transfer and return at once; OK, or why it can't begin. The segments and their bytes stay
     * where they are until it is over. The core begins one at a time. */
    enum pintle_status (*start)(void *context, uint8_t address,
                                const struct pintle_segment *segments, uint8_t count,
                                uint32_t limit_us);

    /* How is the one that was begun? NOT_READY while it goes on, which it does within its limit;
     * then, once, what `transfer` would have said. */
    enum pintle_status (*done)(void *context);
};

/* Room for one I2C transfer that goes on by itself: the core's. */
#define PINTLE_BACKGROUND_OUT 8 /* bytes out; longer ones are waited for */
struct pintle_sensor;
struct pintle_i2c;
struct pintle_background {
    struct pintle_sensor *of;     /* whose is under way; null: none */
    struct pintle_sensor *failed; /* whose last one did */
    uint64_t until_us;
    struct pintle_segment segments[2];
    uint8_t out[PINTLE_BACKGROUND_OUT];
    enum pintle_status (*exchange)(struct pintle_sensor *sensor,
                                   const struct pintle_segment *segments, uint8_t count);
    void (*finish)(struct pintle_i2c *bus);
};

/* One I2C bus. */
struct pintle_i2c {
    struct pintle_bus common;
    const struct pintle_i2c_calls *calls;
    uint32_t limit_us; /* the longest that one transfer may take; 0: what pintle_i2c_limit says */
    uint32_t bit_ns;   /* how long a bit takes: 10000 at 100 kHz; 0: unknown, taken for 100000 */
    struct pintle_memory known[PINTLE_REMEMBERED]; /* the core's: where its chips' pointers are */
    struct pintle_background *background;          /* the core's: see pintle_i2c_in_background */
};

/* How to talk to one chip on an SPI bus. */
struct pintle_spi_way {
    uint32_t clock_hz;     /* at most this fast */
    uint8_t select;        /* which select line, counted as the port does */
    uint8_t mode;          /* 0 to 3: clock polarity x 2 + clock phase */
    uint8_t low_bit_first; /* 0: the high bit of each byte goes first */
    uint8_t hold;          /* 1: the select line stays low afterwards, for the next transfer */
    uint8_t command;       /* 1: a line beside the bus says "command" and not "data"; displays have
                              one. UNSUPPORTED where there is none */
};

#define PINTLE_SELECT_NONE 0xff /* in place of a select line: clocks, and nobody is selected */

struct pintle_spi_calls {
    /* Pull the select line low, clock the segments through in order, let the line go unless it is
     * to be held. Returns when that is done. A status only where the hardware itself fails: SPI has
     * no acknowledge. */
    enum pintle_status (*transfer)(void *context, const struct pintle_spi_way *way,
                                   const struct pintle_segment *segments, uint8_t count);

    /* What the port has to add to the status of its last call, a clause for people ("" for
     * nothing); may be null. */
    const char *(*words)(void *context);
};

/* One SPI bus. Where it has other masters, share it by claims; and since some may not take them,
 * the bank of a part that has banks is asked after each access (ARBITRATION_LOST: it was moved),
 * which notices all but one that is moved away and back. */
struct pintle_spi {
    struct pintle_bus common;
    const struct pintle_spi_calls *calls;
    uint32_t top_hz; /* the fastest that its wires stand; 0: whatever the part allows */
    struct pintle_memory known[PINTLE_REMEMBERED]; /* the core's: which banks are chosen */
};

struct pintle_onewire_calls {
    /* The reset pulse. OK: at least one chip showed its presence; NO_ANSWER: none did;
     * DATA_STUCK: the line does not rise. */
    enum pintle_status (*reset)(void *context);

    /* `count` time slots, the lowest bit of the first byte first. A slot of bit 1 is a read slot
     * too: what the line was then comes back in `in`. Without `out` every bit is 1; `in` may be
     * null. With `strong` the line is driven high hard right after the last slot, to power a chip
     * that lives on the line, and stays so until the next call. */
    enum pintle_status (*slots)(void *context, const uint8_t *out, uint8_t *in, uint16_t count,
                                uint8_t strong);

    /* What the port has to add to the status of its last call, a clause for people ("" for
     * nothing); may be null. */
    const char *(*words)(void *context);
};

/* One 1-Wire line. */
struct pintle_onewire {
    struct pintle_bus common;
    const struct pintle_onewire_calls *calls;
    uint64_t powering_until_us; /* the core's: the strong pull-up is needed this long */
};

struct pintle_stream_calls {
    /* Send bytes, the lowest bit of each first. Returns when they are on their way, within
     * `limit_us`; TIME_LIMIT: some are not. */
    enum pintle_status (*send)(void *context, const uint8_t *bytes, uint16_t count,
                               uint32_t limit_us);

    /* Take what has come, up to `count` bytes, in order; *got of them. Where nothing has, wait for
     * the first byte, up to `limit_us` (0: not at all); none is OK too. What came wrong (a frame
     * with no stop bit) or was lost is left out. */
    enum pintle_status (*receive)(void *context, uint8_t *bytes, uint16_t count, uint16_t *got,
                                  uint32_t limit_us);

    /* What the port has to add to the status of its last call, a clause for people ("" for
     * nothing); may be null. */
    const char *(*words)(void *context);
};

#define PINTLE_STREAM_FRAME 32 /* the longest line or frame of any part */

/* One serial line, with one chip at its other end: eight bits, no parity, one stop bit. */
struct pintle_stream {
    struct pintle_bus common;
    const struct pintle_stream_calls *calls;
    uint32_t bit_ns; /* how long a bit takes: 104167 at 9600 baud; 0: unknown, taken for that */
    uint8_t held;    /* the core's: what has come of the frame under way */
    uint8_t begun;   /* the core's: it is known where a frame begins */
    uint8_t frame[PINTLE_STREAM_FRAME];
};

enum pintle_drive {
    PINTLE_DRIVE_LOW,  /* output, low */
    PINTLE_DRIVE_HIGH, /* output, high; never on a line that others may pull low then */
    PINTLE_RELEASE     /* input: a pull-up or another chip decides */
};

struct pintle_pin_calls {
    /* Drive or release the pin, at once. */
    void (*drive)(void *context, enum pintle_drive drive);

    /* 1 when the pin is high, whoever makes it so; 0 when it is low. */
    uint8_t (*level)(void *context);
};

/* One pin. */
struct pintle_pin {
    const struct pintle_pin_calls *calls;
    void *context;
};

struct pintle_clock_calls {
    /* Microseconds since some fixed moment; never goes back. A timer of fewer bits must be
     * extended: src/port/mcu/skeleton.c shows how. */
    uint64_t (*now_us)(void *context);

    /* Return no sooner than `us` microseconds later. */
    void (*sleep_us)(void *context, uint32_t us);

    /* The time of day: microseconds since 1970-01-01T00:00:00Z, no leap seconds. May be null.
     * NEVER_SET when the platform's clock was never set. */
    enum pintle_status (*get_wall_us)(void *context, int64_t *utc_us);

    /* Set the time of day. May be null. */
    enum pintle_status (*set_wall_us)(void *context, int64_t utc_us);

    /* Sleep until now_us says `at_us`, as deep as the machine can be woken from: what lies between
     * two records. Something else may wake it before. May be null: then sleep_us does. */
    void (*wake_at)(void *context, uint64_t at_us);
};

/* The clock. */
struct pintle_clock {
    const struct pintle_clock_calls *calls;
    void *context;
};

/* Claim a bus, for what is not a sensor's: a transfer, or more, that no one may come between. OK
 * where no one else uses it. Let it go. */
PINTLE_MUST_CHECK enum pintle_status pintle_bus_claim(const struct pintle_bus *bus);
void pintle_bus_release(const struct pintle_bus *bus);

/* Do one transfer to a 7-bit address (0x08 to 0x77), see pintle_i2c_calls.transfer. A bus found
 * stuck, or a transfer that ran into its limit, is recovered once and the transfer tried again; one
 * that lost the bus to another master is tried again. So a call takes two limits and a recovery at
 * the longest, and however long a claim takes.
 * BAD_ARGUMENT: an address out of range, no segment, or a segment with no buffer. */
PINTLE_MUST_CHECK enum pintle_status pintle_i2c_transfer(struct pintle_i2c *bus, uint8_t address,
                                                         const struct pintle_segment *segments,
                                                         uint8_t count);

/* How long such a transfer may take, in microseconds: the bus's own limit or, where it has none,
 * 31 bits for each byte (they are 9 a byte; one byte more for each segment's address) and 25 ms for
 * stretched clocks. A limit of its own must leave room for the longest transfer. */
uint32_t pintle_i2c_limit(const struct pintle_i2c *bus, const struct pintle_segment *segments,
                          uint8_t count);

/* Ask whether anything answers at an address: as the port does that, or by writing nothing to it.
 * OK or NO_ANSWER, or what is wrong with the bus. */
PINTLE_MUST_CHECK enum pintle_status pintle_i2c_probe(struct pintle_i2c *bus, uint8_t address);

/* Let the writes and reads of measurements go on by themselves, where the port has `start` and
 * `done` and the bus no claims: pintle_sensor_start and _collect return while bytes travel, and
 * collect says NOT_READY. Anyone else who needs the bus waits for them. `room` must outlive
 * the bus; a sensor must stay until its measurement was collected. UNSUPPORTED: the port hasn't
 * both. */
PINTLE_MUST_CHECK enum pintle_status pintle_i2c_in_background(struct pintle_i2c *bus,
                                                              struct pintle_background *room);

/* Do one transfer on an SPI bus, see pintle_spi_calls.transfer. BAD_ARGUMENT: no segment. */
PINTLE_MUST_CHECK enum pintle_status pintle_spi_transfer(struct pintle_spi *bus,
                                                         const struct pintle_spi_way *way,
                                                         const struct pintle_segment *segments,
                                                         uint8_t count);

PINTLE_C_END

#endif
