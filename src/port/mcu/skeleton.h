/* The skeleton port's buses and clock to the rest: see skeleton.c. */
#ifndef SKELETON_H
#define SKELETON_H

#include "pintle/port.h"

struct pintle_i2c skeleton_i2c(void *context);
struct pintle_spi skeleton_spi(void *context);
struct pintle_clock skeleton_clock(void *context);

#endif
