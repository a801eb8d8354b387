#include "pintle/host/watch/course.h"

#include <glib.h>
#include <math.h>

void pintle_course_init(struct pintle_course *course, unsigned room)
{
    *course = (struct pintle_course){ .last = { .value = NAN, .quality = PINTLE_QUALITY_BUS },
                                      .point = g_new0(struct pintle_reading, room),
                                      .room = room,
                                      .stride = 1 };
}

void pintle_course_free(struct pintle_course *course)
{
    g_free(course->point);
    *course = (struct pintle_course){ 0 };
}

static void halve(struct pintle_course *course)
{
    course->used /= 2;
    for (unsigned i = 0; i < course->used; i++) {
        struct pintle_reading both = course->point[2 * i];
        both.quality |= course->point[2 * i + 1].quality;
        course->point[i] = both;
    }
    course->stride *= 2;
}

void pintle_course_add(struct pintle_course *course, double value, bool good)
{
    course->last =
        (struct pintle_reading){ .value = (float)value, .quality = good ? 0 : PINTLE_QUALITY_BUS };
    if (course->used == course->room && course->seen % course->stride == 0) {
        halve(course);
    }
    if (course->seen++ % course->stride == 0) {
        course->point[course->used++] = course->last;
    } else {
        course->point[course->used - 1].quality |= course->last.quality;
    }
}
