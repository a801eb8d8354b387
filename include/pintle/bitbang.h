/* bitbang.h: buses made of pins and a clock.
 *
 * For platforms with no I2C hardware, with too little of it, or with a faulty one. Portable: it
 * needs nothing but struct pintle_pin and struct pintle_clock. Timing keeps the minima of NXP
 * UM10204 table 10 in whole microseconds, so the bus runs at the nominal speed or somewhat slower:
 * 100 kHz, 333 kHz for fast mode, 500 kHz for fast-mode plus; slower still by what the pins' own
 * calls take. Chips may stretch the clock up to the transfer's time limit.
 */
#ifndef PINTLE_BITBANG_H
#define PINTLE_BITBANG_H

#include "pintle/port.h"

/* An I2C master on two open-drain lines with pull-ups. Public so that it can be static; only the
 * calls below touch the members. */
struct pintle_bitbang_i2c {
    struct pintle_pin data;
    struct pintle_pin line; /* the clock line */
    struct pintle_clock clock;
    uint64_t deadline_us; /* of the transfer under way */
    uint16_t low_us;      /* half periods */
    uint16_t high_us;
    uint8_t begun; /* between START and STOP */
};

/* Prepare a master of at most `speed_hz` (1000 to 1000000) and release both lines. OUT_OF_RANGE:
 * another speed. */
PINTLE_MUST_CHECK enum pintle_status
pintle_bitbang_i2c_init(struct pintle_bitbang_i2c *master, struct pintle_pin data,
                        struct pintle_pin line, struct pintle_clock clock, uint32_t speed_hz);

/* The master as a bus for sensors; it must stay where it is. */
struct pintle_i2c pintle_bitbang_i2c(struct pintle_bitbang_i2c *master);

/* What the lines look like while nobody talks. */
struct pintle_bitbang_look {
    uint8_t data_low;  /* data stays low though nobody should pull it */
    uint8_t clock_low; /* likewise */
    uint8_t touching;  /* pulling data low pulls the clock low */
    uint16_t rise_us;  /* until data is high again after a low; UINT16_MAX: it never is */
};

/* Look at the lines of an idle bus, without talking: no edge that a chip takes for more than a
 * START and a STOP. Takes at most 1 ms. */
void pintle_bitbang_i2c_look(struct pintle_bitbang_i2c *master, struct pintle_bitbang_look *look);

#endif
