/* Where a sensor sits; as JSON: an I2C address, a select pin or a 1-Wire code. */
#ifndef PINTLE_PRIV_RIG_PLACE_H
#define PINTLE_PRIV_RIG_PLACE_H

#include <jansson.h>

#include "pintle/host/rig/rig.h"

/* Are these two places of a bus of this kind one? */
bool pintle_priv_place_equal(enum pintle_bus_kind kind, const union pintle_place *a,
                             const union pintle_place *b);

/* Put it into an object, and compare it with what is in one. */
void pintle_priv_place_put(json_t *object, const struct pintle_rig *rig, unsigned sensor);
bool pintle_priv_place_is(json_t *object, const struct pintle_rig *rig, unsigned sensor);

#endif
