/* host/trace/trace.h: the conversation on the buses, recorded edge by edge.
 *
 * A trace is attached to a station whose lines can be watched and fills while the station is used.
 * Afterwards it can be told as text, with register names beside the bytes, written as a waveform
 * file (VCD, IEEE 1364) or drawn. All three come from the same edges; what is said of them is
 * decoded from the edges and not taken from the master.
 */
#ifndef PINTLE_HOST_TRACE_TRACE_H
#define PINTLE_HOST_TRACE_TRACE_H

#include "pintle/host/live/station.h"

PINTLE_C_BEGIN

#define PINTLE_TRACE_MAX 2000000 /* edges; more are counted and not kept */

struct pintle_edge {
    uint64_t at_ns; /* since the clock began */
    uint16_t bus;
    uint8_t line; /* enum pintle_wire_name, select lines counted from SELECT on */
    uint8_t level;
};

struct pintle_trace {
    struct pintle_edge *edge;
    unsigned count;
    unsigned room;
    unsigned lost;
    struct pintle_trace_hook {
        struct pintle_trace *trace;
        uint16_t bus;
    } * hook; /* of each bus */
};

/* Begin to record a station's buses; its platform must be able to listen. */
void pintle_trace_attach(struct pintle_trace *trace, struct pintle_station *station);
void pintle_trace_free(struct pintle_trace *trace);

/* Do a transfer that somebody has typed: a bus, a place (I2C: a 7-bit address; SPI: a select pin;
 * 1-Wire: a code or nothing; serial: nothing), a colon and steps with commas between, in the words
 * that describe a part's (docs/rig-file.md): "aft 0x48: read TEMPERATURE 2". `read`, `write` and
 * `command` go the way of the rig's sensor at that place; `send` BYTES and `fetch` COUNT next to
 * each other are one transfer. `status` is the first that failed. False: it is none, and nothing
 * was done. */
bool pintle_trace_typed(struct pintle_station *station, const char *text,
                        enum pintle_status *status, struct pintle_problem *problem);

/* The level of a bus's line before anybody has moved it: SPI's data and clock begin low. */
uint8_t pintle_trace_at_first(const struct pintle_rig_bus *bus, unsigned line);

/* What the edges say. START is I2C's, an SPI select going low, a 1-Wire reset, or on a serial line
 * the first byte of what is said in one go. */
enum pintle_item_kind {
    PINTLE_ITEM_START,
    PINTLE_ITEM_BYTE,
    PINTLE_ITEM_CODE, /* 1-Wire: what a search has found */
    PINTLE_ITEM_STOP
};

struct pintle_item {
    uint64_t at_ns; /* a byte's: its last clock or slot */
    uint16_t bus;
    uint8_t kind;
    uint8_t value;        /* of a byte; SPI: to the chip; of an SPI START: the select line */
    uint8_t answer;       /* SPI: from the chip; serial: the chip says it */
    uint8_t acknowledged; /* I2C; of a 1-Wire reset: presence was shown; SPI: it is a command */
    uint8_t code[8];
};

/* Decode the edges; *items is to be freed with pintle_host_free. Returns how many. */
unsigned pintle_trace_items(const struct pintle_trace *trace, const struct pintle_rig *rig,
                            struct pintle_item **items);

/* The trace as text, a line per stretch in one direction; to be freed with pintle_host_free. */
char *pintle_trace_text(const struct pintle_trace *trace, const struct pintle_rig *rig);

/* Write the trace as a waveform file. */
bool pintle_trace_vcd(const struct pintle_trace *trace, const struct pintle_rig *rig,
                      const char *path, struct pintle_problem *problem);

PINTLE_C_END

#endif
