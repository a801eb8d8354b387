/* sensor.h: one part, wired to a bus.
 *
 * A sensor of a part that ships has a type of its own, sized by the part, in parts/NAME.h:
 *
 *     static struct pintle_tmp102 water;
 *     pintle_tmp102_on_i2c(&water, &bus, 0x48)                 no traffic
 *     pintle_tmp102_set_rate(&water, PINTLE_TMP102_1_HZ)       what differs from the initial option
 *     pintle_sensor_read(&water.sensor)                        blocks for a conversion
 *     water.reading[PINTLE_TMP102_TEMPERATURE].value
 *
 * All other calls take its `sensor`. Who doesn't want to wait calls, for every measurement,
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
 * The caller owns every object. A sensor object may not be copied, nor shared between threads or
 * with an interrupt; a bus may be shared, where its port has claims (port.h).
 *
 * Stable.
 */
#ifndef PINTLE_SENSOR_H
#define PINTLE_SENSOR_H

#include "pintle/part.h"
#include "pintle/port.h"
#include "pintle/reading.h"

PINTLE_C_BEGIN

/* Only pintle_sensor_* touches the members. One that was never made is a caller's mistake
 * (config.h, PINTLE_ASSERT); a copy of one still has the readings of the first. */
struct pintle_sensor {
    int64_t when_us; /* of a measurement under way: go on no sooner; else its time, 0: unknown */
    const struct pintle_part *part;
    union {
        struct pintle_bus *any;
        struct pintle_i2c *i2c;
        struct pintle_spi *spi;
        struct pintle_onewire *onewire;
        struct pintle_stream *stream;
    } bus;
    struct pintle_reading *readings;
    uint8_t *own;                 /* numbers, settings, trim, raw block, a 1-Wire chip's code */
    const struct pintle_step *at; /* the step to run next */
    uint16_t since;               /* a poll is under way, in 2048 us; 0: none */
    uint16_t idle;                /* inputs that no one asks for */
    uint8_t place;                /* I2C: the address; SPI: the select line */
    uint8_t phase;
    uint8_t raw_used;
    uint8_t trim_used;
    uint8_t flags;
    uint8_t status; /* of the last measurement */
    uint8_t upsets; /* of the bus, when it was set up */
    uint8_t errand; /* of a transfer that goes on by itself */
};

/* Where a sensor keeps what its part makes necessary. */
struct pintle_room {
    struct pintle_reading *readings; /* one for each of the part's channels */
    uint8_t *own;                    /* PINTLE_OWN bytes, aligned as a float is */
    uint8_t channels;
    uint16_t own_size;
};

/* Bytes that a sensor of a part keeps besides its readings. */
#define PINTLE_OWN(numbers, settings, trim, raw) (4 * (numbers) + (settings) + (trim) + (raw))
#define PINTLE_OWN_CODE 8 /* more of them for a 1-Wire part */

/* struct pintle_NAME: a sensor of the part pintle_NAME, with room for `count` readings, and `keeps`
 * bytes besides. pintle_NAME_room says where that is. */
#define PINTLE_SENSOR_TYPE(name, count, keeps)                                                     \
    struct pintle_##name {                                                                         \
        struct pintle_sensor sensor;                                                               \
        struct pintle_reading reading[(count) > 0 ? (count) : 1];                                  \
        union {                                                                                    \
            float aligned;                                                                         \
            uint8_t bytes[(keeps) > 0 ? (keeps) : 1];                                              \
        } own;                                                                                     \
    };                                                                                             \
    static inline struct pintle_room pintle_##name##_room(struct pintle_##name *it)                \
    {                                                                                              \
        struct pintle_room room;                                                                   \
        room.readings = it->reading;                                                               \
        room.own = it->own.bytes;                                                                  \
        room.channels = (count);                                                                   \
        room.own_size = (keeps);                                                                   \
        return room;                                                                               \
    }

/* The same with the call that prepares it: pintle_NAME_on_i2c(&it, &bus, address), _on_spi(&it,
 * &bus, select), _on_onewire(&it, &line, code), _on_stream(&it, &stream). */
#define PINTLE_I2C_SENSOR(name, channels, numbers, settings, trim, raw)                            \
    PINTLE_SENSOR_TYPE(name, channels, PINTLE_OWN(numbers, settings, trim, raw))                   \
    PINTLE_MUST_CHECK static inline enum pintle_status pintle_##name##_on_i2c(                     \
        struct pintle_##name *it, struct pintle_i2c *bus, uint8_t address)                         \
    {                                                                                              \
        struct pintle_room room = pintle_##name##_room(it);                                        \
        return pintle_sensor_on_i2c(&it->sensor, &pintle_##name, &room, bus, address);             \
    }
#define PINTLE_SPI_SENSOR(name, channels, numbers, settings, trim, raw)                            \
    PINTLE_SENSOR_TYPE(name, channels, PINTLE_OWN(numbers, settings, trim, raw))                   \
    PINTLE_MUST_CHECK static inline enum pintle_status pintle_##name##_on_spi(                     \
        struct pintle_##name *it, struct pintle_spi *bus, uint8_t select)                          \
    {                                                                                              \
        struct pintle_room room = pintle_##name##_room(it);                                        \
        return pintle_sensor_on_spi(&it->sensor, &pintle_##name, &room, bus, select);              \
    }
#define PINTLE_ONEWIRE_SENSOR(name, channels, numbers, settings, trim, raw)                        \
    PINTLE_SENSOR_TYPE(name, channels, PINTLE_OWN(numbers, settings, trim, raw) + PINTLE_OWN_CODE) \
    PINTLE_MUST_CHECK static inline enum pintle_status pintle_##name##_on_onewire(                 \
        struct pintle_##name *it, struct pintle_onewire *line, const uint8_t code[8])              \
    {                                                                                              \
        struct pintle_room room = pintle_##name##_room(it);                                        \
        return pintle_sensor_on_onewire(&it->sensor, &pintle_##name, &room, line, code);           \
    }
#define PINTLE_STREAM_SENSOR(name, channels, numbers, settings, trim, raw)                         \
    PINTLE_SENSOR_TYPE(name, channels, PINTLE_OWN(numbers, settings, trim, raw))                   \
    PINTLE_MUST_CHECK static inline enum pintle_status pintle_##name##_on_stream(                  \
        struct pintle_##name *it, struct pintle_stream *stream)                                    \
    {                                                                                              \
        struct pintle_room room = pintle_##name##_room(it);                                        \
        return pintle_sensor_on_stream(&it->sensor, &pintle_##name, &room, stream);                \
    }

/* pintle_NAME_set_SETTING: pintle_sensor_set with an option of that setting and no other, so that
 * the compiler says where an option, or a sensor, is another part's. */
#define PINTLE_SETTER(name, setting, number, type)                                                 \
    PINTLE_MUST_CHECK static inline enum pintle_status pintle_##name##_set_##setting(              \
        struct pintle_##name *it, enum pintle_##type option)                                       \
    {                                                                                              \
        return pintle_sensor_set(&it->sensor, (unsigned)(number), (unsigned)option);               \
    }

/* A program and a library of which one was built with PINTLE_WHOLE and the other without don't
 * link.
 */
#if PINTLE_WHOLE
#define pintle_sensor_on_i2c pintle_sensor_on_i2c_whole
#define pintle_sensor_on_spi pintle_sensor_on_spi_whole
#define pintle_sensor_on_onewire pintle_sensor_on_onewire_whole
#define pintle_sensor_on_stream pintle_sensor_on_stream_whole
#endif

/* Prepare a sensor; no traffic. Its readings are marked IDLE until the first measurement. `part` is
 * a table. All but `code` must outlive the sensor. WRONG_BUS: the part speaks on another kind of
 * bus. WRONG_PLACE: it cannot have this address; the 1-Wire code is of another family, or its CRC
 * is wrong. NO_ROOM: the part needs more. NO_CLOCK: the bus has none. BAD_ARGUMENT: a program in
 * the part's tables has no end. A sensor that was not made cannot be used. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_on_i2c(struct pintle_sensor *sensor,
                                                          const struct pintle_part *part,
                                                          const struct pintle_room *room,
                                                          struct pintle_i2c *bus, uint8_t address);
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_on_spi(struct pintle_sensor *sensor,
                                                          const struct pintle_part *part,
                                                          const struct pintle_room *room,
                                                          struct pintle_spi *bus, uint8_t select);
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_on_onewire(struct pintle_sensor *sensor,
                                                              const struct pintle_part *part,
                                                              const struct pintle_room *room,
                                                              struct pintle_onewire *line,
                                                              const uint8_t code[8]);
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_on_stream(struct pintle_sensor *sensor,
                                                             const struct pintle_part *part,
                                                             const struct pintle_room *room,
                                                             struct pintle_stream *stream);

/* Choose option `option` of setting `setting`, by the enumerations of the part's own header; it
 * takes effect with the next start. A measurement under way ends: its collect says NOT_STARTED.
 * BAD_ARGUMENT: the part has no such setting or option. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_set(struct pintle_sensor *sensor,
                                                       unsigned setting, unsigned option);

/* The numbers of what the part is wired to, one for each of the part's, instead of its initial
 * ones. OUT_OF_RANGE: one is beyond its limits; BAD_ARGUMENT: the part has more or fewer; and
 * nothing was changed. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_numbers(struct pintle_sensor *sensor,
                                                           const float *numbers, uint8_t count);

/* Of a part that converts its inputs one by one: measure only the channels in this set (bit n for
 * channel n; 0: all) from the next start on. The others are marked IDLE. A measurement under way
 * ends, as with pintle_sensor_set. BAD_ARGUMENT: the part has no such channel, and nothing was
 * changed. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_ask(struct pintle_sensor *sensor,
                                                       uint32_t channels);

/* Let the sensor choose its range by itself (on 1), or leave it where it is (0). A reading that is
 * too coarse or at an end of the scale is thrown away and measured once more, up to the end of the
 * part's ladder, within one measurement. NO_ABILITY: the part has no ladder. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_auto(struct pintle_sensor *sensor, uint8_t on);

/* Save current until the next measurement, which sets the chip up again and takes that much longer.
 * A measurement under way ends. NO_ABILITY: the part rests by itself, or cannot. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_rest(struct pintle_sensor *sensor);

/* Check that the expected part answers. WRONG_IDENTITY, BAD_CRC or a bus status when it does not.
 * Waits where another chip on the same 1-Wire line is being powered. A measurement under way ends.
 */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_prove(struct pintle_sensor *sensor);

/* Begin a measurement. On OK see pintle_sensor_wait_us. On a failure every reading is marked
 * PINTLE_QUALITY_BUS, and the measurement is over. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_start(struct pintle_sensor *sensor);

/* Microseconds until pintle_sensor_collect is worth calling; 0: now. */
uint32_t pintle_sensor_wait_us(const struct pintle_sensor *sensor);

/* Fetch the measurement that was started. OK: the readings are new. NOT_READY: call again after
 * pintle_sensor_wait_us; what is in the readings meanwhile is nothing yet. On any other failure
 * every reading is marked PINTLE_QUALITY_BUS, and the measurement is over; the same is said until
 * another is started. NOT_STARTED: none was started, or it was fetched already; the readings are as
 * they were. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_collect(struct pintle_sensor *sensor);

/* start, sleep and collect in one: blocks for the conversion time. CLOCK_STOPPED: the port's clock
 * does not move although it was asked to sleep, or went back meanwhile. */
PINTLE_MUST_CHECK enum pintle_status pintle_sensor_read(struct pintle_sensor *sensor);

/* Of the last measurement: OK, or why it failed; NOT_READY: it is under way; NOT_STARTED: there was
 * none, or it was ended. */
enum pintle_status pintle_sensor_status(const struct pintle_sensor *sensor);

/* When the last measurement came: UTC, microseconds since 1970. 0: the port has no wall clock, or
 * the chip was used for something else since. */
int64_t pintle_sensor_time_us(const struct pintle_sensor *sensor);

/* What the readings were made of, for pintle_part_decode, until a setting or a number is changed or
 * the next measurement begins. Stays in the sensor. */
struct pintle_block pintle_sensor_block(const struct pintle_sensor *sensor);

/* Bit n: channel n of the last measurement looks as after power-up, though it looked so when it was
 * measured once more, too, and is therefore good. `scratch` has room for the part's channels. */
uint32_t pintle_sensor_unsure(const struct pintle_sensor *sensor, struct pintle_reading *scratch);

/* Measure all `count` sensors at once: start every one, then collect each as it gets ready, so
 * that a round takes as long as the slowest conversion and not their sum. Blocks. All must share
 * one clock. Returns how many failed; pintle_sensor_status says how. */
size_t pintle_round(struct pintle_sensor *const *sensors, size_t count);

/* The same in pieces, for those who wait themselves. Start every sensor; collect what is ready,
 * again and again: microseconds until that is worth it once more, UINT32_MAX when the round is
 * over; then end it. Ended before, what is not there yet is marked, CLOCK_STOPPED. */
void pintle_round_start(struct pintle_sensor *const *sensors, size_t count);
uint32_t pintle_round_collect(struct pintle_sensor *const *sensors, size_t count);
size_t pintle_round_end(struct pintle_sensor *const *sensors, size_t count);

PINTLE_C_END

#endif
