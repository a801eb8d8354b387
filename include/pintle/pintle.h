/* pintle.h: all that firmware can use, in the order in which to read it.
 *
 *   port.h        the platform underneath: fill it in once
 *   bitbang.h     buses made of pins and a clock
 *   onewire.h     who is on a 1-Wire line
 *   parts.h       the parts that ship; each has a header of its own besides, parts/NAME.h
 *   sensor.h      one part on a bus: start, collect, read
 *   sample.h      the same for parts that a program learns of only when it runs
 *   reading.h     what comes out, and its quality (quality.h) and unit (unit.h)
 *   judge.h       a reading against those before it: jumps, frozen, smoothed
 *   correct.h     calibration; estimate.h how it is found, keep.h how it outlives a power cut
 *   schedule.h    when to measure
 *   text.h        numbers, times, measurements and CSV as text; calendar.h dates
 *   derive.h      values made of other values: dew point, altitude, heading
 *   limits.h      limits that a chip watches by itself
 *   burst.h       many samples at once, from chips with a FIFO
 *   time.h, store.h, outputs.h, screen.h         chips that do something else: clocks, memory,
 *                 lines to set and to read, displays
 *   reg.h         registers by hand
 *   shape.h       thermistors and polynomials
 *   part.h        what a part is made of; table.h how its tables are stored
 *   status.h      what can go wrong; config.h the compile-time options
 */
#ifndef PINTLE_PINTLE_H
#define PINTLE_PINTLE_H

#include "pintle/bitbang.h"
#include "pintle/burst.h"
#include "pintle/calendar.h"
#include "pintle/correct.h"
#include "pintle/derive.h"
#include "pintle/estimate.h"
#include "pintle/text.h"
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
#include "pintle/time.h"
#include "pintle/unit.h"

#endif
