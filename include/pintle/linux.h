/* linux.h: the buses of a machine that runs Linux, through its kernel's own interfaces.
 *
 * Character devices for I2C (/dev/i2c-N), SPI (/dev/spidevN.M), serial lines (/dev/ttyS1) and pins
 * (/dev/gpiochipN, version 2 of its interface), the connector's netlink and sysfs for 1-Wire. The
 * caller owns the objects; a bus made of one must not outlive it, and it must stay where it is.
 * Nothing here is a real-time system: a limit of a transfer is the adapter's, not the caller's, and
 * a sleep may take longer.
 *
 * A bus or a pin is named by its device path or by what stays the same from boot to boot: an I2C
 * adapter's name, a pin's chip label and line name.
 *
 * Other programs, and the kernel's drivers, may talk on the same buses at any time. A bus made here
 * says so (no sole_master) and has claims, a lock (flock) on the device that every program that
 * uses this library takes for whatever must not be torn apart.
 *
 * A device that is missing, or may not be used, is no failure when it is opened: transfers say
 * NO_DEVICE or DENIED and try to open it again, so that an adapter may come and go. What the system
 * has to say beyond a status is in `words`, a clause for people.
 *
 * May still change.
 */
#ifndef PINTLE_LINUX_H
#define PINTLE_LINUX_H

#include "pintle/port.h"

PINTLE_C_BEGIN

#define PINTLE_LINUX_NAME 128
#define PINTLE_LINUX_WORDS 300
#define PINTLE_LINUX_SELECTS 64
#define PINTLE_LINUX_PATH 64

/* --- I2C --- */

struct pintle_linux_i2c {
    char name[PINTLE_LINUX_NAME];
    char path[PINTLE_LINUX_PATH]; /* "": not found yet */
    char words[PINTLE_LINUX_WORDS];
    int file;               /* -1: not open */
    unsigned long can;      /* the adapter's features, I2C_FUNC_... */
    uint8_t beside_drivers; /* 1: talk also to addresses that a driver of the kernel holds */
    uint8_t answered;       /* the address that did last; 0: none has */
};

/* `name` is a path ("/dev/i2c-1") or an adapter's name. OK, or what transfers will say. */
enum pintle_status pintle_linux_i2c_open(struct pintle_linux_i2c *adapter, const char *name);
void pintle_linux_i2c_close(struct pintle_linux_i2c *adapter);

/* The adapter as a bus. Statuses besides those of port.h: NO_DEVICE, DENIED, HELD (a driver of the
 * kernel has the address, and beside_drivers is 0), IO_ERROR, and UNSUPPORTED where an adapter that
 * speaks SMBus only has no call for a transfer, or where it is longer than the adapter takes. */
struct pintle_i2c pintle_linux_i2c_bus(struct pintle_linux_i2c *adapter);

/* The speed that the kernel says the bus has, in Hz; 0: it does not say. */
uint32_t pintle_linux_i2c_speed_hz(const struct pintle_linux_i2c *adapter);

/* The driver of the kernel that holds an address: its name, or null. Lies in `words`. */
const char *pintle_linux_i2c_holder(struct pintle_linux_i2c *adapter, uint8_t address);

/* --- SPI --- */

struct pintle_linux_pin;

struct pintle_linux_spi {
    struct pintle_linux_select {
        char path[PINTLE_LINUX_PATH]; /* "": no chip there */
        int file;
    } select[PINTLE_LINUX_SELECTS];
    uint8_t selects;
    char words[PINTLE_LINUX_WORDS];
    struct pintle_linux_pin *command; /* tells displays commands from data; null: there is none */
};

/* A bus without chips; then each select line, counted from 0, by its path ("/dev/spidev0.1"). */
void pintle_linux_spi_begin(struct pintle_linux_spi *bus);
enum pintle_status pintle_linux_spi_open(struct pintle_linux_spi *bus, uint8_t select,
                                         const char *path);
void pintle_linux_spi_close(struct pintle_linux_spi *bus);

/* UNSUPPORTED: the controller cannot do this mode or bit order, or the transfer is longer than
 * spidev takes in one go, without letting the select line up. */
struct pintle_spi pintle_linux_spi_bus(struct pintle_linux_spi *bus);

/* --- 1-Wire --- */

#define PINTLE_LINUX_CODES 64

struct pintle_w1_wire;

struct pintle_linux_onewire {
    char name[PINTLE_LINUX_NAME]; /* the master's ("w1_bus_master1") */
    char words[PINTLE_LINUX_WORDS];
    int socket; /* to the kernel; -1: none */
    int lock;   /* on the master's folder; -1: none */
    uint32_t master;
    uint32_t sequence;
    uint8_t reading_only;
    uint8_t mode;                         /* what the slots since the last reset are about */
    uint8_t out[160];                     /* bytes that wait to be sent in one go, */
    uint8_t waiting;                      /* so many */
    uint8_t failed;                       /* sent late, they came to this status */
    uint8_t codes[PINTLE_LINUX_CODES][8]; /* a search: who is on the line, */
    uint8_t left[PINTLE_LINUX_CODES];     /* and who still takes part */
    uint8_t count;
    uint8_t bit;
    uint8_t searched; /* the kernel's search begins at the first chip */
    /* Instead of a kernel's, for tests: what is talked to, and the folder that shows the masters;
     * null: a kernel's. */
    const struct pintle_w1_wire *wire;
    const char *folder;
    uint8_t pad_of[8]; /* reading only: whose scratchpad was shown last */
    uint8_t pad[9];    /* reading only: the scratchpad of the chip that was selected */
    uint8_t pad_at;
};

/* `name` is a master's ("w1_bus_master1"), or "" for the only one. Without permission to talk,
 * chips can be listed and a thermometer be read as the kernel's driver measures it. */
enum pintle_status pintle_linux_onewire_open(struct pintle_linux_onewire *line, const char *name);
void pintle_linux_onewire_close(struct pintle_linux_onewire *line);

/* Bytes and searches; single slots are UNSUPPORTED. From a reset on everything is kept back until
 * a command is whole or something is read, and sent in one go, since the kernel searches the line
 * by itself in between. Strong power is what the kernel's driver of thermometers gives. */
struct pintle_onewire pintle_linux_onewire_bus(struct pintle_linux_onewire *line);

/* --- serial lines --- */

struct pintle_linux_stream {
    char path[PINTLE_LINUX_PATH];
    char words[PINTLE_LINUX_WORDS];
    int file; /* -1: not open */
    uint32_t baud;
};

/* A line by its path ("/dev/ttyS1"): eight bits, no parity, one stop bit, no flow control.
 * UNSUPPORTED: it cannot run at this speed. */
enum pintle_status pintle_linux_stream_open(struct pintle_linux_stream *line, const char *path,
                                            uint32_t baud);
void pintle_linux_stream_close(struct pintle_linux_stream *line);
struct pintle_stream pintle_linux_stream_bus(struct pintle_linux_stream *line);

/* --- pins --- */

struct pintle_linux_pin {
    int file; /* of the line; -1: none */
    uint8_t driven;
    char words[PINTLE_LINUX_WORDS];
};

/* `name` is a line's name, which must be the only one of this name on the machine, or a chip's
 * label or path, a colon and a line's name or number ("/dev/gpiochip0:17"). The line is an input.
 * NO_DEVICE, DENIED; HELD: somebody else uses it, whom `words` name. */
enum pintle_status pintle_linux_pin_open(struct pintle_linux_pin *pin, const char *name);
void pintle_linux_pin_close(struct pintle_linux_pin *pin);
struct pintle_pin pintle_linux_pin_of(struct pintle_linux_pin *pin);

/* An edge, at the kernel's time of it. */
struct pintle_linux_edge {
    uint64_t at_us;    /* by pintle_linux_clock's now_us */
    uint8_t level;     /* after it */
    uint32_t sequence; /* edges of this line so far; a gap: some were lost */
};

/* From now on collect edges of an input. */
PINTLE_MUST_CHECK enum pintle_status pintle_linux_pin_watch(struct pintle_linux_pin *pin);

/* The next edge, waited for up to `limit_us`. NOT_READY: none came. */
PINTLE_MUST_CHECK enum pintle_status pintle_linux_pin_edge(struct pintle_linux_pin *pin,
                                                           uint32_t limit_us,
                                                           struct pintle_linux_edge *edge);

/* --- clock --- */

/* Monotonic time; sleeps that signals don't end, right to some 100 us where the machine is not
 * busy; the system's time of day, NEVER_SET while that is before 2001, as on a board without a
 * battery before the network has come. */
extern const struct pintle_clock pintle_linux_clock;

PINTLE_C_END

#endif
