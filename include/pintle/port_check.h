/* port_check.h: does a port keep its contract (port.h)?
 *
 * Run it on new hardware against one chip that is known to work and one address where nobody is;
 * it says line by line what holds. No heap, no text beyond constant strings: it links on a
 * microcontroller too. examples/port_check.c is a program to begin with.
 *
 * Stable.
 */
#ifndef PINTLE_PORT_CHECK_H
#define PINTLE_PORT_CHECK_H

#include "pintle/port.h"

PINTLE_C_BEGIN

enum pintle_verdict {
    PINTLE_HOLDS,
    PINTLE_FAILS,
    PINTLE_NOT_OFFERED /* the port has no such call: it need not */
};

/* A line: what was looked at, how it came out, the status that was met, and a figure with its unit
 * ("" where there is none). Both texts lie in tables (table.h). */
typedef void pintle_port_line(void *context, const char *what, enum pintle_verdict verdict,
                              enum pintle_status status, uint32_t figure, const char *unit);

struct pintle_port_check {
    struct pintle_i2c *bus;
    uint8_t known; /* the chip's address */
    uint8_t empty; /* nobody's */
    /* A register of the chip whose two bytes differ and stay as they are, and which begins with its
     * first byte again after each START: a thermometer's limit, as TMP102's T_HIGH (03h, 4B00h). */
    uint8_t reg;
    uint8_t bytes[2];
    pintle_port_line *line;
    void *context;
};

/* Returns how many lines failed. It writes nothing to the chip but the register's address. */
unsigned pintle_port_check_run(const struct pintle_port_check *check);

/* "holds", "FAILS", "not offered"; lies in a table. */
const char *pintle_port_verdict_word(enum pintle_verdict verdict);

PINTLE_C_END

#endif
