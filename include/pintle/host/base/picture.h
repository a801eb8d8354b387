/* host/base/picture.h: pictures of one bit a dot, in PBM files (plain, P1, or raw, P4).
 */
#ifndef PINTLE_HOST_BASE_PICTURE_H
#define PINTLE_HOST_BASE_PICTURE_H

#include <stdint.h>

#include "pintle/config.h"
#include "pintle/host/base/problem.h"

PINTLE_C_BEGIN

struct pintle_picture {
    unsigned width, height;
    uint8_t *dot; /* row after row, 1 is dark */
};

/* Read a file. False with the problem set: it cannot be read, or is no PBM of up to 4096 x 4096. */
bool pintle_picture_load(const char *path, struct pintle_picture *picture,
                         struct pintle_problem *problem);

/* Write it, as raw PBM. */
bool pintle_picture_save(const char *path, const struct pintle_picture *picture,
                         struct pintle_problem *problem);
void pintle_picture_free(struct pintle_picture *picture);

PINTLE_C_END

#endif
