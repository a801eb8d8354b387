/* parts/ds1307.h: DS1307, a clock with 56 bytes of RAM that a battery keeps (datasheet 19-5046).
 * What it does as a clock: timekeeper.h; as memory: store.h.
 */
#ifndef PINTLE_PARTS_DS1307_H
#define PINTLE_PARTS_DS1307_H

#include "pintle/parts.h"

enum { PINTLE_DS1307_TIME };
enum { PINTLE_DS1307_OUTPUT };
enum {
    PINTLE_DS1307_OUTPUT_LOW,
    PINTLE_DS1307_OUTPUT_HIGH,
    PINTLE_DS1307_1_HZ,
    PINTLE_DS1307_4096_HZ,
    PINTLE_DS1307_8192_HZ,
    PINTLE_DS1307_32768_HZ
};

#endif
