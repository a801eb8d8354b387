/* host/sim/sim.h: the simulation as a platform.
 *
 * Its buses are those of sim.h, their chips and faults those of the world script that the rig
 * names (docs/rig-file.md).
 */
#ifndef PINTLE_HOST_SIM_SIM_H
#define PINTLE_HOST_SIM_SIM_H

#include "pintle/host/live/station.h"
#include "pintle/sim.h"

PINTLE_C_BEGIN

/* What a station runs on, to see its time or to plan faults; null where it is not simulated. */
struct pintle_sim *pintle_station_sim(struct pintle_station *station);

PINTLE_C_END

#endif
