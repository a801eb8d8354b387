#include "pintle/part.h"

pintle_marks pintle_part_digits(const uint8_t *first, uint8_t left, int32_t *raw)
{
    uint8_t negative = left > 0 && first[0] == '-';
    uint8_t digits = 0;
    int32_t value = 0;
    uint8_t i = negative;
    for (; i < left && first[i] >= '0' && first[i] <= '9' && digits < 10; i++) {
        value = digits < 9 ? 10 * value + (first[i] - '0') : value;
        digits++;
    }
    *raw = negative ? -value : value;
    uint8_t torn = i == left || digits == 0 || digits > 9;
    for (; i < left; i++) {
        torn = torn || (first[i] >= '0' && first[i] <= '9');
    }
    return torn ? PINTLE_QUALITY_BUS : 0;
}
