/* A page to draw on: 1280x800, PNG or SVG by the file's ending. */
#ifndef PINTLE_PRIV_DRAW_PAGE_H
#define PINTLE_PRIV_DRAW_PAGE_H

#include <plplot/plplot.h>

#include "pintle/host/base/problem.h"

/* Begin a page with these colours; end it with plend. */
bool pintle_priv_page_begin(const char *path, const PLINT *reds, const PLINT *greens,
                            const PLINT *blues, PLINT colours, struct pintle_problem *problem);

#endif
