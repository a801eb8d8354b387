/* SD cards over SPI (Physical Layer Simplified Specification 6.00, section 7): commands with a
 * CRC-7, blocks with a CRC-16, an answer within eight bytes, a token in front of data, zeros while
 * it is busy. A select line is held from a command to the end of what belongs to it. */
#include "pintle/card.h"

#include "../engine/engine.h"
#include "pintle/store.h"

#define CMD17_READ 17
#define CMD24_WRITE 24
#define CMD55_APP 55

#define R1_ILLEGAL 0x04
#define R1_CRC 0x08
#define R1_NONE 0x80 /* never set in an answer */
#define ANSWER_WITHIN 9
#define TOKEN 0xfe
#define ACCEPTED 0x05
#define WRONG_SUM 0x0b
#define READ_LIMIT_US 100000u  /* section 4.6.2.1 */
#define WRITE_LIMIT_US 500000u /* section 4.6.2.2 */
#define PIECE 32
#define WAKING_HZ 400000 /* section 6.4: until it is identified */

static const struct pintle_part_crc crc7 PINTLE_TABLE = { .polynomial = 0x12, .bits = 8 };

static uint16_t crc16(uint16_t crc, const uint8_t *bytes, uint16_t count)
{
    for (; count > 0; count--) {
        crc ^= (uint16_t)(*bytes++ << 8);
        for (uint8_t i = 8; i > 0; i--) {
            crc = (uint16_t)(crc << 1 ^ (crc & 0x8000u ? 0x1021 : 0));
        }
    }
    return crc;
}

/* Bytes out, or ones; what comes back goes to `in`, which may be null. */
static enum pintle_status clock(const struct pintle_sensor *sensor, const uint8_t *out, uint8_t *in,
                                uint16_t count, uint8_t hold)
{
    struct pintle_spi *bus = sensor->bus.spi;
    PINTLE_TABLE_ROW(struct pintle_spi_rules, rules, pintle_table_pointer(&sensor->part->spi));
    uint32_t hz = sensor->phase == PHASE_OPEN ? rules->top_hz : WAKING_HZ;
    const struct pintle_spi_way way = { .clock_hz =
                                            bus->top_hz && bus->top_hz < hz ? bus->top_hz : hz,
                                        .select = sensor->place,
                                        .hold = hold };
    if (in) {
        memset(in, 0xff, count);
    }
    const struct pintle_segment segment = { out ? out : in, in, count };
    return pintle_priv_said(bus->calls->transfer(bus->common.context, &way, &segment, 1));
}

/* Eight more clocks and the line goes up: the end of everything. The first trouble is kept. */
static enum pintle_status finish(const struct pintle_sensor *sensor, enum pintle_status status)
{
    uint8_t byte = 0;
    enum pintle_status ended = clock(sensor, NULL, &byte, 1, 0);
    return status == PINTLE_OK ? ended : status;
}

/* Clock bytes until one is not `idle`. STAYED_BUSY: the limit is over. */
static enum pintle_status until(const struct pintle_sensor *sensor, uint8_t idle, uint32_t limit_us,
                                uint8_t *byte)
{
    uint64_t from = pintle_priv_now(pintle_priv_clock(sensor));
    uint16_t tries = 0;
    enum pintle_status status = PINTLE_OK;
    do {
        status = clock(sensor, NULL, byte, 1, 1);
        if (++tries > 64 && status == PINTLE_OK) {
            status = pintle_priv_sleep(pintle_priv_clock(sensor), 200);
        }
        if (status == PINTLE_OK && *byte == idle
            && pintle_priv_now(pintle_priv_clock(sensor)) - from > limit_us) {
            status = PINTLE_STAYED_BUSY;
        }
    } while (status == PINTLE_OK && *byte == idle);
    return status;
}

/* Send a command and take the first byte of its answer; the line stays low. */
static enum pintle_status command(const struct pintle_sensor *sensor, uint8_t number,
                                  uint32_t argument, uint8_t *r1)
{
    uint8_t out[7];
    out[0] = 0xff;
    out[1] = 0x40 | number;
    for (uint8_t i = 0; i < 4; i++) {
        out[2 + i] = (uint8_t)(argument >> 8 * (3 - i));
    }
    out[6] = (uint8_t)(pintle_part_crc_over(&crc7, out + 1, 5) | 1);
    enum pintle_status status = clock(sensor, out, NULL, sizeof out, 1);
    *r1 = R1_NONE;
    for (uint8_t i = 0; i < ANSWER_WITHIN && (*r1 & R1_NONE) && status == PINTLE_OK; i++) {
        status = clock(sensor, NULL, r1, 1, 1);
    }
    return status;
}

static enum pintle_status blame(uint8_t r1)
{
    if (r1 & R1_NONE) {
        return PINTLE_NO_ANSWER;
    }
    return r1 == 0 ? PINTLE_OK : r1 & R1_CRC ? PINTLE_BAD_CRC : PINTLE_DATA_REFUSED;
}

/* A command that only works on a card that is ready. */
static enum pintle_status order(const struct pintle_sensor *sensor, uint8_t number,
                                uint32_t argument)
{
    uint8_t r1 = 0;
    enum pintle_status status = command(sensor, number, argument, &r1);
    return status == PINTLE_OK ? blame(r1) : status;
}

/* The checksum behind a block. */
static enum pintle_status check(const struct pintle_sensor *sensor, uint16_t crc)
{
    uint8_t sum[2];
    enum pintle_status status = clock(sensor, NULL, sum, 2, 1);
    return status == PINTLE_OK && (uint16_t)(sum[0] << 8 | sum[1]) != crc ? PINTLE_BAD_CRC : status;
}

#define TOKEN_LOST                                                                                 \
    0x06 /* of an error token, section 7.3.3.3: its own controller's error, or ECC failed */

/* Wait for the token that data begin with; another one is an error: BAD_CRC where what the card has
 * kept there is lost. */
static enum pintle_status begin_data(const struct pintle_sensor *sensor)
{
    uint8_t token = 0;
    enum pintle_status status = until(sensor, 0xff, READ_LIMIT_US, &token);
    if (status != PINTLE_OK || token == TOKEN) {
        return status;
    }
    return token < 0x10 && (token & TOKEN_LOST) ? PINTLE_BAD_CRC : PINTLE_DATA_REFUSED;
}

static enum pintle_status take_data(const struct pintle_sensor *sensor, uint8_t *bytes,
                                    uint16_t count)
{
    enum pintle_status status = begin_data(sensor);
    if (status == PINTLE_OK) {
        status = clock(sensor, NULL, bytes, count, 1);
    }
    return status == PINTLE_OK ? check(sensor, crc16(0, bytes, count)) : status;
}

/* --- the link --- */

static uint32_t argument_of(uint8_t number)
{
    switch (number) {
    case PINTLE_CARD_SEND_IF_COND:
        return 0x1aa; /* 2.7 to 3.6 V, and a pattern to be sent back */
    case PINTLE_CARD_BLOCK_LENGTH:
        return 512;
    case PINTLE_CARD_OP_COND & 0x3f:
        return 0x40000000; /* this side knows cards that count blocks */
    default:
        return number == PINTLE_CARD_CRC_ON;
    }
}

/* Cards of version 1 don't know CMD8; others must send voltage and pattern back. */
static enum pintle_status compare_pattern(const struct pintle_sensor *sensor, uint8_t *r1)
{
    uint8_t back[4];
    if (*r1 & R1_ILLEGAL) {
        *r1 &= (uint8_t)~R1_ILLEGAL;
        return PINTLE_OK;
    }
    enum pintle_status status = clock(sensor, NULL, back, sizeof back, 1);
    if (status == PINTLE_OK && ((back[2] & 15) != 1 || back[3] != 0xaa)) {
        *r1 = 0xff;
    }
    return status;
}

/* To the end of a block that somebody has left in the middle; then the clocks that a card wants
 * before its first command, without which most do where a port has none. */
static enum pintle_status wake(const struct pintle_sensor *sensor)
{
    struct pintle_spi *bus = sensor->bus.spi;
    uint8_t ones[PIECE];
    enum pintle_status status = PINTLE_OK;
    for (uint8_t i = 0; i < 544 / PIECE && status == PINTLE_OK; i++) {
        status = clock(sensor, NULL, ones, PIECE, 1);
    }
    status = finish(sensor, status);
    if (status != PINTLE_OK) {
        return status;
    }
    const struct pintle_spi_way way = { .clock_hz = WAKING_HZ, .select = PINTLE_SELECT_NONE };
    const struct pintle_segment segment = { ones, NULL, 10 };
    memset(ones, 0xff, sizeof ones);
    status = pintle_priv_said(bus->calls->transfer(bus->common.context, &way, &segment, 1));
    return status == PINTLE_UNSUPPORTED ? PINTLE_OK : status;
}

static enum pintle_status send(struct pintle_sensor *sensor, uint16_t reg, const uint8_t *bytes,
                               uint8_t count)
{
    (void)bytes;
    return reg == PINTLE_CARD_WAKE && count == 0 ? wake(sensor) : PINTLE_UNSUPPORTED;
}

static enum pintle_status receive(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                  uint8_t count)
{
    uint8_t number = reg & 0x3f;
    uint8_t r1 = 0;
    enum pintle_status status = PINTLE_OK;
    if (reg & PINTLE_CARD_APP) {
        status = finish(sensor, command(sensor, CMD55_APP, 0, &r1));
    }
    if (status == PINTLE_OK) {
        status = command(sensor, number, argument_of(number), &r1);
    }
    if (status == PINTLE_OK && number == PINTLE_CARD_SEND_IF_COND) {
        status = compare_pattern(sensor, &r1);
    }
    if (status == PINTLE_OK && (reg & PINTLE_CARD_DATA)) {
        status = blame(r1);
        status = status == PINTLE_OK ? take_data(sensor, bytes, count) : status;
    } else {
        memset(bytes, r1, count);
    }
    return finish(sensor, status);
}

const struct pintle_link pintle_link_card PINTLE_TABLE = {
    .kind = PINTLE_BUS_SPI, .send = send, .receive = receive, .checks = 1
};

/* --- the store --- */

/* Bits of the CSD register, numbered as the specification does. */
static uint32_t csd_bits(const uint8_t *csd, uint8_t from, uint8_t count)
{
    uint32_t value = 0;
    for (uint8_t i = 0; i < count; i++) {
        uint8_t bit = (uint8_t)(from + i);
        value |= (uint32_t)(csd[15 - bit / 8] >> bit % 8 & 1) << i;
    }
    return value;
}

/* Tables 5-4 and 5-16. */
uint64_t pintle_card_bytes(const uint8_t *csd)
{
    switch (csd_bits(csd, 126, 2)) {
    case 0: {
        uint32_t blocks = (csd_bits(csd, 62, 12) + 1) << (csd_bits(csd, 47, 3) + 2);
        return (uint64_t)blocks << csd_bits(csd, 80, 4);
    }
    case 1:
        return ((uint64_t)csd_bits(csd, 48, 22) + 1) * 524288;
    default:
        return 0;
    }
}

/* A card is proven when it is set up, which resets it. One that was changed for another since then
 * isn't ready and says so. */
static enum pintle_status size(struct pintle_sensor *sensor, uint64_t *bytes)
{
    enum pintle_status status =
        sensor->phase == PHASE_OPEN ? PINTLE_OK : pintle_priv_set_up(sensor);
    if (status == PINTLE_OK) {
        pintle_priv_close(sensor, PHASE_OPEN);
        *bytes = pintle_card_bytes(pintle_priv_trim(sensor));
    }
    return status == PINTLE_OK && *bytes == 0 ? PINTLE_NO_ABILITY : status;
}

/* Begin with a block: where blocks aren't counted, by its first byte. */
static enum pintle_status open_block(struct pintle_sensor *sensor, uint8_t number, uint32_t block)
{
    uint8_t counts_bytes = csd_bits(pintle_priv_trim(sensor), 126, 2) == 0;
    enum pintle_status status = pintle_priv_hold(sensor);
    return status == PINTLE_OK ? order(sensor, number, counts_bytes ? block * 512 : block) : status;
}

/* After any failure the card is set up again. */
static enum pintle_status close_block(struct pintle_sensor *sensor, enum pintle_status status)
{
    status = finish(sensor, status);
    pintle_priv_let_go(sensor);
    if (status != PINTLE_OK && status != PINTLE_MISFIT) {
        pintle_priv_close(sensor, PHASE_CLOSED);
    }
    return status;
}

static enum pintle_status read(struct pintle_sensor *sensor, const struct pintle_store *store,
                               uint32_t from, uint8_t *bytes, uint16_t count)
{
    (void)store;
    (void)count; /* a page is a block */
    enum pintle_status status = open_block(sensor, CMD17_READ, from);
    if (status == PINTLE_OK) {
        status = take_data(sensor, bytes, 512);
    }
    return close_block(sensor, status);
}

/* The block, token in front and checksum behind; then what the card says to it, and its being busy.
 */
static enum pintle_status put_block(struct pintle_sensor *sensor, const uint8_t *bytes)
{
    const uint8_t token[2] = { 0xff, TOKEN };
    uint16_t crc = crc16(0, bytes, 512);
    const uint8_t sum[2] = { (uint8_t)(crc >> 8), (uint8_t)crc };
    uint8_t said = 0;
    enum pintle_status status = clock(sensor, token, NULL, 2, 1);
    if (status == PINTLE_OK) {
        status = clock(sensor, bytes, NULL, 512, 1);
    }
    if (status == PINTLE_OK) {
        status = clock(sensor, sum, NULL, 2, 1);
    }
    if (status == PINTLE_OK) {
        status = clock(sensor, NULL, &said, 1, 1);
    }
    if (status == PINTLE_OK && (said & 0x1f) != ACCEPTED) {
        return (said & 0x1f) == WRONG_SUM ? PINTLE_BAD_CRC : PINTLE_DATA_REFUSED;
    }
    return status == PINTLE_OK ? until(sensor, 0, WRITE_LIMIT_US, &said) : status;
}

static enum pintle_status write(struct pintle_sensor *sensor, const struct pintle_store *store,
                                uint32_t from, const uint8_t *bytes, uint16_t count)
{
    (void)store;
    (void)count;
    enum pintle_status status = open_block(sensor, CMD24_WRITE, from);
    if (status == PINTLE_OK) {
        status = put_block(sensor, bytes);
    }
    return close_block(sensor, status);
}

static enum pintle_status look(struct pintle_sensor *sensor, const struct pintle_store *store,
                               uint32_t from, const uint8_t *bytes, uint16_t count, uint16_t *sum)
{
    uint8_t is[PIECE];
    uint8_t same = 1;
    (void)store;
    (void)count;
    *sum = 0;
    enum pintle_status status = open_block(sensor, CMD17_READ, from);
    if (status == PINTLE_OK) {
        status = begin_data(sensor);
    }
    for (uint16_t at = 0; at < 512 && status == PINTLE_OK; at += PIECE) {
        status = clock(sensor, NULL, is, PIECE, 1);
        same = same && memcmp(is, bytes + at, PIECE) == 0;
        *sum = crc16(*sum, is, PIECE);
    }
    if (status == PINTLE_OK) {
        status = check(sensor, *sum);
    }
    return close_block(sensor, status == PINTLE_OK && !same ? PINTLE_MISFIT : status);
}

const struct pintle_store_calls pintle_card_store PINTLE_TABLE = { read, write, look, size };
