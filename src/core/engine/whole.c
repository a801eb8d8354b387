/* Values in whole numbers: products of mantissas, rounded once, where a machine has no unit for
 * floats. The numbers of the tables are floats all the same; only their bits are looked at. */
#include "engine.h"

#if PINTLE_WHOLE

#define ROUNDED 16 /* bits behind the point while sums are made */

/* Its mantissa's highest bit set. */
static pintle_factor tidy(uint64_t mantissa, int16_t exponent, uint8_t negative)
{
    if (mantissa == 0) {
        return (pintle_factor){ 0, 0, 0 };
    }
    while (mantissa >> 32) {
        mantissa = (mantissa + 1) >> 1;
        exponent++;
    }
    while (!(mantissa >> 31)) {
        mantissa <<= 1;
        exponent--;
    }
    return (pintle_factor){ (uint32_t)mantissa, exponent, negative };
}

/* IEEE 754 binary32. */
static pintle_factor factor_of(float number)
{
    uint32_t bits;
    memcpy(&bits, &number, sizeof bits);
    int16_t exponent = (int16_t)(bits >> 23 & 0xff);
    uint32_t mantissa = (bits & 0x7fffff) | (exponent ? 0x800000u : 0);
    return tidy(mantissa, (int16_t)((exponent ? exponent : 1) - 150), (uint8_t)(bits >> 31));
}

static pintle_factor times(pintle_factor a, pintle_factor b)
{
    return tidy((uint64_t)a.mantissa * b.mantissa, (int16_t)(a.exponent + b.exponent),
                a.negative ^ b.negative);
}

static pintle_factor over(pintle_factor a, pintle_factor b)
{
    return b.mantissa == 0 ? b
                           : tidy(((uint64_t)a.mantissa << 31) / b.mantissa,
                                  (int16_t)(a.exponent - b.exponent - 31), a.negative ^ b.negative);
}

static pintle_factor power_of_ten(uint8_t decimals)
{
    uint32_t power = 1;
    for (; decimals > 0; decimals--) {
        power *= 10;
    }
    return tidy(power, 0, 0);
}

/* raw x factor with ROUNDED bits behind the point; too much is as much as there can be. */
static int64_t fixed(uint32_t raw, uint8_t negative, pintle_factor factor)
{
    const int64_t most = (int64_t)1 << 61;
    int shift = factor.exponent + ROUNDED;
    uint64_t product = (uint64_t)raw * factor.mantissa;
    if (shift >= 0) {
        product = shift > 60 || product >> (60 - shift) ? (uint64_t)most : product << shift;
    } else {
        product = shift < -63 ? 0 : (product >> (-shift - 1)) + 1;
        product >>= 1;
    }
    int64_t value = product > (uint64_t)most ? most : (int64_t)product;
    return negative ^ factor.negative ? -value : value;
}

static pintle_value rounded(int64_t sum)
{
    const int64_t half = (int64_t)1 << (ROUNDED - 1);
    int64_t value = sum < 0 ? -((half - sum) >> ROUNDED) : (sum + half) >> ROUNDED;
    return value > INT32_MAX ? INT32_MAX : value < -INT32_MAX ? -INT32_MAX : (int32_t)value;
}

pintle_value pintle_priv_value_of(float number, uint8_t decimals)
{
    return rounded(fixed(1, 0, times(factor_of(number), power_of_ten(decimals))));
}

pintle_value pintle_priv_linear(const struct pintle_part *part, const struct pintle_channel *row,
                                const struct pintle_channel *channel,
                                const struct pintle_linear *linear,
                                const struct pintle_block *block, int32_t raw)
{
    pintle_factor (*by)(const struct pintle_part *, const struct pintle_channel *,
                        const struct pintle_block *);
    pintle_factor ten = power_of_ten(channel->decimals);
    pintle_factor factor = times(factor_of(linear->scale), ten);
    uint8_t negative = (linear->flags & PINTLE_LINEAR_SIGNED) && raw < 0;
    pintle_table_copy(&by, &part->factor, sizeof by);
    if (by) {
        factor = times(factor, by(part, row, block));
    }
    int64_t sum = fixed(negative ? 0u - (uint32_t)raw : (uint32_t)raw, negative, factor);
    return rounded(sum + fixed(1, 0, times(factor_of(linear->zero), ten)));
}

static pintle_factor number_of(const struct pintle_part *part, const struct pintle_block *block,
                               uint8_t i)
{
    const struct pintle_number *initial = pintle_table_pointer(&part->numbers);
    float number;
    if (block->numbers) {
        memcpy(&number, &block->numbers[i], sizeof number);
    } else {
        pintle_table_copy(&number, &initial[i].initial, sizeof number);
    }
    return factor_of(number);
}

pintle_factor pintle_part_factor(const struct pintle_part *part,
                                 const struct pintle_channel *channel,
                                 const struct pintle_block *block)
{
    pintle_factor factor = tidy(1, 0, 0);
    uint8_t number = pintle_table_u8(&channel->number);
    const struct pintle_setting *settings = pintle_table_pointer(&part->settings);
    uint16_t set = pintle_table_u16(&channel->scaled_by);
    for (uint8_t i = 0; set >> i; i++) {
        if (set >> i & 1) {
            const float *factors = pintle_table_pointer(&settings[i].factors);
            float by;
            pintle_table_copy(&by, &factors[block->settings[i]], sizeof by);
            factor = times(factor, factor_of(by));
        }
    }
    if (number & ~PINTLE_DIVIDED) {
        pintle_factor by = number_of(part, block, (uint8_t)((number & ~PINTLE_DIVIDED) - 1));
        factor = number & PINTLE_DIVIDED ? over(factor, by) : times(factor, by);
    }
    return factor;
}

pintle_value pintle_part_value(int32_t number, uint16_t divisor, uint8_t decimals)
{
    pintle_factor factor = over(power_of_ten(decimals), tidy(divisor, 0, 0));
    uint8_t negative = number < 0;
    return rounded(fixed(negative ? 0u - (uint32_t)number : (uint32_t)number, negative, factor));
}

pintle_value pintle_part_product(const struct pintle_part *part, const struct pintle_block *block,
                                 int32_t number, float scale, uint8_t i, uint8_t decimals)
{
    pintle_factor by = number_of(part, block, i & (uint8_t)~PINTLE_DIVIDED);
    pintle_factor factor = times(factor_of(scale), power_of_ten(decimals));
    uint8_t negative = number < 0;
    factor = i & PINTLE_DIVIDED ? over(factor, by) : times(factor, by);
    return rounded(fixed(negative ? 0u - (uint32_t)number : (uint32_t)number, negative, factor));
}

#endif
