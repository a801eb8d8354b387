/* What settings and numbers multiply a channel's scale by. */
#include "pintle/part.h"

#if !PINTLE_WHOLE

float pintle_part_number(const struct pintle_part *part, const struct pintle_block *block,
                         uint8_t i)
{
    const struct pintle_number *initial = pintle_table_pointer(&part->numbers);
    float number;
    if (block->numbers) {
        return block->numbers[i];
    }
    pintle_table_copy(&number, &initial[i].initial, sizeof number);
    return number;
}

pintle_factor pintle_part_factor(const struct pintle_part *part,
                                 const struct pintle_channel *channel,
                                 const struct pintle_block *block)
{
    float factor = 1;
    uint8_t number = pintle_table_u8(&channel->number);
    const struct pintle_setting *settings = pintle_table_pointer(&part->settings);
    uint16_t set = pintle_table_u16(&channel->scaled_by);
    for (uint8_t i = 0; set >> i; i++) {
        if (set >> i & 1) {
            const float *factors = pintle_table_pointer(&settings[i].factors);
            float by;
            pintle_table_copy(&by, &factors[block->settings[i]], sizeof by);
            factor *= by;
        }
    }
    if (number & ~PINTLE_DIVIDED) {
        float by = pintle_part_number(part, block, (uint8_t)((number & ~PINTLE_DIVIDED) - 1));
        factor = number & PINTLE_DIVIDED ? factor / by : factor * by;
    }
    return factor;
}

pintle_value pintle_part_product(const struct pintle_part *part, const struct pintle_block *block,
                                 int32_t number, float scale, uint8_t i, uint8_t decimals)
{
    float by = pintle_part_number(part, block, i & (uint8_t)~PINTLE_DIVIDED);
    (void)decimals;
    return i & PINTLE_DIVIDED ? (float)number * scale / by : (float)number * scale * by;
}

#endif
