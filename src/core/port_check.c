#include "pintle/port_check.h"

#include "engine.h"

#define TIMES 20
#define LOOKS 1000

struct looking {
    const struct pintle_port_check *check;
    unsigned failed;
};

static void line(struct looking *l, const char *what, uint8_t holds, enum pintle_status status,
                 uint32_t figure, const char *unit)
{
    l->failed += !holds;
    l->check->line(l->check->context, what, holds ? PINTLE_HOLDS : PINTLE_FAILS, status, figure,
                   unit);
}

static void not_offered(const struct looking *l, const char *what)
{
    l->check->line(l->check->context, what, PINTLE_NOT_OFFERED, PINTLE_OK, 0, "");
}

static uint64_t now(const struct looking *l)
{
    return pintle_priv_now(l->check->clock);
}

/* The register's address, then so many bytes in each of `reads` segments. */
static enum pintle_status fetch(const struct looking *l, uint8_t *bytes, uint8_t reads,
                                uint8_t length)
{
    struct pintle_segment segments[3] = { { &l->check->reg, NULL, 1 } };
    for (uint8_t i = 0; i < reads; i++) {
        segments[i + 1] = (struct pintle_segment){ NULL, bytes + i * length, length };
    }
    return pintle_i2c_transfer(l->check->bus, l->check->known, segments, (uint8_t)(reads + 1));
}

static void check_answers(struct looking *l)
{
    const struct pintle_port_check *c = l->check;
    enum pintle_status status = pintle_i2c_probe(c->bus, c->known);
    line(l, "the known chip answers", status == PINTLE_OK, status, 0, "");
    uint64_t began = now(l);
    status = pintle_i2c_probe(c->bus, c->empty);
    uint32_t took = (uint32_t)(now(l) - began);
    line(l, "nobody answers at the empty address", status == PINTLE_NO_ANSWER, status, 0, "");
    const struct pintle_segment nothing = { NULL, NULL, 0 };
    uint32_t limit = pintle_i2c_limit(c->bus, &nothing, 1);
    line(l, "and that is said within the time limit", took <= limit, PINTLE_OK, took, "us");
    const struct pintle_segment segment = { &c->reg, NULL, 1 };
    status = pintle_i2c_transfer(c->bus, c->empty, &segment, 1);
    line(l, "a byte for nobody is no refused byte", status == PINTLE_NO_ANSWER, status, 0, "");
}

static void check_reads(struct looking *l)
{
    const uint8_t *want = l->check->bytes;
    uint8_t bytes[4] = { 0 };
    enum pintle_status status = PINTLE_OK;
    uint8_t same = 1;
    uint64_t began = now(l);
    for (uint8_t i = 0; i < TIMES && status == PINTLE_OK; i++) {
        bytes[0] = bytes[1] = 0;
        status = fetch(l, bytes, 1, 2);
        same = same && bytes[0] == want[0] && bytes[1] == want[1];
    }
    uint32_t each = (uint32_t)((now(l) - began) / TIMES);
    line(l, "the register reads as it should", status == PINTLE_OK && same, status, each, "us");
    bytes[0] = bytes[1] = 0;
    status = fetch(l, bytes, 2, 1);
    line(l, "each segment begins with a START of its own",
         status == PINTLE_OK && bytes[0] == want[0] && bytes[1] == want[0], status, 0, "");
    /* A chip whose last byte was acknowledged would send on, and hold data low at a 0. */
    status = fetch(l, bytes, 1, 1);
    if (status == PINTLE_OK) {
        status = pintle_i2c_probe(l->check->bus, l->check->known);
    }
    line(l, "the last byte is not acknowledged: the bus is free behind it", status == PINTLE_OK,
         status, 0, "");
}

static void check_recovery(struct looking *l)
{
    struct pintle_i2c *bus = l->check->bus;
    if (!bus->calls->recover) {
        not_offered(l, "recovery leaves a healthy bus as it was");
        return;
    }
    enum pintle_status status = bus->calls->recover(bus->context);
    if (status == PINTLE_OK) {
        status = pintle_i2c_probe(bus, l->check->known);
    }
    line(l, "recovery leaves a healthy bus as it was", status == PINTLE_OK, status, 0, "");
}

static void check_claims(struct looking *l)
{
    struct pintle_i2c *bus = l->check->bus;
    enum pintle_status status = PINTLE_OK;
    if (!bus->calls->claims.acquire) {
        not_offered(l, "the bus can be claimed again and again");
        return;
    }
    for (uint8_t i = 0; i < TIMES && status == PINTLE_OK; i++) {
        status = pintle_priv_claim(&bus->calls->claims, bus->context, 1);
        if (status == PINTLE_OK) {
            (void)pintle_priv_claim(&bus->calls->claims, bus->context, 0);
        }
    }
    line(l, "the bus can be claimed again and again", status == PINTLE_OK, status, 0, "");
}

static void check_sleep(struct looking *l, const char *what, uint32_t us)
{
    const struct pintle_clock *clock = l->check->clock;
    uint32_t longest = 0;
    uint8_t enough = 1;
    for (uint8_t i = 0; i < TIMES; i++) {
        uint64_t began = now(l);
        clock->calls->sleep_us(clock->context, us);
        uint64_t slept = now(l) - began;
        enough = enough && slept >= us;
        longest = slept > longest ? (uint32_t)slept : longest;
    }
    line(l, what, enough, PINTLE_OK, longest, "us at the longest");
}

static void check_clock(struct looking *l)
{
    const struct pintle_clock *clock = l->check->clock;
    uint64_t before = now(l);
    uint8_t forward = 1;
    for (uint16_t i = 0; i < LOOKS; i++) {
        uint64_t is = now(l);
        forward = forward && is >= before;
        before = is;
    }
    line(l, "the clock never goes back", forward, PINTLE_OK, 0, "");
    check_sleep(l, "a sleep of 100 us is no shorter", 100);
    check_sleep(l, "a sleep of 1000 us is no shorter", 1000);
    check_sleep(l, "a sleep of 20000 us is no shorter", 20000);
    if (!clock->calls->get_wall_us) {
        not_offered(l, "the time of day");
        return;
    }
    int64_t utc_us = 0;
    enum pintle_status status = clock->calls->get_wall_us(clock->context, &utc_us);
    line(l, "the time of day", status == PINTLE_OK || status == PINTLE_NEVER_SET, status, 0, "");
}

unsigned pintle_port_check(const struct pintle_port_check *check)
{
    struct looking l = { check, 0 };
    check_answers(&l);
    check_reads(&l);
    check_recovery(&l);
    check_claims(&l);
    check_clock(&l);
    return l.failed;
}

const char *pintle_verdict_word(enum pintle_verdict verdict)
{
    return verdict == PINTLE_HOLDS ? "holds" : verdict == PINTLE_FAILS ? "FAILS" : "not offered";
}
