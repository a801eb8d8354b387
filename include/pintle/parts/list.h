/* parts/list.h: every part that ships, one line each: the only place where a new one is entered.
 * Declarations, catalogue, simulated chips, budgets and pages follow from it.
 */
#ifndef PINTLE_PARTS_LIST_H
#define PINTLE_PARTS_LIST_H

/* X(name, file, bus, place, flash): the part is pintle_<name>, in src/parts/<file>.c, explained in
 * <file>_map.c, with the simulated chip in src/port/sim/chips/<file>.c and its own words in
 * pintle/parts/<file>.h; the bus that it speaks (i2c, spi, onewire, stream) and one of its
 * addresses; how many bytes it may take on a Cortex-M0+. In the order of the names. */
#define PINTLE_PART_LIST(X)                                                                        \
    X(ads1115, ads1115, i2c, 0x48, 1024)                                                           \
    X(adxl345, adxl345, i2c, 0x53, 1024)                                                           \
    X(at24c32, at24c32, i2c, 0x50, 512)                                                            \
    X(bme280, bme280, i2c, 0x76, 1472)                                                             \
    X(bmi160, bmi160, i2c, 0x68, 1088)                                                             \
    X(bmp180, bmp180, i2c, 0x77, 1024)                                                             \
    X(bmp280, bme280, i2c, 0x76, 1472)                                                             \
    X(ds1307, ds1307, i2c, 0x68, 1024)                                                             \
    X(ds18b20, ds18b20, onewire, 0, 1024)                                                          \
    X(ds3231, ds3231, i2c, 0x68, 1024)                                                             \
    X(hs3001, hs3001, i2c, 0x44, 1024)                                                             \
    X(icm20948, icm20948, spi, 0, 1664)                                                            \
    X(ina219, ina219, i2c, 0x40, 1024)                                                             \
    X(lis331dlh, lis331, spi, 0, 1024)                                                             \
    X(lis331hh, lis331, spi, 0, 1024)                                                              \
    X(mcp3008, mcp3008, spi, 0, 1024)                                                              \
    X(mcp9808, mcp9808, i2c, 0x18, 1024)                                                           \
    X(mpu6050, mpu6050, i2c, 0x68, 1088)                                                           \
    X(pcd8544, pcd8544, spi, 0, 512)                                                               \
    X(pcf8574, pcf8574, i2c, 0x20, 832)                                                            \
    X(pcf8574a, pcf8574, i2c, 0x38, 832)                                                           \
    X(sdcard, sdcard, spi, 0, 512)                                                                 \
    X(sht31, sht31, i2c, 0x44, 1024)                                                               \
    X(sht40, sht40, i2c, 0x44, 1024)                                                               \
    X(shtc3, shtc3, i2c, 0x70, 1024)                                                               \
    X(tmp102, tmp102, i2c, 0x48, 1024)                                                             \
    X(tof10120, tof10120, stream, 0, 768)                                                          \
    X(tof10120i2c, tof10120, i2c, 0x52, 768)                                                       \
    X(veml7700, veml7700, i2c, 0x10, 1024)

#endif
