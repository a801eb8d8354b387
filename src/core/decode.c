#include "engine.h"

uint8_t pintle_crc8_31(const uint8_t *bytes, size_t count)
{
    uint8_t crc = 0xff;
    while (count--) {
        crc ^= *bytes++;
        for (uint8_t bit = 0; bit < 8; bit++) {
            crc = (uint8_t)((crc & 0x80) ? (crc << 1) ^ 0x31 : crc << 1);
        }
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
    uint32_t value = 0;
    for (uint8_t i = 0; i < linear->bytes; i++) {
        uint8_t little = linear->flags & PINTLE_LINEAR_LITTLE_ENDIAN;
        uint8_t at = (uint8_t)(little ? linear->bytes - 1 - i : i);
        value = value << 8 | raw[linear->at + at];
    }
    return value;
}

/* The integer that it describes. The shift to the right keeps the sign. */
static int32_t integer_of(const struct pintle_linear *linear, uint32_t value)
{
    uint8_t bits = linear->bits ? linear->bits : (uint8_t)(8 * linear->bytes - linear->shift);
    uint32_t sign = (uint32_t)1 << (bits - 1);
    value = (value >> linear->shift) & (sign | (sign - 1));
    if ((linear->flags & PINTLE_LINEAR_SIGNED) && (value & sign)) {
        value -= (sign << 1); /* for 32 bits 0: it has its sign already */
    }
    return (int32_t)value;
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
    for (; marks; marks++) {
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
    uint32_t word = word_of(linear, block->raw);
    int32_t raw = integer_of(linear, word);
    float integer = linear->flags & PINTLE_LINEAR_SIGNED ? (float)raw : (float)(uint32_t)raw;
    reading->raw = raw;
    reading->value = integer * linear->scale + linear->zero;
    if (linear->shape) {
        reading->value = linear->shape(linear->constants, reading->value);
    }
    if (at_an_end(linear, raw)) {
        reading->quality |= PINTLE_QUALITY_SATURATED;
    }
    if ((linear->flags & PINTLE_LINEAR_POWER_ON) && raw == linear->power_on && !block->again) {
        reading->quality |= PINTLE_QUALITY_POWER_ON;
    }
    if ((linear->flags & PINTLE_LINEAR_MIRRORED) && !is_mirrored(linear, word)) {
        reading->quality |= PINTLE_QUALITY_BUS;
    }
    reading->quality |= marks_of(linear->marks, block->raw + linear->at);
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

void pintle_part_decode(const struct pintle_part *part, const struct pintle_block *block,
                        struct pintle_sample *sample)
{
    uint16_t nobody = silent(part, block->raw) ? PINTLE_QUALITY_BUS : 0;
    void (*decode)(const struct pintle_block *block, struct pintle_sample *sample);
    const struct pintle_channel *channels = pintle_table_pointer(&part->channels);
    uint8_t count = pintle_table_u8(&part->channel_count);
    if (sample->raw != block->raw) {
        memcpy(sample->raw, block->raw, pintle_table_u8(&part->raw_size));
    }
    memset(sample->channel, 0, count * sizeof sample->channel[0]);
    pintle_table_copy(&decode, &part->decode, sizeof decode);
    if (decode) {
        decode(block, sample);
    }
    for (uint8_t i = 0; i < count; i++) {
        const struct pintle_linear *row = row_of(&channels[i], block->settings);
        if (row) {
            decode_linear(row, block, &sample->channel[i]);
        }
        judge_range(&channels[i], &sample->channel[i]);
        sample->channel[i].quality |= nobody;
    }
}
