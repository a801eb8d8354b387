/* host/rig/worth.h: how exact a channel is by its data sheet, with the settings that it has.
 */
#ifndef PINTLE_HOST_RIG_WORTH_H
#define PINTLE_HOST_RIG_WORTH_H

#include "pintle/host/rig/rig.h"

/* One count of it, base unit, at this value (a curve's counts differ); 0: nobody says. */
double pintle_worth_count(const struct pintle_rig_sensor *sensor, unsigned channel, double value);

/* The largest error that the data sheet allows for at this value; 0: it says none. */
double pintle_worth_accuracy(const struct pintle_rig_sensor *sensor, unsigned channel,
                             double value);

/* What is not believed of a channel unless the rig says otherwise: jumps of temperatures,
 * humidities and pressures; raw values that stand still where the count is finer than the noise. */
void pintle_worth_limits(const struct pintle_rig_sensor *sensor, unsigned channel,
                         struct pintle_rig_channel *limits);

#endif
