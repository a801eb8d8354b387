/* Which specimen of a chip it is. */
#ifndef PINTLE_PRIV_LIVE_SERIAL_H
#define PINTLE_PRIV_LIVE_SERIAL_H

#include "pintle/host/live/station.h"

/* Is it the one that the sensor's corrections were found for? It is asked behind the first reading,
 * and again whenever it was gone; where no correction says whose it is: yes. */
bool pintle_priv_is_specimen(struct pintle_station *station, unsigned index);

#endif
