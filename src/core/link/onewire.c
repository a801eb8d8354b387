/* The ROM commands of 1-Wire chips and the search. */
#include "pintle/onewire.h"

#include "../engine/engine.h"

#define SEARCH 0xf0
#define ALARM_SEARCH 0xec
#define READ_ROM 0x33
#define MATCH_ROM 0x55
#define SKIP_ROM 0xcc

/* A byte at a time, mirrored: the bits that leave at the bottom come back as x^8 = x^5 + x^4 + 1
 * says, five of them at most, and of those two once more. */
uint8_t pintle_onewire_crc(const uint8_t *bytes, uint8_t count)
{
    uint8_t crc = 0;
    for (uint8_t i = 0; i < count; i++) {
        uint16_t x = crc ^ bytes[i];
        uint16_t once = (uint16_t)(x << 5 ^ x << 1 ^ x);
        uint16_t out = once & 0x1f;
        uint16_t twice = (uint16_t)(out << 5 ^ out << 1 ^ out);
        out = twice & 3;
        crc = (uint8_t)(once >> 5 ^ twice >> 2 ^ out << 6 ^ out << 2 ^ out << 1);
    }
    return crc;
}

/* Zeros, of a line pulled low, have a right CRC and are no chip's. */
static enum pintle_status check(const uint8_t code[8])
{
    return code[0] != 0 && pintle_onewire_crc(code, 8) == 0 ? PINTLE_OK : PINTLE_BAD_CRC;
}

static enum pintle_status slots(const struct pintle_onewire *line, const uint8_t *out, uint8_t *in,
                                uint16_t count)
{
    return pintle_priv_said(line->calls->slots(line->common.context, out, in, count, 0));
}

static enum pintle_status reset(struct pintle_onewire *line)
{
    uint32_t wait = pintle_priv_until(line->common.clock, line->powering_until_us);
    if (wait > 0 && wait <= PINTLE_WAIT_MAX_US) {
        return PINTLE_LINE_BUSY;
    }
    line->powering_until_us = 0;
    return pintle_priv_said(line->calls->reset(line->common.context));
}

static enum pintle_status command(struct pintle_onewire *line, uint8_t byte)
{
    enum pintle_status status = reset(line);
    return status == PINTLE_OK ? slots(line, &byte, NULL, 8) : status;
}

enum pintle_status pintle_onewire_select(struct pintle_onewire *line, const uint8_t *code)
{
    enum pintle_status status = command(line, code ? MATCH_ROM : SKIP_ROM);
    return status == PINTLE_OK && code ? slots(line, code, NULL, 64) : status;
}

enum pintle_status pintle_onewire_write(struct pintle_onewire *line, const uint8_t *bytes,
                                        uint8_t count)
{
    return slots(line, bytes, NULL, (uint16_t)(8 * count));
}

enum pintle_status pintle_onewire_read(struct pintle_onewire *line, uint8_t *bytes, uint8_t count)
{
    return slots(line, NULL, bytes, (uint16_t)(8 * count));
}

enum pintle_status pintle_onewire_power(struct pintle_onewire *line, uint8_t byte, uint32_t us)
{
    enum pintle_status status =
        pintle_priv_said(line->calls->slots(line->common.context, &byte, NULL, 8, 1));
    line->powering_until_us = pintle_priv_now(line->common.clock) + us;
    return status;
}

enum pintle_status pintle_onewire_only(struct pintle_onewire *line, uint8_t code[8])
{
    enum pintle_status status = pintle_bus_claim(&line->common);
    if (status != PINTLE_OK) {
        return status;
    }
    status = command(line, READ_ROM);
    if (status == PINTLE_OK) {
        status = pintle_onewire_read(line, code, 8);
    }
    pintle_bus_release(&line->common);
    return status == PINTLE_OK ? check(code) : status;
}

/* One bit of the code: all chips still in send it and its complement, then hear which of them
 * may go on. Where both are present the way forks: 0 first, 1 the next time. */
static enum pintle_status step(struct pintle_onewire *line, struct pintle_onewire_search *search,
                               uint8_t bit, uint8_t *fork)
{
    uint8_t seen = 0;
    uint8_t mask = (uint8_t)(1u << (bit & 7));
    uint8_t *byte = &search->code[bit >> 3];
    uint8_t before = (*byte & mask) != 0;
    enum pintle_status status = slots(line, NULL, &seen, 2);
    if (status != PINTLE_OK) {
        return status;
    }
    uint8_t way = seen & 1;
    if ((seen & 3) == 3) { /* nobody is left: none at all, or it broke off */
        return bit == 0 ? PINTLE_NO_ANSWER : PINTLE_BAD_CRC;
    }
    if ((seen & 3) == 0) {
        way = bit + 1 < search->fork ? before : bit + 1 == search->fork;
        *fork = way ? *fork : (uint8_t)(bit + 1);
    }
    *byte = (uint8_t)(way ? *byte | mask : *byte & ~mask);
    return slots(line, &way, NULL, 1);
}

enum pintle_status pintle_onewire_next(struct pintle_onewire *line,
                                       struct pintle_onewire_search *search)
{
    uint8_t fork = 0;
    if (search->ended) {
        return PINTLE_NO_ANSWER;
    }
    enum pintle_status status = pintle_bus_claim(&line->common);
    if (status != PINTLE_OK) {
        return status;
    }
    status = command(line, search->alarmed ? ALARM_SEARCH : SEARCH);
    for (search->bits = 0; search->bits < 64 && status == PINTLE_OK;) {
        status = step(line, search, search->bits, &fork);
        search->bits = (uint8_t)(search->bits + (status == PINTLE_OK));
    }
    pintle_bus_release(&line->common);
    if (status == PINTLE_LINE_BUSY) {
        return status;
    }
    search->fork = fork;
    search->ended = fork == 0 || status != PINTLE_OK;
    return status == PINTLE_OK ? check(search->code) : status;
}
