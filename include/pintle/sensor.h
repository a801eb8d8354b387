/* sensor.h: one part, wired to a bus.
 *
 * In this order: pintle_sensor_on_i2c, _on_spi, _on_onewire or _on_stream; pintle_sensor_set for
 * each setting that differs from the part's initial one; then, for every measurement, either
 * pintle_sensor_read, which blocks, or
 *
 *     pintle_sensor_start      begins, and says when to come back
 *     pintle_sensor_collect    NOT_READY until the data are there
 *
 * On a shared bus (claims) a part with one register for all its results (PINTLE_PART_KEEPS)
 * measures in pintle_sensor_collect, and waits there.
 *
 * The first measurement also proves the identity, reads the trim and applies the settings. After
 * a failure the next start does so again: a chip that was unplugged, or lost its supply, is set up
 * afresh when it comes back, with nothing for the caller to do. A value that looks as after
 * power-up is not taken for one: the chip is proven and set up again and measured once more, within
 * the same measurement, which then takes that much longer.
 *
 * The caller owns every object. A sensor object may not be shared between threads or with an
 * interrupt; a bus may, where its port has claims (port.h).
 */
#ifndef PINTLE_SENSOR_H
#define PINTLE_SENSOR_H

#include "pintle/part.h"
#include "pintle/port.h"

PINTLE_C_BEGIN

/* Which chip on its bus. */
union pintle_place {
    uint8_t address; /* I2C, 7 bits */
    uint8_t select;  /* SPI, which select line */
    uint8_t code[8]; /* 1-Wire: family, serial number, CRC, as they come */
};

/* Public so that it can be static; only pintle_sensor_* touches the members. */
struct pintle_sensor {
    const struct pintle_part *part;
    union {
        struct pintle_i2c *i2c;
        struct pintle_spi *spi;
        struct pintle_onewire *onewire;
        struct pintle_stream *stream;
    } bus;
    const struct pintle_clock *clock;
    uint8_t *trim;
    const float *numbers;
    const struct pintle_step *at; /* the step to run next */
    uint64_t ready_us;            /* no sooner than this */
    uint32_t limit_us;            /* low bits of the end of a poll; 0: none is under way */
    union pintle_place place;
    uint16_t idle; /* inputs that nobody asks for */
    uint8_t phase;
    uint8_t raw_used;
    uint8_t trim_used;
    uint8_t flags;
    uint8_t status; /* of the last start */
    uint8_t upsets; /* of the bus, when it was set up */
    uint8_t settings[PINTLE_SETTINGS_MAX];
};

/* Prepare a sensor; no traffic. `part` is a table; `trim` has the part's trim_size bytes and may
 * be null where that is 0. All must outlive the sensor.
 * WRONG_BUS: the part speaks on another kind of bus. WRONG_PLACE: it cannot have this address; the
 * 1-Wire code is of another family, or its CRC is wrong. NO_ROOM: it has trim and `trim` is null,
 * or it needs more than the options of config.h leave. NO_CLOCK: `clock` is null. BAD_ARGUMENT: a
 * program in the part's tables has no end. A sensor that was not made cannot be used. */
#define pintle_sensor_on_i2c PINTLE_SIZED(pintle_sensor_on_i2c)
#define pintle_sensor_on_spi PINTLE_SIZED(pintle_sensor_on_spi)
#define pintle_sensor_on_onewire PINTLE_SIZED(pintle_sensor_on_onewire)
#define pintle_sensor_on_stream PINTLE_SIZED(pintle_sensor_on_stream)
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_on_i2c(struct pintle_sensor *sensor,
                                                          const struct pintle_part *part,
                                                          struct pintle_i2c *bus,
                                                          const struct pintle_clock *clock,
                                                          uint8_t address, uint8_t *trim);
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_on_spi(struct pintle_sensor *sensor,
                                                          const struct pintle_part *part,
                                                          struct pintle_spi *bus,
                                                          const struct pintle_clock *clock,
                                                          uint8_t select, uint8_t *trim);
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_on_onewire(struct pintle_sensor *sensor,
                                                              const struct pintle_part *part,
                                                              struct pintle_onewire *line,
                                                              const struct pintle_clock *clock,
                                                              const uint8_t code[8], uint8_t *trim);

PINTLE_MUST_CHECK enum pintle_status pintle_sensor_on_stream(struct pintle_sensor *sensor,
                                                             const struct pintle_part *part,
                                                             struct pintle_stream *stream,
                                                             const struct pintle_clock *clock,
                                                             uint8_t *trim);

/* Choose option `option` of setting `setting`, by the enumerations of the part's own header; it
 * takes effect with the next start. A measurement under way ends: its collect says NOT_STARTED.
 * BAD_ARGUMENT: the part has no such setting or option. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_set(struct pintle_sensor *sensor,
                                                       unsigned setting, unsigned option);

/* The numbers of what the part is wired to, one for each of the part's, instead of its initial
 * ones. They must outlive the sensor. OUT_OF_RANGE: one is beyond its limits, and nothing was
 * changed. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_numbers(struct pintle_sensor *sensor,
                                                           const float *numbers);

/* Of a part that converts its inputs one by one: measure only the channels in this set (bit n for
 * channel n; 0: all) from the next start on. The others are marked IDLE. A measurement under way
 * ends, as with pintle_sensor_set. BAD_ARGUMENT: the part has no such channel, and nothing was
 * changed. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_ask(struct pintle_sensor *sensor,
                                                       uint32_t channels);

/* Let the sensor choose its range by itself (on 1), or leave it where it is (0). A reading that is
 * too coarse or at an end of the scale is thrown away and measured once more, up to the end of the
 * part's ladder, within one measurement. UNSUPPORTED: the part has no ladder. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_auto(struct pintle_sensor *sensor, uint8_t on);

/* Save current until the next measurement, which sets the chip up again and takes that much longer.
 * A measurement under way ends. UNSUPPORTED: the part rests by itself, or cannot. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_rest(struct pintle_sensor *sensor);

/* Check that the expected part answers. WRONG_IDENTITY, BAD_CRC or a bus status when it does not.
 * Waits where another chip on the same 1-Wire line is being powered. A measurement under way ends.
 */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_prove(struct pintle_sensor *sensor);

/* Begin a measurement. On OK see pintle_sensor_wait_us. On a failure no sample was touched: the
 * next collect says the same status and marks the caller's. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_start(struct pintle_sensor *sensor);

/* Microseconds until pintle_sensor_collect is worth calling; 0: now. */
uint32_t pintle_sensor_wait_us(const struct pintle_sensor *sensor);

/* Fetch the measurement that was started. NOT_READY: call again after pintle_sensor_wait_us.
 * On any other failure `sample` has every channel marked PINTLE_QUALITY_BUS, and the measurement
 * is over. NOT_STARTED: none was started, or it was fetched already; `sample` is as it was. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_collect(struct pintle_sensor *sensor,
                                                           struct pintle_sample *sample);

/* Bit n: channel n of this sample, the sensor's last, looks as after power-up, though it looked so
 * when it was measured once more, too, and is therefore good. */
uint32_t pintle_sensor_unsure(const struct pintle_sensor *sensor,
                              const struct pintle_sample *sample);

/* start, sleep and collect in one: blocks for the conversion time. CLOCK_STOPPED: the port's clock
 * does not move although it was asked to sleep, or went back meanwhile. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_read(struct pintle_sensor *sensor,
                                                        struct pintle_sample *sample);

/* A sensor's place in a round. */
struct pintle_turn {
    struct pintle_sensor *sensor;
    struct pintle_sample sample;
    enum pintle_status status; /* of the last round */
};

/* Measure all `count` sensors at once: start every one, then collect each as it gets ready, so
 * that a round takes as long as the slowest conversion and not their sum. Blocks. All turns must
 * share one clock. Returns how many failed; each turn's status says how. */
size_t pintle_round(struct pintle_turn *turns, size_t count);

/* The same in pieces, for those who wait themselves. Start every sensor; collect what is ready,
 * again and again: microseconds until that is worth it once more, UINT32_MAX when the round is
 * over; then end it. Ended before, what is not there yet is marked, CLOCK_STOPPED. */
void pintle_round_start(struct pintle_turn *turns, size_t count);
uint32_t pintle_round_collect(struct pintle_turn *turns, size_t count);
size_t pintle_round_end(struct pintle_turn *turns, size_t count);

PINTLE_C_END

#endif
