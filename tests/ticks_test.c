/* A short timer made long, without a machine: every moment at which an interrupt can come between
 * reading the timer and being counted. */
#include "../src/port/mcu/ticks.h"
#include "support.h"

/* The timer of `bits` bits is read at tick `t`, whether its interrupt is pending `late` ticks
 * after; the laps were counted up to `behind` ticks before, for interrupts are off since then. */
static void read_at(uint64_t t, uint8_t bits, uint64_t late, uint64_t behind)
{
    uint64_t laps = (t - behind) >> bits;
    uint32_t count = (uint32_t)(t & (((uint64_t)1 << bits) - 1));
    uint8_t pending = (t + late) >> bits != laps;
    uint64_t is = ticks_extend((uint32_t)laps, count, bits, pending);
    EXPECT(is == t, "%u bits at %llx, %u later, %u behind: %llx", bits, (unsigned long long)t,
           (unsigned)late, (unsigned)behind, (unsigned long long)is);
}

static void around_every_wrap(void)
{
    static const uint64_t laps[] = { 1, 2, 7, 0xffff, 0x10000, 0xfffffffe };
    static const uint8_t sizes[] = { 8, 16, 24 };
    for (size_t s = 0; s < COUNT(sizes); s++) {
        uint64_t lap = (uint64_t)1 << sizes[s];
        uint64_t shift = lap > 256 ? lap / 256 : 1;
        for (size_t l = 0; l < COUNT(laps); l++) {
            for (uint64_t at = 0; at < lap; at += shift) {
                uint64_t t = laps[l] * lap + at;
                for (uint64_t k = 0; k < 4; k++) {
                    read_at(t, sizes[s], 2 * k, k * lap / 8);
                    read_at(t + shift - 1, sizes[s], k, k * lap / 8);
                }
            }
        }
    }
}

void add_ticks_suite(void)
{
    SUITE("ticks", { "around every wrap", around_every_wrap });
}
