/* part.h: a part is data.
 *
 * A part states where it can sit, how to prove that it is there, how to start it, how to measure
 * and how to turn the raw block into values. All of it is constant tables (table.h) that the one
 * engine behind sensor.h runs; only compensation that no table can hold is a function, pure, on
 * raw bytes. What people want to know besides (register names, straps, accuracy) is in sheet.h, in
 * files that firmware need not link.
 *
 * To add a part see docs/add-a-part.md.
 */
#ifndef PINTLE_PART_H
#define PINTLE_PART_H

#include <stdint.h>

#include "pintle/reading.h"
#include "pintle/table.h"
#include "pintle/unit.h"

/* A program has so many steps at most, and none of them waits longer: a clock that says so has gone
 * back. */
#define PINTLE_STEPS_MAX 64
#define PINTLE_WAIT_MAX_US 600000000u

enum pintle_op {
    PINTLE_OP_END,
    PINTLE_OP_WRITE,  /* send reg, then `width` bytes of value, settings of that reg mixed in */
    PINTLE_OP_WAIT,   /* value us; width 1: plus the time that each setting's option adds; up to
                         PINTLE_WAIT_MAX_US */
    PINTLE_OP_ONLY,   /* skip the next `width` steps unless setting `reg` is at option `value` */
    PINTLE_OP_POLL,   /* read reg until (byte & mask) == want, or value's limit in ms is over */
    PINTLE_OP_EXPECT, /* read reg; (it & mask) must equal want, else WRONG_IDENTITY; in a set-up
                         or behind a measurement, MISFIT. Of more than two bytes (up to 8) the last
                         one is `it` */
    PINTLE_OP_REFUSE, /* likewise, and it must not */
    PINTLE_OP_CHANGE, /* read one byte, replace the masked bits, settings mixed in, write it */
    PINTLE_OP_POWER,  /* send command reg, then power the line hard for value us plus options' */
    PINTLE_OP_TRIM,   /* read `width` bytes from reg on, append to the trim; twice, and BAD_CRC
                         where they differ */
    PINTLE_OP_READ,   /* read `width` bytes from reg on, append to the raw block; what a set-up
                         reads is thrown away */
    PINTLE_OP_FETCH,  /* read `width` bytes with no register address, append to the raw block */
    PINTLE_OP_WORDS   /* the raw block is 16-bit words with a CRC-8 after each: check them */
};

/* One step. Use the macros below. */
struct pintle_step {
    uint8_t op;
    uint8_t width;
    uint16_t reg;
    uint32_t value;
};

#define PINTLE_WRITE(reg, width, bits)                                                             \
    {                                                                                              \
        PINTLE_OP_WRITE, (width), (reg), (bits)                                                    \
    }
#define PINTLE_COMMAND(code)                                                                       \
    {                                                                                              \
        PINTLE_OP_WRITE, 0, (code), 0                                                              \
    }
#define PINTLE_WAIT(us)                                                                            \
    {                                                                                              \
        PINTLE_OP_WAIT, 0, 0, (us)                                                                 \
    }
#define PINTLE_WAIT_SETTINGS(us)                                                                   \
    {                                                                                              \
        PINTLE_OP_WAIT, 1, 0, (us)                                                                 \
    }
#define PINTLE_ONLY(setting, option, steps)                                                        \
    {                                                                                              \
        PINTLE_OP_ONLY, (steps), (setting), (option)                                               \
    }
#define PINTLE_POLL(reg, mask, want, limit_ms)                                                     \
    {                                                                                              \
        PINTLE_OP_POLL, 1, (reg), ((uint32_t)(mask) << 24) | ((uint32_t)(want) << 16) | (limit_ms) \
    }
#define PINTLE_EXPECT(reg, width, mask, want)                                                      \
    {                                                                                              \
        PINTLE_OP_EXPECT, (width), (reg), ((uint32_t)(mask) << 16) | (want)                        \
    }
#define PINTLE_REFUSE(reg, width, mask, bad)                                                       \
    {                                                                                              \
        PINTLE_OP_REFUSE, (width), (reg), ((uint32_t)(mask) << 16) | (bad)                         \
    }
#define PINTLE_CHANGE(reg, mask, bits)                                                             \
    {                                                                                              \
        PINTLE_OP_CHANGE, 1, (reg), ((uint32_t)(mask) << 8) | (bits)                               \
    }
#define PINTLE_POWER(code, us)                                                                     \
    {                                                                                              \
        PINTLE_OP_POWER, 0, (code), (us)                                                           \
    }
#define PINTLE_TRIM(reg, width)                                                                    \
    {                                                                                              \
        PINTLE_OP_TRIM, (width), (reg), 0                                                          \
    }
#define PINTLE_READ(reg, width)                                                                    \
    {                                                                                              \
        PINTLE_OP_READ, (width), (reg), 0                                                          \
    }
#define PINTLE_FETCH(width)                                                                        \
    {                                                                                              \
        PINTLE_OP_FETCH, (width), 0, 0                                                             \
    }
#define PINTLE_WORDS()                                                                             \
    {                                                                                              \
        PINTLE_OP_WORDS, 0, 0, 0                                                                   \
    }
#define PINTLE_END()                                                                               \
    {                                                                                              \
        PINTLE_OP_END, 0, 0, 0                                                                     \
    }

/* What choosing an option does. */
struct pintle_option {
    uint16_t code;    /* the value of the setting's field */
    uint32_t time_us; /* what it adds to the measuring time */
};

/* A setting: a field in a register (or, for a part of commands, bits of the command). */
struct pintle_setting {
    uint16_t reg;
    uint8_t shift;
    uint8_t count;   /* options */
    uint8_t initial; /* the option that a new sensor has */
    const struct pintle_option *options;
};

/* "These bits say what is known against the value." */
struct pintle_mark {
    int8_t at; /* of the byte in the raw block, counted from the value's first */
    uint8_t mask;
    uint8_t want;
    uint8_t bit; /* number of the bit of enum pintle_quality */
};

#define PINTLE_MARK_UNLESS 0x80
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
#define PINTLE_MARKS_END()                                                                         \
    {                                                                                              \
        0, 0, 0, 0                                                                                 \
    }

#define PINTLE_LINEAR_SIGNED 1        /* two's complement */
#define PINTLE_LINEAR_LITTLE_ENDIAN 2 /* low byte first */
#define PINTLE_LINEAR_POWER_ON 4      /* `power_on` may mean: not converted yet */
/* Below the lowest bit the others come once more, from the low end, then zeros; where they don't,
 * the value is marked BUS. */
#define PINTLE_LINEAR_MIRRORED 8

/* A value that lies in the raw block as it is: value = integer x scale + zero, then through
 * `shape` where there is one (shape.h). */
struct pintle_linear {
    uint8_t at;    /* first byte in the raw block */
    uint8_t bytes; /* 1 to 4 */
    uint8_t shift; /* bits to drop at the right */
    uint8_t bits;  /* that count, from there on to the left; 0: all */
    uint8_t flags;
    float scale;
    float zero;
    int32_t lowest; /* the integers at which the scale ends; of one without a sign, -1: nowhere */
    int32_t highest;
    int32_t power_on;
    float (*shape)(const float *constants, float x);
    const float *constants;          /* a table */
    const struct pintle_mark *marks; /* a table; null: none */
};

/* A channel. */
struct pintle_channel {
    char name[12];
    uint8_t quantity; /* enum pintle_quantity */
    uint8_t decimals; /* worth printing, in the base unit */
    uint8_t scale_by; /* the setting whose option picks the row of `linear`; 255: there is one */
    float lowest;     /* the specified range, base unit; these two are read together */
    float highest;
    const struct pintle_linear *linear; /* null: the part's decode function fills it in */
};

#define PINTLE_ALWAYS 255

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
    uint8_t again; /* it was measured once more, right after a set-up, because the first time it
                      looked as after power-up: what still looks so is a value */
};

#define PINTLE_PART_BIG_ENDIAN 1     /* registers wider than a byte send the high byte first */
#define PINTLE_PART_WIDE_ADDRESS 2   /* registers are addressed by two bytes, high byte first */
#define PINTLE_PART_STICKY_POINTER 4 /* remembers the register address between transfers */
#define PINTLE_PART_CRC_WORDS 8      /* a CRC-8 follows every two bytes read */
#define PINTLE_PART_FIRST_SUSPECT 16 /* mark the first reading after power-up */
#define PINTLE_PART_FORGETS 32       /* a power-on value: set it up and measure once more */
#define PINTLE_PART_ONES_SILENT 64   /* nothing but ones means that nobody drives the line, */
#define PINTLE_PART_ZEROS_SILENT 128 /* nothing but zeros likewise: BUS, NO_ANSWER */

struct pintle_sensor;

enum pintle_bus_kind { PINTLE_BUS_I2C, PINTLE_BUS_SPI, PINTLE_BUS_ONEWIRE };

/* How registers and commands travel over a bus. A part names the one that it speaks, so that
 * firmware links no other. */
struct pintle_link {
    uint8_t kind; /* enum pintle_bus_kind */
    /* Send the register address (or command) and `count` data bytes. */
    enum pintle_status (*send)(struct pintle_sensor *sensor, uint16_t reg, const uint8_t *bytes,
                               uint8_t count);
    /* Read `count` bytes from `reg` on. */
    enum pintle_status (*receive)(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                  uint8_t count);
    /* Read `count` bytes with no register address; null where there is no such thing. */
    enum pintle_status (*fetch)(struct pintle_sensor *sensor, uint8_t *bytes, uint8_t count);
    /* Send a command, then power the line hard for `us`; null likewise. */
    enum pintle_status (*power)(struct pintle_sensor *sensor, uint8_t command, uint32_t us);
    /* Claim the bus (take 1) or let it go (0). */
    enum pintle_status (*claim)(struct pintle_sensor *sensor, uint8_t take);
    /* Forget what the bus knows of the chip. */
    void (*forget)(struct pintle_sensor *sensor);
};

extern const struct pintle_link pintle_link_i2c; /* UM10204: address, register, repeated START */
extern const struct pintle_link pintle_link_spi; /* a byte with the register and a read bit first */
/* 1-Wire chips with a scratchpad of nine bytes, the last a CRC, of which 2 to 4 can be written
 * (commands 0xbe, 0x4e): registers are its bytes, anything from 0x10 on is a command. */
extern const struct pintle_link pintle_link_scratchpad;

/* How an SPI part wants to be talked to. */
struct pintle_spi_rules {
    uint32_t top_hz;
    uint8_t mode;
    uint8_t read_bit;  /* set in the first byte of a read, ... */
    uint8_t burst_bit; /* ... and of any transfer of more than one byte */
    uint8_t bank_reg;  /* the register that selects a bank, which is a register's high byte; */
    uint8_t bank_shift;
    uint8_t banks; /* 1 or 0: none */
};

struct pintle_part {
    char name[12];
    uint8_t flags;
    uint8_t raw_size;  /* bytes in the raw block */
    uint8_t trim_size; /* bytes of trim that the sensor's owner provides; 0: none */
    uint8_t channel_count;
    uint8_t setting_count;
    uint8_t family; /* of a 1-Wire part's code */
    uint8_t address_count;
    const uint8_t *addresses; /* I2C */
    const struct pintle_link *link;
    const struct pintle_spi_rules *spi;
    const struct pintle_step *identity;
    const struct pintle_step *setup;
    const struct pintle_step *measure;
    const struct pintle_setting *settings;
    const struct pintle_channel *channels;
    void (*decode)(const struct pintle_block *block, struct pintle_sample *sample); /* or null */
};

/* Turn a raw block into readings: the whole of a part's computation, with no hardware.
 * `part` is a table; `block` holds the part's raw_size and trim_size bytes and may be sample->raw.
 * sample->time_us is left alone. No errors: what is wrong with a value is in its quality, BUS where
 * no chip of this part sends such bytes. May be called from an interrupt. */
#define pintle_part_decode PINTLE_SIZED(pintle_part_decode)
void pintle_part_decode(const struct pintle_part *part, const struct pintle_block *block,
                        struct pintle_sample *sample);

/* Fill `settings` (the part's setting_count bytes) with each setting's initial option. */
void pintle_part_initial(const struct pintle_part *part, uint8_t *settings);

/* CRC-8, polynomial 0x31, starting from 0xff, not reflected, no final inversion (SHT3x-DIS
 * datasheet section 4.12). */
uint8_t pintle_crc8_31(const uint8_t *bytes, size_t count);

#endif
