/* part.h: a part is data.
 *
 * A part states where it can sit, how to prove that it is there, how to start it, how to measure
 * and how to turn the raw block into values. All of it is constant tables (table.h) that the one
 * engine behind sensor.h runs; only compensation that no table can hold is a function, pure, on
 * raw bytes. What people want to know besides (register names, straps, accuracy) is in sheet.h, in
 * files that firmware need not link.
 *
 * To add a part see docs/add-a-part.md.
 *
 * May still change.
 */
#ifndef PINTLE_PART_H
#define PINTLE_PART_H

#include <stdint.h>

#include "pintle/reading.h"
#include "pintle/steps.h"
#include "pintle/table.h"
#include "pintle/unit.h"

PINTLE_C_BEGIN

/* The options of a setting are listed once, in the header of the part:
 *     X(NAME, "as people write it", its code, microseconds that it adds, factor of the scale)
 * The enumeration, the tables below and the names that the tool takes follow from the list. */
#define PINTLE_OPTION_NUMBER(name, text, code, time_us, factor) PINTLE_##name,
#define PINTLE_OPTION_ROW(name, text, code, time_us, factor) { (code), (time_us) },
#define PINTLE_OPTION_FACTOR(name, text, code, time_us, factor) (factor),
#define PINTLE_OPTIONS(table, list)                                                                \
    static const struct pintle_option table[] PINTLE_TABLE = { list(PINTLE_OPTION_ROW) }
#define PINTLE_FACTORS(table, list)                                                                \
    static const float table[] PINTLE_TABLE = { list(PINTLE_OPTION_FACTOR) }

/* What choosing an option does. */
struct pintle_option {
    uint16_t code;    /* the value of the setting's field */
    uint32_t time_us; /* what it adds to the measuring time */
};

/* A setting: a field in a register (or, for a part of commands, bits of the command). One that
 * lives in several places has further rows behind all settings: the same options there. */
struct pintle_setting {
    uint16_t reg;
    uint8_t shift;
    uint8_t count;   /* options */
    uint8_t initial; /* the option that a new sensor has; of a further row, the setting's number */
    const struct pintle_option *options;
    const float *factors; /* of the channels that it scales, one for each option; null: none */
};

/* A number that belongs to what the part is wired to: a shunt's ohms, a reference's volts. */
struct pintle_number {
    float initial;
    float lowest;
    float highest;
};

/* How a checksum is made: over `span` bytes each, sent after them. */
struct pintle_part_crc {
    /* Are the checksums within these bytes right? OK or BAD_CRC. pintle_part_crc_check, which a
     * program without checksums doesn't link. */
    enum pintle_status (*check)(const struct pintle_part_crc *rule, const uint8_t *bytes,
                                size_t count);
    uint16_t polynomial; /* without its highest term; with the lowest bit first, mirrored; 0: a
                            plain sum of bytes */
    uint16_t start;
    uint8_t bits;      /* 8 or 16; 0 and no `check`: none */
    uint8_t low_first; /* of its bits, and of its bytes when it is sent */
    uint8_t span;
};

/* "These bits say what is known against the value." */
struct pintle_mark {
    int8_t at; /* of the byte, counted from the value's first, or from the block's */
    uint8_t mask;
    uint8_t want;
    uint8_t bit; /* number of the bit of enum pintle_quality */
};

#define PINTLE_MARK_UNLESS 0x80
#define PINTLE_MARK_OF_BLOCK 0x40
#define PINTLE_MARK_BIT(name, bit, word, sentence) PINTLE_MARK_BIT_##name = bit,
enum { PINTLE_QUALITY_LIST(PINTLE_MARK_BIT) };
#undef PINTLE_MARK_BIT

/* Where (byte & mask) == want; where it does not. A list ends with PINTLE_MARKS_END. */
#define PINTLE_MARK(at, mask, want, name)                                                          \
    {                                                                                              \
        (at), (mask), (want), PINTLE_MARK_BIT_##name                                               \
    }
#define PINTLE_UNLESS(at, mask, want, name)                                                        \
    {                                                                                              \
        (at), (mask), (want), PINTLE_MARK_BIT_##name | PINTLE_MARK_UNLESS                          \
    }
/* Likewise of byte `at` of the raw block, wherever the value lies. */
#define PINTLE_UNLESS_BLOCK(at, mask, want, name)                                                  \
    {                                                                                              \
        (at), (mask), (want), PINTLE_MARK_BIT_##name | PINTLE_MARK_UNLESS | PINTLE_MARK_OF_BLOCK   \
    }
#define PINTLE_MARKS_END()                                                                         \
    {                                                                                              \
        0, 0, 0, 0                                                                                 \
    }

#define PINTLE_LINEAR_SIGNED 1        /* two's complement */
#define PINTLE_LINEAR_LITTLE_ENDIAN 2 /* low byte first */
#define PINTLE_LINEAR_POWER_ON 4      /* `power_on` may mean: not converted yet */
#define PINTLE_LINEAR_CLAMP 8         /* beyond the channel's range it is the end of that */

/* A value that lies in the raw block as it is: value = integer x scale + zero, then through
 * `shape` where there is one (shape.h). The scale is multiplied by what the channel says. */
struct pintle_linear {
    uint8_t bytes; /* 1 to 4 */
    uint8_t shift; /* bits to drop at the right */
    uint8_t bits;  /* that count, from there on to the left; 0: all */
    uint8_t flags;
    float scale;
    float zero;
    int32_t lowest; /* the integers at which the scale ends; of one without a sign, -1: nowhere */
    int32_t highest;
    int32_t power_on;
    float (*shape)(const float *constants, float x); /* not with PINTLE_WHOLE */
    const float *constants;                          /* a table */
    const struct pintle_mark *marks;                 /* a table; null: none */
};

#define PINTLE_DECIMALS_MAX 7

#define PINTLE_DIVIDED 0x80 /* beside a channel's number: by it, not times it */

/* A channel. Sets have bit n for setting, or input, n. */
struct pintle_channel {
    char name[12];
    uint8_t quantity;   /* enum pintle_quantity */
    uint8_t decimals;   /* worth printing, in the base unit */
    uint8_t at;         /* its first byte in the raw block */
    uint8_t number;     /* the part's number, from 1 on, that scales it; 0: none */
    uint16_t rows_by;   /* the settings that pick its row of `linear`: of the first of them the
                           options make blocks of rows, of the last single ones; 0: there is one */
    uint16_t scaled_by; /* the settings whose options' factors multiply its scale */
    uint16_t input; /* the inputs that it comes from, of a part with PINTLE_FOR; 0: always there */
    float lowest;   /* the specified range, base unit; these two are read together */
    float highest;
    const struct pintle_linear *linear; /* null: the part's decode function fills it in */
};

/* PINTLE_CHANNEL("humidity", HUMIDITY, 2, 0, 100, &row, .at = 3) */
#define PINTLE_CHANNEL(title, what, digits, from, to, rows, ...)                                   \
    {                                                                                              \
        .name = title, .quantity = PINTLE_QUANTITY_##what, .decimals = (digits), .lowest = (from), \
        .highest = (to), .linear = (rows), __VA_ARGS__                                             \
    }

/* A factor of a scale: a float or, where there are none, mantissa x 2^exponent. */
#if PINTLE_WHOLE
typedef struct {
    uint32_t mantissa; /* its highest bit is set; 0: it is 0 */
    int16_t exponent;
    uint8_t negative;
} pintle_factor;
#else
typedef float pintle_factor;
#endif

/* Receives intermediate values, each under its datasheet symbol. Used where PINTLE_WORKING is 1. */
struct pintle_notes {
    void (*whole)(struct pintle_notes *notes, const char *symbol, int64_t value);
};

#if PINTLE_WORKING
#define PINTLE_NOTE(notes, symbol, number)                                                         \
    ((notes) ? (notes)->whole((notes), (symbol), (number)) : (void)0)
#else
#define PINTLE_NOTE(notes, symbol, number) ((void)(notes))
#endif

/* What a decode function works on. It must not keep any of it. */
struct pintle_block {
    const uint8_t *raw;
    const uint8_t *trim;
    const uint8_t *settings;    /* an option index for each setting */
    struct pintle_notes *notes; /* may be null */
    const float *numbers;       /* one for each of the part's; null: their initial ones */
    uint16_t idle;              /* inputs that nobody asked for */
    uint8_t again; /* it was measured once more, right after a set-up, because the first time it
                      looked as after power-up: what still looks so is a value */
};

#define PINTLE_PART_BIG_ENDIAN 1     /* registers wider than a byte send the high byte first */
#define PINTLE_PART_WIDE_ADDRESS 2   /* registers are addressed by two bytes, high byte first */
#define PINTLE_PART_STICKY_POINTER 4 /* remembers the register address between transfers */
/* Its result has no address of its own: on a shared bus the claim is kept from each command (a
 * WRITE) to the next; what is waited for meanwhile is waited for in the call that collects. */
#define PINTLE_PART_KEEPS 8
#define PINTLE_PART_FIRST_SUSPECT 16 /* mark the first reading after power-up */
#define PINTLE_PART_FORGETS 32       /* a power-on value: set it up and measure once more */
#define PINTLE_PART_ONES_SILENT 64   /* nothing but ones means that nobody drives the line, */
#define PINTLE_PART_ZEROS_SILENT 128 /* nothing but zeros likewise: BUS, NO_ANSWER */

struct pintle_sensor;

enum pintle_bus_kind { PINTLE_BUS_I2C, PINTLE_BUS_SPI, PINTLE_BUS_ONEWIRE, PINTLE_BUS_STREAM };

/* How registers and commands travel over a bus. A part names the one that it speaks, so that
 * firmware links no other. */
struct pintle_link {
    uint8_t kind; /* enum pintle_bus_kind */
    /* Send the register address (or command) and `count` data bytes; with PINTLE_NO_REG, nothing in
     * front of them. UNSUPPORTED where that cannot be; likewise below. */
    enum pintle_status (*send)(struct pintle_sensor *sensor, uint16_t reg, const uint8_t *bytes,
                               uint8_t count);
    /* Read `count` bytes from `reg` on. */
    enum pintle_status (*receive)(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                  uint8_t count);
    /* Send a command, then power the line hard for `us`; null where there is no such thing. */
    enum pintle_status (*power)(struct pintle_sensor *sensor, uint8_t command, uint32_t us);
    /* Forget what the bus knows of its chips. Null: it knows nothing. */
    void (*forget)(struct pintle_sensor *sensor);
    /* After this failure, is it worth another attempt, once the bus was freed? Null: never. */
    uint8_t (*recover)(struct pintle_sensor *sensor, enum pintle_status status);
    uint8_t checks; /* 1: what `receive` brings has proven its checksums */
};

extern const struct pintle_link pintle_link_i2c; /* UM10204: address, register, repeated START */
extern const struct pintle_link
    pintle_link_smbus;                           /* and a checksum over each transfer: SMBus, 6.4 */
extern const struct pintle_link pintle_link_spi; /* a byte with the register and a read bit first */
/* 1-Wire chips with a scratchpad of nine bytes, the last a CRC, of which 2 to 4 can be written
 * (commands 0xbe, 0x4e): registers are its bytes, anything from 0x10 on is a command. */
extern const struct pintle_link pintle_link_scratchpad;
/* Lines of text or frames of bytes on a serial line. A register is what they begin with, two bytes:
 * writing it sends those and the value; reading it takes the next frame that begins so, the two
 * bytes and all, and drops any other. NO_REG means any frame. Writing, or calling (PINTLE_CALL),
 * forgets what has come so far. */
extern const struct pintle_link pintle_link_stream;

/* How an SPI part wants to be talked to. */
struct pintle_spi_rules {
    uint32_t top_hz;
    uint8_t mode;
    uint8_t read_bit;  /* set in the first byte of a read, ... */
    uint8_t burst_bit; /* ... and of any transfer of more than one byte */
    uint8_t bank_reg;  /* the register that selects a bank, which is a register's high byte; */
    uint8_t bank_shift;
    uint8_t banks;    /* 1 or 0: none */
    uint8_t commands; /* 1: it has no registers: a register is a command, told by a line beside the
                         bus; anything else is data */
};

/* How a part on a serial line makes frames. */
struct pintle_frame {
    uint32_t bit_hz;   /* the line's speed */
    uint16_t limit_ms; /* the longest until one has come */
    uint8_t length;    /* bytes of each; 0: they end with `end` */
    uint8_t end;       /* the last character of a line of text; it, and a carriage return in front
                          of it, read as 0 */
};

/* Which settings make the range, and when to change them. From rung to rung the integers change by
 * less than highest / lowest, so that none is left as soon as it is taken. */
struct pintle_ladder {
    /* Is this reading to be measured once more, on another rung? pintle_part_climb, which only
     * parts with a ladder link. */
    uint8_t (*climb)(struct pintle_sensor *sensor);
    uint8_t settings[2];     /* the same twice: there is one */
    uint8_t rungs;           /* the finest first: */
    const uint8_t *options;  /* two options each */
    uint32_t channels;       /* the set of those whose largest integer decides: */
    int32_t lowest, highest; /* below the one a finer rung is taken, from the other on a coarser */
};

struct pintle_abilities;

struct pintle_part {
    char name[12];
    uint8_t flags;
    uint8_t raw_size;  /* bytes in the raw block */
    uint8_t data_at;   /* the first of them that is no flag: what is silent is judged by those */
    uint8_t trim_size; /* bytes of trim that the sensor's owner provides; 0: none */
    uint8_t channel_count;
    uint8_t setting_count;
    uint8_t further_count; /* places where a setting lives besides */
    uint8_t number_count;
    uint8_t family; /* of a 1-Wire part's code */
    uint8_t address_count;
    const uint8_t *addresses; /* I2C */
    const struct pintle_link *link;
    const struct pintle_spi_rules *spi;
    const struct pintle_step *identity;
    const struct pintle_step *setup;
    const struct pintle_step *measure;
    const struct pintle_step *rest; /* what saves current until the next set-up; null: it rests by
                                       itself behind each measurement, or cannot */
    const struct pintle_setting *settings;
    const struct pintle_ladder *ladder; /* null: its range is never chosen by itself */
    const struct pintle_number *numbers;
    const struct pintle_part_crc *crc; /* of what is read, as many as its steps name: the first is
                                     that of registers, too; null: none */
    const struct pintle_channel *channels;
    /* What channels' scales are multiplied by: pintle_part_factor where any says so, or null. */
    pintle_factor (*factor)(const struct pintle_part *part, const struct pintle_channel *channel,
                            const struct pintle_block *block);
    /* Or null. Channels that have a row go through that afterwards. */
    void (*decode)(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings);
    /* Of a part with any of the steps POLL, CHANGE, POWER, TRIM, FOR, CHECK, VACANT, a READ with a
     * condition or an EXPECT of more than two bytes: pintle_part_steps_rare, which other firmware
     * doesn't link. */
    enum pintle_status (*rare)(struct pintle_sensor *sensor, const struct pintle_step *step);
    const struct pintle_abilities *can; /* ability.h; null: it measures, and that is all */
    const struct pintle_frame *frame;   /* of a serial line */
    /* How the integer of a row comes out of `left` bytes; returns what is known against it.
     * Null: as the row says. pintle_part_digits: as a decimal number in text. */
    pintle_marks (*integer)(const uint8_t *first, uint8_t left, int32_t *raw);
    /* Let a chip speak that says nothing, because a program before has switched its output off.
     * Null: nothing does. Done once when a measurement begins with no answer; never in a proof. */
    enum pintle_status (*unlock)(struct pintle_sensor *sensor);
};

enum pintle_status pintle_part_steps_rare(struct pintle_sensor *sensor,
                                          const struct pintle_step *step);

/* Turn a raw block into readings, one for each of the part's channels: the whole of a part's
 * computation, with no hardware. `part` is a table; `block` holds the part's raw_size and trim_size
 * bytes. No errors: what is wrong with a value is in its quality, BUS where no chip of this part
 * sends such bytes. May be called from an interrupt. */
void pintle_part_decode(const struct pintle_part *part, const struct pintle_block *block,
                        struct pintle_reading *readings);

/* Fill `settings` (the part's setting_count bytes) with each setting's initial option. */
void pintle_part_initial(const struct pintle_part *part, uint8_t *settings);

/* The row of a linear channel (a row of the part's own table) that the block's settings pick, and
 * what its scale is then multiplied by. */
const struct pintle_linear *pintle_part_row(const struct pintle_part *part,
                                            const struct pintle_channel *channel,
                                            const uint8_t *settings);
pintle_factor pintle_part_factor(const struct pintle_part *part,
                                 const struct pintle_channel *channel,
                                 const struct pintle_block *block);

/* The number `i` of the part's, as the block has it. */
float pintle_part_number(const struct pintle_part *part, const struct pintle_block *block,
                         uint8_t i);

/* A value for a decode function to put: number / over, in the base unit. */
pintle_value pintle_part_value(int32_t number, uint16_t over, uint8_t decimals);

/* Likewise number x scale, by (PINTLE_DIVIDED) or times the part's number `i`. */
pintle_value pintle_part_product(const struct pintle_part *part, const struct pintle_block *block,
                                 int32_t number, float scale, uint8_t i, uint8_t decimals);

/* A decimal number in text, a sign in front of it or none, up to the first character that is no
 * digit. BUS where there is none, more than nine digits, or no such character: it may go on; and
 * where more digits come behind it: another line, onto which a torn one ran. */
pintle_marks pintle_part_digits(const uint8_t *first, uint8_t left, int32_t *raw);

uint8_t pintle_part_climb(struct pintle_sensor *sensor);

/* The checksum of `count` bytes; `rule` is a table. */
uint16_t pintle_part_crc_over(const struct pintle_part_crc *rule, const uint8_t *bytes,
                              size_t count);

/* Check groups of `span` bytes with their checksum behind each. BAD_CRC also where the last is not
 * whole. */
enum pintle_status pintle_part_crc_check(const struct pintle_part_crc *rule, const uint8_t *bytes,
                                         size_t count);

/* CRC-8, polynomial 0x31, starting from 0xff, over two bytes each (SHT3x-DIS datasheet section
 * 4.12). */
extern const struct pintle_part_crc pintle_crc8_words;

PINTLE_C_END

#endif
