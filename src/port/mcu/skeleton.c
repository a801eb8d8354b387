/* A port to fill in. Copy this file to your project, and put your hardware where the comments say
 * so; docs/porting.md goes through it. Each function's whole contract is in pintle/port.h.
 *
 * As it stands it builds everywhere, answers UNSUPPORTED, and its clock stands still.
 */
#include "pintle/port.h"

#include "skeleton.h"

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
    /* Set mode, bit order and a clock no faster than way->clock_hz; pull select line way->select
     * low. */
    (void)way;
    for (uint8_t i = 0; i < count; i++) {
        const struct pintle_segment *segment = &segments[i];
        for (uint16_t k = 0; k < segment->length; k++) {
            uint8_t out = segment->out ? segment->out[k] : 0;
            (void)out; /* exchange it; what comes goes to segment->in[k], where that is set */
        }
    }
    /* Let the select line go. */
    return PINTLE_UNSUPPORTED;
}

static uint64_t now_us(void *context)
{
    (void)context;
    /* A free-running timer, extended to 64 bits by its overflow interrupt. */
    return 0;
}

static void sleep_us(void *context, uint32_t us)
{
    (void)context;
    (void)us;
    /* Wait at least this long: spin for a few microseconds, sleep for many. */
}

static enum pintle_status get_wall_us(void *context, int64_t *utc_us)
{
    (void)context;
    (void)utc_us;
    /* From a clock chip or a network. Leave the member null where there is none. */
    return PINTLE_NOT_READY;
}

struct pintle_i2c skeleton_i2c(void *context)
{
    static const struct pintle_i2c_calls calls = { transfer, recover };
    return (struct pintle_i2c){ &calls, context, 0 };
}

struct pintle_spi skeleton_spi(void *context)
{
    static const struct pintle_spi_calls calls = { spi_transfer };
    return (struct pintle_spi){ &calls, context, 0 };
}

struct pintle_clock skeleton_clock(void *context)
{
    static const struct pintle_clock_calls calls = { now_us, sleep_us, get_wall_us, NULL };
    return (struct pintle_clock){ &calls, context };
}
