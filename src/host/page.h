/* A page to draw on: 1280x800, PNG or SVG by the file's ending. */
#ifndef PINTLE_HOST_PAGE_H
#define PINTLE_HOST_PAGE_H

#include <plplot/plplot.h>

#include "pintle/host/problem.h"

/* Begin a page with these colours; end it with plend. */
bool page_begin(const char *path, const PLINT *reds, const PLINT *greens, const PLINT *blues,
                PLINT colours, struct pintle_problem *problem);

#endif
