/* Registers as numbers, whatever bus they come over. */
#include "engine.h"

enum pintle_status pintle_priv_words(const uint8_t *bytes, uint8_t count)
{
    for (uint8_t i = 0; i + 2 < count; i = (uint8_t)(i + 3)) {
        if (pintle_crc8_31(bytes + i, 2) != bytes[i + 2]) {
            return PINTLE_BAD_CRC;
        }
    }
    return PINTLE_OK;
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
    uint8_t bytes[6];
    uint8_t stride = 0;
    uint8_t count = width;
    if (width < 1 || width > 4) {
        return PINTLE_BAD_ARGUMENT;
    }
    if (pintle_priv_flags(sensor) & PINTLE_PART_CRC_WORDS) {
        stride = 1;
        count = (uint8_t)(width + width / 2);
    }
    PINTLE_LINK(link, sensor);
    enum pintle_status status = link->receive(sensor, reg, bytes, count);
    if (status == PINTLE_OK && stride) {
        status = pintle_priv_words(bytes, count);
    }
    if (status != PINTLE_OK) {
        return status;
    }
    *value = 0;
    for (uint8_t i = 0; i < width; i++) {
        *value |= (uint32_t)bytes[i + stride * (i / 2)] << place(sensor, i, width);
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
    PINTLE_LINK(link, sensor);
    return link->send(sensor, reg, bytes, width);
}
