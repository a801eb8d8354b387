/* parts/bmi160.h: BMI160, acceleration, angular rate and its own temperature (datasheet
 * BST-BMI160-DS000).
 */
#ifndef PINTLE_PARTS_BMI160_H
#define PINTLE_PARTS_BMI160_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum {
    PINTLE_BMI160_RATE_X,
    PINTLE_BMI160_RATE_Y,
    PINTLE_BMI160_RATE_Z,
    PINTLE_BMI160_ACCEL_X,
    PINTLE_BMI160_ACCEL_Y,
    PINTLE_BMI160_ACCEL_Z,
    PINTLE_BMI160_TEMPERATURE
};
enum { PINTLE_BMI160_ACCEL_RANGE, PINTLE_BMI160_GYRO_RANGE, PINTLE_BMI160_RATE };
#define PINTLE_BMI160_ACCEL_RANGE_OPTIONS(X)                                                       \
    X(BMI160_2_G, "2g", 3, 0, 1)                                                                   \
    X(BMI160_4_G, "4g", 5, 0, 2)                                                                   \
    X(BMI160_8_G, "8g", 8, 0, 4)                                                                   \
    X(BMI160_16_G, "16g", 12, 0, 8)
enum pintle_bmi160_accel_range { PINTLE_BMI160_ACCEL_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_BMI160_GYRO_RANGE_OPTIONS(X)                                                        \
    X(BMI160_2000_DEG_S, "2000deg/s", 0, 0, 16)                                                    \
    X(BMI160_1000_DEG_S, "1000deg/s", 1, 0, 8)                                                     \
    X(BMI160_500_DEG_S, "500deg/s", 2, 0, 4)                                                       \
    X(BMI160_250_DEG_S, "250deg/s", 3, 0, 2)                                                       \
    X(BMI160_125_DEG_S, "125deg/s", 4, 0, 1)
enum pintle_bmi160_gyro_range { PINTLE_BMI160_GYRO_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Both at one rate; two periods until both are filtered. */
#define PINTLE_BMI160_RATE_OPTIONS(X)                                                              \
    X(BMI160_25_HZ, "25Hz", 6, 80000, 1)                                                           \
    X(BMI160_50_HZ, "50Hz", 7, 40000, 1)                                                           \
    X(BMI160_100_HZ, "100Hz", 8, 20000, 1)                                                         \
    X(BMI160_200_HZ, "200Hz", 9, 10000, 1)                                                         \
    X(BMI160_400_HZ, "400Hz", 10, 5000, 1)                                                         \
    X(BMI160_800_HZ, "800Hz", 11, 2500, 1)                                                         \
    X(BMI160_1600_HZ, "1600Hz", 12, 1250, 1)
enum pintle_bmi160_rate { PINTLE_BMI160_RATE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(bmi160, 7, 0, 3, 0, 14)

PINTLE_SETTER(bmi160, accel_range, PINTLE_BMI160_ACCEL_RANGE, bmi160_accel_range)
PINTLE_SETTER(bmi160, gyro_range, PINTLE_BMI160_GYRO_RANGE, bmi160_gyro_range)
PINTLE_SETTER(bmi160, rate, PINTLE_BMI160_RATE, bmi160_rate)

PINTLE_C_END

#endif
