/* parts/ds18b20.h: DS18B20, temperature over 1-Wire, 9 to 12 bits, powered by a wire of its own
 * or by the line (datasheet 19-7487).
 */
#ifndef PINTLE_PARTS_DS18B20_H
#define PINTLE_PARTS_DS18B20_H

#include "pintle/parts.h"

enum { PINTLE_DS18B20_TEMPERATURE };
enum { PINTLE_DS18B20_RESOLUTION, PINTLE_DS18B20_POWER };
enum { PINTLE_DS18B20_9_BIT, PINTLE_DS18B20_10_BIT, PINTLE_DS18B20_11_BIT, PINTLE_DS18B20_12_BIT };
enum { PINTLE_DS18B20_EXTERNAL, PINTLE_DS18B20_PARASITE };

/* Set the alarm limits of a DS18B20, whole degC (-55 to 125); `keep` writes them and the resolution
 * into its EEPROM as well (50,000 times at most). The alarm search (onewire.h) finds the probes
 * whose last conversion was at a limit or beyond. OUT_OF_RANGE or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_ds18b20_limits(struct pintle_sensor *sensor, int8_t low,
                                                           int8_t high, uint8_t keep);

#endif
