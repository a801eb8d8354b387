#include "pintle/port_check.h"

#include "../engine/engine.h"

#define TIMES 20
#define LOOKS 1000

/* Texts lie in tables: on some machines plain constants cost RAM. */
static const char no_unit[] PINTLE_TABLE = "";
static const char known_answers[] PINTLE_TABLE = "the known chip answers";
static const char empty_silent[] PINTLE_TABLE = "nobody answers at the empty address";
static const char said_in_time[] PINTLE_TABLE = "and that is said within the time limit";
static const char in_us[] PINTLE_TABLE = "us";
static const char not_refused[] PINTLE_TABLE = "a byte for nobody is no refused byte";
static const char reads_right[] PINTLE_TABLE = "the register reads as it should";
static const char starts_again[] PINTLE_TABLE = "each segment begins with a START of its own";
static const char last_refused[] PINTLE_TABLE =
    "the last byte is not acknowledged: the bus is free behind it";
static const char recovers[] PINTLE_TABLE = "recovery leaves a healthy bus as it was";
static const char can_be_claimed[] PINTLE_TABLE = "the bus can be claimed again and again";
static const char longest_us[] PINTLE_TABLE = "us at the longest";
static const char goes_forward[] PINTLE_TABLE = "the clock never goes back";
static const char sleep_100[] PINTLE_TABLE = "a sleep of 100 us is no shorter";
static const char sleep_1000[] PINTLE_TABLE = "a sleep of 1000 us is no shorter";
static const char sleep_20000[] PINTLE_TABLE = "a sleep of 20000 us is no shorter";
static const char time_of_day[] PINTLE_TABLE = "the time of day";
static const char holds_word[] PINTLE_TABLE = "holds";
static const char fails_word[] PINTLE_TABLE = "FAILS";
static const char not_offered_word[] PINTLE_TABLE = "not offered";

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
    l->check->line(l->check->context, what, PINTLE_NOT_OFFERED, PINTLE_OK, 0, no_unit);
}

static uint64_t now(const struct looking *l)
{
    return pintle_priv_now(l->check->bus->common.clock);
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
    line(l, known_answers, status == PINTLE_OK, status, 0, no_unit);
    uint64_t began = now(l);
    status = pintle_i2c_probe(c->bus, c->empty);
    uint32_t took = (uint32_t)(now(l) - began);
    line(l, empty_silent, status == PINTLE_NO_ANSWER, status, 0, no_unit);
    const struct pintle_segment nothing = { NULL, NULL, 0 };
    uint32_t limit = pintle_i2c_limit(c->bus, &nothing, 1);
    line(l, said_in_time, took <= limit, PINTLE_OK, took, in_us);
    const struct pintle_segment segment = { &c->reg, NULL, 1 };
    status = pintle_i2c_transfer(c->bus, c->empty, &segment, 1);
    line(l, not_refused, status == PINTLE_NO_ANSWER, status, 0, no_unit);
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
    line(l, reads_right, status == PINTLE_OK && same, status, each, in_us);
    bytes[0] = bytes[1] = 0;
    status = fetch(l, bytes, 2, 1);
    line(l, starts_again, status == PINTLE_OK && bytes[0] == want[0] && bytes[1] == want[0], status,
         0, no_unit);
    /* A chip whose last byte was acknowledged would send on, and hold data low at a 0. */
    status = fetch(l, bytes, 1, 1);
    if (status == PINTLE_OK) {
        status = pintle_i2c_probe(l->check->bus, l->check->known);
    }
    line(l, last_refused, status == PINTLE_OK, status, 0, no_unit);
}

static void check_recovery(struct looking *l)
{
    struct pintle_i2c *bus = l->check->bus;
    if (!bus->calls->recover) {
        not_offered(l, recovers);
        return;
    }
    enum pintle_status status = bus->calls->recover(bus->common.context);
    if (status == PINTLE_OK) {
        status = pintle_i2c_probe(bus, l->check->known);
    }
    line(l, recovers, status == PINTLE_OK, status, 0, no_unit);
}

static void check_claims(struct looking *l)
{
    struct pintle_i2c *bus = l->check->bus;
    enum pintle_status status = PINTLE_OK;
    if (!bus->common.claims) {
        not_offered(l, can_be_claimed);
        return;
    }
    for (uint8_t i = 0; i < TIMES && status == PINTLE_OK; i++) {
        status = pintle_bus_claim(&bus->common);
        if (status == PINTLE_OK) {
            pintle_bus_release(&bus->common);
        }
    }
    line(l, can_be_claimed, status == PINTLE_OK, status, 0, no_unit);
}

static void check_sleep(struct looking *l, const char *what, uint32_t us)
{
    const struct pintle_clock *clock = l->check->bus->common.clock;
    uint32_t longest = 0;
    uint8_t enough = 1;
    for (uint8_t i = 0; i < TIMES; i++) {
        uint64_t began = now(l);
        clock->calls->sleep_us(clock->context, us);
        uint64_t slept = now(l) - began;
        enough = enough && slept >= us;
        longest = slept > longest ? (uint32_t)slept : longest;
    }
    line(l, what, enough, PINTLE_OK, longest, longest_us);
}

static void check_clock(struct looking *l)
{
    const struct pintle_clock *clock = l->check->bus->common.clock;
    uint64_t before = now(l);
    uint8_t forward = 1;
    for (uint16_t i = 0; i < LOOKS; i++) {
        uint64_t is = now(l);
        forward = forward && is >= before;
        before = is;
    }
    line(l, goes_forward, forward, PINTLE_OK, 0, no_unit);
    check_sleep(l, sleep_100, 100);
    check_sleep(l, sleep_1000, 1000);
    check_sleep(l, sleep_20000, 20000);
    if (!clock->calls->get_wall_us) {
        not_offered(l, time_of_day);
        return;
    }
    int64_t utc_us = 0;
    enum pintle_status status = clock->calls->get_wall_us(clock->context, &utc_us);
    line(l, time_of_day, status == PINTLE_OK || status == PINTLE_NEVER_SET, status, 0, no_unit);
}

unsigned pintle_port_check_run(const struct pintle_port_check *check)
{
    struct looking l = { check, 0 };
    check_answers(&l);
    check_reads(&l);
    check_recovery(&l);
    check_claims(&l);
    check_clock(&l);
    return l.failed;
}

const char *pintle_port_verdict_word(enum pintle_verdict verdict)
{
    return verdict == PINTLE_HOLDS   ? holds_word
           : verdict == PINTLE_FAILS ? fails_word
                                     : not_offered_word;
}
