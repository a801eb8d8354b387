/* MCP3008, datasheet DS21295 (serial communication: section 5). */
#include "pintle/parts/mcp3008.h"

/* The first byte of a conversion of a single input: start bit, single-ended, three bits of
 * address, placed so that the null bit becomes the first of the three bytes that come back. Ten
 * bits follow it, then nine of them once more from the low end, then zeros (figure 5-2): the only
 * means to notice a wrong bit. */
#define INPUT(n) (0x30 | (n) << 1)

/* 1.35 MHz at 2.7 V; mode 0,0 (section 6.1). */
static const struct pintle_spi_rules spi PINTLE_TABLE = { .top_hz = 1350000 };

/* The part has no identity: the null bit stands in for one. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(INPUT(0), 1, 0x80, 0),
    PINTLE_EXPECT(INPUT(7), 1, 0x80, 0),
    PINTLE_END(),
};

static const struct pintle_step setup[] PINTLE_TABLE = { PINTLE_END() };

#define CONVERT(n) PINTLE_FOR(1 << (n), 1, 3), PINTLE_READ(INPUT(n), 3)
static const struct pintle_step measure[] PINTLE_TABLE = {
    CONVERT(0), CONVERT(1), CONVERT(2), CONVERT(3),   CONVERT(4),
    CONVERT(5), CONVERT(6), CONVERT(7), PINTLE_END(),
};

/* Figure 5-1: a conversion begins with a 0; after a 1 nobody has converted anything. */
static const struct pintle_mark null_bit[] PINTLE_TABLE = { PINTLE_MARK(0, 0x80, 0x80, BUS),
                                                            PINTLE_MARKS_END() };

/* Section 1, "reference input". */
static const struct pintle_number numbers[] PINTLE_TABLE = {
    [PINTLE_MCP3008_REFERENCE] = { 3.3f, 0.25f, 5.5f },
};

/* Equation 4-2: code = 1024 x input / reference. */
static const struct pintle_linear row PINTLE_TABLE = { .bytes = 3,
                                                       .shift = 13,
                                                       .bits = 10,
                                                       .scale = 1.0f / 1024,
                                                       .lowest = -1,
                                                       .highest = 1023,
                                                       .marks = null_bit };

/* Figure 5-2: below the lowest bit the others come once more, from the low end, then zeros. */
static pintle_marks mirrored(const uint8_t *first, uint8_t left, int32_t *raw)
{
    uint16_t below = (uint16_t)((uint16_t)(first[1] << 8 | first[2]) & 0x1fff);
    uint16_t again = 0;
    (void)left;
    for (uint8_t i = 1; i < 10; i++) {
        again |= (uint16_t)(((uint32_t)*raw >> i & 1) << (13 - i));
    }
    return again == below ? 0 : PINTLE_QUALITY_BUS;
}

#define CHANNEL(name, n)                                                                           \
    PINTLE_CHANNEL(name, VOLTAGE, 4, 0, 5.5f, &row, .at = 3 * (n),                                 \
                   .number = 1 + PINTLE_MCP3008_REFERENCE, .input = 1 << (n))
static const struct pintle_channel channels[] PINTLE_TABLE = {
    CHANNEL("ch0", 0), CHANNEL("ch1", 1), CHANNEL("ch2", 2), CHANNEL("ch3", 3),
    CHANNEL("ch4", 4), CHANNEL("ch5", 5), CHANNEL("ch6", 6), CHANNEL("ch7", 7),
};

const struct pintle_part pintle_mcp3008 PINTLE_TABLE = {
    .name = "MCP3008",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_ONES_SILENT,
    .raw_size = 24,
    .channel_count = 8,
    .number_count = 1,
    .link = &pintle_link_spi,
    .spi = &spi,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .numbers = numbers,
    .channels = channels,
    .factor = pintle_part_factor,
    .integer = mirrored,
};
