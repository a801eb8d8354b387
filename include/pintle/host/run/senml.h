/* host/run/senml.h: readings as SenML JSON (RFC 8428).
 *
 * Names are "sensor.channel", units the registered symbols. A suspect reading is followed by a
 * record "sensor.channel.quality" with the words as its string value; one with no value has only
 * that.
 *
 * A time before PINTLE_SENML_FROM_US (2^28 s after 1970, section 4.5.3) would be one from now on:
 * readings of a clock that was never set have none.
 */
#ifndef PINTLE_HOST_RUN_SENML_H
#define PINTLE_HOST_RUN_SENML_H

#include "pintle/host/live/station.h"

PINTLE_C_BEGIN

#define PINTLE_SENML_FROM_US ((int64_t)268435456 * 1000000)

/* A pack of the readings of the sensors whose `chosen` byte is 1 (null: all), in one line with no
 * line end; to be freed with pintle_host_free. */
char *pintle_senml(const struct pintle_station *station, const uint8_t *chosen);

/* Likewise one sample of a part by itself, named `name`. */
char *pintle_senml_sample(const char *name, const struct pintle_sheet *sheet,
                          const struct pintle_sample *sample);

PINTLE_C_END

#endif
