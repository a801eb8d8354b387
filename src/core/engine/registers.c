/* Registers as numbers, whatever bus they come over. */
#include "engine.h"

uint8_t *pintle_priv_settings_at(const struct pintle_sensor *sensor)
{
    return sensor->own + 4 * pintle_table_u8(&sensor->part->number_count);
}

uint8_t *pintle_priv_trim(const struct pintle_sensor *sensor)
{
    return pintle_priv_settings_at(sensor) + pintle_table_u8(&sensor->part->setting_count);
}

uint8_t *pintle_priv_raw(const struct pintle_sensor *sensor)
{
    return pintle_priv_trim(sensor) + pintle_table_u8(&sensor->part->trim_size);
}

enum pintle_status pintle_priv_checked(const struct pintle_sensor *sensor, uint8_t number,
                                       const uint8_t *bytes, uint8_t count)
{
    const struct pintle_part_crc *rule = pintle_table_pointer(&sensor->part->crc);
    enum pintle_status (*check)(const struct pintle_part_crc *, const uint8_t *, size_t);
    if (!rule) {
        return PINTLE_OK;
    }
    rule += number;
    pintle_table_copy(&check, &rule->check, sizeof check);
    return check(rule, bytes, count);
}

/* Where byte `i` of a register of `width` bytes belongs, in bits. */
static uint8_t place(const struct pintle_sensor *sensor, uint8_t i, uint8_t width)
{
    uint8_t high_first = pintle_priv_flags(sensor) & PINTLE_PART_BIG_ENDIAN;
    return (uint8_t)(8 * (high_first ? width - 1 - i : i));
}

enum pintle_status pintle_priv_read(struct pintle_sensor *sensor, uint16_t reg, uint8_t width,
                                    uint32_t *value)
{
    uint8_t bytes[8];
    const struct pintle_part_crc *rule = pintle_table_pointer(&sensor->part->crc);
    uint8_t stride = rule ? pintle_table_u8(&rule->bits) / 8 : 0;
    uint8_t span = stride ? pintle_table_u8(&rule->span) : width;
    uint8_t count = (uint8_t)(width + (span ? width / span * stride : 0));
    if (span < 1 || width < 1 || width > 4 || count > sizeof bytes) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = pintle_priv_receive(sensor, reg, bytes, count);
    if (status == PINTLE_OK && stride) {
        status = pintle_priv_checked(sensor, 0, bytes, count);
    }
    if (status != PINTLE_OK) {
        return status;
    }
    *value = 0;
    for (uint8_t i = 0; i < width; i++) {
        *value |= (uint32_t)bytes[i + stride * (i / span)] << place(sensor, i, width);
    }
    return PINTLE_OK;
}

enum pintle_status pintle_priv_write(struct pintle_sensor *sensor, uint16_t reg, uint8_t width,
                                     uint32_t value)
{
    uint8_t bytes[PINTLE_WRITE_MAX];
    if (width > PINTLE_WRITE_MAX) {
        return PINTLE_BAD_ARGUMENT;
    }
    for (uint8_t i = 0; i < width; i++) {
        bytes[i] = (uint8_t)(value >> place(sensor, i, width));
    }
    return pintle_priv_send(sensor, reg, bytes, width);
}
