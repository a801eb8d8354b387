/* parts/ina219.h: INA219, the voltage over a shunt and that behind it, measured when asked; current
 * and power follow with the shunt's ohms, a number of the part (pintle_sensor_numbers; datasheet
 * SBOS448).
 */
#ifndef PINTLE_PARTS_INA219_H
#define PINTLE_PARTS_INA219_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum {
    PINTLE_INA219_BUS_VOLTAGE,
    PINTLE_INA219_CURRENT,
    PINTLE_INA219_POWER,
    PINTLE_INA219_SHUNT_VOLTAGE
};
enum { PINTLE_INA219_BUS_RANGE, PINTLE_INA219_SHUNT_RANGE, PINTLE_INA219_SAMPLES };
#define PINTLE_INA219_BUS_RANGE_OPTIONS(X)                                                         \
    X(INA219_16_V, "16V", 0, 0, 1)                                                                 \
    X(INA219_32_V, "32V", 1, 0, 1)
enum pintle_ina219_bus_range { PINTLE_INA219_BUS_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_INA219_SHUNT_RANGE_OPTIONS(X)                                                       \
    X(INA219_40_MV, "40mV", 0, 0, 1)                                                               \
    X(INA219_80_MV, "80mV", 1, 0, 1)                                                               \
    X(INA219_160_MV, "160mV", 2, 0, 1)                                                             \
    X(INA219_320_MV, "320mV", 3, 0, 1)
enum pintle_ina219_shunt_range { PINTLE_INA219_SHUNT_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Table 5: typical times of one conversion, of which there are two; a tenth more at most. */
#define PINTLE_INA219_SAMPLES_OPTIONS(X)                                                           \
    X(INA219_1_SAMPLE, "1", 3, 1172, 1)                                                            \
    X(INA219_2_SAMPLES, "2", 9, 2332, 1)                                                           \
    X(INA219_4_SAMPLES, "4", 10, 4686, 1)                                                          \
    X(INA219_8_SAMPLES, "8", 11, 9372, 1)                                                          \
    X(INA219_16_SAMPLES, "16", 12, 18722, 1)                                                       \
    X(INA219_32_SAMPLES, "32", 13, 37444, 1)                                                       \
    X(INA219_64_SAMPLES, "64", 14, 74910, 1)                                                       \
    X(INA219_128_SAMPLES, "128", 15, 149820, 1)
enum pintle_ina219_samples { PINTLE_INA219_SAMPLES_OPTIONS(PINTLE_OPTION_NUMBER) };

/* numbers */
enum { PINTLE_INA219_SHUNT /* ohm; 0.1 */ };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(ina219, 4, 1, 3, 0, 4)

PINTLE_SETTER(ina219, bus_range, PINTLE_INA219_BUS_RANGE, ina219_bus_range)
PINTLE_SETTER(ina219, shunt_range, PINTLE_INA219_SHUNT_RANGE, ina219_shunt_range)
PINTLE_SETTER(ina219, samples, PINTLE_INA219_SAMPLES, ina219_samples)

PINTLE_C_END

#endif
