#include "pintle/correction.h"

#include <string.h>

#if !PINTLE_WHOLE

/* Not so for what isn't a number, and for infinities. */
static uint8_t is_finite(float x)
{
    return x - x == 0;
}

uint8_t pintle_correction_is_valid(const struct pintle_correction *correction)
{
    return correction->set == 1 && is_finite(correction->gain) && is_finite(correction->offset)
           && correction->gain != 0;
}

void pintle_correction_apply(const struct pintle_correction *correction,
                             struct pintle_reading *reading)
{
    if (reading->quality & PINTLE_QUALITY_BUS) {
        return;
    }
    if (!correction || !pintle_correction_is_valid(correction)) {
        reading->quality |= PINTLE_QUALITY_UNCORRECTED;
        return;
    }
    reading->value = reading->value * correction->gain + correction->offset;
    if (!is_finite(reading->value)) {
        reading->quality |= PINTLE_QUALITY_RANGE;
    }
}

#define PACKED 0x50 /* what the first byte says: a correction, in this form */

/* CRC-16, polynomial 0x1021, from 0xffff, high bit first. */
static uint16_t checksum(const uint8_t *bytes, uint8_t count)
{
    uint16_t crc = 0xffff;
    while (count--) {
        crc = (uint16_t)(crc ^ (uint16_t)*bytes++ << 8);
        for (uint8_t bit = 0; bit < 8; bit++) {
            crc = (uint16_t)((crc & 0x8000) ? crc << 1 ^ 0x1021 : crc << 1);
        }
    }
    return crc;
}

static void put_float(uint8_t *to, float value)
{
    uint32_t bits;
    memcpy(&bits, &value, sizeof bits);
    for (uint8_t i = 0; i < 4; i++) {
        to[i] = (uint8_t)(bits >> 8 * i);
    }
}

static float get_float(const uint8_t *from)
{
    uint32_t bits = 0;
    float value;
    for (uint8_t i = 4; i-- > 0;) {
        bits = bits << 8 | from[i];
    }
    memcpy(&value, &bits, sizeof value);
    return value;
}

void pintle_correction_pack(const struct pintle_correction *correction,
                            uint8_t bytes[PINTLE_CORRECTION_BYTES])
{
    bytes[0] = PACKED;
    put_float(bytes + 1, correction->gain);
    put_float(bytes + 5, correction->offset);
    uint16_t crc = checksum(bytes, 9);
    bytes[9] = (uint8_t)crc;
    bytes[10] = (uint8_t)(crc >> 8);
}

enum pintle_status pintle_correction_unpack(struct pintle_correction *correction,
                                            const uint8_t bytes[PINTLE_CORRECTION_BYTES])
{
    uint16_t crc = (uint16_t)(bytes[9] | (uint16_t)bytes[10] << 8);
    memset(correction, 0, sizeof *correction);
    if (bytes[0] != PACKED || checksum(bytes, 9) != crc) {
        return PINTLE_BAD_CRC;
    }
    struct pintle_correction is;
    is.gain = get_float(bytes + 1);
    is.offset = get_float(bytes + 5);
    is.set = 1;
    if (!pintle_correction_is_valid(&is)) {
        return PINTLE_OUT_OF_RANGE;
    }
    *correction = is;
    return PINTLE_OK;
}

#endif
