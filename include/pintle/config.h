/* config.h: the compile-time options, all of them.
 *
 * Set them on the compiler's command line, equal for the library and its users: where the sizes
 * differ, the program does not link. Sizes are plain decimal numbers.
 */
#ifndef PINTLE_CONFIG_H
#define PINTLE_CONFIG_H

/* The library's version; before 1.0 each second number may change the interface. */
#define PINTLE_VERSION "0.1.0"

/* Longest raw block of one measurement, in bytes. One byte of RAM per sample each. */
#ifndef PINTLE_RAW_MAX
#define PINTLE_RAW_MAX 24
#endif

/* Most channels of one part. 12 bytes of RAM per sample each. */
#ifndef PINTLE_CHANNELS_MAX
#define PINTLE_CHANNELS_MAX 10
#endif

/* Most settings of one part. One byte of RAM per sensor each. */
#ifndef PINTLE_SETTINGS_MAX
#define PINTLE_SETTINGS_MAX 8
#endif

/* Chips per bus whose pointer or bank is remembered, so that it isn't set again without need; a
 * power of two. 4 bytes of RAM per bus each. */
#ifndef PINTLE_REMEMBERED
#define PINTLE_REMEMBERED 4
#endif

/* 1: compensation functions report each intermediate value by its datasheet symbol to the
 * caller's notes (see part.h). Costs about 300 bytes of code per compensated part; the desktop
 * tool needs it, firmware does not. 0: the notes are ignored. */
#ifndef PINTLE_WORKING
#define PINTLE_WORKING 0
#endif

/* 1: values are whole numbers, in units of the last decimal that their channel has, and nothing
 * between the bus and a line of text computes with floats: for machines without a unit for them.
 * Corrections (correction.h), derived values (derive.h) and parts with a curve (VEML7700) are not
 * there then. */
#ifndef PINTLE_WHOLE
#define PINTLE_WHOLE 0
#endif

/* A caller's mistake (a null object, an index out of range). Define it as your own assert to
 * stop on the spot; by default it costs nothing. Failures of the world are status codes. */
#ifndef PINTLE_ASSERT
#define PINTLE_ASSERT(condition) ((void)0)
#endif

#if PINTLE_RAW_MAX < 11 || PINTLE_RAW_MAX > 255
#error "PINTLE_RAW_MAX must be 11 to 255; an ICM20948 needs 23, an MCP3008 24"
#endif
#if PINTLE_CHANNELS_MAX < 3 || PINTLE_CHANNELS_MAX > 32
#error "PINTLE_CHANNELS_MAX must be 3 to 32; an ICM20948 needs 10, an MCP3008 8"
#endif
#if PINTLE_SETTINGS_MAX < 4 || PINTLE_SETTINGS_MAX > 16
#error "PINTLE_SETTINGS_MAX must be 4 to 16: the shipped parts have up to four settings"
#endif

#if PINTLE_REMEMBERED < 1 || PINTLE_REMEMBERED > 64 || (PINTLE_REMEMBERED & (PINTLE_REMEMBERED - 1))
#error "PINTLE_REMEMBERED must be a power of two up to 64"
#endif

/* The sizes above shape the objects that caller and library share, so they are part of the names of
 * the calls that begin everything: a library built with other sizes does not link. */
#define PINTLE_SIZED_NAME(name, raw, channels, settings, remembered, whole)                        \
    name##_r##raw##_c##channels##_s##settings##_m##remembered##_w##whole
#define PINTLE_SIZED_BY(name, raw, channels, settings, remembered, whole)                          \
    PINTLE_SIZED_NAME(name, raw, channels, settings, remembered, whole)
#define PINTLE_SIZED(name)                                                                         \
    PINTLE_SIZED_BY(name, PINTLE_RAW_MAX, PINTLE_CHANNELS_MAX, PINTLE_SETTINGS_MAX,                \
                    PINTLE_REMEMBERED, PINTLE_WHOLE)

/* Everything is C, also for a C++ program. */
#ifdef __cplusplus
#define PINTLE_C_BEGIN extern "C" {
#define PINTLE_C_END }
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
