/* What chips of commands send: words, each with a checksum of its own. */
#include "port/sim/bench.h"

/* SHT3x-DIS section 4.12, by long division of the message polynomial: x^8 + x^5 + x^4 + 1, the
 * first eight bits inverted. */
static uint8_t checksum(uint8_t a, uint8_t b)
{
    uint32_t rest = ((uint32_t)a << 16 | (uint32_t)b << 8) ^ 0xff0000u;
    for (int bit = 23; bit >= 8; bit--) {
        if (rest & (1u << bit)) {
            rest ^= 0x131u << (bit - 8);
        }
    }
    return (uint8_t)rest;
}

void pintle_priv_sim_put_word(uint8_t *out, uint8_t *count, uint16_t word)
{
    uint8_t *to = out + *count;
    to[0] = (uint8_t)(word >> 8);
    to[1] = (uint8_t)word;
    to[2] = checksum(to[0], to[1]);
    *count = (uint8_t)(*count + 3);
}
