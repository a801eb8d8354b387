/* host/watch/course.h: all that a channel did, however long, in few points.
 */
#ifndef PINTLE_HOST_WATCH_COURSE_H
#define PINTLE_HOST_WATCH_COURSE_H

#include <stdbool.h>
#include <stdint.h>

#include "pintle/reading.h"

PINTLE_C_BEGIN

/* Each point stands for the next `stride` readings: it has the first one's value, and is suspect if
 * one of them is, so that none is lost to view. The last one may still be filled. */
struct pintle_course {
    struct pintle_reading last; /* as it was read */
    struct pintle_reading *point;
    unsigned room, used;
    uint64_t seen, stride;
};

/* `room` points at most, an even number; when they are used up, two by two become one. */
void pintle_course_init(struct pintle_course *course, unsigned room);
void pintle_course_free(struct pintle_course *course);
void pintle_course_add(struct pintle_course *course, double value, bool good);

PINTLE_C_END

#endif
