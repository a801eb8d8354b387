/* Choosing a range by itself: one rung at a time, until the integers are neither small nor at their
 * end. */
#include "engine.h"

/* The largest integer of the channels that decide, of either sign; -1: none was measured. */
static int32_t largest(const struct pintle_ladder *ladder, const struct pintle_reading *readings)
{
    const pintle_marks none =
        PINTLE_QUALITY_IDLE | PINTLE_QUALITY_BUS | PINTLE_QUALITY_POWER_ON | PINTLE_QUALITY_STALE;
    int32_t most = -1;
    for (uint8_t i = 0; ladder->channels >> i; i++) {
        const struct pintle_reading *reading = &readings[i];
        if ((ladder->channels >> i & 1) && !(reading->quality & none)) {
            int32_t size = reading->raw < 0 ? -(reading->raw + 1) : reading->raw;
            size = reading->quality & PINTLE_QUALITY_SATURATED ? ladder->highest : size;
            most = size > most ? size : most;
        }
    }
    return most;
}

static const uint8_t *rung_of(const struct pintle_ladder *ladder, uint8_t rung)
{
    return ladder->options + 2 * rung;
}

/* The rung that the settings are on; the coarsest where they are on none. */
static uint8_t present(const struct pintle_ladder *ladder, const struct pintle_sensor *sensor)
{
    uint8_t rung = 0;
    while (rung + 1 < ladder->rungs
           && (pintle_priv_settings_at(sensor)[ladder->settings[0]]
                   != pintle_table_u8(rung_of(ladder, rung))
               || pintle_priv_settings_at(sensor)[ladder->settings[1]]
                      != pintle_table_u8(rung_of(ladder, rung) + 1))) {
        rung++;
    }
    return rung;
}

/* Not back again within one measurement: what changes that fast has no range. */
uint8_t pintle_part_climb(struct pintle_sensor *sensor)
{
    PINTLE_TABLE_ROW(struct pintle_ladder, ladder, pintle_table_pointer(&sensor->part->ladder));
    int32_t size = largest(ladder, sensor->readings);
    uint8_t rung = present(ladder, sensor);
    uint8_t coarser = size >= ladder->highest && rung + 1 < ladder->rungs;
    uint8_t finer = size >= 0 && size < ladder->lowest && rung > 0;
    if ((coarser && (sensor->flags & SENSOR_FINER)) || (finer && (sensor->flags & SENSOR_COARSER))
        || !(coarser || finer)) {
        return 0;
    }
    sensor->flags = (uint8_t)(sensor->flags | (coarser ? SENSOR_COARSER : SENSOR_FINER));
    rung = (uint8_t)(coarser ? rung + 1 : rung - 1);
    for (uint8_t i = 0; i < 2; i++) {
        pintle_priv_settings_at(sensor)[ladder->settings[i]] =
            pintle_table_u8(rung_of(ladder, rung) + i);
    }
    return 1;
}
