/* Corrections as bytes, and two copies of them in a memory chip. */
#include "pintle/keep.h"

#include <string.h>

#include "pintle/ability.h"
#include "pintle/store.h"

#if !PINTLE_WHOLE

#define MARK 0x51u
#define HEAD 20u  /* mark, stages, length, turn; found, identity; 2 spare */
#define STAGE 16u /* of each, before its numbers */

static uint32_t checksum(const uint8_t *bytes, uint16_t count)
{
    uint32_t crc = 0xffffffff;
    for (uint16_t i = 0; i < count; i++) {
        crc ^= bytes[i];
        for (uint8_t bit = 0; bit < 8; bit++) {
            crc = crc & 1 ? crc >> 1 ^ 0xedb88320 : crc >> 1;
        }
    }
    return ~crc;
}

static uint8_t *put(uint8_t *to, uint32_t value, uint8_t bytes)
{
    for (; bytes > 0; bytes--) {
        *to++ = (uint8_t)value;
        value >>= 8;
    }
    return to;
}

static uint32_t get(const uint8_t *from, uint8_t bytes)
{
    uint32_t value = 0;
    while (bytes-- > 0) {
        value = value << 8 | from[bytes];
    }
    return value;
}

static uint8_t *put_float(uint8_t *to, float value)
{
    uint32_t bits;
    memcpy(&bits, &value, sizeof bits);
    return put(to, bits, 4);
}

static float get_float(const uint8_t *from)
{
    uint32_t bits = get(from, 4);
    float value;
    memcpy(&value, &bits, sizeof value);
    return value;
}

uint16_t pintle_keep_pack(const struct pintle_keep *kept, uint16_t turn, uint8_t *bytes,
                          uint16_t room)
{
    uint32_t length = HEAD + 4;
    for (uint8_t i = 0; i < kept->count; i++) {
        length += STAGE + 4u * kept->stages[i].count;
    }
    if (length > room) {
        return 0;
    }
    uint8_t *to = put(bytes, MARK | (uint32_t)kept->count << 8 | length << 16, 4);
    to = put(to, turn, 4);
    to = put(to, kept->found_s, 4);
    memcpy(to, kept->identity, sizeof kept->identity);
    to += sizeof kept->identity;
    for (uint8_t i = 0; i < kept->count; i++) {
        const struct pintle_correct_stage *s = &kept->stages[i];
        to = put(to,
                 s->kind | (uint32_t)s->channel << 8 | (uint32_t)s->count << 16
                     | (uint32_t)s->by << 24,
                 4);
        to = put_float(to, s->lowest);
        to = put_float(to, s->highest);
        to = put_float(to, s->uncertainty);
        for (uint8_t n = 0; n < s->count; n++) {
            to = put_float(to, s->numbers[n]);
        }
    }
    put(to, checksum(bytes, (uint16_t)(length - 4)), 4);
    return (uint16_t)length;
}

/* The stage at `at`, before `end`, whose numbers go to kept->numbers from `used` on. Bytes taken;
 * 0: that is not a stage. */
static uint16_t unpack_stage(struct pintle_keep *kept, struct pintle_correct_stage *s,
                             uint16_t used, const uint8_t *bytes, uint16_t at, uint16_t end)
{
    if ((uint32_t)at + STAGE > end) {
        return 0;
    }
    uint8_t count = bytes[at + 2];
    uint16_t over = (uint16_t)(used + count);
    if ((uint32_t)at + STAGE + 4u * count > end || over > kept->number_room) {
        return 0;
    }
    memset(s, 0, sizeof *s);
    s->kind = bytes[at];
    s->channel = bytes[at + 1];
    s->count = count;
    s->by = bytes[at + 3];
    s->lowest = get_float(bytes + at + 4);
    s->highest = get_float(bytes + at + 8);
    s->uncertainty = get_float(bytes + at + 12);
    s->numbers = kept->numbers + used;
    for (uint16_t n = used; n < over; n++) {
        kept->numbers[n] = get_float(bytes + at + STAGE + 4 * (n - used));
    }
    return pintle_correct_is_valid(s) ? (uint16_t)(STAGE + 4u * count) : 0;
}

/* The length of a whole record; 0: it is none. */
static uint16_t whole(const uint8_t *bytes, uint16_t count)
{
    uint16_t length = count < HEAD + 4 ? 0 : (uint16_t)get(bytes + 2, 2);
    uint8_t is = length >= HEAD + 4 && length <= count && bytes[0] == MARK
                 && checksum(bytes, (uint16_t)(length - 4)) == get(bytes + length - 4, 4);
    return is ? length : 0;
}

enum pintle_status pintle_keep_unpack(struct pintle_keep *kept, uint16_t *turn,
                                      const uint8_t *bytes, uint16_t count)
{
    uint16_t length = whole(bytes, count);
    uint16_t used = 0;
    kept->count = 0;
    if (length == 0) {
        return PINTLE_BAD_CRC;
    }
    uint8_t stages = bytes[1];
    uint16_t at = HEAD;
    for (uint8_t i = 0; i < stages; i++) {
        uint16_t took = i < kept->stage_room ? unpack_stage(kept, &kept->stages[i], used, bytes, at,
                                                            (uint16_t)(length - 4))
                                             : 0;
        if (took == 0) {
            return PINTLE_OUT_OF_RANGE;
        }
        used = (uint16_t)(used + kept->stages[i].count);
        at = (uint16_t)(at + took);
    }
    if (at != length - 4) {
        return PINTLE_OUT_OF_RANGE;
    }
    *turn = (uint16_t)get(bytes + 4, 2);
    kept->found_s = get(bytes + 8, 4);
    memcpy(kept->identity, bytes + 12, sizeof kept->identity);
    kept->count = stages;
    return PINTLE_OK;
}

/* What a cut can spoil, a page, must hold nothing of the other copy. */
static enum pintle_status check(const struct pintle_sensor *memory, uint32_t from, uint16_t room)
{
    const struct pintle_abilities *can = pintle_table_pointer(&memory->part->can);
    if (pintle_store_unit(memory->part) != 1) {
        return PINTLE_NO_ABILITY;
    }
    const struct pintle_store *rules = pintle_table_pointer(&can->store);
    uint16_t page = pintle_table_u16(&rules->page);
    return from % page || room % page || room == 0 ? PINTLE_BAD_ARGUMENT : PINTLE_OK;
}

/* Which of the two copies is the newer whole one; 2: neither is. */
static enum pintle_status newer(struct pintle_sensor *memory, uint32_t from, uint8_t *work,
                                uint16_t room, uint8_t *which, uint16_t *turn)
{
    *which = 2;
    for (uint8_t i = 0; i < 2; i++) {
        enum pintle_status status =
            pintle_store_read(memory, from + (uint32_t)i * room, work, room);
        if (status != PINTLE_OK) {
            return status;
        }
        uint16_t its = whole(work, room) ? (uint16_t)get(work + 4, 2) : 0;
        uint8_t later = *which == 2 || (uint16_t)(its - *turn) < 0x8000;
        if (whole(work, room) && later) {
            *which = i;
            *turn = its;
        }
    }
    return PINTLE_OK;
}

enum pintle_status pintle_keep_save(struct pintle_sensor *memory, uint32_t from,
                                    const struct pintle_keep *kept, uint8_t *work, uint16_t room)
{
    uint8_t which = 2;
    uint16_t turn = 0;
    enum pintle_status status = check(memory, from, room);
    status = status == PINTLE_OK ? newer(memory, from, work, room, &which, &turn) : status;
    if (status != PINTLE_OK) {
        return status;
    }
    uint16_t length = pintle_keep_pack(kept, (uint16_t)(turn + 1), work, room);
    if (length == 0) {
        return PINTLE_OUT_OF_RANGE;
    }
    return pintle_store_write(memory, from + (which == 0 ? room : 0u), work, length);
}

static uint8_t is_anybody(const uint8_t identity[8])
{
    uint8_t any = 0;
    for (uint8_t i = 0; i < 8; i++) {
        any |= identity[i];
    }
    return any == 0;
}

enum pintle_status pintle_keep_load(struct pintle_sensor *memory, uint32_t from,
                                    struct pintle_keep *kept, uint8_t *work, uint16_t room)
{
    uint8_t wanted[8];
    uint8_t which = 2;
    uint16_t turn = 0;
    memcpy(wanted, kept->identity, sizeof wanted);
    kept->count = 0;
    enum pintle_status status = check(memory, from, room);
    status = status == PINTLE_OK ? newer(memory, from, work, room, &which, &turn) : status;
    if (status == PINTLE_OK && which == 0) { /* the second is what was read last */
        status = pintle_store_read(memory, from, work, room);
    }
    if (status == PINTLE_OK) {
        status = which == 2 ? PINTLE_BAD_CRC : pintle_keep_unpack(kept, &turn, work, room);
    }
    if (status == PINTLE_OK && !is_anybody(wanted)
        && memcmp(wanted, kept->identity, sizeof wanted) != 0) {
        kept->count = 0;
        status = PINTLE_MISFIT;
    }
    return status;
}

#endif
