/* What people say of a run: its title, notes with a time. */
#ifndef PINTLE_PRIV_RUN_NOTE_H
#define PINTLE_PRIV_RUN_NOTE_H

#include <stdint.h>

#include "host/run/database.h"

#define PINTLE_NOTES_FILE "notes.csv"
#define PINTLE_NOTES_HEADER "time,what,text\r\n"

/* Append one to a run's folder, or to a database; on the disk when it returns. */
bool pintle_priv_note_folder(const char *path, int64_t time_us, bool title, const char *text,
                             struct pintle_problem *problem);
bool pintle_priv_note_base(sqlite3 *db, const char *path, unsigned run, int64_t time_us, bool title,
                           const char *text, struct pintle_problem *problem);

#endif
