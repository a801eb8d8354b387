/* host/base/output.h: files that are written because somebody named them.
 *
 * Such a file is written beside its name and moved there when it is whole; so a full disk, or a
 * program that ends, leaves what was there before. A file that this program was given (a rig,
 * its world, a calibration) is never written over.
 */
#ifndef PINTLE_HOST_BASE_OUTPUT_H
#define PINTLE_HOST_BASE_OUTPUT_H

#include <stdbool.h>
#include <stdio.h>

#include "pintle/host/base/problem.h"

PINTLE_C_BEGIN

struct pintle_output {
    FILE *file;
    char *path, *beside; /* beside: null where it is no plain file, as /dev/stdout */
};

/* May a file of this name be written? False, with the problem set: it is one of the inputs. */
bool pintle_output_may(const char *path, struct pintle_problem *problem);

/* Begin one. False: it can't be, and the problem says why. */
bool pintle_output_open(struct pintle_output *output, const char *path,
                        struct pintle_problem *problem);

/* End it: with `keep` it is on the disk under its name afterwards; else, or where writing failed,
 * what was there before still is. False: it isn't there, and the problem says why. */
bool pintle_output_close(struct pintle_output *output, bool keep, struct pintle_problem *problem);

PINTLE_C_END

#endif
