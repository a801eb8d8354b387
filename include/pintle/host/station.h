/* host/station.h: a rig brought to life.
 *
 * A station has the ports that the rig names, a sensor object for each of its sensors, and the
 * corrections and limits that belong to them.
 */
#ifndef PINTLE_HOST_STATION_H
#define PINTLE_HOST_STATION_H

#include "pintle/host/rig.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

#define PINTLE_TRIM_MAX 64

struct pintle_post {
    struct pintle_sensor sensor;
    uint8_t trim[PINTLE_TRIM_MAX];
    struct pintle_correction correction[PINTLE_CHANNELS_MAX];
    struct pintle_judge judge[PINTLE_CHANNELS_MAX];
    float before[PINTLE_CHANNELS_MAX]; /* the last values without correction */
};

struct pintle_station {
    const struct pintle_rig *rig;
    struct pintle_sim sim;
    struct pintle_i2c bus[PINTLE_RIG_BUSES];
    struct pintle_clock clock;
    struct pintle_post post[PINTLE_RIG_SENSORS];
    struct pintle_seat seat[PINTLE_RIG_SENSORS];        /* in the order of the rig's sensors */
    struct pintle_sim_wires wires[PINTLE_RIG_BUSES];    /* where the rig asks for them, */
    struct pintle_bitbang_i2c master[PINTLE_RIG_BUSES]; /* and the masters on them */
    double pull_up_ohm[PINTLE_RIG_BUSES];
    double capacitance_pf[PINTLE_RIG_BUSES];
    struct pintle_curve *curves; /* the world's quantities */
    unsigned curve_count;
};

/* Build a station. `at_us` is where in the world's time to begin. The rig must outlive it. Null on
 * failure. Free with pintle_station_free. */
struct pintle_station *pintle_station_open(const struct pintle_rig *rig, int64_t at_us,
                                           struct pintle_problem *problem);

void pintle_station_free(struct pintle_station *station);

/* Measure every sensor once: read, judge, correct. Returns how many sensors failed. */
size_t pintle_station_round(struct pintle_station *station);

/* Measure one sensor, likewise. With `fresh`, a first reading after power-up is thrown away. */
enum pintle_status pintle_station_read(struct pintle_station *station, unsigned index, bool fresh);

/* The wall clock, UTC microseconds since 1970. */
int64_t pintle_station_now(const struct pintle_station *station);

/* Tie simulated time to the real clock from now on. */
void pintle_station_pace(struct pintle_station *station);

#endif
