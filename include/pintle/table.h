/* table.h: how constant tables are stored and read.
 *
 * On most machines a `const` table stays in flash and is read like any memory. On Harvard
 * machines with a separate program memory (8-bit AVR) it would be copied to RAM at start, byte
 * for byte. So every step, register, channel and setting table is declared with PINTLE_TABLE and
 * read only through the functions below. None of them may be called with a pointer to RAM on
 * such a machine. All may be called from an interrupt.
 *
 * May still change.
 */
#ifndef PINTLE_TABLE_H
#define PINTLE_TABLE_H

#include <stddef.h>
#include <stdint.h>
#include <string.h>

#ifdef __AVR__
#include <avr/pgmspace.h>
#define PINTLE_TABLE PROGMEM
#define PINTLE_TABLE_MEMCPY memcpy_P
#else
#define PINTLE_TABLE
#define PINTLE_TABLE_MEMCPY memcpy
#endif

/* A number in a table lies at a multiple of its size, which saves reading it byte by byte. */
#if defined __GNUC__ && !defined __AVR__ && !defined __FRAMAC__
#define PINTLE_TABLE_AT(table, size) __builtin_assume_aligned((table), (size))
#else
#define PINTLE_TABLE_AT(table, size) (table)
#endif

/* Declare `name`, a pointer to a row of `type`: to the table itself or, where that cannot be read
 * like memory, to a copy. */
#ifdef __AVR__
#define PINTLE_TABLE_ROW(type, name, row)                                                          \
    type name##_copy;                                                                              \
    pintle_table_copy(&name##_copy, (row), sizeof name##_copy);                                    \
    const type *const name = &name##_copy
#else
#define PINTLE_TABLE_ROW(type, name, row) const type *const name = (const type *)(row)
#endif

/* Copy `size` bytes of a table to `to`. */
static inline void pintle_table_copy(void *to, const void *table, size_t size)
{
    PINTLE_TABLE_MEMCPY(to, table, size);
}

/* One byte of a table. */
static inline uint8_t pintle_table_u8(const void *table)
{
    uint8_t value;
    pintle_table_copy(&value, table, sizeof value);
    return value;
}

/* One 16-bit number of a table. */
static inline uint16_t pintle_table_u16(const void *table)
{
    uint16_t value;
    pintle_table_copy(&value, PINTLE_TABLE_AT(table, sizeof value), sizeof value);
    return value;
}

/* One 32-bit number of a table. */
static inline uint32_t pintle_table_u32(const void *table)
{
    uint32_t value;
    pintle_table_copy(&value, PINTLE_TABLE_AT(table, sizeof value), sizeof value);
    return value;
}

/* One pointer to data that a table holds; `table` points at that pointer. The result may itself
 * point into a table. */
static inline const void *pintle_table_pointer(const void *table)
{
    const void *value;
    pintle_table_copy(&value, PINTLE_TABLE_AT(table, sizeof value), sizeof value);
    return value;
}

#endif
