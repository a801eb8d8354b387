/* host/keep/calibration.h: corrections that were found by calibrating, kept in a file beside the
 * rig.
 *
 * One JSON file per rig, one entry per channel: the sensor's identity (name, part, bus, address),
 * method, date, coefficients, residual, uncertainty and the pairs they were fitted to. A later
 * calibration of a channel takes the place of the earlier one, which stays in the file's "earlier".
 */
#ifndef PINTLE_HOST_KEEP_CALIBRATION_H
#define PINTLE_HOST_KEEP_CALIBRATION_H

#include "pintle/host/rig/rig.h"

enum pintle_method { PINTLE_METHOD_OFFSET, PINTLE_METHOD_LINE };

struct pintle_pair {
    double sensor;    /* the sensor's value with no correction, base unit */
    double reference; /* base unit */
};

struct pintle_calibration {
    enum pintle_method method;
    struct pintle_line line;
    double residual;           /* standard deviation of the residuals */
    double uncertainty;        /* standard uncertainty of the corrected value, at the middle */
    struct pintle_pair *pairs; /* the caller's */
    unsigned pair_count;
};

/* Fit `calibration->pairs` by its method and fill in the rest. */
bool pintle_calibration_fit(struct pintle_calibration *calibration, struct pintle_problem *problem);

/* What speaks against a fit, as a clause to be freed with pintle_host_free: it turns the sensor
 * upside down, moves values far beyond what the data sheet allows for, or is a line through pairs
 * next to each other. Null: nothing does. */
char *pintle_calibration_doubt(const struct pintle_sheet *sheet, unsigned channel,
                               enum pintle_unit in, const struct pintle_calibration *calibration);

/* Read pairs from a CSV file: two columns, sensor and reference, with a comma, a semicolon or a tab
 * between; a first line of words is a heading. Null on failure; to be freed with pintle_host_free.
 */
struct pintle_pair *pintle_calibration_pairs(const char *path, unsigned *count,
                                             struct pintle_problem *problem);

/* How many pairs the correction was fitted to that is kept for this channel; 0: none is. */
unsigned pintle_calibration_kept(const struct pintle_rig *rig, unsigned sensor, unsigned channel);

/* The calibration file's path, to be freed with pintle_host_free. */
char *pintle_calibration_path(const struct pintle_rig *rig);

/* Keep a calibration of channel `channel` of sensor `sensor`, dated `utc_us`. The file is replaced
 * whole or not at all. */
bool pintle_calibration_keep(const struct pintle_rig *rig, unsigned sensor, unsigned channel,
                             const struct pintle_calibration *calibration, int64_t utc_us,
                             struct pintle_problem *problem);

/* Put every kept correction into the rig. No file is no failure. Entries that name a sensor which
 * the rig doesn't have any more, or has as another part, are passed over; `remark` (may be null)
 * is called with a sentence for each. */
bool pintle_calibration_load(struct pintle_rig *rig, void (*remark)(const char *sentence),
                             struct pintle_problem *problem);

#endif
