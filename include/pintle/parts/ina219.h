/* parts/ina219.h: INA219, the voltage over a shunt and that behind it, measured when asked; current
 * and power follow with the shunt's ohms, a number of the part (pintle_sensor_numbers; datasheet
 * SBOS448).
 */
#ifndef PINTLE_PARTS_INA219_H
#define PINTLE_PARTS_INA219_H

#include "pintle/parts.h"

enum {
    PINTLE_INA219_BUS_VOLTAGE,
    PINTLE_INA219_CURRENT,
    PINTLE_INA219_POWER,
    PINTLE_INA219_SHUNT_VOLTAGE
};
enum { PINTLE_INA219_BUS_RANGE, PINTLE_INA219_SHUNT_RANGE, PINTLE_INA219_SAMPLES };
enum { PINTLE_INA219_16_V, PINTLE_INA219_32_V };
enum { PINTLE_INA219_40_MV, PINTLE_INA219_80_MV, PINTLE_INA219_160_MV, PINTLE_INA219_320_MV };
enum {
    PINTLE_INA219_1_SAMPLE,
    PINTLE_INA219_2_SAMPLES,
    PINTLE_INA219_4_SAMPLES,
    PINTLE_INA219_8_SAMPLES,
    PINTLE_INA219_16_SAMPLES,
    PINTLE_INA219_32_SAMPLES,
    PINTLE_INA219_64_SAMPLES,
    PINTLE_INA219_128_SAMPLES
};

/* numbers */
enum { PINTLE_INA219_SHUNT /* ohm; 0.1 */ };

#endif
