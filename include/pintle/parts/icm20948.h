/* parts/icm20948.h: ICM-20948 over SPI, in banks: accelerometer, gyroscope, thermometer, and the
 * magnetometer AK09916 that is reached through it (datasheet DS-000189). The magnetometer's axes
 * are turned to the accelerometer's; pintle_sensor_ask leaves it out.
 * Its INT1 pin goes high for 50 us with every sample.
 */
#ifndef PINTLE_PARTS_ICM20948_H
#define PINTLE_PARTS_ICM20948_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum {
    PINTLE_ICM20948_ACCEL_X,
    PINTLE_ICM20948_ACCEL_Y,
    PINTLE_ICM20948_ACCEL_Z,
    PINTLE_ICM20948_RATE_X,
    PINTLE_ICM20948_RATE_Y,
    PINTLE_ICM20948_RATE_Z,
    PINTLE_ICM20948_TEMPERATURE,
    PINTLE_ICM20948_MAG_X,
    PINTLE_ICM20948_MAG_Y,
    PINTLE_ICM20948_MAG_Z
};
enum {
    PINTLE_ICM20948_ACCEL_RANGE,
    PINTLE_ICM20948_ACCEL_FILTER,
    PINTLE_ICM20948_GYRO_RANGE,
    PINTLE_ICM20948_GYRO_FILTER,
    PINTLE_ICM20948_RATE
};
#define PINTLE_ICM20948_ACCEL_FILTER_OPTIONS(X)                                                    \
    X(ICM20948_ACCEL_473_HZ, "473Hz", 7, 0, 1)                                                     \
    X(ICM20948_ACCEL_246_HZ, "246Hz", 1, 0, 1)                                                     \
    X(ICM20948_ACCEL_111_HZ, "111Hz", 2, 0, 1)                                                     \
    X(ICM20948_ACCEL_50_HZ, "50Hz", 3, 0, 1)                                                       \
    X(ICM20948_ACCEL_24_HZ, "24Hz", 4, 0, 1)                                                       \
    X(ICM20948_ACCEL_11_5_HZ, "11.5Hz", 5, 0, 1)                                                   \
    X(ICM20948_ACCEL_5_7_HZ, "5.7Hz", 6, 0, 1)
enum pintle_icm20948_accel_filter { PINTLE_ICM20948_ACCEL_FILTER_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_ICM20948_GYRO_FILTER_OPTIONS(X)                                                     \
    X(ICM20948_GYRO_361_HZ, "361Hz", 7, 0, 1)                                                      \
    X(ICM20948_GYRO_152_HZ, "152Hz", 1, 0, 1)                                                      \
    X(ICM20948_GYRO_120_HZ, "120Hz", 2, 0, 1)                                                      \
    X(ICM20948_GYRO_51_HZ, "51Hz", 3, 0, 1)                                                        \
    X(ICM20948_GYRO_24_HZ, "24Hz", 4, 0, 1)                                                        \
    X(ICM20948_GYRO_11_6_HZ, "11.6Hz", 5, 0, 1)                                                    \
    X(ICM20948_GYRO_5_7_HZ, "5.7Hz", 6, 0, 1)
enum pintle_icm20948_gyro_filter { PINTLE_ICM20948_GYRO_FILTER_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Table 2: 16384, 8192, 4096, 2048 counts per g; table 1: 131, 65.5, 32.8, 16.4 per deg/s. */
#define PINTLE_ICM20948_ACCEL_RANGE_OPTIONS(X)                                                     \
    X(ICM20948_2_G, "2g", 0, 0, 1)                                                                 \
    X(ICM20948_4_G, "4g", 1, 0, 2)                                                                 \
    X(ICM20948_8_G, "8g", 2, 0, 4)                                                                 \
    X(ICM20948_16_G, "16g", 3, 0, 8)
enum pintle_icm20948_accel_range { PINTLE_ICM20948_ACCEL_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

#define PINTLE_ICM20948_GYRO_RANGE_OPTIONS(X)                                                      \
    X(ICM20948_250_DEG_S, "250deg/s", 0, 0, 1)                                                     \
    X(ICM20948_500_DEG_S, "500deg/s", 1, 0, 2)                                                     \
    X(ICM20948_1000_DEG_S, "1000deg/s", 2, 0, 131 / 32.8f)                                         \
    X(ICM20948_2000_DEG_S, "2000deg/s", 3, 0, 131 / 16.4f)
enum pintle_icm20948_gyro_range { PINTLE_ICM20948_GYRO_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* 1.125 kHz divided; two periods. The magnetometer is asked 56 to 75 times a second. */
#define PINTLE_ICM20948_RATE_OPTIONS(X)                                                            \
    X(ICM20948_1125_HZ, "1125Hz", 0, 1800, 1)                                                      \
    X(ICM20948_562_5_HZ, "562.5Hz", 1, 3600, 1)                                                    \
    X(ICM20948_225_HZ, "225Hz", 4, 8900, 1)                                                        \
    X(ICM20948_112_5_HZ, "112.5Hz", 9, 17800, 1)                                                   \
    X(ICM20948_56_25_HZ, "56.25Hz", 19, 35600, 1)
enum pintle_icm20948_rate { PINTLE_ICM20948_RATE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_SPI_SENSOR(icm20948, 10, 0, 5, 0, 23)

PINTLE_SETTER(icm20948, accel_range, PINTLE_ICM20948_ACCEL_RANGE, icm20948_accel_range)
PINTLE_SETTER(icm20948, accel_filter, PINTLE_ICM20948_ACCEL_FILTER, icm20948_accel_filter)
PINTLE_SETTER(icm20948, gyro_range, PINTLE_ICM20948_GYRO_RANGE, icm20948_gyro_range)
PINTLE_SETTER(icm20948, gyro_filter, PINTLE_ICM20948_GYRO_FILTER, icm20948_gyro_filter)
PINTLE_SETTER(icm20948, rate, PINTLE_ICM20948_RATE, icm20948_rate)

PINTLE_C_END

#endif
