/* host/check/power.h: what measuring costs, in time and in supply current, by the datasheets'
 * typical figures. */
#ifndef PINTLE_HOST_CHECK_POWER_H
#define PINTLE_HOST_CHECK_POWER_H

#include "pintle/host/rig/rig.h"

PINTLE_C_BEGIN

struct pintle_power {
    bool known;        /* its datasheet says something */
    double working_ua; /* while it measures, with its settings */
    double resting_ua; /* between measurements */
    double busy_us;    /* how long it works for a measurement; INFINITY: always */
    double average_ua; /* with one measurement each `every_us` */
};

void pintle_power_of(const struct pintle_rig_sensor *sensor, int64_t every_us,
                     struct pintle_power *power);

PINTLE_C_END

#endif
