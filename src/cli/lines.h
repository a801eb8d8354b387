/* What the files of 'lines' share. */
#ifndef PINTLE_CLI_LINES_H
#define PINTLE_CLI_LINES_H

#include "cli/cli.h"

struct lines_options {
    char **board; /* lines of the board itself; NULL: those of a chip */
    char *length;
    gboolean wait;
    int64_t for_us;
};

/* False with the problem set. */
bool lines_of_the_board(const struct lines_options *o, struct pintle_problem *problem);

#endif
