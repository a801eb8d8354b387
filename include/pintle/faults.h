/* faults.h: what goes wrong in a simulation (sim.h), with chips and with the lines of a bus.
 *
 * May still change.
 */
#ifndef PINTLE_FAULTS_H
#define PINTLE_FAULTS_H

#include <stdint.h>

enum pintle_sim_fault_kind {
    PINTLE_SIM_UNPLUGGED, /* gone, and powered up afresh when it comes back */
    PINTLE_SIM_SILENT,    /* has power, answers nothing; its select line is broken */
    PINTLE_SIM_FLIPPED,   /* one bit of one read byte comes out wrong in each transfer */
    PINTLE_SIM_DEAFENING, /* I2C: it acknowledges every address, as noise does */
    PINTLE_SIM_FROZEN,    /* it works, but measures nothing new */
    PINTLE_SIM_CUT,       /* its power goes in the middle of the next write to it, and comes back at
                             the end */
    PINTLE_SIM_MEDDLED,   /* between transfers another master reads registers of it, which moves
                             its pointer or bank; the bus must be `shared` then */
    PINTLE_SIM_MISHEARD,  /* I2C, 1-Wire: of every fourth byte that is written to it, behind the one
                             that says which register, it hears a bit wrong */
    PINTLE_SIM_TORN,      /* I2C: each transfer with it breaks off behind some byte: TIME_LIMIT */
    PINTLE_SIM_LINES,     /* the lines of a bus: see `trouble` */
    PINTLE_SIM_OFF        /* the whole bus is switched off: its calls return UNSUPPORTED */
};

/* What is wrong with the lines of a bus; a set. On SPI "data" is the chips' output; 1-Wire has
 * nothing but data. */
enum pintle_sim_trouble {
    PINTLE_SIM_DATA_LOW = 1,   /* data shorted to ground */
    PINTLE_SIM_CLOCK_LOW = 2,  /* clock shorted to ground */
    PINTLE_SIM_NO_PULL_UP = 4, /* on either line: once low, low */
    PINTLE_SIM_SWAPPED = 8,    /* data and clock (SPI: in and out) swapped on the way */
    PINTLE_SIM_BRIDGED = 16,   /* data and clock touch */
    PINTLE_SIM_STRETCHED = 32, /* a chip holds the clock after its address for `amount` us */
    PINTLE_SIM_HELD = 64,      /* a chip holds data low until it has seen `amount` clocks */
    PINTLE_SIM_NOISE = 128     /* the master sees a wrong bit now and then */
};

struct pintle_sim_fault {
    enum pintle_sim_fault_kind kind;
    uint16_t chip;    /* index, in the order of adding; for LINES and OFF the bus */
    uint64_t from_us; /* since the world began, up to but not including `to_us` */
    uint64_t to_us;
    uint8_t trouble; /* for LINES */
    uint32_t amount;
};

#endif
