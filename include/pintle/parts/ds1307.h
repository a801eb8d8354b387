/* parts/ds1307.h: DS1307, a clock with 56 bytes of RAM that a battery keeps (datasheet 19-5046).
 * What it does as a clock: time.h; as memory: store.h.
 */
#ifndef PINTLE_PARTS_DS1307_H
#define PINTLE_PARTS_DS1307_H

#include "pintle/parts.h"

PINTLE_C_BEGIN

enum { PINTLE_DS1307_TIME };
enum { PINTLE_DS1307_OUTPUT };
#define PINTLE_DS1307_OUTPUT_OPTIONS(X)                                                            \
    X(DS1307_LOW, "low", 0x00, 0, 1)                                                               \
    X(DS1307_HIGH, "high", 0x80, 0, 1)                                                             \
    X(DS1307_1_HZ, "1Hz", 0x10, 0, 1)                                                              \
    X(DS1307_4096_HZ, "4096Hz", 0x11, 0, 1)                                                        \
    X(DS1307_8192_HZ, "8192Hz", 0x12, 0, 1)                                                        \
    X(DS1307_32768_HZ, "32768Hz", 0x13, 0, 1)
enum pintle_ds1307_output { PINTLE_DS1307_OUTPUT_OPTIONS(PINTLE_OPTION_NUMBER) };

/* Its channels, numbers, settings, bytes of trim and of the raw block. */
PINTLE_I2C_SENSOR(ds1307, 1, 0, 1, 0, 8)

PINTLE_SETTER(ds1307, output, PINTLE_DS1307_OUTPUT, ds1307_output)

PINTLE_C_END

#endif
