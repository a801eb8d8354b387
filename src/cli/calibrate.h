/* What the files of 'calibrate' share. */
#ifndef PINTLE_CLI_CALIBRATE_H
#define PINTLE_CLI_CALIBRATE_H

#include <signal.h>

#include "cli/cli.h"
#include "pintle/host/adjust/guide.h"
#include "pintle/host/adjust/series.h"

struct calibrate_options {
    struct rig_options rig;
    char *method, *pairs, *against, *second, *run, *log, *lag, *settle, *length, *every, *plot;
    char *conditions, *field, *span, *worth;
    int samples, order;
    gboolean yes, robust, scale, afresh, watch;
    /* The same, understood. */
    enum pintle_method how;
    int64_t settle_us, for_us, every_us;
    double strength;        /* of gravity or of a field; 0: unknown */
    double reference;       /* standard uncertainty, base unit; 0: unknown */
    double lowest, highest; /* of --span, base unit */
};

#define FOUND_MAX 3

/* What is calibrated, what it was measured by, and what was found. */
struct subject {
    const struct calibrate_options *options;
    struct pintle_rig *rig;
    struct pintle_station *station; /* null: from a run */
    const char *name;
    struct pintle_wanted wanted;
    struct pintle_place_of second, reference; /* where wanted->second and ->reference point */
    const struct pintle_channel *about;
    enum pintle_unit unit;
    struct pintle_series series; /* what it was fitted to */
    struct pintle_pair *pairs;   /* likewise, of one channel with a reference */
    unsigned count;
    uint8_t *outlier; /* of each pair; null: nobody looked */
    struct pintle_positions positions;
    unsigned axis; /* of an accelerometer that is calibrated by its orientations */
    int64_t at_us; /* of a run its end */
    struct pintle_calibration found[FOUND_MAX]; /* of channels from wanted.of.channel on */
    unsigned found_channel[FOUND_MAX];
    unsigned found_count;
    char answer;   /* whether to keep it, where that was typed before it was asked; else 0 */
    bool declined; /* it was found and not kept */
};

/* Becomes other than 0 when somebody wants to leave. */
extern volatile sig_atomic_t cli_calibrate_stop;

/* People type and read the unit that the channel is shown in. */
double cli_calibrate_shown(const struct subject *subject, double base);
double cli_calibrate_base(const struct subject *subject, double shown);
double cli_calibrate_per_base(const struct subject *subject); /* a difference of 1 */
const char *cli_calibrate_unit(const struct subject *subject);

/* Whatever it is found from: typed pairs, a file, a run, a reference, or a person who is led. */
bool cli_calibrate_gather(struct subject *subject, char **typed, struct pintle_problem *problem);

/* From the run that the options name, what is wanted now. */
bool cli_calibrate_from_run(struct subject *subject, struct pintle_problem *problem);

/* Lead a person, or whoever sends lines, through it: pairs at settled points, positions, a free
 * turn, rest. */
bool cli_guide_points(struct subject *subject, struct pintle_problem *problem);
bool cli_guide_positions(struct subject *subject, struct pintle_problem *problem);
bool cli_guide_turn(struct subject *subject, struct pintle_problem *problem);
bool cli_guide_rest(struct subject *subject, struct pintle_problem *problem);

/* Raw and corrected side by side, live. */
bool cli_calibrate_watch(struct subject *subject, struct pintle_problem *problem);

/* Find the correction; say what was found, and draw it. */
bool cli_calibrate_fit(struct subject *subject, struct pintle_problem *problem);
void cli_calibrate_print(const struct subject *subject);
bool cli_calibrate_draw(const struct subject *subject, const char *path,
                        struct pintle_problem *problem);

/* Ask whether to keep it, and do. */
bool cli_calibrate_keep(struct subject *subject, struct pintle_problem *problem);

#endif
