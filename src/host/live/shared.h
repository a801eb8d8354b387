/* What a reading on a shared bus is worth. */
#ifndef PINTLE_PRIV_LIVE_SHARED_H
#define PINTLE_PRIV_LIVE_SHARED_H

#include "pintle/host/live/station.h"

/* Does the chip still have the settings that its sensor gave it, as far as its registers tell?
 * MISFIT: somebody has changed them; or why it cannot be asked. */
enum pintle_status pintle_priv_still_set(struct pintle_sensor *sensor,
                                         const struct pintle_sheet *sheet,
                                         char words[PINTLE_WORDS_MAX]);

#endif
