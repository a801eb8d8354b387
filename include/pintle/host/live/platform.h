/* host/live/platform.h: what a rig's buses are reached through.
 *
 * One table for each: the simulation, this machine's own buses under Linux. A rig file names it as
 * its board's port. Everything above knows the table only; a new platform is a folder of its own
 * and a line in src/host/live/platforms.c.
 */
#ifndef PINTLE_HOST_LIVE_PLATFORM_H
#define PINTLE_HOST_LIVE_PLATFORM_H

#include <stdbool.h>

#include "pintle/bitbang.h"
#include "pintle/host/rig/rig.h"

PINTLE_C_BEGIN

struct pintle_station;

/* A bus's lines, as edges name them; SPI's select lines are counted from SELECT on. */
enum pintle_wire_name {
    PINTLE_LINE_DATA,
    PINTLE_LINE_CLOCK,
    PINTLE_LINE_ANSWER = PINTLE_LINE_CLOCK, /* a serial line: what the chip sends on */
    PINTLE_LINE_DATA_IN,
    PINTLE_LINE_SELECT,
    PINTLE_LINE_COMMAND = PINTLE_LINE_SELECT + PINTLE_RIG_SELECTS, /* SPI: low with commands */
    PINTLE_LINES
};

/* A line has gone to `level`, `at_ns` after the platform's clock began. */
typedef void pintle_edge_heard(void *context, uint8_t line, uint8_t level, uint64_t at_ns);

/* A bus's lines at rest. */
struct pintle_look {
    struct pintle_bitbang_look i2c;
    enum pintle_status onewire;
};

/* The machine's own lines (GPIO), each by its name (linux.h). Those that return false have set the
 * problem. */
struct pintle_board_edge {
    uint64_t at_us; /* monotonic */
    uint8_t level;  /* after it */
};
struct pintle_board_lines {
    void *(*open)(const char *name, struct pintle_problem *problem); /* an input; NULL: failed */
    bool (*level)(void *line, uint8_t *level, struct pintle_problem *problem);
    bool (*drive)(void *line, uint8_t level, struct pintle_problem *problem);
    /* Wait for the next edge, for `limit_us` at most: *came says whether there was one. The first
     * call begins to collect them. */
    bool (*edge)(void *line, uint32_t limit_us, bool *came, struct pintle_board_edge *edge,
                 struct pintle_problem *problem);
    void (*close)(void *line); /* what was driven is an input again */
};

struct pintle_platform {
    const char *name; /* the board's port in a rig file */
    const char *what; /* a clause for people */

    /* Open the buses of the station's rig: fill i2c, spi, onewire and stream, which are allocated
     * and zeroed, as each bus's kind asks for, the clock, and `own`. A bus that is not there is no
     * failure: its transfers say NO_DEVICE. `close` is called also after a failure. */
    bool (*open)(struct pintle_station *station, struct pintle_problem *problem);
    void (*close)(struct pintle_station *station);

    /* Let simulated time pass, until so long after its world began; null: time is real, and nothing
     * can begin at another moment. */
    void (*pass)(struct pintle_station *station, uint64_t until_us);

    /* Tie simulated time to the real clock. */
    void (*pace)(struct pintle_station *station);

    /* Hear every edge of a bus from now on; null: lines cannot be watched. */
    void (*listen)(struct pintle_station *station, unsigned bus, pintle_edge_heard *heard,
                   void *context);

    /* Look at a bus's lines. False: not on this bus; null: never. */
    bool (*look)(struct pintle_station *station, unsigned bus, struct pintle_look *look);

    /* What the platform has to say of a bus: the speed that it really runs at, in Hz; 0: it does
     * not know. Null: as the rig says. */
    uint32_t (*speed_hz)(const struct pintle_station *station, unsigned bus);

    /* The driver of the operating system that has an address of an I2C bus to itself, or null,
     * until the next call. Null where there is no such thing. */
    const char *(*holder)(struct pintle_station *station, unsigned bus, uint8_t address);

    /* The temperature that the machine says it has itself, in degC. False: it doesn't say; null:
     * never. */
    bool (*board_temperature)(struct pintle_station *station, float *celsius);

    /* The level of the interrupt pin of the rig's sensor. False: nothing is known of it; null:
     * never. */
    bool (*pin)(struct pintle_station *station, unsigned index, uint8_t *level);

    /* Is a dot of the display of the rig's sensor dark? False: nobody can see it; null: never. */
    bool (*dot)(struct pintle_station *station, unsigned index, unsigned x, unsigned y, bool *dark);

    /* Every bus that it offers, as the text of a rig file without sensors, to be freed with
     * pintle_host_free; null: none, and that is said. The member is null where only a rig can
     * name them. */
    char *(*offers)(struct pintle_problem *problem);

    const struct pintle_board_lines *lines; /* NULL: the machine has none of its own */
};

extern const struct pintle_platform pintle_platform_sim;
extern const struct pintle_platform pintle_platform_linux;

/* The platform of this name in this build, or null with the problem set. */
const struct pintle_platform *pintle_platform_find(const char *name,
                                                   struct pintle_problem *problem);

/* Every bus that this machine offers, as the text of a rig file without sensors; see `offers`. */
char *pintle_platform_offers(struct pintle_problem *problem);

/* All of this build; null beyond the last. */
const struct pintle_platform *pintle_platform_at(size_t index);

PINTLE_C_END

#endif
