/* Where a sensor sits, as JSON: an I2C address, a select pin or a 1-Wire code. */
#ifndef PINTLE_HOST_PLACE_H
#define PINTLE_HOST_PLACE_H

#include <jansson.h>

#include "pintle/host/rig.h"

/* Put it into an object, and compare it with what is in one. */
void place_put(json_t *object, const struct pintle_rig *rig, unsigned sensor);
bool place_is(json_t *object, const struct pintle_rig *rig, unsigned sensor);

#endif
