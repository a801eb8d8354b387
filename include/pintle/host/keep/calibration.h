/* host/keep/calibration.h: corrections that were found by calibrating, kept in a file beside the
 * rig.
 *
 * One JSON file per rig with every calibration there ever was, numbered: the sensor's identity
 * (name, part, bus, place), method, date, conditions, coefficients, span, residual, uncertainty,
 * the pairs they were fitted to (of very many a thousand), and what each replaced. Those in use are
 * put into the rig when it is loaded. A later one of the same kind takes the earlier one's place,
 * which stays in the file and can be taken into use again.
 */
#ifndef PINTLE_HOST_KEEP_CALIBRATION_H
#define PINTLE_HOST_KEEP_CALIBRATION_H

#include "pintle/fit.h"
#include "pintle/host/rig/rig.h"

PINTLE_C_BEGIN

/* X(NAME, "word", "what it finds") */
#define PINTLE_METHOD_LIST(X)                                                                      \
    X(OFFSET, "offset", "a constant that is added")                                                \
    X(LINE, "line", "scale and offset, by least squares")                                          \
    X(POLYNOMIAL, "polynomial", "a curve of second or third order, by least squares")              \
    X(TABLE, "table", "points, and straight lines between them")                                   \
    X(ORIENTATIONS, "orientations", "one axis up, level and down: its scale and offset")           \
    X(SIX_POSITIONS, "six-positions", "three axes: biases, scales, and what one sees of another")  \
    X(REST, "rest", "what a gyroscope says at rest")                                               \
    X(ELLIPSOID, "ellipsoid", "three axes turned freely in a field of one strength")               \
    X(THERMAL, "thermal", "how offset and scale follow a second channel")                          \
    X(HEAT, "heat", "how much of a second channel's warmth it feels")                              \
    X(TYPED, "typed", "numbers that somebody knew")

enum pintle_method {
#define PINTLE_METHOD_VALUE(name, word, finds) PINTLE_METHOD_##name,
    PINTLE_METHOD_LIST(PINTLE_METHOD_VALUE)
#undef PINTLE_METHOD_VALUE
        PINTLE_METHOD_COUNT
};

/* Its word and what it finds; null beyond the end. */
const char *pintle_method_word(enum pintle_method method);
const char *pintle_method_finds(enum pintle_method method);

struct pintle_pair {
    double sensor;    /* the sensor's value in front of this correction, base unit */
    double reference; /* base unit */
};

/* What a fit has found. Numbers that nobody knows are NaN. */
struct pintle_calibration {
    enum pintle_method method;
    uint8_t kind; /* enum pintle_stage_kind */
    uint8_t count;
    float numbers[PINTLE_STAGE_NUMBERS];
    double deviation[PINTLE_STAGE_NUMBERS]; /* the numbers' standard uncertainties */
    double lowest, highest;                 /* where it holds; both 0: anywhere */
    int second;                             /* the rig's sensor; -1: none */
    unsigned second_channel;
    double freedom;     /* degrees of it: measurements less what was fitted */
    double residual;    /* standard deviation of the residuals, with those */
    double reference;   /* standard uncertainty of what it was compared with; 0: taken for exact */
    double uncertainty; /* standard, of a corrected value in the middle, with the reference's */
    unsigned samples;
    const char *conditions;    /* in somebody's words; or null */
    const char *serial;        /* the chip's serial number; null: it has none, or nobody asked */
    struct pintle_pair *pairs; /* the caller's */
    unsigned pair_count;
};

/* Nothing found yet. */
void pintle_calibration_init(struct pintle_calibration *calibration, enum pintle_method method);

/* Where it holds: over its pairs, and at either end so much of their span more. */
#define PINTLE_SPAN_OF_LINE 0.5
#define PINTLE_SPAN_OF_CURVE 0.1
void pintle_calibration_take_span(struct pintle_calibration *calibration, double more);

/* Take what a line of the core has found; the span is that of the pairs, and half of it more at
 * either end; of an offset anywhere. */
void pintle_calibration_take_line(struct pintle_calibration *calibration,
                                  const struct pintle_fit_result *line);

/* Fit `calibration->pairs` by an offset, a line or a table (whose points are means of pairs next to
 * each other, at most 16) and fill in the rest. */
bool pintle_calibration_fit(struct pintle_calibration *calibration, struct pintle_problem *problem);

/* The reference isn't exact: put its standard uncertainty in. */
void pintle_calibration_take_reference(struct pintle_calibration *calibration, double reference);

/* The degrees of freedom of the uncertainty: the fit's, and of the reference infinitely many
 * (ISO/IEC Guide 98-3, G.4.1). */
double pintle_calibration_freedom(const struct pintle_calibration *calibration);

/* A value corrected by it; of a curve only, with no second channel and no axes. */
double pintle_calibration_correct(const struct pintle_calibration *calibration, double value);

/* What speaks against a fit, as a clause to be freed with pintle_host_free: it turns the sensor
 * upside down, moves values far beyond what the data sheet allows for, is a line through pairs next
 * to each other, or turns round within its span. Null: nothing does. */
char *pintle_calibration_doubt(const struct pintle_sheet *sheet, unsigned channel,
                               enum pintle_unit in, const struct pintle_calibration *calibration);

/* Read pairs from a CSV file: two columns, sensor and reference, with a comma, a semicolon or a tab
 * between; a first line of words is a heading. Null on failure; to be freed with pintle_host_free.
 */
struct pintle_pair *pintle_calibration_pairs(const char *path, unsigned *count,
                                             struct pintle_problem *problem);

/* --- the file --- */

/* One that is kept. */
struct pintle_entry {
    unsigned number;
    bool in_use;
    bool fits;         /* the rig has this sensor, part and place */
    unsigned replaces; /* 0: nothing */
    char *sensor, *part, *where, *channel, *unit, *date, *conditions, *second, *serial;
    unsigned sensor_index, channel_index; /* where it fits */
    struct pintle_calibration found;      /* its second is the rig's; its pairs' count alone */
};

struct pintle_entries {
    struct pintle_entry *entry;
    unsigned count;
};

/* All of a rig's, oldest first. No file is no failure. */
bool pintle_entries_load(const struct pintle_rig *rig, struct pintle_entries *entries,
                         struct pintle_problem *problem);
void pintle_entries_free(struct pintle_entries *entries);

/* Which one is in use for this channel and kind: its index; or -1. */
int pintle_entries_used(const struct pintle_entries *entries, unsigned sensor, unsigned channel,
                        enum pintle_stage_kind kind);

/* The calibration file's path, to be freed with pintle_host_free. */
char *pintle_calibration_path(const struct pintle_rig *rig);

/* Keep a calibration of channel `channel` of sensor `sensor`, dated `utc_us`, and take it into use.
 * *number, which may be null, gets its number. The file is replaced whole or not at all. */
bool pintle_calibration_keep(const struct pintle_rig *rig, unsigned sensor, unsigned channel,
                             const struct pintle_calibration *calibration, int64_t utc_us,
                             unsigned *number, struct pintle_problem *problem);

/* Take one into use again, or out of it. */
bool pintle_calibration_use(const struct pintle_rig *rig, unsigned number, bool use,
                            struct pintle_problem *problem);

/* Those in use of sensor `sensor` (-1: all) as JSON text, to be freed with pintle_host_free; and
 * add such a text's corrections to the rig's file and take them into use: *count gets how many. */
char *pintle_calibration_export(const struct pintle_rig *rig, int sensor,
                                struct pintle_problem *problem);
bool pintle_calibration_import(const struct pintle_rig *rig, const char *name, const char *text,
                               unsigned *count, struct pintle_problem *problem);

/* Likewise as constants in C, of correct.h. */
char *pintle_calibration_constants(const struct pintle_rig *rig, unsigned sensor,
                                   struct pintle_problem *problem);

/* Put every correction in use into the rig. No file is no failure. Entries that name a sensor which
 * the rig doesn't have any more, or has as another part, are passed over; `remark` (may be null)
 * is called with a sentence for each. */
bool pintle_calibration_load(struct pintle_rig *rig, void (*remark)(const char *sentence),
                             struct pintle_problem *problem);

PINTLE_C_END

#endif
