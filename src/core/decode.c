#include "engine.h"

/* A byte at a time: the bits that leave at the top come back as x^8 = x^5 + x^4 + 1 says, five of
 * them at most, and of those two once more. */
uint8_t pintle_crc8_31(const uint8_t *bytes, size_t count)
{
    uint8_t crc = 0xff;
    for (; count > 0; count--) {
        uint16_t x = crc ^ *bytes++;
        uint16_t once = (uint16_t)(x ^ x << 4 ^ x << 5);
        uint16_t out = once >> 8;
        uint16_t twice = (uint16_t)((uint8_t)once ^ out ^ out << 4 ^ out << 5);
        out = twice >> 8;
        crc = (uint8_t)(twice ^ out ^ out << 4 ^ out << 5);
    }
    return crc;
}

void pintle_part_initial(const struct pintle_part *part, uint8_t *settings)
{
    const struct pintle_setting *row = pintle_table_pointer(&part->settings);
    uint8_t count = pintle_table_u8(&part->setting_count);
    for (uint8_t i = 0; i < count && i < PINTLE_SETTINGS_MAX; i++) {
        settings[i] = pintle_table_u8(&row[i].initial);
    }
}

/* The bytes that a linear row is about. */
static uint32_t word_of(const struct pintle_linear *linear, const uint8_t *raw)
{
    uint8_t little = linear->flags & PINTLE_LINEAR_LITTLE_ENDIAN;
    raw += linear->at;
    if (linear->bytes == 2) {
        return (uint16_t)(little ? raw[1] << 8 | raw[0] : raw[0] << 8 | raw[1]);
    }
    uint32_t value = 0;
    for (uint8_t i = 0; i < linear->bytes; i++) {
        value = value << 8 | raw[little ? linear->bytes - 1 - i : i];
    }
    return value;
}

/* The integer that it describes: what is above it is shifted out at the left, what is below it at
 * the right, which keeps a sign. */
static int32_t integer_of(const struct pintle_linear *linear, uint32_t value)
{
    uint8_t bits = linear->bits ? linear->bits : (uint8_t)(8 * linear->bytes - linear->shift);
    value <<= (uint8_t)(32 - bits - linear->shift);
    return linear->flags & PINTLE_LINEAR_SIGNED ? (int32_t)value >> (32 - bits)
                                                : (int32_t)(value >> (32 - bits));
}

/* Is it at an end of its scale? Without a sign the integers are compared as such, and an end of -1
 * lies beyond all of them. */
static uint8_t at_an_end(const struct pintle_linear *linear, int32_t raw)
{
    if (linear->flags & PINTLE_LINEAR_SIGNED) {
        return raw <= linear->lowest || raw >= linear->highest;
    }
    return (linear->lowest >= 0 && (uint32_t)raw <= (uint32_t)linear->lowest)
           || (linear->highest != -1 && (uint32_t)raw >= (uint32_t)linear->highest);
}

/* Do the bits above the lowest come once more below it, from the low end, and then zeros? */
static uint8_t is_mirrored(const struct pintle_linear *linear, uint32_t word)
{
    uint32_t again = 0;
    for (uint8_t i = 1; i < linear->bits; i++) {
        again |= (word >> (linear->shift + i) & 1) << (linear->shift - i);
    }
    return again == (word & (((uint32_t)1 << linear->shift) - 1));
}

/* What the bits beside the value say of it. */
static uint16_t marks_of(const struct pintle_mark *marks, const uint8_t *first)
{
    uint16_t quality = 0;
    for (;; marks++) {
        PINTLE_TABLE_ROW(struct pintle_mark, mark, marks);
        if (mark->mask == 0) {
            break;
        }
        uint8_t is = (first[mark->at] & mark->mask) == mark->want;
        if (is != mark->bit >> 7) {
            quality |= (uint16_t)(1u << (mark->bit & 15));
        }
    }
    return quality;
}

static void decode_linear(const struct pintle_linear *row, const struct pintle_block *block,
                          struct pintle_reading *reading)
{
    PINTLE_TABLE_ROW(struct pintle_linear, linear, row);
    uint8_t flags = linear->flags;
    uint32_t word = word_of(linear, block->raw);
    int32_t raw = integer_of(linear, word);
    float integer = flags & PINTLE_LINEAR_SIGNED ? (float)raw : (float)(uint32_t)raw;
    uint16_t quality = at_an_end(linear, raw) ? PINTLE_QUALITY_SATURATED : 0;
    float value = integer * linear->scale + linear->zero;
    if (linear->shape) {
        value = linear->shape(linear->constants, value);
    }
    if ((flags & PINTLE_LINEAR_POWER_ON) && raw == linear->power_on && !block->again) {
        quality |= PINTLE_QUALITY_POWER_ON;
    }
    if ((flags & PINTLE_LINEAR_MIRRORED) && !is_mirrored(linear, word)) {
        quality |= PINTLE_QUALITY_BUS;
    }
    if (linear->marks) {
        quality |= marks_of(linear->marks, block->raw + linear->at);
    }
    reading->value = value;
    reading->raw = raw;
    reading->quality |= quality;
}

/* The row of a linear channel that the settings pick; null: it has none. */
static const struct pintle_linear *row_of(const struct pintle_channel *channel,
                                          const uint8_t *settings)
{
    const struct pintle_linear *rows = pintle_table_pointer(&channel->linear);
    uint8_t scale_by = pintle_table_u8(&channel->scale_by);
    return rows && scale_by != PINTLE_ALWAYS ? rows + settings[scale_by] : rows;
}

static void judge_range(const struct pintle_channel *channel, struct pintle_reading *reading)
{
    float ends[2];
    pintle_table_copy(ends, &channel->lowest, sizeof ends);
    if (!(reading->value >= ends[0] && reading->value <= ends[1])) {
        reading->quality |= PINTLE_QUALITY_RANGE;
    }
}

/* Nothing but ones, or nothing but zeros, where that says that nobody sent them. */
static uint8_t silent(const struct pintle_part *part, const uint8_t *raw)
{
    uint8_t flags = pintle_table_u8(&part->flags);
    uint8_t suspicious = raw[0] == 0xff ? flags & PINTLE_PART_ONES_SILENT
                         : raw[0] == 0  ? flags & PINTLE_PART_ZEROS_SILENT
                                        : 0;
    for (uint8_t i = pintle_table_u8(&part->raw_size); i > 0 && suspicious; i--) {
        suspicious = raw[i - 1] == raw[0];
    }
    return suspicious != 0;
}

uint16_t pintle_priv_decode(const struct pintle_part *part, const struct pintle_block *block,
                            struct pintle_sample *sample, uint16_t more, uint16_t *all)
{
    void (*decode)(const struct pintle_block *block, struct pintle_sample *sample);
    const struct pintle_channel *channel = pintle_table_pointer(&part->channels);
    struct pintle_reading *reading = sample->channel;
    struct pintle_reading *end = reading + pintle_table_u8(&part->channel_count);
    uint16_t any = 0;
    if (silent(part, block->raw)) {
        more |= PINTLE_QUALITY_BUS;
    }
    *all = PINTLE_QUALITY_BUS;
    pintle_table_copy(&decode, &part->decode, sizeof decode);
    if (decode) {
        memset(reading, 0, (size_t)((const char *)end - (const char *)reading));
        decode(block, sample);
    }
    for (; reading < end; reading++, channel++) {
        const struct pintle_linear *row = row_of(channel, block->settings);
        if (!decode) {
            reading->quality = 0;
        }
        if (row) {
            decode_linear(row, block, reading);
        }
        judge_range(channel, reading);
        reading->quality |= more;
        any |= reading->quality;
        *all &= reading->quality;
    }
    return any;
}

void pintle_part_decode(const struct pintle_part *part, const struct pintle_block *block,
                        struct pintle_sample *sample)
{
    uint16_t all = 0;
    if (sample->raw != block->raw) {
        memcpy(sample->raw, block->raw, pintle_table_u8(&part->raw_size));
    }
    (void)pintle_priv_decode(part, block, sample, 0, &all);
}
