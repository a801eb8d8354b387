/* sheet.h: a part as people want it explained.
 *
 * Everything about a part that the engine does not need: straps, supply, names of settings and
 * their options, accuracy, the register map with its fields. These are plain constants for hosts
 * with an operating system (the tool, the tests); firmware that does not call these functions does
 * not link them. Each sheet names the datasheet that it was taken from.
 *
 * May still change.
 */
#ifndef PINTLE_SHEET_H
#define PINTLE_SHEET_H

#include "pintle/part.h"
#include "pintle/reg.h"

PINTLE_C_BEGIN

/* An address and what on the board selects it. */
struct pintle_strap {
    uint8_t address;
    const char *by;
};

/* A setting's name, what it changes and its options' names in order. */
struct pintle_setting_text {
    const char *name;
    const char *meaning;
    const char *const *options;
    const char *const *effects; /* of each option, what the datasheet says that it does ("noise
                                   3.3 Pa"); null: nothing */
    const float *working_ua;    /* of each option, instead of the sheet's; null: no matter */
    const uint8_t *lags; /* of each option, readings until three quarters of a step show; null: one
                            of them */
};

/* A number's name, its unit and what it is of. */
struct pintle_number_text {
    const char *name;
    const char *unit;
    const char *meaning;
};

struct pintle_channel_text {
    const char *symbol;  /* the datasheet's name of the raw integer; "" without one */
    const char *formula; /* from the raw integer to the value, as the datasheet has it */
    const char *resolution;
    const char *accuracy;  /* as the datasheet states it */
    float accuracy_narrow; /* largest error in the base unit, where the value is within ... */
    float narrow_lowest;   /* ... this range; */
    float narrow_highest;
    float accuracy_wide; /* and over the whole range of the channel */
};

/* An accuracy that follows the value and the settings: this, which is scaled as a count is, and a
 * share of the value. */
struct pintle_accuracy {
    float scaled; /* base unit, at the initial settings and numbers */
    float share;  /* both 0: the datasheet doesn't have it so */
    uint8_t like; /* 1 + the channel whose count scales it; 0: its own */
};

/* A stretch of the raw block or of the trim, in the order in which `convert` takes them. */
struct pintle_stretch {
    const char *from; /* register or command */
    uint8_t bytes;
    const char *what;
};

struct pintle_field {
    const char *name;
    uint8_t shift;
    uint8_t bits;
    const char *meaning;
    const char *const *values; /* what each value means, NULL-terminated; null: a plain number */
};

struct pintle_map_reg {
    const char *name;
    struct pintle_reg reg;
    uint32_t at_power_on;
    const char *meaning;
    const struct pintle_field *fields;
    uint8_t field_count;
};

struct pintle_sheet {
    const struct pintle_part *part;
    const char *what;                    /* what the chip is */
    const char *source;                  /* the datasheet: number or title, revision */
    float supply_lowest, supply_highest; /* V */
    float working_ua, resting_ua;      /* supply current while it measures and between measurements,
                                          typical; not working ones 0: nobody says */
    float high_share;                  /* of its supply, from which a pin is high; 0: 0.7 */
    float high_v;                      /* V, whatever its supply; 0: by the share */
    float stands_v;                    /* on its pins whatever its supply; 0: supply + 0.5 V */
    const struct pintle_strap *straps; /* one per address of the part */
    const char *proof;                 /* how identity is proven */
    uint8_t proof_is_certain;          /* 0: other chips could pass it too */
    const char *known_for;             /* what goes wrong with this part in particular; or null */
    pintle_marks known_by_quality;     /* it fits a reading with any of these, ... */
    uint32_t known_by_status;          /* ... or that failed so: a bit for each status */
    const struct pintle_setting_text *settings;
    const struct pintle_number_text *numbers;
    const struct pintle_channel_text *channels;
    const struct pintle_accuracy *accuracies; /* of each channel, instead of its text's; or null */
    const struct pintle_stretch *data;
    uint8_t data_count;
    uint8_t usual_first; /* the first byte, when all is well: `convert` can do without it; 0: it
                            can't */
    uint8_t repeats; /* so many bytes at the end are those before them, read once more: `convert`
                        takes them or not */
    const struct pintle_stretch *trim;
    uint8_t trim_count;
    const struct pintle_map_reg *regs;
    uint16_t reg_count;
    uint8_t serial;    /* I2C: a command that makes it say its serial number, two words with their
                          checksums; 0: it has none */
    uint8_t described; /* by a rig file: it may have no identity */
    uint8_t acts;      /* reading it, or any byte sent to it, switches something: it is proven last,
                          and only where a rig names it */
    uint8_t mute;      /* it has no output: nobody but a person can tell whether it is there */
};

/* The catalogue: how many parts there are, and each. Null for an index beyond the end. */
size_t pintle_sheet_count(void);
const struct pintle_sheet *pintle_sheet_at(size_t index);

/* The part of this name, in any mixture of cases, or null. */
const struct pintle_sheet *pintle_sheet_find(const char *name);

/* Set the option named `option` of the setting named `setting` in `settings`. BAD_ARGUMENT: there
 * is no such setting; OUT_OF_RANGE: it has no such option. */
PINTLE_MUST_CHECK enum pintle_status pintle_sheet_set(const struct pintle_sheet *sheet,
                                                      const char *setting, const char *option,
                                                      uint8_t *settings);

/* Is the setting one that the part can choose by itself? */
int pintle_sheet_ranges(const struct pintle_sheet *sheet, unsigned setting);

/* The number of this name: its index, or -1. */
int pintle_sheet_number(const struct pintle_sheet *sheet, const char *name);

/* What the waits of a program add up to with these settings, in microseconds. */
uint64_t pintle_sheet_waits_us(const struct pintle_part *part, const struct pintle_step *program,
                               const uint8_t *settings);

/* The bytes of the raw block, from `at` on, whose checksums a measurement checks. */
struct pintle_sheet_check {
    const struct pintle_part_crc *rule;
    uint8_t at;
    uint8_t count;
};

/* What is checked with these settings, when all inputs are asked for: into list, up to `room`.
 * Returns how many. */
unsigned pintle_sheet_checks(const struct pintle_part *part, const uint8_t *settings,
                             struct pintle_sheet_check *list, unsigned room);

/* What is wrong with the part's tables (a program with no end, widths that don't sum up, no
 * identity, a checksum rule that is not kept, names that don't fit), as a clause; null: nothing. */
const char *pintle_sheet_fault(const struct pintle_sheet *sheet);

/* What selects this address ("ADD0 to GND"); "" for one that the part cannot have. */
const char *pintle_sheet_strap(const struct pintle_sheet *sheet, uint8_t address);

/* The channel of this name: its index, or -1. */
int pintle_sheet_channel(const struct pintle_sheet *sheet, const char *name);

/* The first of three channels in a row, from `from` on, that are the axes x, y and z of one thing
 * ("accel-x"): its index, or -1. */
int pintle_sheet_axes(const struct pintle_sheet *sheet, unsigned from);

PINTLE_C_END

#endif
