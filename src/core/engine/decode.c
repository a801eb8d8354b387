#include "engine.h"

void pintle_part_initial(const struct pintle_part *part, uint8_t *settings)
{
    const struct pintle_setting *row = pintle_table_pointer(&part->settings);
    uint8_t count = pintle_table_u8(&part->setting_count);
    for (uint8_t i = 0; i < count; i++) {
        settings[i] = pintle_table_u8(&row[i].initial);
    }
}

/* The bytes that a linear row is about. */
static uint32_t word_of(const struct pintle_linear *linear, const uint8_t *raw)
{
    uint8_t little = linear->flags & PINTLE_LINEAR_LITTLE_ENDIAN;
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

/* What the bits beside the value say of it. */
static pintle_marks marks_of(const struct pintle_mark *marks, const uint8_t *first,
                             const uint8_t *raw)
{
    pintle_marks quality = 0;
    for (;; marks++) {
        PINTLE_TABLE_ROW(struct pintle_mark, mark, marks);
        if (mark->mask == 0) {
            break;
        }
        const uint8_t *from = mark->bit & PINTLE_MARK_OF_BLOCK ? raw : first;
        uint8_t is = (from[mark->at] & mark->mask) == mark->want;
        if (is != mark->bit >> 7) {
            quality |= (pintle_marks)1 << (mark->bit & 31);
        }
    }
    return quality;
}

const struct pintle_linear *pintle_part_row(const struct pintle_part *part,
                                            const struct pintle_channel *channel,
                                            const uint8_t *settings)
{
    uint8_t row = 0;
    uint16_t by = pintle_table_u16(&channel->rows_by);
    const struct pintle_setting *settings_of = pintle_table_pointer(&part->settings);
    const struct pintle_linear *rows = pintle_table_pointer(&channel->linear);
    for (uint8_t i = 0; by >> i; i++) {
        if (by >> i & 1) {
            row = (uint8_t)(row * pintle_table_u8(&settings_of[i].count) + settings[i]);
        }
    }
    return rows + row;
}

static pintle_value clamp(const struct pintle_channel *channel, pintle_value value)
{
    pintle_value lowest = pintle_priv_value_of(channel->lowest, channel->decimals);
    pintle_value highest = pintle_priv_value_of(channel->highest, channel->decimals);
    value = value < lowest ? lowest : value;
    return value > highest ? highest : value;
}

#if PINTLE_WHOLE
#define value_of pintle_priv_linear
#else
static pintle_value value_of(const struct pintle_part *part, const struct pintle_channel *row,
                             const struct pintle_channel *channel,
                             const struct pintle_linear *linear, const struct pintle_block *block,
                             int32_t raw)
{
    (void)channel;
    pintle_factor (*factor)(const struct pintle_part *, const struct pintle_channel *,
                            const struct pintle_block *);
    float value = linear->flags & PINTLE_LINEAR_SIGNED ? (float)raw : (float)(uint32_t)raw;
    value = value * linear->scale;
    pintle_table_copy(&factor, &part->factor, sizeof factor);
    if (factor) {
        value *= factor(part, row, block);
    }
    value += linear->zero;
    return linear->shape ? linear->shape(linear->constants, value) : value;
}
#endif

/* `channel` is a copy of the table's `row` that can be read like memory. */
static void decode_linear(const struct pintle_part *part, const struct pintle_channel *row,
                          const struct pintle_channel *channel, const struct pintle_block *block,
                          struct pintle_reading *reading)
{
    const uint8_t *first = block->raw + channel->at;
    PINTLE_TABLE_ROW(struct pintle_linear, linear, pintle_part_row(part, row, block->settings));
    uint8_t flags = linear->flags;
    int32_t raw = integer_of(linear, word_of(linear, first));
    pintle_marks quality = 0;
    pintle_marks (*integer)(const uint8_t *, uint8_t, int32_t *);
    pintle_table_copy(&integer, &part->integer, sizeof integer);
    if (integer) {
        quality = integer(first, (uint8_t)(pintle_table_u8(&part->raw_size) - channel->at), &raw);
    }
    pintle_value value = value_of(part, row, channel, linear, block, raw);
    quality |= at_an_end(linear, raw) ? PINTLE_QUALITY_SATURATED : 0;
    if ((flags & PINTLE_LINEAR_POWER_ON) && raw == linear->power_on && !block->again) {
        quality |= PINTLE_QUALITY_POWER_ON;
    }
    if (linear->marks) {
        quality |= marks_of(linear->marks, first, block->raw);
    }
    reading->value = flags & PINTLE_LINEAR_CLAMP ? clamp(channel, value) : value;
    reading->raw = raw;
    reading->quality |= quality;
}

static void judge_range(const struct pintle_channel *channel, struct pintle_reading *reading)
{
    pintle_value lowest = pintle_priv_value_of(channel->lowest, channel->decimals);
    pintle_value highest = pintle_priv_value_of(channel->highest, channel->decimals);
    if (!(reading->value >= lowest && reading->value <= highest)) {
        reading->quality |= PINTLE_QUALITY_RANGE;
    }
}

/* Nothing but ones, or nothing but zeros, where that says that nobody sent them. */
static uint8_t silent(const struct pintle_part *part, const uint8_t *raw)
{
    uint8_t flags = pintle_table_u8(&part->flags);
    uint8_t first = pintle_table_u8(&part->data_at);
    uint8_t left = pintle_table_u8(&part->raw_size);
    uint8_t suspicious = left <= first        ? 0
                         : raw[first] == 0xff ? flags & PINTLE_PART_ONES_SILENT
                         : raw[first] == 0    ? flags & PINTLE_PART_ZEROS_SILENT
                                              : 0;
    for (uint8_t i = left; i > first && suspicious; i--) {
        suspicious = raw[i - 1] == raw[first];
    }
    return suspicious != 0;
}

void pintle_priv_no_value(struct pintle_reading *reading, pintle_marks quality)
{
    reading->value = PINTLE_NO_VALUE;
    reading->raw = 0;
    reading->quality = quality;
}

pintle_marks pintle_priv_decode(const struct pintle_part *part, const struct pintle_block *block,
                                struct pintle_reading *reading, pintle_marks more,
                                pintle_marks *all)
{
    void (*decode)(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings);
    const struct pintle_channel *rows = pintle_table_pointer(&part->channels);
    struct pintle_reading *end = reading + pintle_table_u8(&part->channel_count);
    pintle_marks any = 0;
    if (silent(part, block->raw)) {
        more |= PINTLE_QUALITY_BUS;
    }
    *all = reading < end ? PINTLE_QUALITY_BUS : 0;
    pintle_table_copy(&decode, &part->decode, sizeof decode);
    if (decode) {
        memset(reading, 0, (size_t)((const char *)end - (const char *)reading));
        decode(part, block, reading);
    }
    for (; reading < end; reading++, rows++) {
        PINTLE_TABLE_ROW(struct pintle_channel, channel, rows);
        if (!decode) {
            reading->quality = 0;
        }
        if (channel->input && !(channel->input & (uint16_t)~block->idle)) {
            pintle_priv_no_value(reading, PINTLE_QUALITY_IDLE);
            continue;
        }
        if (channel->linear) {
            decode_linear(part, rows, channel, block, reading);
        }
        judge_range(channel, reading);
        reading->quality |= more;
        if (reading->quality & PINTLE_QUALITY_BUS) {
            reading->value = PINTLE_NO_VALUE;
        }
        any |= reading->quality;
        *all &= reading->quality;
    }
    return any;
}

void pintle_part_decode(const struct pintle_part *part, const struct pintle_block *block,
                        struct pintle_reading *readings)
{
    pintle_marks all = 0;
    (void)pintle_priv_decode(part, block, readings, 0, &all);
}

struct pintle_block pintle_sensor_block(const struct pintle_sensor *sensor)
{
    const struct pintle_block block = { .raw = pintle_priv_raw(sensor),
                                        .trim = pintle_priv_trim(sensor),
                                        .settings = pintle_priv_settings_at(sensor),
                                        .numbers = (float *)(void *)sensor->own,
                                        .idle = sensor->idle };
    return block;
}

#if !PINTLE_WHOLE
pintle_value pintle_part_value(int32_t number, uint16_t over, uint8_t decimals)
{
    (void)decimals;
    return (float)number / (float)over;
}
#endif
