/* A short timer made long.
 *
 * A timer of 16 bits at 2 MHz is round after 33 ms. Its overflow interrupt counts the laps, and the
 * count behind them makes a clock that never goes back: but for the moment in which the timer has
 * wrapped and its interrupt still waits, because it is switched off or something more urgent runs.
 * So, with interrupts off, read the count first, then whether the interrupt is pending:
 *
 *     count before the wrap                   near the end of a lap: the old lap, whatever is
 * pending count after the wrap, and so pending    near the beginning: one lap more than was counted
 *
 * It holds as long as interrupts are off for less than half a lap.
 */
#ifndef TICKS_H
#define TICKS_H

#include <stdint.h>

/* Ticks since the start, of a timer with `bits` bits. */
static inline uint64_t ticks_extend(uint32_t laps, uint32_t count, uint8_t bits, uint8_t pending)
{
    uint8_t wrapped = pending && count < (uint32_t)1 << (bits - 1);
    return (uint64_t)(laps + wrapped) << bits | count;
}

#endif
