/* parts/list.h: every part that ships, one line each: the only place where a new one is entered.
 * Declarations, catalogue, simulated chips, budgets and pages follow from it.
 */
#ifndef PINTLE_PARTS_LIST_H
#define PINTLE_PARTS_LIST_H

/* X(name, file, bus, place, flash): the part is pintle_<name>, in src/parts/<file>.c, explained in
 * <file>_map.c, with the simulated chip in src/port/sim/chips/<file>.c and its own words in
 * pintle/parts/<file>.h; the bus that it speaks (i2c, spi, onewire) and one of its addresses; how
 * many bytes it may take on a Cortex-M0+. In the order of the names. */
#define PINTLE_PART_LIST(X)                                                                        \
    X(bme280, bme280, i2c, 0x76, 1280)                                                             \
    X(ds18b20, ds18b20, onewire, 0, 1024)                                                          \
    X(ds3231, ds3231, i2c, 0x68, 1024)                                                             \
    X(icm20948, icm20948, spi, 0, 1536)                                                            \
    X(lis331dlh, lis331, spi, 0, 1024)                                                             \
    X(lis331hh, lis331, spi, 0, 1024)                                                              \
    X(mcp3008, mcp3008, spi, 0, 1024)                                                              \
    X(mcp9808, mcp9808, i2c, 0x18, 1024)                                                           \
    X(sht31, sht31, i2c, 0x44, 1024)                                                               \
    X(shtc3, shtc3, i2c, 0x70, 1024)                                                               \
    X(tmp102, tmp102, i2c, 0x48, 1024)

#endif
