#include "pintle/host/watch/dots.h"

#include <glib.h>
#include <math.h>
#include <stddef.h>

void pintle_dots_init(struct pintle_dots *dots, unsigned columns, unsigned rows)
{
    *dots = (struct pintle_dots){ columns, rows, g_new0(uint8_t, (gsize)columns * rows + 1) };
}

void pintle_dots_free(struct pintle_dots *dots)
{
    g_free(dots->cell);
    *dots = (struct pintle_dots){ 0 };
}

void pintle_dots_set(struct pintle_dots *dots, int x, int y)
{
    /* dot numbers of a pattern, by row and column */
    static const uint8_t bits[4][2] = {
        { 0x01, 0x08 }, { 0x02, 0x10 }, { 0x04, 0x20 }, { 0x40, 0x80 }
    };
    if (x >= 0 && y >= 0 && x < (int)dots->columns * 2 && y < (int)dots->rows * 4) {
        dots->cell[(unsigned)y / 4 * dots->columns + (unsigned)x / 2] |= bits[y % 4][x % 2];
    }
}

void pintle_dots_line(struct pintle_dots *dots, double x0, double y0, double x1, double y1)
{
    double far = fmax(fmax(fabs(x1 - x0), fabs(y1 - y0)), 1);
    if (!(far < 1e5) || !isfinite(x0 + y0 + x1 + y1)) {
        return;
    }
    for (int i = 0; i <= (int)ceil(far); i++) {
        double share = i / ceil(far);
        pintle_dots_set(dots, (int)lround(x0 + share * (x1 - x0)),
                        (int)lround(y0 + share * (y1 - y0)));
    }
}

void pintle_dots_trail(struct pintle_dots *dots, const struct pintle_trail *trail, double since,
                       double low, double high, double gap)
{
    double wide = (double)dots->columns * 2 - 1;
    double tall = (double)dots->rows * 4 - 1;
    double span = fmax(trail->last.time - since, 1e-9);
    const struct pintle_trail_point *before = NULL;
    double x0 = 0;
    double y0 = 0;
    for (unsigned i = 0; i < trail->used; i++) {
        const struct pintle_trail_point *p = pintle_trail_at(trail, i);
        if (!p->good || p->time < since) {
            before = NULL;
            continue;
        }
        double x = (p->time - since) / span * wide;
        double y = tall * (1 - (p->value - low) / (high - low));
        bool joined = before && p->time - before->time <= gap;
        pintle_dots_line(dots, joined ? x0 : x, joined ? y0 : y, x, y);
        before = p;
        x0 = x;
        y0 = y;
    }
}

void pintle_dots_text(uint8_t cell, bool braille, char text[4])
{
    bool upper = cell & 0x1b;
    bool lower = cell & 0xe4;
    if (braille && cell) { /* U+2800 + cell */
        text[0] = (char)0xe2;
        text[1] = (char)(0xa0 + (cell >> 6));
        text[2] = (char)(0x80 + (cell & 0x3f));
        text[3] = '\0';
        return;
    }
    text[0] = upper && lower ? ':' : upper ? '\'' : lower ? '.' : ' ';
    text[1] = '\0';
}

/* Corners, in tenths of half the width, y up from the water; drawn one after the other. */
struct corner {
    double x, y;
};
static const struct corner astern[] = { { 0, 9 },       { 0, 1.5 },  { -4, 1.5 },   { -3.4, -0.8 },
                                        { -0.8, -2.4 }, { 0, -4.2 }, { 0.8, -2.4 }, { 3.4, -0.8 },
                                        { 4, 1.5 },     { 0, 1.5 } };
static const struct corner starboard[] = { { 0.5, 9 },  { 0.5, 1.2 }, { -7, 1.2 }, { -6, -1 },
                                           { -2, -2 },  { -1.5, -4 }, { 1.5, -4 }, { 3, -2 },
                                           { 6, -0.6 }, { 8.5, 1.8 }, { 0.5, 1.2 } };

void pintle_dots_hull(struct pintle_dots *dots, double degrees, bool from_astern)
{
    const struct corner *corner = from_astern ? astern : starboard;
    size_t count = from_astern ? G_N_ELEMENTS(astern) : G_N_ELEMENTS(starboard);
    double middle_x = dots->columns;
    double middle_y = dots->rows * 4 * 0.64;
    double unit = fmin(dots->columns / 10.0, dots->rows * 4 / 15.0);
    /* Astern, to starboard is to the right and clockwise; abeam, the bow is to the right and up. */
    double angle = (from_astern ? degrees : -degrees) * G_PI / 180;
    for (size_t i = 0; i < count; i++) {
        const struct corner *a = &corner[i];
        const struct corner *b = &corner[MIN(i + 1, count - 1)];
        pintle_dots_line(dots, middle_x + unit * (a->x * cos(angle) + a->y * sin(angle)),
                         middle_y - unit * (a->y * cos(angle) - a->x * sin(angle)),
                         middle_x + unit * (b->x * cos(angle) + b->y * sin(angle)),
                         middle_y - unit * (b->y * cos(angle) - b->x * sin(angle)));
    }
    for (int x = 0; x < (int)dots->columns * 2; x += 3) { /* the water */
        pintle_dots_set(dots, x, (int)middle_y);
    }
}
