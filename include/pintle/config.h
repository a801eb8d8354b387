/* config.h: the compile-time options, all of them.
 *
 * Set them on the compiler's command line, equal for the library and its users: where those that
 * shape objects differ, the program does not link.
 *
 * Stable.
 */
#ifndef PINTLE_CONFIG_H
#define PINTLE_CONFIG_H

#include <limits.h>

/* The library's version; before 1.0 each second number may change the interface. */
#define PINTLE_VERSION "0.1.0"

/* 1: compensation functions report each intermediate value by its datasheet symbol to the
 * caller's notes (see part.h). Costs about 300 bytes of code per compensated part; the desktop
 * tool needs it, firmware does not. 0: the notes are ignored. */
#ifndef PINTLE_WORKING
#define PINTLE_WORKING 0
#endif

/* 1: values are whole numbers, in units of the last decimal that their channel has, and nothing
 * between the bus and a line of text computes with floats: for machines without a unit for them.
 * Corrections (correct.h), derived values (derive.h) and parts with a curve (VEML7700) are not
 * there then. */
#ifndef PINTLE_WHOLE
#define PINTLE_WHOLE 0
#endif

/* A caller's mistake (a null object, an index out of range). Define it as your own assert to
 * stop on the spot; by default it costs nothing. Failures of the world are status codes. */
#ifndef PINTLE_ASSERT
#define PINTLE_ASSERT(condition) ((void)0)
#endif

#if CHAR_BIT != 8
#error                                                                                             \
    "Pintle needs a machine that addresses memory in units of 8 bits; on this one a char has more"
#endif

/* Everything is C, also for a C++ program. */
#ifdef __cplusplus
#define PINTLE_C_BEGIN extern "C" {
#define PINTLE_C_END }
#elif defined(PINTLE_EXPORTS) /* a shared library is being built: what headers declare is seen */
#define PINTLE_C_BEGIN _Pragma("GCC visibility push(default)")
#define PINTLE_C_END _Pragma("GCC visibility pop")
#else
#define PINTLE_C_BEGIN
#define PINTLE_C_END
#endif

#ifdef __GNUC__
#define PINTLE_MUST_CHECK __attribute__((warn_unused_result))
#else
#define PINTLE_MUST_CHECK
#endif

#endif
