/* Files, with a sentence where they fail. */
#ifndef PINTLE_PRIV_BASE_FILES_H
#define PINTLE_PRIV_BASE_FILES_H

#include <stddef.h>

#include "pintle/host/base/problem.h"

/* A whole file as text (g_free it), or null. `what` names it in the sentence ("rig file"). */
char *pintle_priv_files_read(const char *path, const char *what, struct pintle_problem *problem);

/* This file belongs to what this program has read: it is as if it were read. */
void pintle_priv_files_note(const char *path);

/* Has this program read the file that has this name now? */
bool pintle_priv_files_was_read(const char *path);

/* Write a file beside its final name, put it on the disk, then move it there: it is replaced whole
 * or stays as it was. */
bool pintle_priv_files_replace(const char *path, const char *text, struct pintle_problem *problem);

/* From reading a file to replacing it no one else changes it: wait for whoever does. Returns a
 * descriptor to close afterwards; -1 with the problem set. */
int pintle_priv_files_lock(const char *path, struct pintle_problem *problem);

/* Why writing `path` failed (an errno value), and what to do. Returns false. */
bool pintle_priv_files_unwritable(const char *path, int error, struct pintle_problem *problem);

#endif
