/* bitbang.h: buses made of pins and a clock.
 *
 * For platforms with no I2C hardware, with too little of it, or with a faulty one. Portable: it
 * needs nothing but struct pintle_pin and struct pintle_clock.
 *
 * I2C timing keeps the minima of UM10204 table 10 in whole microseconds, so the bus runs at the
 * nominal speed or somewhat slower: 100 kHz, 333 kHz for fast mode, 500 kHz for fast-mode plus;
 * slower still by what the pins' own calls take. Chips may stretch the clock up to the transfer's
 * time limit.
 *
 * SPI runs at 500 kHz at most; chips don't mind slower.
 *
 * 1-Wire needs the clock's sleep_us to be right to a few microseconds and not to be interrupted
 * within a time slot: keep interrupts that last longer than 10 us off during a call.
 *
 * Stable.
 */
#ifndef PINTLE_BITBANG_H
#define PINTLE_BITBANG_H

#include "pintle/port.h"

PINTLE_C_BEGIN

/* An I2C master on two open-drain lines with pull-ups. Public so that it can be static; only the
 * calls below touch the members. */
struct pintle_bitbang_i2c {
    struct pintle_pin data_line;
    struct pintle_pin clock_line;
    const struct pintle_clock *clock;
    uint64_t deadline_us; /* of the transfer under way, */
    uint32_t waits;       /* and how many microseconds of waiting are left to it */
    uint16_t low_us;      /* half periods */
    uint16_t high_us;
    uint8_t begun; /* between START and STOP */
};

/* Prepare a master of at most `speed_hz` (1000 to 1000000) and release both lines. OUT_OF_RANGE:
 * another speed. */
PINTLE_MUST_CHECK enum pintle_status pintle_bitbang_i2c_init(struct pintle_bitbang_i2c *master,
                                                             struct pintle_pin data_line,
                                                             struct pintle_pin clock_line,
                                                             const struct pintle_clock *clock,
                                                             uint32_t speed_hz);

/* The master as a bus for sensors; it must stay where it is. */
struct pintle_i2c pintle_bitbang_i2c_bus(struct pintle_bitbang_i2c *master);

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

/* An SPI master on push-pull pins. */
struct pintle_bitbang_spi {
    struct pintle_pin clock_line;
    struct pintle_pin out;
    struct pintle_pin in;
    const struct pintle_pin *selects; /* one per chip */
    uint8_t select_count;
    const struct pintle_clock *clock;
    const struct pintle_pin *command; /* of displays: low with commands, high with data; or null,
                                         as init leaves it */
};

/* Prepare a master: clock low, nobody selected. `selects` must stay where it is. */
void pintle_bitbang_spi_init(struct pintle_bitbang_spi *master, struct pintle_pin clock_line,
                             struct pintle_pin out, struct pintle_pin in,
                             const struct pintle_pin *selects, uint8_t select_count,
                             const struct pintle_clock *clock);

/* The master as a bus for sensors. Its transfer returns BAD_ARGUMENT for a select that there is
 * not. */
struct pintle_spi pintle_bitbang_spi_bus(struct pintle_bitbang_spi *master);

/* A 1-Wire master on one pin that can be driven low and high, with a pull-up of 4.7 kilohms. */
struct pintle_bitbang_onewire {
    struct pintle_pin data_line;
    const struct pintle_clock *clock;
    uint8_t low_us;  /* sleeps, less what calls cost: in the low of a 1 (0: none), */
    uint8_t look_us; /* from its release to the look at the line (0: none), */
    uint8_t zero_us; /* in the low of a 0 */
};

/* Prepare a master, release the line, measure what the port's calls cost (some 50 us).
 * UNSUPPORTED: the machine or its sleep is too slow: between the release of a 1 and 15 us after it
 * began, when a chip's answer may be gone, there are not 4 us left for the line to rise. */
PINTLE_MUST_CHECK enum pintle_status
pintle_bitbang_onewire_init(struct pintle_bitbang_onewire *master, struct pintle_pin data_line,
                            const struct pintle_clock *clock);
struct pintle_onewire pintle_bitbang_onewire_bus(struct pintle_bitbang_onewire *master);

/* Why does a line that nobody talks on stay low? It is charged for a microsecond: without a pull-up
 * it then stays high by itself, shorted to ground it does not. DATA_STUCK: shorted; NO_PULL_UP:
 * there is none; OK: it is high as it should be. Takes 0.6 ms and ends with the line low long
 * enough to reset every chip. */
PINTLE_MUST_CHECK enum pintle_status
pintle_bitbang_onewire_look(const struct pintle_bitbang_onewire *master);

PINTLE_C_END

#endif
