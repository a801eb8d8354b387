#include "host/draw/page.h"

#include <errno.h>
#include <glib.h>
#include <stdio.h>

#include "host/base/files.h"
#include "pintle/host/draw/draw.h"

/* PLplot ends the program where it cannot write, so that is tried first. */
static bool can_write(const char *path, struct pintle_problem *problem)
{
    FILE *file = fopen(path, "wb");
    if (!file) {
        return pintle_priv_files_unwritable(path, errno, problem);
    }
    fclose(file);
    return true;
}

void pintle_priv_page_text(double x, double y, double just, const char *text)
{
    char **parts = g_strsplit(text, "#", -1);
    char *plain = g_strjoinv("##", parts);
    plptex(x, y, 1, 0, just, plain);
    g_free(plain);
    g_strfreev(parts);
}

double pintle_priv_page_factor(int height)
{
    return (double)(PAGE_WIDTH + PAGE_HEIGHT) / (PAGE_WIDTH + height);
}

/* Text, ticks and symbols grow with both sides of a page: back to what they are on a usual one. */
static void keep_sizes(int height)
{
    double factor = pintle_priv_page_factor(height);
    PLFLT size = 0;
    PLFLT now = 0;
    plgchr(&size, &now);
    plschr(size * factor, 1);
    plsmaj(0, factor);
    plsmin(0, factor);
    plssym(0, factor);
}

bool pintle_priv_page_begin(const char *path, int height, const PLINT *reds, const PLINT *greens,
                            const PLINT *blues, PLINT colours, struct pintle_problem *problem)
{
    bool svg = g_str_has_suffix(path, ".svg");
    if (!svg && !g_str_has_suffix(path, ".png")) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "%s: a drawing's file name ends in .png or .svg", path);
    }
    if (!can_write(path, problem)) {
        return false;
    }
    plsdev(svg ? "svgcairo" : "pngcairo");
    plsfnam(path);
    plspage(0, 0, PAGE_WIDTH, height, 0, 0);
    plscmap0(reds, greens, blues, colours);
    plinit();
    plfontld(1);
    plsfont(PL_FCI_SANS, -1, -1);
    keep_sizes(height);
    return true;
}

bool pintle_draw_can(void)
{
    return true;
}
