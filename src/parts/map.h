/* What the files that explain parts to people share. */
#ifndef PINTLE_PARTS_MAP_H
#define PINTLE_PARTS_MAP_H

#include "pintle/parts.h"
#include "pintle/sheet.h"

#define COUNT(array) ((uint8_t)(sizeof(array) / sizeof(array)[0]))
#define FIELDS(array) array, COUNT(array)
#define NO_FIELDS NULL, 0

/* Registers. */
#define RW(address, width) PINTLE_REG(address, width, 0)
#define RO(address, width) PINTLE_REG(address, width, PINTLE_REG_READ_ONLY)
#define WO(address, width) PINTLE_REG(address, width, PINTLE_REG_WRITE_ONLY)
/* With bits that act when a 1 is written to them; with bits that cannot be written. */
#define RW_ACTS(address, width, acts, fixed)                                                       \
    {                                                                                              \
        (address), (width), 0, 0, (acts), (fixed)                                                  \
    }
#define RW_BUT(address, width, fixed) RW_ACTS(address, width, 0, fixed)

/* The names of a setting's options, in order. */
#define OPTION_NAME(name, text, code, time_us, factor) text,
#define OPTION_NAMES(names, list) static const char *const names[] = { list(OPTION_NAME) NULL }

/* "no", "yes": the meanings of many a bit. */
extern const char *const pintle_priv_no_yes[];

#define PINTLE_SHEET_DECLARED(name, file, bus, place, flash)                                       \
    extern const struct pintle_sheet pintle_priv_##name;
PINTLE_PART_LIST(PINTLE_SHEET_DECLARED)
#undef PINTLE_SHEET_DECLARED

#endif
