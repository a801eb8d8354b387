/* What a program asks of the board that it runs on; each port in this folder implements it.
 *
 *     skeleton.c     nothing yet: to be filled in
 *     atmega328p.c   an 8-bit machine at 16 MHz: its two-wire interface, pins, timer 1, serial port
 *     nrf51822.c     a Cortex-M0 at 16 MHz: everything on pins, the core's own timer, serial port
 */
#ifndef BOARD_H
#define BOARD_H

#include "pintle/port.h"

/* Once, before anything else. */
void board_start(void);

extern const struct pintle_clock board_clock;

/* The buses. UNSUPPORTED: the board has none, or is too slow for one made of pins. */
PINTLE_MUST_CHECK enum pintle_status board_i2c(struct pintle_i2c *bus);
PINTLE_MUST_CHECK enum pintle_status board_spi(struct pintle_spi *bus);
PINTLE_MUST_CHECK enum pintle_status board_onewire(struct pintle_onewire *bus);

/* The serial port as a line to a chip, at 9600 baud; board_say then says it to the chip. */
PINTLE_MUST_CHECK enum pintle_status board_stream(struct pintle_stream *bus);

/* Send text to the serial port. */
void board_say(const char *text);

/* Nothing more to do: sleep for good. */
void board_halt(void);

#endif
