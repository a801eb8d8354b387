/* host/rig/rig.h: the rig file, which describes a whole setup.
 *
 * pintle_rig_load reads a file, pintle_rig_demo the built-in one. Everything is checked on the way
 * in: after that, names are unique and made of letters, digits, hyphens and underscores, addresses
 * fit their parts, settings exist. The syntax and each option are explained in docs/rig-file.md.
 */
#ifndef PINTLE_HOST_RIG_RIG_H
#define PINTLE_HOST_RIG_RIG_H

#include "pintle/sample.h"
#include "pintle/correct.h"
#include "pintle/formulas.h"
#include "pintle/host/base/duration.h"
#include "pintle/host/base/problem.h"
#include "pintle/sheet.h"

PINTLE_C_BEGIN

#define PINTLE_RIG_SELECTS 64 /* of an SPI bus at most */

struct pintle_rig_bus {
    char *name;
    enum pintle_bus_kind kind;
    bool shared;         /* somebody else talks on it too */
    bool beside_drivers; /* also where a driver of the operating system has the address */
    char *device;        /* what the operating system calls it; may be empty */
    uint32_t speed_hz;
    /* Pins of the board, as its owner calls them; may be empty. SPI's data pin, and a serial
     * line's, is the one that the board sends on, data_in the other. */
    char *data_pin, *clock_pin, *data_in_pin;
    char *command_pin;    /* SPI: tells displays commands from data */
    char **select_pin;    /* SPI: those that the bus lists, then as the sensors name them */
    char **select_device; /* of each what the operating system calls it; or null */
    unsigned selects;
    double pull_up_ohm; /* beside those on the sensors' boards; 0: none */
    double pull_up_v;
    double cable_m, cable_pf_m;
};

#define PINTLE_SERIAL_TEXT 9 /* eight digits of a serial number */

/* A stage of a sensor's correction. */
struct pintle_rig_stage {
    struct pintle_correct_stage stage; /* its `second` is null: stations link it */
    int second;                        /* of HEAT and THERMAL the sensor; -1: none */
    unsigned second_channel;
    double deviation[5]; /* of a polynomial: its numbers' standard uncertainties; 0: unknown */
    double residual; /* standard deviation of what the fit left over, base unit; 0: nobody knows */
    char serial[PINTLE_SERIAL_TEXT]; /* of the specimen that it is for; "": nobody knows */
    unsigned entry; /* its number among the kept calibrations; 0: it is from the rig file */
};

/* What the rig says about one channel. */
struct pintle_rig_channel {
    float jump, rate;     /* base unit, and that per second; both 0: not watched */
    uint16_t fast_s;      /* the rate holds for so many seconds; 0: for ever */
    uint16_t frozen;      /* readings; 0: not watched */
    uint8_t median, hold; /* readings; 0: none */
    int twin;             /* the sensor that measures the same; -1: none */
    unsigned twin_channel;
    const char *twin_name; /* as the rig file has it */
    float within;          /* by how much the two may differ, base unit */
    enum pintle_unit unit; /* that people want; PINTLE_UNIT_COUNT: the usual one */
    enum pintle_unit also; /* and besides; PINTLE_UNIT_COUNT: none */
};

/* What the rig, or whoever converts by hand, chose of a part. */
struct pintle_chosen {
    uint8_t settings[PINTLE_MOST_SETTINGS]; /* an option each */
    float numbers[PINTLE_MOST_NUMBERS];
    bool ranging; /* it chooses its range by itself, beginning with these settings */
};

/* Instead of a formula: the temperature that the machine says it has itself. */
#define PINTLE_RIG_BOARD_TEMPERATURE "board-temperature"

/* A channel made of others. */
struct pintle_rig_made {
    const struct pintle_formula_text *formula; /* null: PINTLE_RIG_BOARD_TEMPERATURE */
    struct {
        unsigned sensor, channel; /* of the rig's sensors, before this one */
    } of[PINTLE_DERIVE_INPUTS];
    const float *numbers;
    unsigned count;
    uint32_t over_ms;
};

struct pintle_rig_sensor {
    char *name;
    const struct pintle_sheet *sheet;
    unsigned bus;
    union pintle_place place;
    char *where; /* the place in words: "0x76", "select S1", "284c1e720700001d" */
    int line;    /* of the rig file, for messages */
    double supply_v;
    bool rests;         /* told to rest between measurements */
    double pull_up_ohm; /* on its own board; 0: none */
    struct pintle_chosen chosen;
    struct pintle_rig_channel channel[PINTLE_MOST_CHANNELS];
    struct pintle_rig_stage *stage; /* in the order in which they are applied */
    unsigned stages;
    struct pintle_derive_mount mount; /* zeros: as the chip lies */
    const struct pintle_rig_made
        *made; /* of each channel; null: it is a chip. `bus` is none then */
};

#define PINTLE_RIG_BUILT_IN "built-in" /* instead of a world's file: the sloop's */

struct pintle_rig {
    char *path;   /* the file, or null for the built-in rig */
    char *folder; /* where its calibration and its runs go by default */
    char *text;   /* the file's content */
    char *board;
    char *port;             /* what its buses are reached through: "sim" */
    bool wires;             /* simulate down to the lines */
    double logic_v;         /* of the board's pins */
    const char *world_path; /* null: the rig has no world */
    const char *world_text; /* of the built-in rig's; null: it is in the file */
    char *runs;             /* folder of the run folders */
    bool folders;           /* are runs logged into it? */
    char *database;         /* that runs are logged into; NULL: none */
    char *database_word;    /* as the rig file has it */
    bool uncertain;         /* records have standard uncertainties too */
    int64_t every_us;
    unsigned buses;
    struct pintle_rig_bus *bus;
    unsigned sensors; /* chips, and behind them what is made of their channels: */
    unsigned wired;   /* so many are chips */
    struct pintle_rig_sensor *sensor;
    unsigned described; /* parts that the rig file describes itself */
    const struct pintle_sheet **part;
    char *conflict; /* two sensors in one place, as a sentence; null: none */
    void *own;      /* memory that lives as long as the rig: texts, parts */
};

/* Read a rig file; the world that it names is read when a station is opened. Null on failure. Free
 * with pintle_rig_free. */
struct pintle_rig *pintle_rig_load(const char *path, struct pintle_problem *problem);

/* Likewise from a text; `name` is what messages call it. Files go into the present folder. */
struct pintle_rig *pintle_rig_parse(const char *name, const char *text,
                                    struct pintle_problem *problem);

/* The built-in rig, with the sloop's world. */
struct pintle_rig *pintle_rig_demo(struct pintle_problem *problem);

void pintle_rig_free(struct pintle_rig *rig);

/* The sensor of this name: its index, or -1 with the problem set. */
int pintle_rig_find_sensor(const struct pintle_rig *rig, const char *name,
                           struct pintle_problem *problem);

/* Likewise, of a chip. */
int pintle_rig_find_wired(const struct pintle_rig *rig, const char *name,
                          struct pintle_problem *problem);

/* Does sensor `index` need sensor `of`, directly or not: is it made of it, or corrected by it? */
bool pintle_rig_needs(const struct pintle_rig *rig, unsigned index, unsigned of);

/* Put a stage, with a copy of its numbers, in its place among the sensor's; one that does the same
 * to the same channel gives way. */
void pintle_rig_correct(struct pintle_rig *rig, struct pintle_rig_sensor *sensor,
                        const struct pintle_rig_stage *stage);

/* Its word: "polynomial". */
const char *pintle_stage_word(enum pintle_stage_kind kind);

/* Does this kind of stage take the place of that? Both are a curve, or the same. */
bool pintle_rig_replaces(enum pintle_stage_kind kind, enum pintle_stage_kind other);

/* "1013.25hPa" or, in the number's own unit, "101325". */
bool pintle_formula_number_parse(const struct pintle_formula_number *number, const char *words,
                                 float *value, struct pintle_problem *problem);

/* The part of this name, described by the rig (may be null) or in the catalogue; or null with the
 * problem set. */
const struct pintle_sheet *pintle_rig_part(const struct pintle_rig *rig, const char *name,
                                           struct pintle_problem *problem);

/* All parts there are: first those that the rig (may be null) describes, then the catalogue; null
 * beyond the end. */
const struct pintle_sheet *pintle_rig_part_at(const struct pintle_rig *rig, size_t index);

/* "I2C", "SPI", "1-Wire", "serial". */
const char *pintle_bus_word(enum pintle_bus_kind kind);

/* A 1-Wire code as text ("284c1e720700001d": family, serial number and CRC as hexadecimal digits,
 * in the order in which they come on the wire), and back. Reading, blanks may stand anywhere;
 * false: it is no code. */
void pintle_code_text(const uint8_t code[8], char text[17]);
bool pintle_code_parse(const char *text, uint8_t code[8]);

/* A channel that is shown in a unit, or in two. */
struct pintle_unit_slot {
    const char *name; /* "cabin.temperature" */
    enum pintle_quantity quantity;
    enum pintle_unit *unit, *also;
};

/* Take units, with commas between: "degF", "temperature=degF", "cabin.temperature=degC+degF", by
 * unit, quantity (blanks as hyphens) or channel. False: there is no such unit, or nothing among the
 * slots is shown in it; `where` they are ("this rig"). */
bool pintle_units_take(const char *words, const struct pintle_unit_slot *slots, unsigned count,
                       const char *where, struct pintle_problem *problem);

/* Likewise for all channels of a rig. */
bool pintle_rig_show_in(struct pintle_rig *rig, const char *words, struct pintle_problem *problem);

/* Are these two sensors in one place? */
bool pintle_rig_same_place(const struct pintle_rig *rig, unsigned a, unsigned b);

/* What a part has unless somebody chooses. */
void pintle_rig_initial(const struct pintle_part *part, struct pintle_chosen *chosen);

/* Apply "NAME=VALUE" to a part's settings or numbers. A mistake is answered with what there is. */
bool pintle_rig_setting(const struct pintle_sheet *sheet, const char *assignment,
                        struct pintle_chosen *chosen, struct pintle_problem *problem);

/* The bus of this name: its index, or -1. */
int pintle_rig_find_bus(const struct pintle_rig *rig, const char *name);

/* Its runs lie in `folder`, whatever the rig file says: a database that it names by a relative path
 * is there too. */
void pintle_rig_move_database(struct pintle_rig *rig, const char *folder);

PINTLE_C_END

#endif
