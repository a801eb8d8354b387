/* Does a port's clock ever go back, or jump? It is read as fast as it goes around the moments in
 * which its timer wraps, each time shifted by a little against it. */
#include "board.h"

/* How long the timer takes to get round, and how often that is watched. */
#ifndef WRAP_US
#define WRAP_US 32768UL
#define WRAPS 400
#endif
#define NEAR_US 150
#define LONGEST_US 100

static uint64_t now(void)
{
    return board_clock.calls->now_us(board_clock.context);
}

/* Read from before the wrap to after it; what is wrong, or null. */
static const char *watch_a_wrap(uint16_t shift)
{
    uint64_t before = now();
    while (before % WRAP_US < WRAP_US - NEAR_US) {
        before = now();
    }
    uint64_t end = before + 2 * NEAR_US;
    while (shift-- > 0) {
        __asm volatile("nop");
    }
    before = now();
    while (before < end) {
        uint64_t next = now();
        if (next < before || next - before > LONGEST_US) {
            return next < before ? "it goes back\r\n" : "it jumps\r\n";
        }
        before = next;
    }
    return NULL;
}

int main(void)
{
    board_start();
    for (uint16_t i = 0; i < WRAPS; i++) {
        const char *wrong = watch_a_wrap(i);
        if (wrong) {
            board_say(wrong);
            board_halt();
        }
    }
    uint64_t before = now();
    board_clock.calls->sleep_us(board_clock.context, 250000);
    uint64_t slept = now() - before;
    board_say(slept < 250000   ? "it sleeps too short\r\n"
              : slept > 260000 ? "it sleeps too long\r\n"
                               : "steady\r\n");
    board_halt();
    return 0;
}
