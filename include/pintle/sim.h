/* sim.h: a port with no hardware.
 *
 * A struct pintle_sim is a bench: up to PINTLE_SIM_BUSES buses of any kind, chips on them, and a
 * clock.
 * Time passes only when somebody sleeps or a byte crosses a bus, so a simulated day takes as long
 * as its traffic needs to compute; set `pace` to tie it to the real clock. Everything follows from
 * `seed`: the same program sees the same readings.
 *
 *     pintle_sim_init         an empty bench
 *     pintle_sim_add          put a chip on a bus, by part number
 *     pintle_sim_feel         what the chip is exposed to: a constant, or a curve over time
 *     pintle_sim_fault        what goes wrong, and when
 *     pintle_sim_i2c, _spi, _onewire, _clock   the ports to give to sensors
 *
 * For the lines themselves, edges, rise times, shorts and all, put wires under a bit-banged master
 * instead; the chips are the same.
 *
 *     pintle_sim_i2c_wires_init       the two lines of an I2C bus, with pull-up and capacitance
 *     pintle_sim_i2c_pin              one of them, for pintle_bitbang_i2c_init
 *     pintle_sim_spi_wires_init, _spi_pin
 *     pintle_sim_onewire_wires_init, _onewire_pin
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
#define PINTLE_SIM_INPUTS 9
#define PINTLE_SIM_SELECTS 4
#define PINTLE_SIM_FAULTS 32
#define PINTLE_SIM_STATE 576 /* bytes of state of the largest chip */

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

enum pintle_sim_kind { PINTLE_SIM_I2C, PINTLE_SIM_SPI, PINTLE_SIM_ONEWIRE };

/* What a kind of chip does. Events come from the bus as a chip sees it, whether from whole
 * transfers or from single edges; of the three groups a model has the one of its bus. */
struct pintle_sim_model {
    const char *name;
    enum pintle_sim_kind kind;
    const char *inputs[PINTLE_SIM_INPUTS + 1]; /* what it feels ("temperature"), null-terminated */
    double errors[PINTLE_SIM_INPUTS];          /* largest error of a specimen */
    double noises[PINTLE_SIM_INPUTS];          /* standard deviation of a reading */
    void (*power_up)(struct pintle_sim_chip *chip);

    uint8_t (*start)(struct pintle_sim_chip *chip, uint8_t reading); /* 1: acknowledge */
    uint8_t (*write)(struct pintle_sim_chip *chip, uint8_t byte);    /* 1: acknowledge */
    uint8_t (*read)(struct pintle_sim_chip *chip);
    void (*stop)(struct pintle_sim_chip *chip);

    uint8_t modes;   /* SPI: bit m is set where it understands mode m */
    uint32_t top_hz; /* and how fast */
    void (*select)(struct pintle_sim_chip *chip, uint8_t on);
    void (*clock)(struct pintle_sim_chip *chip, uint8_t bit); /* takes a bit; sets chip->shown */

    uint8_t family;                                              /* 1-Wire */
    void (*addressed)(struct pintle_sim_chip *chip);             /* a command comes next */
    void (*take)(struct pintle_sim_chip *chip, uint8_t byte);    /* may set chip->rom.giving */
    uint8_t (*give)(struct pintle_sim_chip *chip);               /* the next bit, while giving */
    uint8_t (*alarm)(struct pintle_sim_chip *chip);              /* takes part in that search */
    void (*powered)(struct pintle_sim_chip *chip, uint8_t hard); /* strong pull-up on or off */
};

/* The part of a 1-Wire chip that all have: its code and who is addressed. */
struct pintle_sim_rom {
    uint8_t code[8];
    uint8_t state;
    uint8_t bits;
    uint8_t byte;
    uint8_t giving;   /* the addressed chip sends from now on */
    uint8_t parasite; /* it lives on the line, its supply pin is grounded */
};

enum pintle_sim_show { PINTLE_SIM_SHOWS_0, PINTLE_SIM_SHOWS_1, PINTLE_SIM_SHOWS_NOTHING };

/* A chip on a bus. `state` is the model's own. */
struct pintle_sim_chip {
    struct pintle_sim *sim;
    const struct pintle_sim_model *model;
    struct pintle_curve feels[PINTLE_SIM_INPUTS];
    double error[PINTLE_SIM_INPUTS];
    uint8_t bus;
    uint8_t address; /* I2C: 7 bits; SPI: its select line */
    uint8_t present; /* it has power and is wired */
    uint8_t shown;   /* SPI: enum pintle_sim_show, what it puts on its data output */
    struct pintle_sim_rom rom;
    union {
        uint8_t bytes[PINTLE_SIM_STATE];
        uint64_t aligned;
        double aligned_too;
    } state;
};

enum pintle_sim_fault_kind {
    PINTLE_SIM_UNPLUGGED, /* gone, and powered up afresh when it comes back */
    PINTLE_SIM_SILENT,    /* has power, answers nothing; its select line is broken */
    PINTLE_SIM_FLIPPED,   /* one bit of one read byte comes out wrong in each transfer */
    PINTLE_SIM_DEAFENING, /* I2C: it acknowledges every address, as noise does */
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
    uint8_t chip;     /* index, in the order of adding; for LINES and OFF the bus */
    uint64_t from_us; /* since the world began, up to but not including `to_us` */
    uint64_t to_us;
    uint8_t trouble; /* for LINES */
    uint32_t amount;
};

struct pintle_sim_bus {
    uint32_t bit_ns; /* 10000 at 100 kHz */
    uint64_t bytes;  /* crossed so far, address bytes included */
    uint8_t held;    /* a chip that held data has been clocked free */
    uint8_t strong;  /* 1-Wire: the line is driven high hard */
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

/* An empty bench of `buses` buses, I2C ones at 100 kHz; the world begins at `began_us`. */
void pintle_sim_init(struct pintle_sim *sim, uint8_t buses, int64_t began_us, uint64_t seed);

/* Put a chip on a bus. Returns it, or null where there is no such part, bus or room. `address` is
 * its I2C address, its SPI select line, or the first byte of a serial number from which it gets a
 * 1-Wire code (chip->rom.code; change it there together with its CRC). The chip sits where it is
 * put, whether or not its datasheet knows the address. It feels 20 degC, 50 %RH, 101325 Pa, 1 V,
 * lies level and at rest until told otherwise. */
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
struct pintle_spi pintle_sim_spi(struct pintle_sim *sim, uint8_t bus);
struct pintle_onewire pintle_sim_onewire(struct pintle_sim *sim, uint8_t bus);
struct pintle_clock pintle_sim_clock(struct pintle_sim *sim);

/* The lines of a bus: data and clock of I2C, data of 1-Wire; on SPI data is what the master sends,
 * and there are the chips' output and the select lines. */
enum pintle_sim_line_name {
    PINTLE_SIM_DATA,
    PINTLE_SIM_CLOCK,
    PINTLE_SIM_DATA_IN,
    PINTLE_SIM_SELECT,
    PINTLE_SIM_LINES_MAX = PINTLE_SIM_SELECT + PINTLE_SIM_SELECTS
};

/* A chip's side of the wires: it sees edges and makes bytes of them. */
struct pintle_sim_i2c_slave {
    struct pintle_sim_chip *chip;
    uint8_t state;
    uint8_t bits;    /* of the byte so far */
    uint8_t shifted; /* in or out */
    uint8_t low[2];  /* what it pulls low */
};

/* An edge: which line, its new level, when in nanoseconds since the world began. */
typedef void (*pintle_sim_edge)(void *context, uint8_t line, uint8_t level, uint64_t at_ns);

/* The two lines of one bus. */
struct pintle_sim_i2c_wires {
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
    struct pintle_sim_i2c_slave slave[PINTLE_SIM_CHIPS];
    uint8_t slaves;
    struct pintle_sim_i2c_wire {
        struct pintle_sim_i2c_wires *wires;
        uint8_t line;
    } wire[2];
    pintle_sim_edge edge; /* called for each edge; may be null */
    void *edge_context;
};

/* The lines of bus `bus` with the chips that are on it now. The pull-up in ohms (of several the
 * value in parallel), the capacitance of line, pins and cable in picofarads. */
void pintle_sim_i2c_wires_init(struct pintle_sim_i2c_wires *wires, struct pintle_sim *sim,
                               uint8_t bus, double pull_up_ohm, double capacitance_pf);

/* One of the lines as a pin of the master. */
struct pintle_pin pintle_sim_i2c_pin(struct pintle_sim_i2c_wires *wires,
                                     enum pintle_sim_line_name line);

/* The lines of an SPI bus: driven by the master but for the chips' output, which is pulled up
 * weakly where nobody drives it. */
struct pintle_sim_spi_wires {
    struct pintle_sim *sim;
    uint8_t bus;
    uint8_t trouble; /* as in struct pintle_sim_i2c_wires */
    uint8_t active;
    uint8_t driven[PINTLE_SIM_LINES_MAX]; /* by the master */
    uint8_t level[PINTLE_SIM_LINES_MAX];  /* as they are */
    struct pintle_sim_spi_slave {
        struct pintle_sim_chip *chip;
        uint8_t selected;
        uint8_t visible; /* what its output shows; it changes on the clock's other edge */
        uint8_t behind;  /* it waits for a falling edge first, and the clock began low: mode 3 in
                            mode 0 */
        uint8_t before;
    } slave[PINTLE_SIM_CHIPS];
    uint8_t slaves;
    struct pintle_sim_spi_wire {
        struct pintle_sim_spi_wires *wires;
        uint8_t line;
    } wire[PINTLE_SIM_LINES_MAX];
    pintle_sim_edge edge;
    void *edge_context;
};

void pintle_sim_spi_wires_init(struct pintle_sim_spi_wires *wires, struct pintle_sim *sim,
                               uint8_t bus);

/* A line as a pin of the master: enum pintle_sim_line_name, select lines counted from SELECT. */
struct pintle_pin pintle_sim_spi_pin(struct pintle_sim_spi_wires *wires, uint8_t line);

/* A chip's side of a 1-Wire line: it has a clock of its own, somewhere within the datasheet's
 * limits. */
struct pintle_sim_probe {
    struct pintle_sim_chip *chip;
    double samples_ns; /* after the line fell it looks whether that is a 0, here ... */
    double holds_ns;   /* ... and lets go of a 0 of its own here */
    double shows_ns;   /* after a reset it shows its presence, from here ... */
    double shown_ns;   /* ... for so long */
    double low_from_ns, low_until_ns;
    uint8_t sent; /* the slot under way is one of its own bits */
};

/* One 1-Wire line with its pull-up. The master may drive it high hard, to power chips. */
struct pintle_sim_onewire_wires {
    struct pintle_sim *sim;
    uint8_t bus;
    uint8_t trouble;
    uint8_t active;
    uint8_t drive; /* the master's, enum pintle_drive */
    uint8_t level;
    uint8_t in_slot; /* between a fall and the rise that ends the low time */
    uint8_t charged; /* the master drove it high last */
    double rise_ns;
    double fell_ns;     /* the master pulled, */
    double released_ns; /* and let go */
    double seen_ns;     /* what the chips do is worked out up to here */
    struct pintle_sim_probe probe[PINTLE_SIM_CHIPS];
    uint8_t probes;
    pintle_sim_edge edge;
    void *edge_context;
};

void pintle_sim_onewire_wires_init(struct pintle_sim_onewire_wires *wires, struct pintle_sim *sim,
                                   uint8_t bus, double pull_up_ohm, double capacitance_pf);
struct pintle_pin pintle_sim_onewire_pin(struct pintle_sim_onewire_wires *wires);

/* The models there are: the part names that pintle_sim_add takes; null beyond the end. */
const struct pintle_sim_model *pintle_sim_model_at(size_t index);

#endif
