/* parts.h: the parts that ship, and what only one of them can do.
 *
 * Each part is a constant table for pintle_sensor_on_i2c. The enumerations number a part's settings
 * and options for pintle_sensor_set, its channels for sample.channel, and give the size of its
 * trim. Parts that a program does not name are not linked.
 */
#ifndef PINTLE_PARTS_H
#define PINTLE_PARTS_H

#include "pintle/sensor.h"

/* TMP102: temperature, pointer register, 12 or 13 bits (datasheet SLOS854). */
extern const struct pintle_part pintle_tmp102;
enum { PINTLE_TMP102_TEMPERATURE };
enum { PINTLE_TMP102_MODE, PINTLE_TMP102_FORMAT, PINTLE_TMP102_RATE, PINTLE_TMP102_FAULTS };
enum { PINTLE_TMP102_CONTINUOUS, PINTLE_TMP102_ONE_SHOT };
enum { PINTLE_TMP102_12_BIT, PINTLE_TMP102_13_BIT };

/* MCP9808: temperature, four resolutions, identity registers (datasheet DS25095). */
extern const struct pintle_part pintle_mcp9808;
enum { PINTLE_MCP9808_TEMPERATURE };
enum { PINTLE_MCP9808_RESOLUTION };
enum {
    PINTLE_MCP9808_HALF,
    PINTLE_MCP9808_QUARTER,
    PINTLE_MCP9808_EIGHTH,
    PINTLE_MCP9808_SIXTEENTH
};

/* SHT31: temperature and humidity, commands instead of registers, a CRC on every word (datasheet
 * SHT3x-DIS version 7). */
extern const struct pintle_part pintle_sht31;
enum { PINTLE_SHT31_TEMPERATURE, PINTLE_SHT31_HUMIDITY };
enum { PINTLE_SHT31_REPEATABILITY };
enum { PINTLE_SHT31_HIGH, PINTLE_SHT31_MEDIUM, PINTLE_SHT31_LOW };

/* BME280: temperature, pressure and humidity, factory trim, forced mode (datasheet
 * BST-BME280-DS002). */
extern const struct pintle_part pintle_bme280;
enum { PINTLE_BME280_TEMPERATURE, PINTLE_BME280_PRESSURE, PINTLE_BME280_HUMIDITY };
enum {
    PINTLE_BME280_TEMPERATURE_OVERSAMPLING,
    PINTLE_BME280_PRESSURE_OVERSAMPLING,
    PINTLE_BME280_HUMIDITY_OVERSAMPLING,
    PINTLE_BME280_FILTER
};
enum { PINTLE_BME280_X1, PINTLE_BME280_X2, PINTLE_BME280_X4, PINTLE_BME280_X8, PINTLE_BME280_X16 };
#define PINTLE_BME280_TRIM 33

/* DS3231: a clock that keeps time on a battery, with its own thermometer (datasheet 19-5170). */
extern const struct pintle_part pintle_ds3231;
enum { PINTLE_DS3231_TEMPERATURE, PINTLE_DS3231_TIME };

/* Set the clock to a whole second (UTC, seconds since 1970, from 2000 to the end of February 2100,
 * after which its count of days is wrong and its time marked) and clear its stop flag. OUT_OF_RANGE
 * or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_ds3231_set(struct pintle_sensor *sensor, int64_t utc_s);

/* How often the alarm's output goes low. */
enum pintle_ds3231_every {
    PINTLE_DS3231_EVERY_SECOND,
    PINTLE_DS3231_EVERY_MINUTE, /* at second .. of it */
    PINTLE_DS3231_EVERY_HOUR,   /* at minute and second .. of it */
    PINTLE_DS3231_EVERY_DAY     /* at hour, minute and second .. of it */
};

/* Arm alarm 1 at the given time of day (its finer fields, as `every` says) and clear its flag.
 * OUT_OF_RANGE (a field) or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_ds3231_alarm(struct pintle_sensor *sensor,
                                                         enum pintle_ds3231_every every,
                                                         uint8_t hour, uint8_t minute,
                                                         uint8_t second);

/* Has alarm 1 gone off since it was armed or asked last? Clears the flag, of a chip that has proven
 * itself; a measurement under way ends. */
PINTLE_MUST_CHECK enum pintle_status pintle_ds3231_alarmed(struct pintle_sensor *sensor,
                                                           uint8_t *alarmed);

/* DS18B20: temperature over 1-Wire, 9 to 12 bits, powered by a wire of its own or by the line
 * (datasheet 19-7487). */
extern const struct pintle_part pintle_ds18b20;
enum { PINTLE_DS18B20_TEMPERATURE };
enum { PINTLE_DS18B20_RESOLUTION, PINTLE_DS18B20_POWER };
enum { PINTLE_DS18B20_9_BIT, PINTLE_DS18B20_10_BIT, PINTLE_DS18B20_11_BIT, PINTLE_DS18B20_12_BIT };
enum { PINTLE_DS18B20_EXTERNAL, PINTLE_DS18B20_PARASITE };

/* MCP3008: eight voltages over SPI, 10 bits, as shares of a reference of 3.3 V (datasheet
 * DS21295). With another reference multiply by it and divide by 3.3; for what hangs on an input
 * see shape.h. */
extern const struct pintle_part pintle_mcp3008;

/* ICM-20948: accelerometer and gyroscope over SPI, in banks (datasheet DS-000189). */
extern const struct pintle_part pintle_icm20948;
enum {
    PINTLE_ICM20948_ACCEL_X,
    PINTLE_ICM20948_ACCEL_Y,
    PINTLE_ICM20948_ACCEL_Z,
    PINTLE_ICM20948_RATE_X,
    PINTLE_ICM20948_RATE_Y,
    PINTLE_ICM20948_RATE_Z
};
enum {
    PINTLE_ICM20948_ACCEL_RANGE,
    PINTLE_ICM20948_ACCEL_FILTER,
    PINTLE_ICM20948_GYRO_RANGE,
    PINTLE_ICM20948_GYRO_FILTER
};
enum { PINTLE_ICM20948_2_G, PINTLE_ICM20948_4_G, PINTLE_ICM20948_8_G, PINTLE_ICM20948_16_G };
enum {
    PINTLE_ICM20948_250_DEG_S,
    PINTLE_ICM20948_500_DEG_S,
    PINTLE_ICM20948_1000_DEG_S,
    PINTLE_ICM20948_2000_DEG_S
};

/* LIS331DLH and LIS331HH: accelerometers over SPI, to 8 g and to 24 g (datasheets DocID15094,
 * DocID16366). They have one identity: nothing tells them apart but gravity. */
extern const struct pintle_part pintle_lis331dlh;
extern const struct pintle_part pintle_lis331hh;
enum { PINTLE_LIS331_ACCEL_X, PINTLE_LIS331_ACCEL_Y, PINTLE_LIS331_ACCEL_Z };
enum { PINTLE_LIS331_RANGE, PINTLE_LIS331_RATE };
enum { PINTLE_LIS331_LOW, PINTLE_LIS331_MIDDLE, PINTLE_LIS331_HIGH };
enum { PINTLE_LIS331_50_HZ, PINTLE_LIS331_100_HZ, PINTLE_LIS331_400_HZ, PINTLE_LIS331_1000_HZ };

/* Set the alarm limits of a DS18B20, whole degC (-55 to 125); `keep` writes them and the resolution
 * into its EEPROM as well (50,000 times at most). The alarm search (onewire.h) finds the probes
 * whose last conversion was at a limit or beyond. OUT_OF_RANGE or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_ds18b20_limits(struct pintle_sensor *sensor, int8_t low,
                                                           int8_t high, uint8_t keep);

/* Set the thermostat limits of a TMP102, in degC (-128 to 127.9375), in the format that the
 * sensor is set to. OUT_OF_RANGE or a bus status. */
PINTLE_MUST_CHECK enum pintle_status pintle_tmp102_limits(struct pintle_sensor *sensor, float low,
                                                          float high);

#endif
