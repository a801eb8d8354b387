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

/* The integer that a linear row describes. The shift to the right keeps the sign. */
static int32_t assemble(const struct pintle_linear *linear, const uint8_t *raw)
{
    uint32_t value = 0;
    for (uint8_t i = 0; i < linear->bytes; i++) {
        uint8_t little = linear->flags & PINTLE_LINEAR_LITTLE_ENDIAN;
        uint8_t at = (uint8_t)(little ? linear->bytes - 1 - i : i);
        value = value << 8 | raw[linear->at + at];
    }
    uint8_t bits = linear->bits ? linear->bits : (uint8_t)(8 * linear->bytes - linear->shift);
    uint32_t sign = (uint32_t)1 << (bits - 1);
    value = (value >> linear->shift) & (sign | (sign - 1));
    if ((linear->flags & PINTLE_LINEAR_SIGNED) && (value & sign)) {
        return (int32_t)(value - sign) - (int32_t)(sign - 1) - 1;
    }
    return (int32_t)value;
}

static void decode_linear(const struct pintle_linear *row, const uint8_t *raw,
                          struct pintle_reading *reading)
{
    struct pintle_linear linear;
    pintle_table_copy(&linear, row, sizeof linear);
    reading->raw = assemble(&linear, raw);
    reading->value = (float)reading->raw * linear.scale + linear.zero;
    if (linear.shape) {
        reading->value = linear.shape(linear.constants, reading->value);
    }
    if (reading->raw <= linear.lowest || reading->raw >= linear.highest) {
        reading->quality |= PINTLE_QUALITY_SATURATED;
    }
    uint8_t last = raw[linear.at + linear.bytes - 1];
    if (((linear.flags & PINTLE_LINEAR_POWER_ON) && reading->raw == linear.power_on)
        || (last & linear.fixed_mask) != linear.fixed_bits) {
        reading->quality |= PINTLE_QUALITY_POWER_ON;
    }
}

const struct pintle_linear *pintle_priv_row(const struct pintle_channel *channel,
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

void pintle_part_decode(const struct pintle_part *part, const uint8_t *settings,
                        const struct pintle_block *block, struct pintle_sample *sample)
{
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
        const struct pintle_linear *row = pintle_priv_row(&channels[i], settings);
        if (row) {
            decode_linear(row, block->raw, &sample->channel[i]);
        }
        judge_range(&channels[i], &sample->channel[i]);
    }
}
