/* parts/hs3001.h: HS3001, temperature and humidity, measures when it is called by its address and
 * says of each result whether it is new (datasheet HS300x, R36DS0010).
 */
#ifndef PINTLE_PARTS_HS3001_H
#define PINTLE_PARTS_HS3001_H

#include "pintle/parts.h"

enum { PINTLE_HS3001_TEMPERATURE, PINTLE_HS3001_HUMIDITY };

#endif
