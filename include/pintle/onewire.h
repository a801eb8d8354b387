/* onewire.h: a 1-Wire line: which chips are on it, and talking to one of them.
 *
 * Every chip has a code of eight bytes: family, serial number, CRC-8, in the order in which they
 * come over the line. Commands and the search are those of the parts' datasheets (DS18B20,
 * 19-7487, "ROM commands").
 *
 * Stable.
 */
#ifndef PINTLE_ONEWIRE_H
#define PINTLE_ONEWIRE_H

#include "pintle/port.h"

PINTLE_C_BEGIN

/* CRC-8, polynomial x^8 + x^5 + x^4 + 1, low bit first, starting from 0. */
uint8_t pintle_onewire_crc(const uint8_t *bytes, uint8_t count);

/* Where others use the line too, claim it around select and what belongs to it (port.h); `only` and
 * `next` do so themselves.
 *
 * Reset, then address the chip of this code; null: all chips at once. NO_ANSWER, DATA_STUCK;
 * LINE_BUSY: the line is powering a chip (see pintle_onewire_power). */
PINTLE_MUST_CHECK enum pintle_status pintle_onewire_select(struct pintle_onewire *line,
                                                           const uint8_t *code);

PINTLE_MUST_CHECK enum pintle_status pintle_onewire_write(struct pintle_onewire *line,
                                                          const uint8_t *bytes, uint8_t count);
PINTLE_MUST_CHECK enum pintle_status pintle_onewire_read(struct pintle_onewire *line,
                                                         uint8_t *bytes, uint8_t count);

/* Write one byte, then power the line hard for `us`: until then nobody may use it. */
PINTLE_MUST_CHECK enum pintle_status pintle_onewire_power(struct pintle_onewire *line, uint8_t byte,
                                                          uint32_t us);

/* The code of the only chip on the line. BAD_CRC: there are several, or noise. */
PINTLE_MUST_CHECK enum pintle_status pintle_onewire_only(struct pintle_onewire *line,
                                                         uint8_t code[8]);

/* A search, from chip to chip. Begin with all zeros. */
struct pintle_onewire_search {
    uint8_t code[8]; /* of the chip found last */
    uint8_t fork;    /* the last bit where 0 was chosen and 1 is still to be gone */
    uint8_t ended;
    uint8_t alarmed; /* set: find only chips whose alarm flag is up */
    uint8_t bits;    /* of the code that came last: 64, or fewer where it broke off */
};

/* Find the next chip. OK: its code is in `search`; NO_ANSWER: there is none, or no other; BAD_CRC:
 * the code does not hold together or is all zeros, or it breaks off (see `bits`), which is a fault
 * of the wiring; the search goes on behind one that does not hold together. DATA_STUCK, LINE_BUSY
 * as above. */
PINTLE_MUST_CHECK enum pintle_status pintle_onewire_next(struct pintle_onewire *line,
                                                         struct pintle_onewire_search *search);

PINTLE_C_END

#endif
