/* parts/veml7700.h: VEML7700, illuminance, with a gain and an integration time that it can choose
 * by itself (pintle_sensor_auto; datasheet 84286, application note 84323).
 */
#ifndef PINTLE_PARTS_VEML7700_H
#define PINTLE_PARTS_VEML7700_H

#include "pintle/parts.h"

enum { PINTLE_VEML7700_ILLUMINANCE, PINTLE_VEML7700_WHITE };
enum { PINTLE_VEML7700_GAIN, PINTLE_VEML7700_INTEGRATION };
enum {
    PINTLE_VEML7700_GAIN_1,
    PINTLE_VEML7700_GAIN_2,
    PINTLE_VEML7700_GAIN_EIGHTH,
    PINTLE_VEML7700_GAIN_QUARTER
};
enum {
    PINTLE_VEML7700_25_MS,
    PINTLE_VEML7700_50_MS,
    PINTLE_VEML7700_100_MS,
    PINTLE_VEML7700_200_MS,
    PINTLE_VEML7700_400_MS,
    PINTLE_VEML7700_800_MS
};

#endif
