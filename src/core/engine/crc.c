#include "pintle/part.h"

const struct pintle_part_crc pintle_crc8_words PINTLE_TABLE = {
    .check = pintle_part_crc_check, .polynomial = 0x31, .start = 0xff, .bits = 8, .span = 2
};

/* In the upper `bits` of sixteen, or in the lower where the lowest bit comes first. */
uint16_t pintle_part_crc_over(const struct pintle_part_crc *rule, const uint8_t *bytes,
                              size_t count)
{
    PINTLE_TABLE_ROW(struct pintle_part_crc, r, rule);
    uint8_t up = (uint8_t)(r->low_first ? 0 : 16 - r->bits);
    uint16_t polynomial = (uint16_t)(r->polynomial << up);
    uint16_t crc = (uint16_t)(r->start << up);
    if (r->polynomial == 0) { /* a plain sum */
        crc = r->start;
        for (size_t at = 0; at < count; at++) {
            crc = (uint16_t)(crc + bytes[at]);
        }
        return r->bits == 8 ? crc & 0xff : crc;
    }
    for (size_t at = 0; at < count; at++) {
        crc ^= (uint16_t)(r->low_first ? bytes[at] : bytes[at] << 8);
        for (uint8_t i = 8; i > 0; i--) {
            uint16_t out = crc & (r->low_first ? 1u : 0x8000u);
            crc = (uint16_t)(r->low_first ? crc >> 1 : crc << 1);
            crc ^= out ? polynomial : 0;
        }
    }
    return (uint16_t)(crc >> up);
}

enum pintle_status pintle_part_crc_check(const struct pintle_part_crc *rule, const uint8_t *bytes,
                                         size_t count)
{
    uint8_t wide = pintle_table_u8(&rule->bits) / 8;
    uint8_t span = pintle_table_u8(&rule->span);
    for (size_t at = 0; at < count; at += (size_t)span + wide) {
        if (at + span + wide > count) {
            return PINTLE_BAD_CRC;
        }
        const uint8_t *sum = bytes + at + span;
        uint8_t high = pintle_table_u8(&rule->low_first) ? 1 : 0;
        uint16_t is = (uint16_t)(wide == 1 ? sum[0] : sum[high] << 8 | sum[!high]);
        if (pintle_part_crc_over(rule, bytes + at, span) != is) {
            return PINTLE_BAD_CRC;
        }
    }
    return PINTLE_OK;
}
