/* status.h: how every call says what happened.
 *
 * Zero is success. Every other value names one cause, the first that was met; a port's own status
 * passes through the core unchanged. The texts live in a file of their own, so that firmware that
 * never prints them does not carry them.
 *
 * Stable.
 */
#ifndef PINTLE_STATUS_H
#define PINTLE_STATUS_H

#include "pintle/config.h"

PINTLE_C_BEGIN

/* X(NAME, "word", "sentence"). Who says it: the wires and the chips on them, from NO_ANSWER on;
 * the chip, from BAD_CRC; the clock CLOCK_STOPPED, NEVER_SET; "later", NOT_READY and LINE_BUSY;
 * what a call was asked, from TOO_FEW; the platform, from UNSUPPORTED. A port says
 * what is said of wires, of its clock and of the platform. */
#define PINTLE_STATUS_LIST(X)                                                                      \
    X(OK, "ok", "done")                                                                            \
    X(NO_ANSWER, "no-answer", "nothing answered")                                                  \
    X(DATA_REFUSED, "data-refused", "the chip took its address but refused a data byte")           \
    X(CLOCK_STUCK, "clock-stuck", "the clock line stays low")                                      \
    X(DATA_STUCK, "data-stuck", "the data line stays low")                                         \
    X(TIME_LIMIT, "time-limit", "it did not end within its time limit")                            \
    X(ARBITRATION_LOST, "arbitration-lost", "another master took the bus in the middle")           \
    X(BAD_CRC, "bad-crc", "the bytes came wrong: their checksum or a second reading differs")      \
    X(WRONG_IDENTITY, "wrong-identity", "what answers is not the part that is expected")           \
    X(MISFIT, "misfit", "the chip is not wired or set up as this sensor is described")             \
    X(STAYED_BUSY, "stayed-busy", "the chip did not get ready within its time limit")              \
    X(CLOCK_STOPPED, "clock-stopped", "the port's clock stands still or goes back")                \
    X(NOT_READY, "not-ready", "the measurement has not ended yet")                                 \
    X(LINE_BUSY, "line-busy", "the line is powering a chip")                                       \
    X(NO_PULL_UP, "no-pull-up", "nothing pulls the line up")                                       \
    X(NEVER_SET, "never-set", "the clock has never been set")                                      \
    X(TOO_FEW, "too-few", "there are too few pairs for it")                                        \
    X(READ_ONLY, "read-only", "the register cannot be written")                                    \
    X(WRITE_ONLY, "write-only", "the register cannot be read")                                     \
    X(BAD_ARGUMENT, "bad-argument", "the call's arguments do not fit together")                    \
    X(NOT_STARTED, "not-started", "no measurement was started, or it was fetched already")         \
    X(NO_CLOCK, "no-clock", "the sensor was given no clock")                                       \
    X(NO_ROOM, "no-room", "there is no room for what the part needs")                              \
    X(WRONG_BUS, "wrong-bus", "the part does not speak on this kind of bus")                       \
    X(WRONG_PLACE, "wrong-place", "the part cannot have this address or code")                     \
    X(OUT_OF_RANGE, "out-of-range", "the value does not fit")                                      \
    X(NO_ABILITY, "no-ability", "this part cannot do that")                                        \
    X(UNSUPPORTED, "unsupported", "this port cannot do that")                                      \
    X(NO_DEVICE, "no-device", "there is no such bus: its interface is switched off or has gone")   \
    X(DENIED, "denied", "permission is missing")                                                   \
    X(HELD, "held", "a driver of the operating system, or another program, has it")                \
    X(IO_ERROR, "io-error", "the operating system failed to do it")

enum pintle_status {
#define PINTLE_STATUS_VALUE(name, word, sentence) PINTLE_##name,
    PINTLE_STATUS_LIST(PINTLE_STATUS_VALUE)
#undef PINTLE_STATUS_VALUE
        PINTLE_STATUS_COUNT
};

/* The status's word, as data formats print it ("no-answer"); "unknown" for any other number.
 * Lies in a table. May be called from an interrupt. */
const char *pintle_status_word(enum pintle_status status);

/* The status as half a sentence for people ("nothing answered"). Lies in a
 * table. */
const char *pintle_status_sentence(enum pintle_status status);

PINTLE_C_END

#endif
