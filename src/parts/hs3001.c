/* HS3001, datasheet HS300x, R36DS0010 (interface: section 6). Its resolution is the factory's, 14
 * bits each: changing it takes a mode that it enters within 10 ms of power-up only. */
#include "pintle/parts/hs3001.h"

#define STATUS 0xc0 /* of the first byte: 0 a new result, 1 one that was fetched before */
#define STALE 0x40
#define NO_RESULT 0x80 /* it takes commands, and measures nothing */

#define MEASURING_US                                                                               \
    37500 /* table 5: 33.9 ms typically, no longest: a tenth more, then it is asked */

static const uint8_t addresses[] PINTLE_TABLE = { 0x44 };

/* It has no identity that can be read while it measures; that it has a result, new or old, is all.
 */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_REFUSE(PINTLE_NO_REG, 1, NO_RESULT, NO_RESULT),
    PINTLE_END(),
};

static const struct pintle_step setup[] PINTLE_TABLE = { PINTLE_END() };

static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_CALL(),   PINTLE_WAIT(MEASURING_US), PINTLE_FETCH_UNTIL(4, 0, STATUS, 0, 60),
    PINTLE_FETCH(4), /* a chip that lost its supply meanwhile leaves ones, and then has no result */
    PINTLE_END(),
};

static void decode(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings)
{
    const uint8_t *raw = block->raw;
    uint8_t first = (uint8_t)((raw[0] ^ raw[4]) & ~STATUS);
    uint8_t last = (raw[3] ^ raw[7]) & 0xfc; /* the lowest two say nothing */
    uint8_t differ = first || raw[1] != raw[5] || raw[2] != raw[6] || last;
    (void)part;
    readings[PINTLE_HS3001_TEMPERATURE].quality |= differ ? PINTLE_QUALITY_BUS : 0;
    readings[PINTLE_HS3001_HUMIDITY].quality |= differ ? PINTLE_QUALITY_BUS : 0;
}

/* Section 6.7: RH = 100 x / (2^14 - 1), T = -40 + 165 x / (2^14 - 1); the temperature lies in the
 * upper 14 bits of its word. */
static const struct pintle_mark first[] PINTLE_TABLE = { PINTLE_MARK(0, STATUS, STALE, STALE),
                                                         PINTLE_MARK(0, NO_RESULT, NO_RESULT, BUS),
                                                         PINTLE_MARKS_END() };
static const struct pintle_mark behind[] PINTLE_TABLE = {
    PINTLE_MARK(-2, STATUS, STALE, STALE), PINTLE_MARK(-2, NO_RESULT, NO_RESULT, BUS),
    PINTLE_MARKS_END()
};
static const struct pintle_linear humidity PINTLE_TABLE = {
    .bytes = 2, .bits = 14, .scale = 100.0f / 16383.0f, .lowest = -1, .highest = -1, .marks = first
};
static const struct pintle_linear temperature PINTLE_TABLE = { .bytes = 2,
                                                               .shift = 2,
                                                               .scale = 165.0f / 16383.0f,
                                                               .zero = -40.0f,
                                                               .lowest = 0,
                                                               .highest = 16383,
                                                               .marks = behind };

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("temperature", TEMPERATURE, 2, -40, 125, &temperature, .at = 2),
    PINTLE_CHANNEL("humidity", HUMIDITY, 2, 0, 100, &humidity, .at = 0),
};

const struct pintle_part pintle_hs3001 PINTLE_TABLE = {
    .name = "HS3001",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_KEEPS | PINTLE_PART_ZEROS_SILENT,
    .raw_size = 8,
    .channel_count = 2,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .channels = channels,
    .decode = decode,
};
