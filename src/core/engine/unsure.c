/* What looks as after power-up and may be a value all the same. */
#include "engine.h"

uint32_t pintle_sensor_unsure(const struct pintle_sensor *sensor, struct pintle_reading *scratch)
{
    const struct pintle_block block =
        pintle_sensor_block(sensor); /* as if it were the first time */
    uint32_t unsure = 0;
    pintle_marks all = 0;
    (void)pintle_priv_decode(sensor->part, &block, scratch, 0, &all);
    for (uint8_t i = pintle_table_u8(&sensor->part->channel_count); i > 0; i--) {
        pintle_marks more = scratch[i - 1].quality & (pintle_marks)~sensor->readings[i - 1].quality;
        unsure |= (uint32_t)(more & PINTLE_QUALITY_POWER_ON ? 1 : 0) << (i - 1);
    }
    return unsure;
}
