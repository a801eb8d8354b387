/* parts/mpu6050.h: MPU6050, acceleration, angular rate and its own temperature in one burst
 * (register map RM-MPU-6000A-00 rev. 4.2, specification PS-MPU-6000A-00 rev. 3.4).
 * Its INT pin goes high for 50 us with every sample.
 */
#ifndef PINTLE_PARTS_MPU6050_H
#define PINTLE_PARTS_MPU6050_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum {
    PINTLE_MPU6050_ACCEL_X,
    PINTLE_MPU6050_ACCEL_Y,
    PINTLE_MPU6050_ACCEL_Z,
    PINTLE_MPU6050_TEMPERATURE,
    PINTLE_MPU6050_RATE_X,
    PINTLE_MPU6050_RATE_Y,
    PINTLE_MPU6050_RATE_Z
};
enum {
    PINTLE_MPU6050_ACCEL_RANGE,
    PINTLE_MPU6050_GYRO_RANGE,
    PINTLE_MPU6050_FILTER,
    PINTLE_MPU6050_RATE
};
/* PS 6.1 and 6.2: 131, 65.5, 32.8, 16.4 counts per deg/s; 16384 to 2048 per g. */
#define PINTLE_MPU6050_ACCEL_RANGE_OPTIONS(X)                                                      \
    X(MPU6050_2_G, "2g", 0, 0, 1)                                                                  \
    X(MPU6050_4_G, "4g", 1, 0, 2)                                                                  \
    X(MPU6050_8_G, "8g", 2, 0, 4)                                                                  \
    X(MPU6050_16_G, "16g", 3, 0, 8)
enum pintle_mpu6050_accel_range { PINTLE_MPU6050_ACCEL_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_MPU6050_GYRO_RANGE_OPTIONS(X)                                                       \
    X(MPU6050_250_DEG_S, "250deg/s", 0, 0, 1)                                                      \
    X(MPU6050_500_DEG_S, "500deg/s", 1, 0, 2)                                                      \
    X(MPU6050_1000_DEG_S, "1000deg/s", 2, 0, 131 / 32.8f)                                          \
    X(MPU6050_2000_DEG_S, "2000deg/s", 3, 0, 131 / 16.4f)
enum pintle_mpu6050_gyro_range { PINTLE_MPU6050_GYRO_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_MPU6050_FILTER_OPTIONS(X)                                                           \
    X(MPU6050_FILTER_184_HZ, "184Hz", 1, 0, 1)                                                     \
    X(MPU6050_FILTER_94_HZ, "94Hz", 2, 0, 1)                                                       \
    X(MPU6050_FILTER_44_HZ, "44Hz", 3, 0, 1)                                                       \
    X(MPU6050_FILTER_21_HZ, "21Hz", 4, 0, 1)                                                       \
    X(MPU6050_FILTER_10_HZ, "10Hz", 5, 0, 1)                                                       \
    X(MPU6050_FILTER_5_HZ, "5Hz", 6, 0, 1)
enum pintle_mpu6050_filter { PINTLE_MPU6050_FILTER_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_MPU6050_RATE_OPTIONS(X)                                                             \
    X(MPU6050_1000_HZ, "1000Hz", 0, 1000, 1)                                                       \
    X(MPU6050_500_HZ, "500Hz", 1, 2000, 1)                                                         \
    X(MPU6050_200_HZ, "200Hz", 4, 5000, 1)                                                         \
    X(MPU6050_100_HZ, "100Hz", 9, 10000, 1)                                                        \
    X(MPU6050_50_HZ, "50Hz", 19, 20000, 1)
enum pintle_mpu6050_rate { PINTLE_MPU6050_RATE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(mpu6050, 7, 0, 4, 0, 15)

PINTLE_SETTER(mpu6050, accel_range, PINTLE_MPU6050_ACCEL_RANGE, mpu6050_accel_range)
PINTLE_SETTER(mpu6050, gyro_range, PINTLE_MPU6050_GYRO_RANGE, mpu6050_gyro_range)
PINTLE_SETTER(mpu6050, filter, PINTLE_MPU6050_FILTER, mpu6050_filter)
PINTLE_SETTER(mpu6050, rate, PINTLE_MPU6050_RATE, mpu6050_rate)

PINTLE_C_END

#endif
