/* outputs.h: chips with lines that a program sets and reads: lamps, relays, buttons, floats.
 *
 *     pintle_outputs_init     every line is an input, as after power-up; nothing is written yet
 *     pintle_outputs_set      drive some of them
 *     pintle_outputs_release  make inputs of them again
 *     pintle_outputs_read     how all of them are, and whether the driven ones obey
 *
 * A chip that lost its supply has let its lines go. That is noticed when they are read (MISFIT) and
 * mended by the next pintle_outputs_set, which always writes all that the chip must know.
 *
 * Stable.
 */
#ifndef PINTLE_OUTPUTS_H
#define PINTLE_OUTPUTS_H

#include "pintle/sensor.h"

PINTLE_C_BEGIN

/* Where a part has its lines. Registers of one byte, or of two where there are more than eight
 * lines, in the part's byte order. */
struct pintle_lines {
    uint16_t out;       /* what they are driven to; PINTLE_NO_REG: the bytes alone are sent */
    uint16_t in;        /* how they are; likewise */
    uint16_t direction; /* a 1 for each input; PINTLE_NO_REG: a line that is high is one, for its
                           high is so weak that anybody may pull it low */
    uint8_t count;      /* 1 to 16 */
};

/* What a program makes of the lines of one chip. Only the calls below touch the members. */
struct pintle_outputs {
    struct pintle_sensor *sensor;
    uint16_t driven; /* a set: bit n for line n */
    uint16_t levels; /* of those */
};

/* No traffic. `sensor` must outlive it. NO_ABILITY: the part has no such lines. */
PINTLE_MUST_CHECK enum pintle_status pintle_outputs_init(struct pintle_outputs *outputs,
                                                         struct pintle_sensor *sensor);

/* Drive the lines in the set `lines` to these levels; the others stay as they are. The chip proves
 * itself first; a measurement under way ends. OUT_OF_RANGE: there are not so many lines; a bus
 * status; then what was asked for is remembered and goes out with the next call. */
PINTLE_MUST_CHECK enum pintle_status pintle_outputs_set(struct pintle_outputs *outputs,
                                                        uint16_t lines, uint16_t levels);

/* Make these lines inputs. Statuses likewise. */
PINTLE_MUST_CHECK enum pintle_status pintle_outputs_release(struct pintle_outputs *outputs,
                                                            uint16_t lines);

/* The level of every line. MISFIT: one that is driven is not as it was set: shorted, or let go by a
 * chip that lost its supply; *levels is set all the same. They are read twice; BAD_CRC: they were
 * not the same, as where one changes or the supply goes just then. Or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_outputs_read(struct pintle_outputs *outputs,
                                                         uint16_t *levels);

PINTLE_C_END

#endif
