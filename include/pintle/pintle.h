/* pintle.h: all that firmware can use. These ten, in this order, are what to know of a logger:
 *
 *   port.h        the platform underneath: fill it in once
 *   status.h      what every call says
 *   parts.h       the parts that ship; each has a header of its own besides, parts/NAME.h
 *   sensor.h      one part on a bus: start, collect, read
 *   reading.h     what comes out: a value, and what is known against it
 *   unit.h        quantities and their units
 *   text.h        numbers, times, measurements and CSV as text
 *   schedule.h    when to measure
 *   judge.h       a reading against those before it: jumps, frozen, smoothed
 *   correct.h     what a calibration adds
 *
 * Each of the others is for one thing. For chips of some kind: onewire.h (who is on a line),
 * burst.h (a FIFO), limits.h (it watches its value), time.h (clocks), store.h (memory), outputs.h
 * (lines), screen.h and page.h (displays), reg.h (registers by hand). Made of readings: derive.h
 * (dew point, heading), fit.h (finding a correction), keep.h (one that outlives a power cut). For
 * the platform: bitbang.h (buses made of pins), port_check.h, calendar.h (dates), config.h (the
 * compile-time options). For who describes a part: part.h, steps.h, ability.h, shape.h, table.h.
 *
 * A function pintle_NAME_... is in NAME.h; but port.h has buses (bus, i2c, spi), sensor.h rounds,
 * unit.h quantities, reading.h their quality. A header says whether it is stable: then only a new
 * second number of the version changes it, and the CHANGELOG says how to follow. Members that are
 * said to be the core's may change at any time, as may what else isn't stable.
 *
 * Stable.
 */
#ifndef PINTLE_PINTLE_H
#define PINTLE_PINTLE_H

#include "pintle/bitbang.h"
#include "pintle/burst.h"
#include "pintle/calendar.h"
#include "pintle/correct.h"
#include "pintle/derive.h"
#include "pintle/fit.h"
#include "pintle/judge.h"
#include "pintle/keep.h"
#include "pintle/limits.h"
#include "pintle/outputs.h"
#include "pintle/onewire.h"
#include "pintle/parts.h"
#include "pintle/port.h"
#include "pintle/reading.h"
#include "pintle/reg.h"
#include "pintle/schedule.h"
#include "pintle/page.h"
#include "pintle/screen.h"
#include "pintle/sensor.h"
#include "pintle/shape.h"
#include "pintle/status.h"
#include "pintle/store.h"
#include "pintle/text.h"
#include "pintle/time.h"
#include "pintle/unit.h"

#endif
