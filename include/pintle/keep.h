/* keep.h: corrections in a memory chip.
 *
 * Two copies lie one behind the other, and each is written in turn: what is there already is not
 * touched until the next one is whole. A number in each copy tells the newer, a CRC-32 whether it
 * is one; so, wherever in the writing the power is cut, the old correction is found, or the new
 * one.
 *
 * A record is: a mark, the number of stages, its length, its number; when it was found and for
 * which sensor; of each stage kind, channel, count, second, and as IEEE 754 binary32 span,
 * uncertainty and numbers; the CRC-32 of ISO 3309. Whole numbers and floats low byte first.
 *
 * Stable.
 */
#ifndef PINTLE_KEEP_H
#define PINTLE_KEEP_H

#include "pintle/correct.h"
#include "pintle/sensor.h"

PINTLE_C_BEGIN

/* Stages with their numbers, in the caller's memory, and what they are for. */
struct pintle_keep {
    struct pintle_correct_stage *stages;
    float *numbers;
    uint8_t stage_room, number_room; /* so many there is memory for */
    uint8_t count;                   /* of stages */
    uint32_t found_s;    /* when they were found: seconds since 2000-01-01T00:00:00Z; 0: unknown */
    uint8_t identity[8]; /* of the sensor: a code or serial number; zeros: it has none */
};

#define PINTLE_KEPT_BYTES(stages, numbers) (24 + 16 * (stages) + 4 * (numbers))

/* The kept as bytes: how many; 0: there isn't room. `turn` counts the copies. */
uint16_t pintle_keep_pack(const struct pintle_keep *kept, uint16_t turn, uint8_t *bytes,
                          uint16_t room);

/* And back. BAD_CRC: this is none; OUT_OF_RANGE: a stage is not valid, or there is not enough
 * memory for them. Nothing is kept then. */
PINTLE_MUST_CHECK enum pintle_status pintle_keep_unpack(struct pintle_keep *kept, uint16_t *turn,
                                                        const uint8_t *bytes, uint16_t count);

/* Write to a memory chip: two stretches of `room` bytes from `from` on, both multiples of the
 * memory's page, which is what a power cut can spoil. `work` is as many bytes of the caller's.
 * OUT_OF_RANGE: the record is longer than that; BAD_ARGUMENT: no multiples; NO_ABILITY: the part
 * is no memory of single bytes; else the statuses of pintle_store_write. */
PINTLE_MUST_CHECK enum pintle_status pintle_keep_save(struct pintle_sensor *memory, uint32_t from,
                                                      const struct pintle_keep *kept, uint8_t *work,
                                                      uint16_t room);

/* Read the newer whole one. MISFIT: it is another sensor's than `kept->identity`, which the caller
 * sets (zeros: anybody's). Second channels are the caller's to link anew, by each stage's `by`.
 * Else as pintle_keep_unpack, and the statuses of pintle_store_read. */
PINTLE_MUST_CHECK enum pintle_status pintle_keep_load(struct pintle_sensor *memory, uint32_t from,
                                                      struct pintle_keep *kept, uint8_t *work,
                                                      uint16_t room);

PINTLE_C_END

#endif
