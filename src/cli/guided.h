/* What the files that lead somebody through a calibration share: a live stream, looked at between
 * lines that somebody types. */
#ifndef PINTLE_CLI_GUIDED_H
#define PINTLE_CLI_GUIDED_H

#include "cli/calibrate.h"

/* By the port's own clock. */
int64_t cli_now_us(const struct subject *subject);

/* The wanted channels in front of this correction. Returns what speaks against them. */
uint16_t cli_measure(struct subject *subject, float values[3]);

/* Why nothing good comes, as the problem. False. */
bool cli_no_reading(const struct subject *subject, pintle_marks quality,
                    struct pintle_problem *problem);

/* Time until the next measurement passes. */
void cli_pace(struct subject *subject, int64_t *next_us);

/* Each measurement, and each line that is typed. They return 1: done, 0: go on, -1: over. */
typedef int take_one(struct subject *s, void *own, const float values[3], bool good);
typedef int take_line(struct subject *s, void *own, const char *line);

/* Measure until it is done, the time of --for is over, or somebody leaves. */
bool cli_stream(struct subject *s, take_one *take, take_line *listen, void *own,
                struct pintle_problem *problem);

#endif
