/* What looks as after power-up and may be a value all the same. */
#include "engine.h"

uint32_t pintle_sensor_unsure(const struct pintle_sensor *sensor,
                              const struct pintle_sample *sample)
{
    struct pintle_sample first; /* as if it were measured for the first time */
    const struct pintle_block block = { .raw = sample->raw,
                                        .trim = sensor->trim,
                                        .settings = sensor->settings,
                                        .numbers = sensor->numbers,
                                        .idle = sensor->idle };
    uint32_t unsure = 0;
    uint16_t all = 0;
    (void)pintle_priv_decode(sensor->part, &block, &first, 0, &all);
    for (uint8_t i = pintle_table_u8(&sensor->part->channel_count); i > 0; i--) {
        uint16_t more = first.channel[i - 1].quality & (uint16_t)~sample->channel[i - 1].quality;
        unsure |= (uint32_t)(more & PINTLE_QUALITY_POWER_ON ? 1 : 0) << (i - 1);
    }
    return unsure;
}
