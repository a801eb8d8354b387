/* parts/ds18b20.h: DS18B20, temperature over 1-Wire, 9 to 12 bits, powered by a wire of its own
 * or by the line (datasheet 19-7487).
 */
#ifndef PINTLE_PARTS_DS18B20_H
#define PINTLE_PARTS_DS18B20_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_DS18B20_TEMPERATURE };
enum { PINTLE_DS18B20_RESOLUTION, PINTLE_DS18B20_POWER };
#define PINTLE_DS18B20_RESOLUTION_OPTIONS(X)                                                       \
    X(DS18B20_9_BIT, "9-bit", 0, 93750, 1)                                                         \
    X(DS18B20_10_BIT, "10-bit", 1, 187500, 1)                                                      \
    X(DS18B20_11_BIT, "11-bit", 2, 375000, 1)                                                      \
    X(DS18B20_12_BIT, "12-bit", 3, 750000, 1)
enum pintle_ds18b20_resolution { PINTLE_DS18B20_RESOLUTION_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_DS18B20_POWER_OPTIONS(X)                                                            \
    X(DS18B20_EXTERNAL, "external", 0, 0, 1)                                                       \
    X(DS18B20_PARASITE, "parasite", 0, 0, 1)
enum pintle_ds18b20_power { PINTLE_DS18B20_POWER_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Set the alarm limits of a DS18B20, whole degC (-55 to 125); `keep` writes them and the resolution
 * into its EEPROM as well (50,000 times at most). The alarm search (onewire.h) finds the probes
 * whose last conversion was at a limit or beyond. OUT_OF_RANGE or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_ds18b20_limits(struct pintle_sensor *sensor, int8_t low,
                                                           int8_t high, uint8_t keep);

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_ONEWIRE_SENSOR(ds18b20, 1, 0, 2, 0, 9)

PINTLE_SETTER(ds18b20, resolution, PINTLE_DS18B20_RESOLUTION, ds18b20_resolution)
PINTLE_SETTER(ds18b20, power, PINTLE_DS18B20_POWER, ds18b20_power)

PINTLE_C_END

#endif
