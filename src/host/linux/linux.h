/* What the files of the Linux platform share. */
#ifndef PINTLE_PRIV_HOST_LINUX_H
#define PINTLE_PRIV_HOST_LINUX_H

#include "pintle/host/live/station.h"

/* See pintle_platform.offers. */
char *pintle_priv_linux_offers(struct pintle_problem *problem);

extern const struct pintle_board_lines pintle_priv_linux_lines;

#endif
