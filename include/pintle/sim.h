/* sim.h: a port with no hardware.
 *
 * A struct pintle_sim is a bench: up to PINTLE_SIM_BUSES I2C buses, chips on them, and a clock.
 * Time passes only when somebody sleeps or a byte crosses a bus, so a simulated day takes as long
 * as its traffic needs to compute; set `pace` to tie it to the real clock. Everything follows from
 * `seed`: the same program sees the same readings.
 *
 *     pintle_sim_init         an empty bench
 *     pintle_sim_add          put a chip on a bus, by part number
 *     pintle_sim_feel         what the chip is exposed to: a constant, or a curve over time
 *     pintle_sim_fault        what goes wrong, and when
 *     pintle_sim_i2c, _clock  the ports to give to sensors
 *
 * For the lines themselves, edges, rise times, shorts and all, put struct pintle_sim_wires under a
 * bit-banged master instead of using pintle_sim_i2c; the chips are the same.
 *
 *     pintle_sim_wires_init   the two lines of a bus, with pull-up and capacitance
 *     pintle_sim_pin          one of them, for pintle_bitbang_i2c_init
 *
 * The chips are written from their datasheets, register by register, and share nothing with the
 * drivers. A chip is within the part's accuracy of the truth: each has errors of its own, drawn
 * from the seed, and noise.
 */
#ifndef PINTLE_SIM_H
#define PINTLE_SIM_H

#include "pintle/port.h"

#define PINTLE_SIM_BUSES 4
#define PINTLE_SIM_CHIPS 16
#define PINTLE_SIM_INPUTS 3
#define PINTLE_SIM_FAULTS 32
#define PINTLE_SIM_STATE 256 /* bytes of state of the largest chip */

struct pintle_sim;
struct pintle_sim_chip;

/* A value at a moment, `t` in seconds since the world began. */
struct pintle_point {
    double t;
    double value;
};

/* A quantity of the world over time: a smooth line through points (level before the first and
 * after the last), plus a sine. */
struct pintle_curve {
    const struct pintle_point *points; /* in order of time; null: `level` throughout */
    size_t count;
    double level;
    double swing;    /* amplitude of the sine */
    double period_s; /* 0: no sine */
    double phase_s;  /* the sine rises through zero here */
};

/* The curve's value, `t` in seconds. */
double pintle_curve_at(const struct pintle_curve *curve, double t);

/* What a kind of chip does. Events come from the bus as a chip sees it, whether from whole
 * transfers or from single edges. */
struct pintle_sim_model {
    const char *name;
    const char *inputs[PINTLE_SIM_INPUTS]; /* what it feels ("temperature"), null-terminated */
    double errors[PINTLE_SIM_INPUTS];      /* largest error of a specimen */
    double noises[PINTLE_SIM_INPUTS];      /* standard deviation of a reading */
    void (*power_up)(struct pintle_sim_chip *chip);
    uint8_t (*start)(struct pintle_sim_chip *chip, uint8_t reading); /* 1: acknowledge */
    uint8_t (*write)(struct pintle_sim_chip *chip, uint8_t byte);    /* 1: acknowledge */
    uint8_t (*read)(struct pintle_sim_chip *chip);
    void (*stop)(struct pintle_sim_chip *chip);
};

/* A chip on a bus. `state` is the model's own. */
struct pintle_sim_chip {
    struct pintle_sim *sim;
    const struct pintle_sim_model *model;
    struct pintle_curve feels[PINTLE_SIM_INPUTS];
    double error[PINTLE_SIM_INPUTS];
    uint8_t bus;
    uint8_t address;
    uint8_t present; /* it has power and is wired */
    union {
        uint8_t bytes[PINTLE_SIM_STATE];
        uint64_t aligned;
        double aligned_too;
    } state;
};

enum pintle_sim_fault_kind {
    PINTLE_SIM_UNPLUGGED, /* gone, and powered up afresh when it comes back */
    PINTLE_SIM_SILENT,    /* has power, acknowledges nothing */
    PINTLE_SIM_FLIPPED,   /* one bit of one read byte comes out wrong in each transfer */
    PINTLE_SIM_LINES      /* the lines of a bus: see `trouble` */
};

/* What is wrong with the lines of a bus; a set. */
enum pintle_sim_trouble {
    PINTLE_SIM_DATA_LOW = 1,   /* data shorted to ground */
    PINTLE_SIM_CLOCK_LOW = 2,  /* clock shorted to ground */
    PINTLE_SIM_NO_PULL_UP = 4, /* on either line: once low, low */
    PINTLE_SIM_SWAPPED = 8,    /* data and clock swapped on the way to the chips */
    PINTLE_SIM_BRIDGED = 16,   /* data and clock touch */
    PINTLE_SIM_STRETCHED = 32, /* a chip holds the clock after its address for `amount` us */
    PINTLE_SIM_HELD = 64       /* a chip holds data low until it has seen `amount` clocks */
};

struct pintle_sim_fault {
    enum pintle_sim_fault_kind kind;
    uint8_t chip;     /* index, in the order of adding; for LINES the bus */
    uint64_t from_us; /* since the world began, up to but not including `to_us` */
    uint64_t to_us;
    uint8_t trouble; /* for LINES */
    uint32_t amount;
};

struct pintle_sim_bus {
    uint32_t bit_ns; /* 10000 at 100 kHz */
    uint64_t bytes;  /* crossed so far, address bytes included */
    uint8_t held;    /* a chip that held data has been clocked free */
};

struct pintle_sim {
    uint64_t now_us;  /* since the world began */
    int64_t began_us; /* the world's first moment, UTC microseconds since 1970 */
    uint64_t seed;
    uint8_t buses;
    uint8_t chips;
    uint8_t faults;
    struct pintle_sim_bus bus[PINTLE_SIM_BUSES];
    struct pintle_sim_chip chip[PINTLE_SIM_CHIPS];
    struct pintle_sim_fault fault[PINTLE_SIM_FAULTS];
    struct pintle_sim_line {
        struct pintle_sim *sim;
        uint8_t bus;
    } line[PINTLE_SIM_BUSES];
    /* Called for every sleep, to pace simulated time; null: sleeping takes no real time. */
    void (*pace)(void *context, uint32_t us);
    void *pace_context;
};

/* An empty bench of `buses` I2C buses at 100 kHz; the world begins at `began_us`. */
void pintle_sim_init(struct pintle_sim *sim, uint8_t buses, int64_t began_us, uint64_t seed);

/* Put a chip on a bus. Returns it, or null where there is no such part, bus or room. The chip sits
 * where it is put, whether or not its datasheet knows the address. It feels 20 degC, 50 %RH and
 * 101325 Pa until told otherwise. */
struct pintle_sim_chip *pintle_sim_add(struct pintle_sim *sim, const char *part, uint8_t bus,
                                       uint8_t address);

/* Expose the chip's input to a curve, which must outlive the simulation where it has points.
 * BAD_ARGUMENT: the chip has no such input. */
PINTLE_MUST_CHECK enum pintle_status
pintle_sim_feel(struct pintle_sim_chip *chip, const char *input, const struct pintle_curve *curve);

/* The specimen's error of an input, instead of the one drawn from the seed. BAD_ARGUMENT. */
PINTLE_MUST_CHECK enum pintle_status pintle_sim_error(struct pintle_sim_chip *chip,
                                                      const char *input, double error);

/* What the chip is exposed to now, without its errors: the truth. NaN: no such input. */
double pintle_sim_truth(const struct pintle_sim_chip *chip, const char *input);

/* Add a fault. OUT_OF_RANGE: no more room, or no such chip. */
PINTLE_MUST_CHECK enum pintle_status pintle_sim_add_fault(struct pintle_sim *sim,
                                                          const struct pintle_sim_fault *fault);

/* Let time pass. */
void pintle_sim_pass(struct pintle_sim *sim, uint64_t us);

/* The ports. They hold pointers into `sim`, which must stay where it is. */
struct pintle_i2c pintle_sim_i2c(struct pintle_sim *sim, uint8_t bus);
struct pintle_clock pintle_sim_clock(struct pintle_sim *sim);

enum pintle_sim_line_name { PINTLE_SIM_DATA, PINTLE_SIM_CLOCK };

/* A chip's side of the wires: it sees edges and makes bytes of them. */
struct pintle_sim_slave {
    struct pintle_sim_chip *chip;
    uint8_t state;
    uint8_t bits;    /* of the byte so far */
    uint8_t shifted; /* in or out */
    uint8_t low[2];  /* what it pulls low */
};

/* An edge: which line, its new level, when in nanoseconds since the world began. */
typedef void (*pintle_sim_edge)(void *context, enum pintle_sim_line_name line, uint8_t level,
                                uint64_t at_ns);

/* The two lines of one bus. */
struct pintle_sim_wires {
    struct pintle_sim *sim;
    uint8_t bus;
    uint8_t trouble; /* set of enum pintle_sim_trouble beside the simulation's faults; may change */
    uint8_t active;  /* troubles that are in force */
    double rise_ns;  /* from release to what a chip takes for high, 0.7 VDD */
    uint32_t stretch_us;
    uint8_t held_clocks;
    uint64_t stretched_until_us;
    uint8_t master_low[2];
    uint8_t low[2];   /* anybody pulls */
    uint8_t level[2]; /* what the chips have seen last */
    double released_ns[2];
    struct pintle_sim_slave slave[PINTLE_SIM_CHIPS];
    uint8_t slaves;
    struct pintle_sim_wire {
        struct pintle_sim_wires *wires;
        uint8_t line;
    } wire[2];
    pintle_sim_edge edge; /* called for each edge; may be null */
    void *edge_context;
};

/* The lines of bus `bus` with the chips that are on it now. The pull-up in ohms (of several the
 * value in parallel), the capacitance of line, pins and cable in picofarads. */
void pintle_sim_wires_init(struct pintle_sim_wires *wires, struct pintle_sim *sim, uint8_t bus,
                           double pull_up_ohm, double capacitance_pf);

/* One of the lines as a pin of the master. */
struct pintle_pin pintle_sim_pin(struct pintle_sim_wires *wires, enum pintle_sim_line_name line);

/* The models there are: the part names that pintle_sim_add takes; null beyond the end. */
const struct pintle_sim_model *pintle_sim_model_at(size_t index);

#endif
