/* A port to fill in. Copy this file to your project, and put your hardware where the comments say
 * so; docs/porting.md goes through it. Each function's whole contract is in pintle/port.h.
 *
 * As it stands it builds everywhere, answers UNSUPPORTED, and its clock stands still.
 */
#include "board.h"
#include "ticks.h"

static enum pintle_status transfer(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    (void)context; /* your bus: what you put into struct pintle_i2c */
    (void)limit_us;
    for (uint8_t i = 0; i < count; i++) {
        const struct pintle_segment *segment = &segments[i];
        uint8_t reading = segment->in != NULL;
        /* START (a repeated one from the second segment on), then this byte: */
        uint8_t first = (uint8_t)(address << 1 | reading);
        (void)first;
        /* no acknowledge: STOP and return PINTLE_NO_ANSWER */
        for (uint16_t k = 0; k < segment->length; k++) {
            /* reading: receive into segment->in[k]; acknowledge unless k is the last
             * writing: send segment->out[k]; no acknowledge: STOP, PINTLE_DATA_REFUSED */
        }
    }
    /* STOP. Whatever takes longer than limit_us: PINTLE_TIME_LIMIT, or CLOCK_STUCK or DATA_STUCK
     * where a line is seen to stay low. */
    return PINTLE_UNSUPPORTED;
}

static enum pintle_status recover(void *context)
{
    (void)context;
    /* Up to nine clock pulses while data is low, then STOP; PINTLE_OK when both lines are high. */
    return PINTLE_UNSUPPORTED;
}

static enum pintle_status spi_transfer(void *context, const struct pintle_spi_way *way,
                                       const struct pintle_segment *segments, uint8_t count)
{
    (void)context;
    /* Set mode, bit order and a clock no faster than way->clock_hz; where a line tells a display
     * commands from data, pull it low when way->command is set, else high (UNSUPPORTED where there
     * is none and it is set); pull select line way->select low, none at all for PINTLE_SELECT_NONE.
     */
    (void)way;
    for (uint8_t i = 0; i < count; i++) {
        const struct pintle_segment *segment = &segments[i];
        for (uint16_t k = 0; k < segment->length; k++) {
            uint8_t out = segment->out ? segment->out[k] : 0;
            (void)out; /* exchange it; what comes goes to segment->in[k], where that is set */
        }
    }
    /* Let the select line go, unless way->hold is set. */
    return PINTLE_UNSUPPORTED;
}

static enum pintle_status stream_send(void *context, const uint8_t *bytes, uint16_t count,
                                      uint32_t limit_us)
{
    (void)context;
    (void)bytes; /* lowest bit first, behind a start bit, a stop bit behind them */
    (void)count;
    (void)limit_us;
    return PINTLE_UNSUPPORTED;
}

static enum pintle_status stream_receive(void *context, uint8_t *bytes, uint16_t count,
                                         uint16_t *got, uint32_t limit_us)
{
    (void)context;
    (void)bytes; /* what an interrupt has put aside since the last call, or the hardware keeps */
    (void)count;
    (void)limit_us;
    *got = 0;
    return PINTLE_UNSUPPORTED;
}

static enum pintle_status reset(void *context)
{
    (void)context; /* or pintle_bitbang_onewire over a pin: see atmega328p.c */
    return PINTLE_UNSUPPORTED;
}

static enum pintle_status slots(void *context, const uint8_t *out, uint8_t *in, uint16_t count,
                                uint8_t strong)
{
    (void)context;
    (void)out;
    (void)in;
    (void)count;
    (void)strong;
    return PINTLE_UNSUPPORTED;
}

/* Your timer: what its overflow interrupt counts, and its registers. */
struct timer {
    volatile uint32_t laps;
    volatile const uint16_t *count;
    volatile const uint8_t *pending;
};

static uint64_t now_us(void *context)
{
    const struct timer *timer = context;
    if (!timer) {
        return 0; /* no timer yet */
    }
    /* interrupts off; the order of the two reads matters, ticks.h says why */
    uint16_t count = *timer->count;
    uint8_t pending = *timer->pending;
    uint32_t laps = timer->laps;
    /* interrupts as they were */
    return ticks_extend(laps, count, 16, pending); /* one tick is a microsecond here */
}

static void sleep_us(void *context, uint32_t us)
{
    (void)context;
    (void)us;
    /* Wait at least this long: spin for a few microseconds, without arithmetic of 64 bits where a
     * master made of pins waits with it; sleep for many. */
}

static enum pintle_status get_wall_us(void *context, int64_t *utc_us)
{
    (void)context;
    (void)utc_us;
    /* From a clock chip or a network. Leave the member null where there is none. */
    return PINTLE_NEVER_SET;
}

void board_start(void)
{
}

enum pintle_status board_i2c(struct pintle_i2c *bus)
{
    static const struct pintle_i2c_calls calls = { .transfer = transfer, .recover = recover };
    *bus = (struct pintle_i2c){ .calls = &calls,
                                .common = { .clock = &board_clock },
                                .bit_ns = 10000 };
    return PINTLE_OK;
}

enum pintle_status board_spi(struct pintle_spi *bus)
{
    static const struct pintle_spi_calls calls = { .transfer = spi_transfer };
    *bus = (struct pintle_spi){ .calls = &calls, .common = { .clock = &board_clock } };
    return PINTLE_OK;
}

enum pintle_status board_onewire(struct pintle_onewire *bus)
{
    static const struct pintle_onewire_calls calls = { .reset = reset, .slots = slots };
    *bus = (struct pintle_onewire){ .calls = &calls, .common = { .clock = &board_clock } };
    return PINTLE_OK;
}

enum pintle_status board_stream(struct pintle_stream *bus)
{
    static const struct pintle_stream_calls calls = { .send = stream_send,
                                                      .receive = stream_receive };
    *bus = (struct pintle_stream){ .calls = &calls, .common = { .clock = &board_clock } };
    return PINTLE_OK;
}

static const struct pintle_clock_calls clock_calls = { now_us, sleep_us, get_wall_us, NULL, NULL };
const struct pintle_clock board_clock = { &clock_calls, NULL };

void board_say(const char *text)
{
    (void)text;
}

void board_halt(void)
{
}
