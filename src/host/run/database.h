/* The database that runs are logged into: SQLite, docs/runs.md. */
#ifndef PINTLE_PRIV_RUN_DATABASE_H
#define PINTLE_PRIV_RUN_DATABASE_H

#include <sqlite3.h>

#include "pintle/host/base/problem.h"

/* Open it for writing; it is made where there is none. Null: the problem says why. */
sqlite3 *pintle_priv_database_make(const char *path, struct pintle_problem *problem);

/* Open it for reading, also where nothing may be written. */
sqlite3 *pintle_priv_database_open(const char *path, struct pintle_problem *problem);

/* Run statements that answer nothing. */
bool pintle_priv_database_do(sqlite3 *db, const char *path, const char *sql,
                             struct pintle_problem *problem);

/* The statement made of a printf-style text with SQLite's own %d, %Q and %w. */
sqlite3_stmt *pintle_priv_database_ask(sqlite3 *db, const char *path,
                                       struct pintle_problem *problem, const char *sql, ...);

/* Step a statement that answers nothing, and be done with it. */
bool pintle_priv_database_finish(sqlite3_stmt *statement, const char *path,
                                 struct pintle_problem *problem);

/* What SQLite says went wrong last, as the problem. False. */
bool pintle_priv_database_failed(sqlite3 *db, const char *path, struct pintle_problem *problem);

#endif
