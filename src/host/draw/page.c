#include "host/draw/page.h"

#include <glib.h>
#include <string.h>

#include "pintle/host/draw/draw.h"

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

/* PLplot ends the program where it cannot write: so there is a file already. */
bool pintle_priv_page_begin(struct pintle_output *page, const char *path, int height,
                            const PLINT *reds, const PLINT *greens, const PLINT *blues,
                            PLINT colours, struct pintle_problem *problem)
{
    bool svg = g_str_has_suffix(path, ".svg");
    if (!svg && !g_str_has_suffix(path, ".png")) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "%s: a drawing's file name ends in .png or .svg", path);
    }
    if (!pintle_output_open(page, path, problem)) {
        return false;
    }
    plsdev(svg ? "svgcairo" : "pngcairo");
    plsfnam(page->beside ? page->beside : page->path);
    plspage(0, 0, PAGE_WIDTH, height, 0, 0);
    plscmap0(reds, greens, blues, colours);
    plinit();
    plfontld(1);
    plsfont(PL_FCI_SANS, -1, -1);
    keep_sizes(height);
    return true;
}

/* PLplot doesn't say that a disk is full. Does it end as such files do? */
static bool is_whole(const struct pintle_output *page)
{
    static const char png[] = "IEND\xae\x42\x60\x82";
    gchar *bytes = NULL;
    gsize length = 0;
    if (!page->beside) {
        return true;
    }
    bool svg = g_str_has_suffix(page->path, ".svg");
    const char *end = svg ? "</svg>" : png;
    bool whole = g_file_get_contents(page->beside, &bytes, &length, NULL);
    while (whole && length > 0 && g_ascii_isspace(bytes[length - 1])) {
        length--;
    }
    whole = whole && length > strlen(end)
            && memcmp(bytes + length - strlen(end), end, strlen(end)) == 0;
    g_free(bytes);
    return whole;
}

bool pintle_priv_page_end(struct pintle_output *page, struct pintle_problem *problem)
{
    plend();
    bool whole = is_whole(page)
                 || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                       "cannot write %s: the drawing was cut off; make room or "
                                       "name another folder",
                                       page->path);
    return pintle_output_close(page, whole, problem);
}

bool pintle_draw_can(void)
{
    return true;
}
