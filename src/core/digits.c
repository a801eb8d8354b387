#include "pintle/part.h"

uint16_t pintle_digits(const uint8_t *first, uint8_t left, int32_t *raw)
{
    uint8_t negative = left > 0 && *first == '-';
    uint8_t digits = 0;
    int32_t value = 0;
    first += negative;
    left = (uint8_t)(left - negative);
    for (; left > 0 && *first >= '0' && *first <= '9' && digits < 10; left--) {
        value = digits < 9 ? 10 * value + (*first - '0') : value;
        first++;
        digits++;
    }
    *raw = negative ? -value : value;
    uint8_t torn = left == 0 || digits == 0 || digits > 9;
    for (; left > 0; left--) {
        uint8_t byte = *first++;
        torn = torn || (byte >= '0' && byte <= '9');
    }
    return torn ? PINTLE_QUALITY_BUS : 0;
}
