/* store.h: chips that keep bytes: EEPROMs, clocks with some RAM, cards.
 *
 * What is written is read back: a call that says OK has put it there. What can't be undone by a
 * power cut is one page (or block) at the most; nothing beside it is touched.
 *
 * Stable.
 */
#ifndef PINTLE_STORE_H
#define PINTLE_STORE_H

#include "pintle/sensor.h"

PINTLE_C_BEGIN

struct pintle_store;

/* How a kind of store is talked to, about stretches that the calls below have checked, within one
 * page. */
struct pintle_store_calls {
    enum pintle_status (*read)(struct pintle_sensor *sensor, const struct pintle_store *store,
                               uint32_t from, uint8_t *bytes, uint16_t count);
    enum pintle_status (*write)(struct pintle_sensor *sensor, const struct pintle_store *store,
                                uint32_t from, const uint8_t *bytes, uint16_t count);
    /* Is it these bytes that are there? MISFIT: no. *sum gets a checksum of what is. */
    enum pintle_status (*look)(struct pintle_sensor *sensor, const struct pintle_store *store,
                               uint32_t from, const uint8_t *bytes, uint16_t count, uint16_t *sum);
    /* Prove the chip and ask it; null: it is as the table says, and proves itself as any part does.
     */
    enum pintle_status (*size)(struct pintle_sensor *sensor, uint64_t *size);
};

/* What a part keeps. */
struct pintle_store {
    const struct pintle_store_calls *calls; /* a table */
    uint32_t size;                          /* bytes; 0: it differs, and the chip says it */
    uint16_t unit;     /* it is read and written by so many: 1, or 512 of a card */
    uint16_t page;     /* bytes of one write, which lie within one multiple of it */
    uint16_t first;    /* the register of byte 0 */
    uint32_t write_us; /* the longest that a write takes; until then the chip does not answer */
};

/* Registers as memory, in the part's way of addressing. */
extern const struct pintle_store_calls pintle_store_registers;

/* How many bytes it has. The chip proves itself first; a measurement under way ends. NO_ABILITY:
 * the part keeps nothing; a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_store_size(struct pintle_sensor *sensor,
                                                       uint64_t *size);

/* Read `count` units from unit number `from` on. The caller owns the bytes, unit x count of them.
 * Statuses as above; OUT_OF_RANGE: it has not so many; BAD_CRC: a card's checksum is wrong, or a
 * memory without any, which is read twice, said something else. */
PINTLE_MUST_CHECK enum pintle_status pintle_store_read(struct pintle_sensor *sensor, uint32_t from,
                                                       uint8_t *bytes, uint16_t count);

/* Write them, page by page, and read each back; what is there already is not written again.
 * READ_ONLY: it still holds what it held (a protected chip does not say so); MISFIT: it holds
 * something else. */
PINTLE_MUST_CHECK enum pintle_status pintle_store_write(struct pintle_sensor *sensor, uint32_t from,
                                                        const uint8_t *bytes, uint16_t count);

/* The unit: how many bytes belong to one number above; 0: the part keeps nothing. */
uint16_t pintle_store_unit(const struct pintle_part *part);

PINTLE_C_END

#endif
