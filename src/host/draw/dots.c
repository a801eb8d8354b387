/* What a small display shows, dot by dot. */
#include <glib.h>

#include "host/draw/page.h"
#include "pintle/host/draw/draw.h"

enum { PAPER, DARK, LIGHT };
static const PLINT reds[] = { 255, 35, 196 };
static const PLINT greens[] = { 255, 45, 208 };
static const PLINT blues[] = { 255, 40, 180 };

static void box(double x, double y, double wide, double tall, PLINT colour)
{
    PLFLT xs[4] = { x, x + wide, x + wide, x };
    PLFLT ys[4] = { y, y, y + tall, y + tall };
    plcol0(colour);
    plfill(4, xs, ys);
}

bool pintle_draw_dots(const struct pintle_picture *picture, const char *path,
                      struct pintle_problem *problem)
{
    struct pintle_output page;
    if (!pintle_priv_page_begin(&page, path, PAGE_HEIGHT, reds, greens, blues, G_N_ELEMENTS(reds),
                                problem)) {
        return false;
    }
    double size =
        MIN((double)PAGE_WIDTH / (picture->width + 4), (double)PAGE_HEIGHT / (picture->height + 4));
    double left = (PAGE_WIDTH - size * picture->width) / 2;
    double top = (PAGE_HEIGHT + size * picture->height) / 2;
    pladv(0);
    plvpor(0, 1, 0, 1);
    plwind(0, PAGE_WIDTH, 0, PAGE_HEIGHT);
    box(left - size, top - size * (picture->height + 1), size * (picture->width + 2),
        size * (picture->height + 2), LIGHT);
    for (unsigned i = 0; i < picture->width * picture->height; i++) {
        unsigned column = i % picture->width;
        unsigned row = i / picture->width + 1;
        if (picture->dot[i]) {
            box(left + size * column, top - size * row, size * 0.92, size * 0.92, DARK);
        }
    }
    return pintle_priv_page_end(&page, problem);
}
