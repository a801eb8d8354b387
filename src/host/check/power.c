#include "pintle/host/check/power.h"

#include <glib.h>
#include <math.h>

static double working_ua(const struct pintle_sheet *sheet, const uint8_t *settings)
{
    double ua = (double)sheet->working_ua;
    for (unsigned s = 0; s < sheet->part->setting_count; s++) {
        const float *each = sheet->settings[s].working_ua;
        ua = each ? (double)each[settings[s]] : ua;
    }
    return ua;
}

/* One that could be told to rest, and is not, never stops, but where it measures once when it is
 * told to; nor does one that has no rest. */
void pintle_power_of(const struct pintle_rig_sensor *sensor, int64_t every_us,
                     struct pintle_power *power)
{
    const struct pintle_sheet *sheet = sensor->sheet;
    const struct pintle_part *part = sheet->part;
    const uint8_t *settings = sensor->chosen.settings;
    uint64_t measuring = pintle_sheet_waits_us(part, part->measure, settings);
    bool stops = !part->rest || measuring > 0; /* by itself */
    *power = (struct pintle_power){ .known = (double)sheet->working_ua > 0,
                                    .working_ua = working_ua(sheet, settings),
                                    .resting_ua = (double)sheet->resting_ua,
                                    .busy_us = INFINITY };
    if (sensor->rests) {
        power->busy_us = (double)(measuring + pintle_sheet_waits_us(part, part->setup, settings));
    } else if (part->channel_count == 0) {
        power->busy_us = 0;
    } else if (stops && (double)sheet->resting_ua > 0) {
        power->busy_us = (double)measuring;
    }
    double share = MIN(power->busy_us / (double)every_us, 1);
    power->average_ua = power->resting_ua + (power->working_ua - power->resting_ua) * share;
}
