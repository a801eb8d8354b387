/* host/rig/worth.h: how exact a channel is by its data sheet, with the settings that it has.
 */
#ifndef PINTLE_HOST_RIG_WORTH_H
#define PINTLE_HOST_RIG_WORTH_H

#include "pintle/host/rig/rig.h"

PINTLE_C_BEGIN

/* One count of it, base unit, at this value (a curve's counts differ); 0: nobody says. */
double pintle_worth_count(const struct pintle_rig_sensor *sensor, unsigned channel, double value);

/* Decimals of the base unit that leave no count out, with the settings and numbers that it has; at
 * least the channel's own. */
unsigned pintle_worth_places(const struct pintle_rig_sensor *sensor, unsigned channel);

/* The largest error that the data sheet allows for at this value; 0: it says none. */
double pintle_worth_accuracy(const struct pintle_rig_sensor *sensor, unsigned channel,
                             double value);

/* Readings until three quarters of a step show, by the filter that it has; 1: at once. */
unsigned pintle_worth_lag(const struct pintle_rig_sensor *sensor);

/* How long it may take until there is a new value, microseconds, of a chip that converts by itself
 * and doesn't tell a new value from the one before; 0: it waits, or tells. */
uint32_t pintle_worth_renewal_us(const struct pintle_rig_sensor *sensor);

/* What is not believed of a channel unless the rig says otherwise: jumps of temperatures,
 * humidities and pressures; raw values that stand still where the count is finer than the noise. */
void pintle_worth_limits(const struct pintle_rig_sensor *sensor, unsigned channel,
                         struct pintle_rig_channel *limits);

PINTLE_C_END

#endif
