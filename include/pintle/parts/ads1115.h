/* parts/ads1115.h: ADS1115, four voltages against ground and two differences, 16 bits, converted
 * one by one: only those that are asked for (pintle_sensor_ask; datasheet SBAS444).
 */
#ifndef PINTLE_PARTS_ADS1115_H
#define PINTLE_PARTS_ADS1115_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum {
    PINTLE_ADS1115_AIN0,
    PINTLE_ADS1115_AIN1,
    PINTLE_ADS1115_AIN2,
    PINTLE_ADS1115_AIN3,
    PINTLE_ADS1115_AIN0_AIN1,
    PINTLE_ADS1115_AIN2_AIN3
};
enum { PINTLE_ADS1115_RANGE, PINTLE_ADS1115_RATE };
#define PINTLE_ADS1115_RANGE_OPTIONS(X)                                                            \
    X(ADS1115_6_144_V, "6.144V", 0, 0, 3)                                                          \
    X(ADS1115_4_096_V, "4.096V", 1, 0, 2)                                                          \
    X(ADS1115_2_048_V, "2.048V", 2, 0, 1)                                                          \
    X(ADS1115_1_024_V, "1.024V", 3, 0, 0.5f)                                                       \
    X(ADS1115_0_512_V, "0.512V", 4, 0, 0.25f)                                                      \
    X(ADS1115_0_256_V, "0.256V", 5, 0, 0.125f)
enum pintle_ads1115_range { PINTLE_ADS1115_RANGE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Table 7-5: the rate may be a tenth lower; waking up takes 25 us. */
#define PINTLE_ADS1115_RATE_OPTIONS(X)                                                             \
    X(ADS1115_8_SPS, "8SPS", 0, 137525, 1)                                                         \
    X(ADS1115_16_SPS, "16SPS", 1, 68775, 1)                                                        \
    X(ADS1115_32_SPS, "32SPS", 2, 34400, 1)                                                        \
    X(ADS1115_64_SPS, "64SPS", 3, 17213, 1)                                                        \
    X(ADS1115_128_SPS, "128SPS", 4, 8619, 1)                                                       \
    X(ADS1115_250_SPS, "250SPS", 5, 4425, 1)                                                       \
    X(ADS1115_475_SPS, "475SPS", 6, 2341, 1)                                                       \
    X(ADS1115_860_SPS, "860SPS", 7, 1305, 1)
enum pintle_ads1115_rate { PINTLE_ADS1115_RATE_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(ads1115, 6, 0, 2, 0, 12)

PINTLE_SETTER(ads1115, range, PINTLE_ADS1115_RANGE, ads1115_range)
PINTLE_SETTER(ads1115, rate, PINTLE_ADS1115_RATE, ads1115_rate)

PINTLE_C_END

#endif
