#include "pintle/correction.h"

#include <string.h>

void pintle_correction_apply(const struct pintle_correction *correction,
                             struct pintle_reading *reading)
{
    if (reading->quality & PINTLE_QUALITY_BUS) {
        return;
    }
    if (!correction || !correction->set) {
        reading->quality |= PINTLE_QUALITY_UNCORRECTED;
        return;
    }
    reading->value = reading->value * correction->gain + correction->offset;
}

void pintle_fit_add(struct pintle_fit *fit, float sensor, float reference)
{
    if (fit->count == 0) {
        fit->origin_x = sensor;
        fit->origin_y = reference;
    }
    sensor -= fit->origin_x;
    reference -= fit->origin_y;
    float dx = sensor - fit->mean_x;
    float dy = reference - fit->mean_y;
    fit->count++;
    fit->mean_x += dx / (float)fit->count;
    fit->mean_y += dy / (float)fit->count;
    fit->xx += dx * (sensor - fit->mean_x);
    fit->yy += dy * (reference - fit->mean_y);
    fit->xy += dx * (reference - fit->mean_y);
}

/* Rounding may leave a sum of squares slightly below zero. */
static float positive(float value)
{
    return value > 0 ? value : 0;
}

enum pintle_status pintle_fit_offset(const struct pintle_fit *fit, struct pintle_line *line)
{
    if (fit->count == 0) {
        return PINTLE_NOT_READY;
    }
    float squares = positive(fit->yy - 2 * fit->xy + fit->xx);
    memset(line, 0, sizeof *line);
    line->correction.gain = 1;
    line->correction.offset = fit->origin_y - fit->origin_x + (fit->mean_y - fit->mean_x);
    line->correction.set = 1;
    line->variance = fit->count > 1 ? squares / (float)(fit->count - 1) : 0;
    line->offset_variance = line->variance / (float)fit->count;
    line->mean_x = fit->origin_x + fit->mean_x;
    return PINTLE_OK;
}

enum pintle_status pintle_fit_line(const struct pintle_fit *fit, struct pintle_line *line)
{
    if (fit->count < 2 || !(fit->xx > 0)) {
        return PINTLE_NOT_READY;
    }
    float gain = fit->xy / fit->xx;
    float squares = positive(fit->yy - gain * fit->xy);
    line->correction.gain = gain;
    line->correction.offset =
        fit->origin_y - gain * fit->origin_x + (fit->mean_y - gain * fit->mean_x);
    line->correction.set = 1;
    line->variance = fit->count > 2 ? squares / (float)(fit->count - 2) : 0;
    line->offset_variance = line->variance / (float)fit->count;
    line->gain_variance = line->variance / fit->xx;
    line->mean_x = fit->origin_x + fit->mean_x;
    return PINTLE_OK;
}
