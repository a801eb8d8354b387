/* steps.h: what a part's programs are made of: write, wait, expect, read. See part.h.
 *
 * May still change.
 */
#ifndef PINTLE_STEPS_H
#define PINTLE_STEPS_H

#include <stdint.h>

/* A program has so many steps at most, and none of them waits longer: a clock that says so has gone
 * back. */
#define PINTLE_STEPS_MAX 64
#define PINTLE_WAIT_MAX_US 600000000u

/* In place of a register: none. Writing it is a transfer of the address alone, reading it one with
 * no register in front. */
#define PINTLE_NO_REG 0xffffu

enum pintle_op {
    PINTLE_OP_END,
    PINTLE_OP_WRITE,  /* send reg, then `width` bytes of value, settings of that reg mixed in; in a
                         set-up read it back: MISFIT where it is another. With PINTLE_STEP_LOOSE in
                         the width not read back, with PINTLE_STEP_PLAIN nothing mixed in either */
    PINTLE_OP_WAIT,   /* value us plus the time that the options of the settings in the set `reg`
                         add; up to PINTLE_WAIT_MAX_US */
    PINTLE_OP_ONLY,   /* skip the next `width` steps unless setting `reg` is at option `value`; with
                         no register, unless it is measured once more */
    PINTLE_OP_FOR,    /* skip them, and `value` bytes of the raw block, unless one of the inputs in
                         the set `reg` is asked for */
    PINTLE_OP_POLL,   /* read `width` bytes from reg on until they are as the condition in value
                         says, or its limit is over */
    PINTLE_OP_EXPECT, /* read reg; (it & mask) must equal want, with the settings of that reg mixed
                         in, else WRONG_IDENTITY; in a set-up or behind a measurement, MISFIT. Of
                         more than two bytes (up to 8) the last one is `it`. With no register: what
                         comes must have its checksums, by the part's rule number `value` */
    PINTLE_OP_REFUSE, /* read reg; (it & mask) must not equal what value says, settings or no */
    PINTLE_OP_CHANGE, /* read one byte, replace the masked bits, settings mixed in; where that is
                         another, write it and read it back */
    PINTLE_OP_POWER,  /* send command reg, then power the line hard for value us plus options' */
    PINTLE_OP_TRIM,   /* read `width` bytes from reg on, append to the trim; twice, and BAD_CRC
                         where they differ */
    PINTLE_OP_READ,   /* read `width` bytes from reg on, append to the raw block; with a condition
                         in value, again until they are so. What a set-up reads is thrown away */
    PINTLE_OP_CHECK,  /* the checksums of the raw block's last `width` bytes (0: of all) must be
                         right, by the part's rule number `reg` */
    PINTLE_OP_VACANT  /* I2C: nothing may answer at an address that no chip has, else
                         WRONG_IDENTITY: a chip that answers at every address spoils what others
                         send */
};

#define PINTLE_STEP_PLAIN 0x80
#define PINTLE_STEP_LOOSE 0x40
#define PINTLE_STEP_WIDTH 0x3f
#define PINTLE_ALL_SETTINGS 0xffffu

/* What a byte of those that were read must be, and for how long to read them again: up to 4095 ms.
 */
#define PINTLE_UNTIL(at, mask, want, limit_ms)                                                     \
    (((uint32_t)(mask) << 24) | ((uint32_t)(want) << 16) | ((uint32_t)(at) << 12) | (limit_ms))

/* One step. Use the macros below. */
struct pintle_step {
    uint8_t op;
    uint8_t width;
    uint16_t reg;
    uint32_t value;
};

/* Is it one of those that few parts have? (part.h, `rare`) */
static inline uint8_t pintle_step_is_rare(const struct pintle_step *step)
{
    switch (step->op) {
    case PINTLE_OP_END:
    case PINTLE_OP_WRITE:
    case PINTLE_OP_WAIT:
    case PINTLE_OP_ONLY:
        return 0;
    case PINTLE_OP_EXPECT:
    case PINTLE_OP_REFUSE:
        return (step->width & PINTLE_STEP_WIDTH) > 2;
    case PINTLE_OP_READ:
        return step->value != 0;
    default:
        return 1;
    }
}

#define PINTLE_WRITE(reg, width, bits)                                                             \
    {                                                                                              \
        PINTLE_OP_WRITE, (width), (reg), (bits)                                                    \
    }
#define PINTLE_WRITE_PLAIN(reg, width, bits)                                                       \
    {                                                                                              \
        PINTLE_OP_WRITE, (width) | PINTLE_STEP_PLAIN, (reg), (bits)                                \
    }
/* Some of its bits read otherwise: EXPECT the rest behind it. */
#define PINTLE_WRITE_LOOSE(reg, width, bits)                                                       \
    {                                                                                              \
        PINTLE_OP_WRITE, (width) | PINTLE_STEP_LOOSE, (reg), (bits)                                \
    }
#define PINTLE_COMMAND(code)                                                                       \
    {                                                                                              \
        PINTLE_OP_WRITE, 0, (code), 0                                                              \
    }
#define PINTLE_CALL()                                                                              \
    {                                                                                              \
        PINTLE_OP_WRITE, PINTLE_STEP_PLAIN, PINTLE_NO_REG, 0                                       \
    }
#define PINTLE_WAIT(us)                                                                            \
    {                                                                                              \
        PINTLE_OP_WAIT, 0, 0, (us)                                                                 \
    }
#define PINTLE_WAIT_FOR(us, settings)                                                              \
    {                                                                                              \
        PINTLE_OP_WAIT, 0, (settings), (us)                                                        \
    }
#define PINTLE_WAIT_SETTINGS(us)                                                                   \
    {                                                                                              \
        PINTLE_OP_WAIT, 0, PINTLE_ALL_SETTINGS, (us)                                               \
    }
#define PINTLE_ONLY(setting, option, steps)                                                        \
    {                                                                                              \
        PINTLE_OP_ONLY, (steps), (setting), (option)                                               \
    }
/* Only when it is measured once more because it looked as after power-up. */
#define PINTLE_WHEN_AGAIN(steps) PINTLE_ONLY(PINTLE_NO_REG, 0, steps)
#define PINTLE_FOR(inputs, steps, bytes)                                                           \
    {                                                                                              \
        PINTLE_OP_FOR, (steps), (inputs), (bytes)                                                  \
    }
#define PINTLE_POLL(reg, mask, want, limit_ms)                                                     \
    {                                                                                              \
        PINTLE_OP_POLL, 1, (reg), PINTLE_UNTIL(0, mask, want, limit_ms)                            \
    }
#define PINTLE_EXPECT(reg, width, mask, want)                                                      \
    {                                                                                              \
        PINTLE_OP_EXPECT, (width), (reg), ((uint32_t)(mask) << 16) | (want)                        \
    }
/* It answers, and nothing more can be known of it. */
#define PINTLE_ANSWERS() PINTLE_EXPECT(PINTLE_NO_REG, 1, 0, 0)
#define PINTLE_REFUSE(reg, width, mask, bad)                                                       \
    {                                                                                              \
        PINTLE_OP_REFUSE, (width), (reg), ((uint32_t)(mask) << 16) | (bad)                         \
    }
/* Only in an identity that somebody asks for, not where it is looked at once more because it was
 * wrong: what a chip holds that was left so, and that is to be mended. */
#define PINTLE_REFUSE_FIRST(reg, width, mask, bad)                                                 \
    {                                                                                              \
        PINTLE_OP_REFUSE, (width) | PINTLE_STEP_PLAIN, (reg), ((uint32_t)(mask) << 16) | (bad)     \
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
#define PINTLE_READ_UNTIL(reg, width, at, mask, want, limit_ms)                                    \
    {                                                                                              \
        PINTLE_OP_READ, (width), (reg), PINTLE_UNTIL(at, mask, want, limit_ms)                     \
    }
#define PINTLE_FETCH(width)                                                                        \
    {                                                                                              \
        PINTLE_OP_READ, (width), PINTLE_NO_REG, 0                                                  \
    }
#define PINTLE_FETCH_UNTIL(width, at, mask, want, limit_ms)                                        \
    {                                                                                              \
        PINTLE_OP_READ, (width), PINTLE_NO_REG, PINTLE_UNTIL(at, mask, want, limit_ms)             \
    }
#define PINTLE_CHECK()                                                                             \
    {                                                                                              \
        PINTLE_OP_CHECK, 0, 0, 0                                                                   \
    }
#define PINTLE_CHECK_LAST(bytes, rule)                                                             \
    {                                                                                              \
        PINTLE_OP_CHECK, (bytes), (rule), 0                                                        \
    }
#define PINTLE_VACANT()                                                                            \
    {                                                                                              \
        PINTLE_OP_VACANT, 0, 0, 0                                                                  \
    }
#define PINTLE_END()                                                                               \
    {                                                                                              \
        PINTLE_OP_END, 0, 0, 0                                                                     \
    }

#endif
