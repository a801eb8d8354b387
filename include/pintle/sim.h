/* sim.h: a port with no hardware.
 *
 * A struct pintle_sim is a bench: buses of any kind, chips on them, and a clock. Time passes only
 * when somebody sleeps or a byte crosses a bus, so a simulated day takes as long as its traffic
 * needs to compute; set `pace` to tie it to the real clock. Everything follows from `seed`: the
 * same program sees the same readings.
 *
 *     pintle_sim_init         an empty bench
 *     pintle_sim_init_in      likewise, with more room than it brings along
 *     pintle_sim_add          put a chip on a bus, by part number
 *     pintle_sim_feel         what the chip is exposed to: a constant, or a curve over time
 *     pintle_sim_add_fault    what goes wrong, and when
 *     pintle_sim_peek, _poke, _scramble   a chip's registers, behind the drivers' backs
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
 * drivers; what a model says of its registers and choices is a second source to check drivers and
 * register maps against. A chip is within the part's accuracy of the truth: each has errors, trim
 * and conversion times of its own, drawn from the seed, and noise.
 *
 * May still change.
 */
#ifndef PINTLE_SIM_H
#define PINTLE_SIM_H

#include "pintle/faults.h"
#include "pintle/port.h"

PINTLE_C_BEGIN

/* What a bench has room for by itself. */
#define PINTLE_SIM_BUSES 4
#define PINTLE_SIM_CHIPS 16
#define PINTLE_SIM_FAULTS 32

#define PINTLE_SIM_INPUTS 10
#define PINTLE_SIM_SELECTS 64   /* on one SPI bus */
#define PINTLE_SIM_STATE 704    /* bytes of state of the largest chip */
#define PINTLE_SIM_MEMORY 16384 /* bytes that a bench's chips keep, together */

struct pintle_sim;
struct pintle_sim_chip;

/* A value at a moment, `t` in seconds since the world began. */
struct pintle_point {
    double t, value;
};

/* A quantity of the world over time: a smooth line through points (level before the first and
 * after the last), plus a sine. */
struct pintle_sim_curve {
    const struct pintle_point *points; /* in order of time; null: `level` throughout */
    size_t count;
    double level;
    double swing;    /* amplitude of the sine */
    double period_s; /* 0: no sine */
    double phase_s;  /* the sine rises through zero here */
};

/* The curve's value, `t` in seconds. */
double pintle_sim_curve_at(const struct pintle_sim_curve *curve, double t);

enum pintle_sim_kind { PINTLE_SIM_I2C, PINTLE_SIM_SPI, PINTLE_SIM_ONEWIRE, PINTLE_SIM_STREAM };

/* A register, or a command where `width` is 0, as the datasheet has it. */
struct pintle_sim_register {
    uint16_t address; /* of chips with banks: the bank in the high byte */
    uint8_t width;    /* bytes */
    uint8_t access;
    uint32_t at_power_up; /* what it holds then */
    uint32_t keeps;       /* bits that hold what is written to them */
    uint32_t ends;        /* of these, bits that nothing can undo over the bus: not scrambled */
};

/* access */
#define PINTLE_SIM_READS 1
#define PINTLE_SIM_WRITES 2
#define PINTLE_SIM_TRUTH                                                                           \
    4                       /* it changes what there is to measure (a clock's time): not scrambled \
                             */
#define PINTLE_SIM_CLEARS 8 /* reading it clears flags in it */
#define PINTLE_SIM_LIVE 16  /* reading it measures: there is no value at power-up */

/* How an option of a setting (in the words of the catalogue) looks in the chip. */
struct pintle_sim_choice {
    const char *setting;
    const char *option;
    uint16_t address;
    uint32_t mask;
    uint32_t code;
};

/* What a model says of its chip's insides. Registers end with one whose access is 0, choices with
 * one that has no setting. */
struct pintle_sim_map {
    const struct pintle_sim_register *registers;
    const struct pintle_sim_choice *choices;
    /* What a choice's register holds, where no register that can be read has it; or null. */
    uint32_t (*chosen)(const struct pintle_sim_chip *chip);
    uint8_t wide_address; /* I2C: two bytes select a register or command */
    uint8_t low_first;    /* registers of more than one byte: the low one comes first */
    uint8_t read_bit;     /* SPI: in the first byte of a read */
    uint8_t burst_bit;    /* SPI: in that of more than one byte */
    uint8_t bank_reg;     /* SPI: 0: no banks */
    /* Of I2C chips that leave their side of the bus to the simulation: the pointer stays and each
     * register is sent whole; otherwise bytes are counted on, up to `last` (0: 0xff) and around.
     * And writes are pairs of an address and a byte. */
    uint8_t words;
    uint8_t last;
    uint8_t pairs;
    uint8_t stays; /* a register at which the counter of bytes stops: a FIFO's; 0: none */
};

/* What a kind of chip does. Events come from the bus as a chip sees it, whether from whole
 * transfers or from single edges; of the three groups a model has the one of its bus. */
struct pintle_sim_model {
    const char *name;
    enum pintle_sim_kind kind;
    const char *inputs[PINTLE_SIM_INPUTS + 1]; /* what it feels ("temperature"), null-terminated */
    double errors[PINTLE_SIM_INPUTS];          /* largest error of a specimen */
    double noises[PINTLE_SIM_INPUTS];          /* standard deviation of a reading */
    void (*power_up)(struct pintle_sim_chip *chip);
    void (*power_down)(struct pintle_sim_chip *chip); /* its supply goes; or null */
    uint8_t (*pin)(struct pintle_sim_chip *chip);     /* the level of its interrupt pin, with a
                                                         pull-up; or null */
    /* Is a dot dark, as somebody sees it who looks at the display? Or null. */
    uint8_t (*dot)(const struct pintle_sim_chip *chip, uint16_t x, uint16_t y);
    const struct pintle_sim_map *map; /* null: it has no registers */
    /* How long a measurement takes at most, from its beginning, as the chip is set now; 0: there is
     * always one to be read. And how long until the first one after any change of settings. */
    uint32_t (*longest_us)(const struct pintle_sim_chip *chip);
    uint32_t (*settles_us)(const struct pintle_sim_chip *chip);

    uint16_t memory; /* bytes that it keeps besides, with or without power */

    /* Of a chip made of registers: bring them to the present; what one holds; somebody writes to
     * it. By bytes, or of a map of words by words. */
    void (*catch_up)(struct pintle_sim_chip *chip);
    uint32_t (*get)(struct pintle_sim_chip *chip, uint8_t reg);
    void (*put)(struct pintle_sim_chip *chip, uint8_t reg, uint32_t value);
    /* SPI, where a byte is ready before anybody knows that it will be fetched: the register's byte
     * is on its way, and what reading does is done; or null. */
    void (*seen)(struct pintle_sim_chip *chip, uint8_t reg);

    uint8_t (*start)(struct pintle_sim_chip *chip, uint8_t reading); /* 1: acknowledge */
    uint8_t (*write)(struct pintle_sim_chip *chip, uint8_t byte);    /* 1: acknowledge */
    uint8_t (*read)(struct pintle_sim_chip *chip);
    void (*stop)(struct pintle_sim_chip *chip);

    uint8_t modes;   /* SPI: bit m is set where it understands mode m */
    uint32_t top_hz; /* and how fast; on a serial line its speed */
    void (*select)(struct pintle_sim_chip *chip, uint8_t on);
    void (*clock)(struct pintle_sim_chip *chip, uint8_t bit); /* takes a bit; sets chip->shown */
    void (*idle)(struct pintle_sim_chip *chip,
                 uint32_t clocks); /* while it isn't selected; or null */

    uint8_t family;                                              /* 1-Wire */
    void (*addressed)(struct pintle_sim_chip *chip);             /* a command comes next */
    void (*take)(struct pintle_sim_chip *chip, uint8_t byte);    /* may set chip->rom.giving */
    uint8_t (*give)(struct pintle_sim_chip *chip);               /* the next bit, while giving */
    uint8_t (*alarm)(struct pintle_sim_chip *chip);              /* takes part in that search */
    void (*powered)(struct pintle_sim_chip *chip, uint8_t hard); /* strong pull-up on or off */

    void (*hear)(struct pintle_sim_chip *chip, uint8_t byte); /* serial line: a byte has come */
    void (*speak)(struct pintle_sim_chip *chip);              /* what it has said by now arrives */
};

/* An edge: which line, its new level, when in nanoseconds since the world began. */
typedef void (*pintle_sim_edge)(void *context, uint8_t line, uint8_t level, uint64_t at_ns);

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

/* A chip's side of the wires: it sees edges and makes bits and bytes of them. */
struct pintle_sim_i2c_slave {
    uint8_t state;
    uint8_t bits;    /* of the byte so far */
    uint8_t shifted; /* in or out */
    uint8_t low[2];  /* what it pulls low */
};
struct pintle_sim_spi_slave {
    uint8_t selected, before;
    uint8_t visible; /* what its output shows; it changes on the clock's other edge */
    uint8_t behind;  /* in mode 0 a chip of mode 3 waits for a falling edge first */
};
struct pintle_sim_probe { /* it has a clock of its own, somewhere within the datasheet's limits */
    double samples_ns;    /* after the line fell it looks whether that is a 0, here ... */
    double holds_ns;      /* ... and lets go of a 0 of its own here */
    double shows_ns, shown_ns; /* after a reset it shows its presence from here, for so long */
    double low_from_ns, low_until_ns;
    uint8_t sent; /* the slot under way is one of its own bits */
};

/* SPI, byte by byte, high bit first. */
struct pintle_sim_shifter {
    uint8_t bits, in, out;
};

/* What the bus's side of a chip made of registers remembers. */
struct pintle_sim_front {
    uint8_t reg;   /* the next one */
    uint8_t count; /* bytes written since START, or taken since the select; not beyond a few */
    uint8_t sent;  /* bytes of the register under way */
    uint8_t head;  /* SPI: the first byte */
    uint32_t word; /* the register that is being written */
    struct pintle_sim_shifter shifter;
};

/* A chip on a bus. `state` is the model's own. */
struct pintle_sim_chip {
    struct pintle_sim *sim;
    const struct pintle_sim_model *model;
    struct pintle_sim_chip *next; /* on the same bus */
    struct pintle_sim_curve feels[PINTLE_SIM_INPUTS];
    double error[PINTLE_SIM_INPUTS];
    double last[PINTLE_SIM_INPUTS]; /* what was sensed last */
    double slowness; /* 0 to 1: its conversions take the typical time, or the longest */
    uint16_t bus;
    uint8_t address;   /* I2C: 7 bits; SPI: its select line */
    uint8_t present;   /* it has power and is wired */
    uint8_t cut;       /* its power went in the middle of a write */
    uint16_t ails;     /* the faults in force, a bit for each kind */
    uint8_t addressed; /* it takes part in the transfer under way */
    uint8_t heard;     /* I2C: bytes written to it since START; SPI: clocks since the select */
    uint8_t shown;     /* SPI: enum pintle_sim_show, what it puts on its data output */
    uint8_t commanded; /* SPI: the line beside the bus says "command" */
    uint8_t *memory;   /* the model's memory; null: it has none */
    struct pintle_sim_rom rom;
    struct pintle_sim_front front;
    union {
        struct pintle_sim_i2c_slave i2c;
        struct pintle_sim_spi_slave spi;
        struct pintle_sim_probe onewire;
    } side; /* where it hangs on wires */
    union {
        uint8_t bytes[PINTLE_SIM_STATE];
        uint64_t aligned;
        double aligned_too;
    } state;
};

struct pintle_sim_bus {
    struct pintle_sim *sim;
    struct pintle_sim_chip *first[4]; /* of the chips on it, by enum pintle_sim_kind */
    uint16_t index;
    uint32_t bit_ns; /* 10000 at 100 kHz */
    uint64_t bytes;  /* crossed so far, address bytes included */
    uint8_t shared;  /* it has other masters, who may move its chips' pointers and banks */
    uint8_t claimed; /* SPI: whose turn it is keeps other programs off */
    uint8_t held;    /* a chip that held data has been clocked free */
    uint8_t strong;  /* 1-Wire: the line is driven high hard */
    uint8_t off;     /* what is in force: */
    uint8_t troubles;
    uint32_t amount;
    uint8_t came[64]; /* serial line: bytes that nobody has fetched yet */
    uint16_t waiting;
    const struct pintle_segment *begun; /* I2C: a transfer goes on by itself; null: none */
    uint64_t begun_us;
    uint32_t limit_us;
    uint8_t address, count, asked;
    pintle_sim_edge edge; /* serial line: called for each edge; may be null */
    void *edge_context;
};

/* Arrays for a bench, and how many there are of each. */
struct pintle_sim_room {
    struct pintle_sim_bus *bus;
    struct pintle_sim_chip *chip;
    struct pintle_sim_fault *fault;
    uint16_t buses, chips, faults;
    uint8_t *memory; /* for what chips keep */
    size_t memory_size;
};

/* A moment at which the wall clock is set to another time, by so many microseconds. */
struct pintle_sim_step {
    uint64_t at_us; /* since the world began */
    int64_t by_us;
};

struct pintle_sim {
    uint64_t now_us;  /* since the world began */
    int64_t began_us; /* the world's first moment, UTC microseconds since 1970 */
    uint64_t seed;
    uint64_t changes_us;                /* when faults begin or end next */
    uint8_t unset;                      /* the wall clock was never set */
    const struct pintle_sim_step *step; /* steps of the wall clock, in order of time */
    uint16_t steps;
    uint16_t buses; /* in use */
    uint16_t chips;
    uint16_t faults;
    struct pintle_sim_bus *bus;
    struct pintle_sim_chip *chip;
    struct pintle_sim_fault *fault;
    struct pintle_sim_room room;
    size_t memory_used;
    struct pintle_sim_bus own_bus[PINTLE_SIM_BUSES];
    struct pintle_sim_chip own_chip[PINTLE_SIM_CHIPS];
    struct pintle_sim_fault own_fault[PINTLE_SIM_FAULTS];
    uint8_t own_memory[PINTLE_SIM_MEMORY];
    /* Called for every sleep, to pace simulated time; null: sleeping takes no real time. */
    void (*pace)(void *context, uint32_t us);
    void *pace_context;
    struct pintle_clock clock; /* what its buses go by */
};

/* An empty bench of `buses` buses (up to PINTLE_SIM_BUSES), I2C ones at 100 kHz; the world begins
 * at `began_us`. */
void pintle_sim_init(struct pintle_sim *sim, uint8_t buses, int64_t began_us, uint64_t seed);

/* Likewise in arrays of the caller's, which must outlive it: it has room->buses buses. */
void pintle_sim_init_in(struct pintle_sim *sim, const struct pintle_sim_room *room,
                        int64_t began_us, uint64_t seed);

/* Put a chip on a bus. Returns it, or null where there is no such part, bus or room. `address` is
 * its I2C address, its SPI select line, or the first byte of a serial number from which it gets a
 * 1-Wire code (chip->rom.code; change it there together with its CRC). The chip sits where it is
 * put, whether or not its datasheet knows the address. It feels 20 degC, 50 %RH, 101325 Pa, 1 V,
 * lies level and at rest until told otherwise. */
struct pintle_sim_chip *pintle_sim_add(struct pintle_sim *sim, const char *part, uint16_t bus,
                                       uint8_t address);

/* Likewise a chip of a model of the caller's own, which must outlive it. */
struct pintle_sim_chip *pintle_sim_add_model(struct pintle_sim *sim,
                                             const struct pintle_sim_model *model, uint16_t bus,
                                             uint8_t address);

/* For models: what a chip's sensing element delivers now, the truth with the specimen's error and
 * noise; and a byte of a chip on a serial line has arrived, its stop bit at `at_us`. */
double pintle_sim_sense(struct pintle_sim_chip *chip, int input);
void pintle_sim_arrive(struct pintle_sim_chip *chip, uint8_t byte, uint64_t at_us);

/* Take all chips and faults away. */
void pintle_sim_clear(struct pintle_sim *sim);

/* Another specimen of the part instead: errors, trim and conversion times drawn from `seed`; it is
 * powered up afresh. */
void pintle_sim_draw(struct pintle_sim_chip *chip, uint64_t seed);

/* Expose the chip's input to a curve, which must outlive the simulation where it has points.
 * BAD_ARGUMENT: the chip has no such input. */
PINTLE_MUST_CHECK enum pintle_status pintle_sim_feel(struct pintle_sim_chip *chip,
                                                     const char *input,
                                                     const struct pintle_sim_curve *curve);

/* The specimen's error of an input, instead of the one drawn from the seed. BAD_ARGUMENT. */
PINTLE_MUST_CHECK enum pintle_status pintle_sim_error(struct pintle_sim_chip *chip,
                                                      const char *input, double error);

/* What the chip is exposed to now, without its errors: the truth. NaN: no such input. */
double pintle_sim_truth(const struct pintle_sim_chip *chip, const char *input);

/* The level of the chip's alert or interrupt pin, pulled up: 1 also where it has no power, or no
 * such pin. */
uint8_t pintle_sim_interrupt(struct pintle_sim_chip *chip);

/* Is a dot of the chip's display dark? 0 also where it has no power, or no display. */
uint8_t pintle_sim_display(struct pintle_sim_chip *chip, uint16_t x, uint16_t y);

/* Add a fault. OUT_OF_RANGE: no more room, or no such chip. */
PINTLE_MUST_CHECK enum pintle_status pintle_sim_add_fault(struct pintle_sim *sim,
                                                          const struct pintle_sim_fault *fault);

/* Take all faults away. */
void pintle_sim_calm(struct pintle_sim *sim);

/* Let time pass. */
void pintle_sim_pass(struct pintle_sim *sim, uint64_t us);

/* What a register holds, without anybody noticing. */
uint32_t pintle_sim_peek(struct pintle_sim_chip *chip, uint16_t address, uint8_t width);

/* Write a register (or send a command, width 0) as another master would: the chip's pointer or bank
 * stays where that leaves it. No time passes. */
void pintle_sim_poke(struct pintle_sim_chip *chip, uint16_t address, uint8_t width, uint32_t value);

/* Leave the chip as somebody else's program might have: anything in every register that can be
 * written and sent back, in random order, and a command now and then. */
void pintle_sim_scramble(struct pintle_sim_chip *chip);

/* The ports. They hold pointers into `sim`, which must stay where it is. */
struct pintle_i2c pintle_sim_i2c(struct pintle_sim *sim, uint16_t bus);
struct pintle_spi pintle_sim_spi(struct pintle_sim *sim, uint16_t bus);
struct pintle_onewire pintle_sim_onewire(struct pintle_sim *sim, uint16_t bus);
struct pintle_stream pintle_sim_stream(struct pintle_sim *sim, uint16_t bus);
struct pintle_clock pintle_sim_clock(struct pintle_sim *sim);

/* The lines of a bus: data and clock of I2C, data of 1-Wire; on SPI data is what the master sends,
 * and there are the chips' output and the select lines; a serial line has one in each direction. */
enum pintle_sim_line_name {
    PINTLE_SIM_DATA,
    PINTLE_SIM_CLOCK,
    PINTLE_SIM_ANSWER = PINTLE_SIM_CLOCK,
    PINTLE_SIM_DATA_IN,
    PINTLE_SIM_SELECT,
    PINTLE_SIM_COMMAND =
        PINTLE_SIM_SELECT + PINTLE_SIM_SELECTS, /* low: what is sent are commands */
    PINTLE_SIM_LINES_MAX
};

/* The two lines of one bus. A bus has one set of wires at a time. */
struct pintle_sim_i2c_wires {
    struct pintle_sim *sim;
    uint16_t bus;
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
                               uint16_t bus, double pull_up_ohm, double capacitance_pf);

/* One of the lines as a pin of the master. */
struct pintle_pin pintle_sim_i2c_pin(struct pintle_sim_i2c_wires *wires,
                                     enum pintle_sim_line_name line);

/* The lines of an SPI bus: driven by the master but for the chips' output, which is pulled up
 * weakly where nobody drives it. */
struct pintle_sim_spi_wires {
    struct pintle_sim *sim;
    uint16_t bus;
    uint8_t trouble; /* as in struct pintle_sim_i2c_wires */
    uint8_t active;
    uint8_t driven[PINTLE_SIM_LINES_MAX]; /* by the master */
    uint8_t level[PINTLE_SIM_LINES_MAX];  /* as they are */
    struct pintle_sim_spi_wire {
        struct pintle_sim_spi_wires *wires;
        uint8_t line;
    } wire[PINTLE_SIM_LINES_MAX];
    pintle_sim_edge edge;
    void *edge_context;
};

void pintle_sim_spi_wires_init(struct pintle_sim_spi_wires *wires, struct pintle_sim *sim,
                               uint16_t bus);

/* A line as a pin of the master: enum pintle_sim_line_name, select lines counted from SELECT.
 * COMMAND is for displays; without it they take everything for data. */
struct pintle_pin pintle_sim_spi_pin(struct pintle_sim_spi_wires *wires, uint8_t line);

/* One 1-Wire line with its pull-up. The master may drive it high hard, to power chips. */
struct pintle_sim_onewire_wires {
    struct pintle_sim *sim;
    uint16_t bus;
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
    pintle_sim_edge edge;
    void *edge_context;
};

void pintle_sim_onewire_wires_init(struct pintle_sim_onewire_wires *wires, struct pintle_sim *sim,
                                   uint16_t bus, double pull_up_ohm, double capacitance_pf);
struct pintle_pin pintle_sim_onewire_pin(struct pintle_sim_onewire_wires *wires);

/* The models there are: the part names that pintle_sim_add takes; null beyond the end. */
const struct pintle_sim_model *pintle_sim_model_at(size_t index);

PINTLE_C_END

#endif
