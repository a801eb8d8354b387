/* A station's sensors, as the rig describes them. */
#ifndef PINTLE_PRIV_LIVE_BUILD_H
#define PINTLE_PRIV_LIVE_BUILD_H

#include "pintle/host/live/station.h"

/* Its limits and corrections, with their second channels; then a chip, or what is made of others.
 */
void pintle_priv_take_limits(struct pintle_station *station, unsigned index);
bool pintle_priv_build_sensor(struct pintle_station *station, unsigned index,
                              struct pintle_problem *problem);
void pintle_priv_build_made(struct pintle_station *station, unsigned index);

#endif
