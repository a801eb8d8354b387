/* A page to draw on: 1280 wide, 800 high where that is enough; PNG or SVG by the file's ending. */
#ifndef PINTLE_PRIV_DRAW_PAGE_H
#define PINTLE_PRIV_DRAW_PAGE_H

#include <plplot/plplot.h>

#include "pintle/host/base/output.h"

#define PAGE_WIDTH 1280
#define PAGE_HEIGHT 800

/* Begin a page with these colours. */
bool pintle_priv_page_begin(struct pintle_output *page, const char *path, int height,
                            const PLINT *reds, const PLINT *greens, const PLINT *blues,
                            PLINT colours, struct pintle_problem *problem);

/* End it: it has its name now. False: it couldn't be written. */
bool pintle_priv_page_end(struct pintle_output *page, struct pintle_problem *problem);

/* Text at a place of the window, as it is: '#' too, which means more to PLplot. `just`: 0 to the
 * right of it, 1 to the left. */
void pintle_priv_page_text(double x, double y, double just, const char *text);

/* A size on a page of the usual height to what it is on one of this. */
double pintle_priv_page_factor(int height);

#endif
