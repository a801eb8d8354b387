/* parts/bme280.h: BME280, temperature, pressure and humidity, factory trim, forced mode
 * (datasheet BST-BME280-DS002); BMP280, the same without humidity (BST-BMP280-DS001).
 */
#ifndef PINTLE_PARTS_BME280_H
#define PINTLE_PARTS_BME280_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_BME280_TEMPERATURE, PINTLE_BME280_PRESSURE, PINTLE_BME280_HUMIDITY };
enum {
    PINTLE_BME280_TEMPERATURE_OVERSAMPLING,
    PINTLE_BME280_PRESSURE_OVERSAMPLING,
    PINTLE_BME280_HUMIDITY_OVERSAMPLING,
    PINTLE_BME280_FILTER
};
#define PINTLE_BME280_FILTER_OPTIONS(X)                                                            \
    X(BME280_FILTER_OFF, "off", 0, 0, 1)                                                           \
    X(BME280_FILTER_2, "2", 1, 0, 1)                                                               \
    X(BME280_FILTER_4, "4", 2, 0, 1)                                                               \
    X(BME280_FILTER_8, "8", 3, 0, 1)                                                               \
    X(BME280_FILTER_16, "16", 4, 0, 1)
enum pintle_bme280_filter { PINTLE_BME280_FILTER_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_BME280_OVERSAMPLING_OPTIONS(X)                                                      \
    X(BME280_X1, "x1", 1, 2300, 1)                                                                 \
    X(BME280_X2, "x2", 2, 2 * 2300, 1)                                                             \
    X(BME280_X4, "x4", 3, 4 * 2300, 1)                                                             \
    X(BME280_X8, "x8", 4, 8 * 2300u, 1)                                                            \
    X(BME280_X16, "x16", 5, 16 * 2300u, 1)
enum pintle_bme280_oversampling { PINTLE_BME280_OVERSAMPLING_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_BME280_TRIM 33

enum { PINTLE_BMP280_TEMPERATURE, PINTLE_BMP280_PRESSURE };
enum {
    PINTLE_BMP280_TEMPERATURE_OVERSAMPLING,
    PINTLE_BMP280_PRESSURE_OVERSAMPLING,
    PINTLE_BMP280_FILTER
};
#define PINTLE_BMP280_TRIM 24

/* Their channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(bme280, 3, 0, 4, PINTLE_BME280_TRIM, 8)
PINTLE_I2C_SENSOR(bmp280, 2, 0, 3, PINTLE_BMP280_TRIM, 6)

PINTLE_SETTER(bme280, temperature_oversampling, PINTLE_BME280_TEMPERATURE_OVERSAMPLING,
              bme280_oversampling)
PINTLE_SETTER(bme280, pressure_oversampling, PINTLE_BME280_PRESSURE_OVERSAMPLING,
              bme280_oversampling)
PINTLE_SETTER(bme280, humidity_oversampling, PINTLE_BME280_HUMIDITY_OVERSAMPLING,
              bme280_oversampling)
PINTLE_SETTER(bme280, filter, PINTLE_BME280_FILTER, bme280_filter)
PINTLE_SETTER(bmp280, temperature_oversampling, PINTLE_BMP280_TEMPERATURE_OVERSAMPLING,
              bme280_oversampling)
PINTLE_SETTER(bmp280, pressure_oversampling, PINTLE_BMP280_PRESSURE_OVERSAMPLING,
              bme280_oversampling)
PINTLE_SETTER(bmp280, filter, PINTLE_BMP280_FILTER, bme280_filter)

PINTLE_C_END

#endif
