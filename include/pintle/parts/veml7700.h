/* parts/veml7700.h: VEML7700, illuminance, with a gain and an integration time that it can choose
 * by itself (pintle_sensor_auto; datasheet 84286, application note 84323).
 */
#ifndef PINTLE_PARTS_VEML7700_H
#define PINTLE_PARTS_VEML7700_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_VEML7700_ILLUMINANCE, PINTLE_VEML7700_WHITE };
enum { PINTLE_VEML7700_GAIN, PINTLE_VEML7700_INTEGRATION };
#define PINTLE_VEML7700_GAIN_OPTIONS(X)                                                            \
    X(VEML7700_X1, "x1", 0, 0, 2)                                                                  \
    X(VEML7700_X2, "x2", 1, 0, 1)                                                                  \
    X(VEML7700_X1_8, "x1/8", 2, 0, 16)                                                             \
    X(VEML7700_X1_4, "x1/4", 3, 0, 8)
enum pintle_veml7700_gain { PINTLE_VEML7700_GAIN_OPTIONS(PINTLE_OPTION_NUMBER) };

/* No longest time is stated: a tenth more than the nominal. The first result is thrown away, so
 * that there are two of them. */
#define PINTLE_VEML7700_INTEGRATION_OPTIONS(X)                                                     \
    X(VEML7700_25_MS, "25ms", 12, 55000, 32)                                                       \
    X(VEML7700_50_MS, "50ms", 8, 110000, 16)                                                       \
    X(VEML7700_100_MS, "100ms", 0, 220000, 8)                                                      \
    X(VEML7700_200_MS, "200ms", 1, 440000, 4)                                                      \
    X(VEML7700_400_MS, "400ms", 2, 880000, 2)                                                      \
    X(VEML7700_800_MS, "800ms", 3, 1760000, 1)
enum pintle_veml7700_integration { PINTLE_VEML7700_INTEGRATION_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(veml7700, 2, 0, 2, 0, 4)

PINTLE_SETTER(veml7700, gain, PINTLE_VEML7700_GAIN, veml7700_gain)
PINTLE_SETTER(veml7700, integration, PINTLE_VEML7700_INTEGRATION, veml7700_integration)

PINTLE_C_END

#endif
