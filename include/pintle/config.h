/* config.h: the compile-time options, all of them.
 *
 * Set them on the compiler's command line, equal for the library and its users.
 */
#ifndef PINTLE_CONFIG_H
#define PINTLE_CONFIG_H

/* Longest raw block of one measurement, in bytes. One byte of RAM per sample each. */
#ifndef PINTLE_RAW_MAX
#define PINTLE_RAW_MAX 24
#endif

/* Most channels of one part. 12 bytes of RAM per sample each. */
#ifndef PINTLE_CHANNELS_MAX
#define PINTLE_CHANNELS_MAX 8
#endif

/* Most settings of one part. One byte of RAM per sensor each. */
#ifndef PINTLE_SETTINGS_MAX
#define PINTLE_SETTINGS_MAX 8
#endif

/* 1: compensation functions report each intermediate value by its datasheet symbol to the
 * caller's notes (see part.h). Costs about 300 bytes of code per compensated part; the desktop
 * tool needs it, firmware does not. 0: the notes are ignored. */
#ifndef PINTLE_WORKING
#define PINTLE_WORKING 0
#endif

/* A caller's mistake (a null object, an index out of range). Define it as your own assert to
 * stop on the spot; by default it costs nothing. Failures of the world are status codes. */
#ifndef PINTLE_ASSERT
#define PINTLE_ASSERT(condition) ((void)0)
#endif

#if PINTLE_RAW_MAX < 11 || PINTLE_RAW_MAX > 255
#error "PINTLE_RAW_MAX must be 11 to 255; an ICM20948 needs 12, an MCP3008 16"
#endif
#if PINTLE_CHANNELS_MAX < 3 || PINTLE_CHANNELS_MAX > 32
#error "PINTLE_CHANNELS_MAX must be 3 to 32; an ICM20948 needs 6, an MCP3008 8"
#endif
#if PINTLE_SETTINGS_MAX < 4 || PINTLE_SETTINGS_MAX > 16
#error "PINTLE_SETTINGS_MAX must be 4 to 16: the shipped parts have up to four settings"
#endif

#ifdef __GNUC__
#define PINTLE_MUST_CHECK __attribute__((warn_unused_result))
#else
#define PINTLE_MUST_CHECK
#endif

#endif
