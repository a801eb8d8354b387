/* Who is being written at the moment: a mark on a file that goes with whoever made it, however it
 * ends. Also of SQLite's files: its own locks are at other places, but closing any descriptor of a
 * file drops them, so a mark on a database is looked at before it is opened and let go behind. */
#ifndef PINTLE_PRIV_RUN_HELD_H
#define PINTLE_PRIV_RUN_HELD_H

#include <stdbool.h>

/* Mark run `number` of this file. Returns a descriptor to close; -1: it can't be marked. */
int pintle_priv_held_mark(const char *path, unsigned number);

/* Has somebody marked it? `file` is a descriptor of it. */
bool pintle_priv_held_is(int file, unsigned number);

#endif
