/* World scripts: what is really there in simulation. The syntax is in docs/rig-file.md. */
#ifndef PINTLE_HOST_WORLD_H
#define PINTLE_HOST_WORLD_H

#include "pintle/host/station.h"

/* Fill the station's simulation from its rig's world script. */
bool world_build(struct pintle_station *station, struct pintle_problem *problem);

#endif
