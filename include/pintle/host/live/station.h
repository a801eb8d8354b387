/* host/live/station.h: a rig brought to life.
 *
 * A station has the ports that the rig names, a sensor object for each of its sensors, and the
 * corrections and limits that belong to them.
 */
#ifndef PINTLE_HOST_LIVE_STATION_H
#define PINTLE_HOST_LIVE_STATION_H

#include <signal.h>

#include "pintle/host/live/platform.h"
#include "pintle/host/rig/rig.h"
#include "pintle/pintle.h"
#include "pintle/sample.h"

PINTLE_C_BEGIN

#define PINTLE_WORDS_MAX 320

enum pintle_specimen { PINTLE_SPECIMEN_UNKNOWN, PINTLE_SPECIMEN_SAME, PINTLE_SPECIMEN_OTHER };

struct pintle_rigged {
    struct pintle_any any;
    struct pintle_correct_stage *stage; /* as many as the rig has */
    enum pintle_specimen specimen; /* of a chip with a serial number: is it the one they are for? */
    struct pintle_judge judge[PINTLE_MOST_CHANNELS];
    struct pintle_judge_median smooth[PINTLE_MOST_CHANNELS];
    struct pintle_judge_heat warming[PINTLE_MOST_CHANNELS];
    struct pintle_reading before[PINTLE_MOST_CHANNELS]; /* the last readings without correction */
    struct pintle_derivation *derivation; /* of each channel that is made of others; or null */
    char words[PINTLE_WORDS_MAX]; /* what the port had to add to a failure; "" for nothing */
};

/* A sensor and its last measurement, corrected. */
struct pintle_seat {
    struct pintle_sensor *sensor; /* null: it is made of others */
    struct pintle_sample sample;
    enum pintle_status status;
};

struct pintle_station {
    const struct pintle_rig *rig;
    const struct pintle_platform *platform;
    void *own;              /* the platform's */
    const char *remark;     /* what has to be said of it; null: nothing */
    const char *world;      /* the script of what is really there; null: nobody knows */
    struct pintle_i2c *i2c; /* of each bus the one of its kind is in use */
    struct pintle_spi *spi;
    struct pintle_onewire *onewire;
    struct pintle_stream *stream;
    struct pintle_clock clock;
    struct pintle_rigged *rigged; /* in the order of the rig's sensors, */
    struct pintle_seat *turn;     /* and so are these */
};

/* Build a station on the platform that the rig names. `at_us` is where in a simulated world's time
 * to begin; 0 elsewhere. The rig must outlive it. Null on failure. Free with pintle_station_free.
 */
struct pintle_station *pintle_station_open(const struct pintle_rig *rig, int64_t at_us,
                                           struct pintle_problem *problem);

void pintle_station_free(struct pintle_station *station);

/* Prepare a sensor object of `part` on bus `bus` of the station, at `place`, whatever kind of bus
 * it is. Statuses as of pintle_sensor_on_i2c and its like. */
PINTLE_MUST_CHECK enum pintle_status
pintle_station_wire(struct pintle_station *station, struct pintle_any *any,
                    const struct pintle_part *part, unsigned bus, const union pintle_place *place);

/* What the port of a bus has to add to the status of its last call; "" for nothing. */
const char *pintle_station_words(const struct pintle_station *station, unsigned bus);

/* Sleep; where time is real only until `stop`, which may be null, becomes other than 0, and 0.1 s.
 */
void pintle_station_wait(struct pintle_station *station, uint32_t us,
                         const volatile sig_atomic_t *stop);

/* Measure every sensor once: read, judge, correct. Returns how many sensors failed; SIZE_MAX where
 * `stop`, which may be null, ended the waiting before all had measured. */
size_t pintle_station_round(struct pintle_station *station, const volatile sig_atomic_t *stop);

/* Measure those whose `chosen` byte is 1, likewise, and whatever they are made of or corrected by,
 * each once; of one that measures nothing: is it there? With `fresh`, a first reading after
 * power-up is thrown away. */
void pintle_station_some(struct pintle_station *station, const uint8_t *chosen, bool fresh);

/* Likewise one. */
enum pintle_status pintle_station_read(struct pintle_station *station, unsigned index, bool fresh);

/* A channel's last reading with no more of its correction than what comes in front of a stage of
 * this kind. */
struct pintle_reading pintle_station_before(const struct pintle_station *station, unsigned index,
                                            unsigned channel, enum pintle_stage_kind kind);

/* The standard uncertainty of a channel's last reading, base unit: from the part's accuracy at this
 * setting and its count, or from its correction; of what is made of others from theirs. NaN: nobody
 * knows. */
double pintle_station_uncertainty(const struct pintle_station *station, unsigned index,
                                  unsigned channel);

/* A chip's serial number as text. NO_ABILITY: it has none that it says; else a bus status. A
 * measurement under way is lost. */
PINTLE_MUST_CHECK enum pintle_status pintle_station_serial(struct pintle_station *station,
                                                           unsigned index,
                                                           char serial[PINTLE_SERIAL_TEXT]);

/* A sample that was measured by other means, a burst: correct it, and turn its axes. */
void pintle_station_correct(const struct pintle_station *station, unsigned index,
                            struct pintle_sample *sample);

/* The wall clock, UTC microseconds since 1970; where the port has none, or it was never set, the
 * time that the port's own clock has run. */
int64_t pintle_station_now(const struct pintle_station *station);

/* Is it the wall clock that pintle_station_now says? */
bool pintle_station_knows_time(const struct pintle_station *station);

PINTLE_C_END

#endif
