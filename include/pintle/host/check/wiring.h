/* host/check/wiring.h: the electrical side of a rig, checked before power-on.
 *
 * From what the rig file says of supplies, pull-ups, cables and pins. Limits of I2C are those of
 * UM10204 (rev. 7): section 7.1 for the pull-ups, table 10 for sink current, rise time and bus
 * capacitance, section 6 for levels; of 1-Wire those of the DS18B20's datasheet (19-7487,
 * electrical characteristics). SPI lines have no pull-ups, so that only levels and pins count.
 */
#ifndef PINTLE_HOST_CHECK_WIRING_H
#define PINTLE_HOST_CHECK_WIRING_H

#include "pintle/host/rig/rig.h"

PINTLE_C_BEGIN

/* The figures of one bus; all 0 but the capacitance for SPI. */
/* Are the lines of such a bus pulled up by resistors, and not driven either way? */
bool pintle_wiring_pulls_up(enum pintle_bus_kind kind);

struct pintle_wiring {
    unsigned pull_ups;           /* how many there are, on the bus and on the sensors' boards */
    double pull_up_ohm;          /* all in parallel; 0: none */
    double least_ohm;            /* below, a chip cannot pull the line down to 0.4 V */
    double most_ohm;             /* above, the line rises too slowly, or (1-Wire) is too weak */
    double capacitance_pf;       /* of pins and cable */
    double capacitance_limit_pf; /* 0: none is set */
    double rise_ns;              /* I2C: from 0.3 to 0.7 of the supply; 1-Wire: from 0 to 0.7 */
    double rise_limit_ns;
    double sink_ma; /* that a chip must sink */
    double sink_limit_ma;
};

/* How long a line of an I2C bus of this speed may take from 0 to 0.7 of the supply, in
 * microseconds: the rise time of table 10, which counts from 0.3, and what comes before. */
double pintle_wiring_rise_us(uint32_t speed_hz);

/* Work out bus `bus` of a rig. */
void pintle_wiring_figures(const struct pintle_rig *rig, unsigned bus,
                           struct pintle_wiring *wiring);

/* Does the sensor live on the power of its 1-Wire line, its own supply pin being grounded? */
bool pintle_wiring_on_line(const struct pintle_rig_sensor *sensor);

/* What is wrong: a sentence with the numbers and the rule. */
struct pintle_wiring_fault {
    unsigned bus;
    int sensor; /* index in the rig, or -1: the bus itself */
    char text[300];
};

/* Check a whole rig; returns how many faults there are; *faults is to be freed with
 * pintle_host_free. */
unsigned pintle_wiring_check(const struct pintle_rig *rig, struct pintle_wiring_fault **faults);

PINTLE_C_END

#endif
