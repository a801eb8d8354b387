/* I2C over two pins, after UM10204 (rev. 7): section 3.1 for the protocol, table 10 for the
 * times. In whole microseconds:
 *
 *                          at least, us    100 kHz    400 kHz    1 MHz      here
 *     clock low                            4.7        1.3        0.5        low_us   5  2  1
 *     clock high                           4.0        0.6        0.26       high_us  5  1  1
 *     hold of START                        4.0        0.6        0.26       high_us
 *     set-up of a repeated START           4.7        0.6        0.26       high_us
 *     set-up of STOP                       4.0        0.6        0.26       high_us
 *     free between STOP and START          4.7        1.3        0.5        low_us
 */
#include "pintle/bitbang.h"

static void rest(const struct pintle_bitbang_i2c *m, uint16_t us)
{
    m->clock->calls->sleep_us(m->clock->context, us);
}

static void drive(const struct pintle_pin *pin, uint8_t high)
{
    pin->calls->drive(pin->context, high ? PINTLE_RELEASE : PINTLE_DRIVE_LOW);
}

static uint8_t level(const struct pintle_pin *pin)
{
    return pin->calls->level(pin->context);
}

/* A transfer has until `deadline_us`, and so many microseconds of waiting even where the clock
 * stands still. */
static void allow(struct pintle_bitbang_i2c *m, uint32_t limit_us)
{
    m->deadline_us = m->clock->calls->now_us(m->clock->context) + limit_us;
    m->waits = limit_us;
}

static uint8_t is_late(const struct pintle_bitbang_i2c *m)
{
    return m->waits == 0 || m->clock->calls->now_us(m->clock->context) >= m->deadline_us;
}

/* Wait a microsecond for somebody else; 0: no longer. */
static uint8_t wait(struct pintle_bitbang_i2c *m)
{
    if (is_late(m)) {
        return 0;
    }
    m->waits--;
    rest(m, 1);
    return 1;
}

/* Let the clock line rise and wait until it has: chips may stretch it. */
static enum pintle_status clock_up(struct pintle_bitbang_i2c *m)
{
    drive(&m->clock_line, 1);
    while (!level(&m->clock_line)) {
        if (!wait(m)) {
            return PINTLE_CLOCK_STUCK;
        }
    }
    rest(m, m->high_us);
    return PINTLE_OK;
}

#define STILL_PERIODS 10

/* Somebody else holds data low: another master, whose clock moves on (section 3.1.8), or a line
 * that is stuck. Get out of the way until nothing moves, without a STOP; a clock that is low by our
 * doing stays so for its time. */
static enum pintle_status yield(struct pintle_bitbang_i2c *m)
{
    uint16_t still = 0;
    m->begun = 0;
    drive(&m->data_line, 1);
    rest(m, m->low_us);
    drive(&m->clock_line, 1);
    while (still < STILL_PERIODS * (m->low_us + m->high_us) && wait(m)) {
        still = level(&m->clock_line) ? (uint16_t)(still + 1) : 0;
    }
    if (!level(&m->clock_line)) {
        return PINTLE_CLOCK_STUCK;
    }
    return level(&m->data_line) ? PINTLE_ARBITRATION_LOST : PINTLE_DATA_STUCK;
}

static enum pintle_status start(struct pintle_bitbang_i2c *m)
{
    drive(&m->data_line, 1);
    rest(m, m->low_us);
    enum pintle_status status = clock_up(m);
    if (status != PINTLE_OK) {
        return status;
    }
    if (!level(&m->data_line)) {
        return yield(m);
    }
    drive(&m->data_line, 0);
    rest(m, m->high_us);
    drive(&m->clock_line, 0);
    m->begun = 1;
    return PINTLE_OK;
}

static enum pintle_status stop(struct pintle_bitbang_i2c *m)
{
    m->begun = 0;
    drive(&m->data_line, 0);
    rest(m, m->low_us);
    enum pintle_status status = clock_up(m);
    drive(&m->data_line, 1);
    rest(m, m->low_us);
    if (status == PINTLE_OK && !level(&m->data_line)) {
        return PINTLE_DATA_STUCK;
    }
    return status;
}

/* One clock with the data line at `bit`; *seen is what the line really was. */
static enum pintle_status shift(struct pintle_bitbang_i2c *m, uint8_t bit, uint8_t *seen)
{
    drive(&m->data_line, bit);
    rest(m, m->low_us);
    enum pintle_status status = clock_up(m);
    *seen = level(&m->data_line);
    drive(&m->clock_line, 0);
    return status;
}

/* Send a byte; *acknowledged says whether somebody took it. A line that is low where we let it be
 * high is held by somebody else. */
static enum pintle_status send(struct pintle_bitbang_i2c *m, uint8_t byte, uint8_t *acknowledged)
{
    uint8_t seen = 0;
    for (uint8_t mask = 0x80; mask != 0; mask >>= 1) {
        uint8_t bit = (byte & mask) != 0;
        enum pintle_status status = shift(m, bit, &seen);
        if (status != PINTLE_OK) {
            return status;
        }
        if (bit && !seen) {
            return yield(m);
        }
    }
    enum pintle_status status = shift(m, 1, &seen);
    *acknowledged = !seen;
    return status;
}

static enum pintle_status receive(struct pintle_bitbang_i2c *m, uint8_t *byte, uint8_t last)
{
    uint8_t seen = 0;
    uint8_t bits = 0;
    for (uint8_t i = 0; i < 8; i++) {
        enum pintle_status status = shift(m, 1, &seen);
        if (status != PINTLE_OK) {
            return status;
        }
        bits = (uint8_t)(bits << 1 | seen);
    }
    *byte = bits;
    return shift(m, last, &seen);
}

static enum pintle_status do_segment(struct pintle_bitbang_i2c *m, uint8_t address,
                                     const struct pintle_segment *segment)
{
    uint8_t acknowledged = 0;
    uint8_t reading = segment->in != NULL;
    enum pintle_status status = start(m);
    if (status == PINTLE_OK) {
        status = send(m, (uint8_t)(address << 1 | reading), &acknowledged);
    }
    if (status == PINTLE_OK && !acknowledged) {
        return PINTLE_NO_ANSWER;
    }
    for (uint16_t i = 0; i < segment->length && status == PINTLE_OK; i++) {
        if (reading) {
            status = receive(m, &segment->in[i], i + 1 == segment->length);
        } else {
            status = send(m, segment->out[i], &acknowledged);
            status = status == PINTLE_OK && !acknowledged ? PINTLE_DATA_REFUSED : status;
        }
        if (status == PINTLE_OK && is_late(m)) {
            return PINTLE_TIME_LIMIT;
        }
    }
    return status;
}

static enum pintle_status transfer(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    struct pintle_bitbang_i2c *m = context;
    enum pintle_status status = PINTLE_OK;
    allow(m, limit_us);
    for (uint8_t i = 0; i < count && status == PINTLE_OK; i++) {
        status = do_segment(m, address, &segments[i]);
    }
    if (!m->begun) {
        return status;
    }
    enum pintle_status ended = stop(m);
    return status == PINTLE_OK ? ended : status;
}

/* Section 3.1.16. A chip that was interrupted while it sends gives the line up after at most nine
 * clocks. */
static enum pintle_status recover(void *context)
{
    struct pintle_bitbang_i2c *m = context;
    uint8_t seen = 0;
    allow(m, 1000 + 25u * m->low_us);
    drive(&m->clock_line, 0);
    for (uint8_t i = 0; i < 9 && !seen; i++) {
        enum pintle_status status = shift(m, 1, &seen);
        if (status != PINTLE_OK) {
            drive(&m->clock_line, 1);
            return status;
        }
    }
    return stop(m);
}

#define RISE_LIMIT_US 500

void pintle_bitbang_i2c_look(struct pintle_bitbang_i2c *master, struct pintle_bitbang_look *look)
{
    rest(master, RISE_LIMIT_US);
    look->data_low = !level(&master->data_line);
    look->clock_low = !level(&master->clock_line);
    drive(&master->data_line, 0);
    rest(master, master->high_us);
    look->touching = !look->clock_low && !level(&master->clock_line);
    drive(&master->data_line, 1);
    look->rise_us = 0;
    while (!level(&master->data_line) && look->rise_us != UINT16_MAX) {
        rest(master, 1);
        look->rise_us = (uint16_t)(look->rise_us < RISE_LIMIT_US ? look->rise_us + 1 : UINT16_MAX);
    }
}

enum pintle_status pintle_bitbang_i2c_init(struct pintle_bitbang_i2c *master,
                                           struct pintle_pin data_line,
                                           struct pintle_pin clock_line,
                                           const struct pintle_clock *clock, uint32_t speed_hz)
{
    if (speed_hz < 1000 || speed_hz > 1000000) {
        return PINTLE_OUT_OF_RANGE;
    }
    uint16_t period = (uint16_t)((1000000 + speed_hz - 1) / speed_hz);
    master->data_line = data_line;
    master->clock_line = clock_line;
    master->clock = clock;
    master->low_us = (uint16_t)((period + 1) / 2);
    master->high_us = (uint16_t)(period > 1 ? period / 2 : 1);
    master->begun = 0;
    drive(&master->data_line, 1);
    drive(&master->clock_line, 1);
    return PINTLE_OK;
}

struct pintle_i2c pintle_bitbang_i2c_bus(struct pintle_bitbang_i2c *master)
{
    static const struct pintle_i2c_calls calls = { .transfer = transfer, .recover = recover };
    return (struct pintle_i2c){ .calls = &calls,
                                .common = { .context = master, .clock = master->clock },
                                .bit_ns = 1000u * (uint32_t)(master->low_us + master->high_us) };
}
