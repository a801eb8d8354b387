#include "host/run/database.h"

#include <errno.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <stdarg.h>
#include <string.h>
#include <unistd.h>

#include "host/base/files.h"

/* Of the file: that it is ours, and which version of docs/runs.md it follows. */
#define OURS 0x506e746c
#define VERSION 1
#define PATIENCE_MS 10000 /* for somebody else's record */
#define NAP_MS 10

/* Each record is on the disk before the next: a commit waits for the write-ahead log's bytes.
 * Readers see whole records and stop no one. What is deleted can be given back to the disk. */
static const char settings[] =
    "PRAGMA auto_vacuum = INCREMENTAL; PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;";

static const char schema[] =
    "CREATE TABLE IF NOT EXISTS runs (number INTEGER PRIMARY KEY, about TEXT NOT NULL, rig TEXT,"
    "  world TEXT, calibration TEXT, ended TEXT);"
    "CREATE TABLE IF NOT EXISTS counts (run INTEGER PRIMARY KEY, records INTEGER NOT NULL,"
    "  suspect INTEGER NOT NULL, missed INTEGER NOT NULL, steps INTEGER NOT NULL);"
    "CREATE TABLE IF NOT EXISTS notes (run INTEGER NOT NULL, time TEXT NOT NULL,"
    "  what TEXT NOT NULL, text TEXT NOT NULL);"
    "CREATE INDEX IF NOT EXISTS notes_of ON notes (run);"
    "CREATE TABLE IF NOT EXISTS thinned (run INTEGER NOT NULL, channel TEXT NOT NULL,"
    "  record INTEGER NOT NULL, time TEXT NOT NULL, over_s REAL NOT NULL, mean REAL, least REAL,"
    "  greatest REAL, squares REAL, good INTEGER NOT NULL, suspect INTEGER NOT NULL,"
    "  marks TEXT NOT NULL, marked INTEGER NOT NULL, PRIMARY KEY (run, record, channel)) WITHOUT "
    "ROWID;"
    "PRAGMA application_id = 1349416044; PRAGMA user_version = 1;";

bool pintle_priv_database_failed(sqlite3 *db, const char *path, struct pintle_problem *problem)
{
    int code = db ? sqlite3_errcode(db) : SQLITE_NOMEM;
    int error = db ? sqlite3_system_errno(db) : 0;
    const char *what = db ? sqlite3_errmsg(db) : "out of memory";
    switch (code & 0xff) {
    case SQLITE_FULL:
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "cannot write %s: the disk is full; make room or name another "
                                  "place; every record before is there",
                                  path);
    case SQLITE_NOTADB:
    case SQLITE_CORRUPT:
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "%s is damaged, or no database (%s); keep a copy of it, and log "
                                  "into another file",
                                  path, what);
    case SQLITE_CANTOPEN:
    case SQLITE_READONLY:
    case SQLITE_PERM:
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "cannot open %s: %s; check the path and who owns it", path,
                                  error ? g_strerror(error) : what);
    case SQLITE_BUSY:
        return pintle_problem_set(
            problem, PINTLE_FAILURE_UNABLE,
            "%s is held by somebody else for longer than %d s; end what works "
            "on it and try again",
            path, PATIENCE_MS / 1000);
    default:
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "cannot use the database %s: %s%s%s; check the disk", path, what,
                                  error ? ", " : "", error ? g_strerror(error) : "");
    }
}

bool pintle_priv_database_do(sqlite3 *db, const char *path, const char *sql,
                             struct pintle_problem *problem)
{
    return sqlite3_exec(db, sql, NULL, NULL, NULL) == SQLITE_OK
           || pintle_priv_database_failed(db, path, problem);
}

sqlite3_stmt *pintle_priv_database_ask(sqlite3 *db, const char *path,
                                       struct pintle_problem *problem, const char *sql, ...)
{
    va_list args;
    va_start(args, sql);
    char *text = sqlite3_vmprintf(sql, args);
    va_end(args);
    sqlite3_stmt *statement = NULL;
    if (!text || sqlite3_prepare_v2(db, text, -1, &statement, NULL) != SQLITE_OK) {
        pintle_priv_database_failed(db, path, problem);
    }
    sqlite3_free(text);
    return statement;
}

bool pintle_priv_database_finish(sqlite3_stmt *statement, const char *path,
                                 struct pintle_problem *problem)
{
    sqlite3 *db = statement ? sqlite3_db_handle(statement) : NULL;
    bool ok = statement && sqlite3_step(statement) == SQLITE_DONE;
    if (!ok && db) {
        pintle_priv_database_failed(db, path, problem);
    }
    sqlite3_finalize(statement);
    return ok;
}

static bool number_of(sqlite3 *db, const char *pragma, int *number)
{
    sqlite3_stmt *statement = NULL;
    bool ok = sqlite3_prepare_v2(db, pragma, -1, &statement, NULL) == SQLITE_OK
              && sqlite3_step(statement) == SQLITE_ROW;
    *number = ok ? sqlite3_column_int(statement, 0) : 0;
    sqlite3_finalize(statement);
    return ok;
}

/* Nothing yet, or a database of ours that this version understands. */
static bool is_ours(sqlite3 *db, const char *path, bool may_be_new, struct pintle_problem *problem)
{
    int ours = 0;
    int version = 0;
    int tables = 0;
    /* At one moment: somebody else may be making it just now. */
    if (!pintle_priv_database_do(db, path, "BEGIN", problem)) {
        return false;
    }
    bool read = number_of(db, "SELECT count(*) FROM sqlite_master", &tables)
                && number_of(db, "PRAGMA application_id", &ours)
                && number_of(db, "PRAGMA user_version", &version);
    if (!read) {
        pintle_priv_database_failed(db, path, problem);
    }
    (void)!sqlite3_exec(db, "COMMIT", NULL, NULL, NULL);
    if (!read) {
        return false;
    }
    if (ours == OURS && version > VERSION) {
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "%s was written by a newer version (its format is %d, this one "
                                  "knows %d); take that version",
                                  path, version, VERSION);
    }
    if (tables == 0 && !may_be_new) { /* killed while it was made */
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "%s has no run: nothing was logged into it yet", path);
    }
    if (ours != OURS && tables > 0) {
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "%s is a database of something else; name another file", path);
    }
    return true;
}

static sqlite3 *open_with(const char *path, int flags, struct pintle_problem *problem)
{
    sqlite3 *db = NULL;
    bool ok = sqlite3_open_v2(path, &db, flags, NULL) == SQLITE_OK
              || pintle_priv_database_failed(db, path, problem);
    if (!ok) {
        sqlite3_close(db);
        return NULL;
    }
    sqlite3_busy_timeout(db, PATIENCE_MS);
    return db;
}

/* SQLite doesn't wait for whoever makes the write-ahead log of a new file at the same time. */
static bool settle(sqlite3 *db, const char *path, struct pintle_problem *problem)
{
    int code = SQLITE_BUSY;
    for (int waited = 0; code == SQLITE_BUSY && waited < PATIENCE_MS; waited += NAP_MS) {
        code = sqlite3_exec(db, settings, NULL, NULL, NULL);
        if (code == SQLITE_BUSY) {
            sqlite3_sleep(NAP_MS);
        }
    }
    return code == SQLITE_OK || pintle_priv_database_failed(db, path, problem);
}

/* The write-ahead log lies beside it, so that its folder must be writable too. */
static bool may_write(const char *path, struct pintle_problem *problem)
{
    char *folder = g_path_get_dirname(path);
    bool may = access(folder, W_OK) == 0 && (access(path, W_OK) == 0 || errno == ENOENT);
    int error = errno;
    g_free(folder);
    return may || pintle_priv_files_unwritable(path, error, problem);
}

sqlite3 *pintle_priv_database_make(const char *path, struct pintle_problem *problem)
{
    if (!may_write(path, problem)) {
        return NULL;
    }
    sqlite3 *db = open_with(path, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE, problem);
    if (db
        && !(is_ours(db, path, true, problem) && settle(db, path, problem)
             && pintle_priv_database_do(db, path, "BEGIN IMMEDIATE", problem)
             && pintle_priv_database_do(db, path, schema, problem)
             && pintle_priv_database_do(db, path, "COMMIT", problem))) {
        sqlite3_close(db);
        return NULL;
    }
    return db;
}

/* Where its folder can't be written to, the write-ahead log can't be shared; with none of it left
 * the file is all there is. */
static sqlite3 *open_still(const char *path, struct pintle_problem *problem)
{
    char *log = g_strconcat(path, "-wal", NULL);
    char *escaped = g_uri_escape_string(path, "/", TRUE);
    char *uri = g_strdup_printf("file:%s?immutable=1", escaped);
    sqlite3 *db = NULL;
    GStatBuf left;
    if (g_stat(log, &left) == 0 && left.st_size > 0) {
        pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                           "cannot read %s: it was cut off, and its folder can't be written to; "
                           "copy it and %s to where they can be",
                           path, log);
    } else {
        db = open_with(uri, SQLITE_OPEN_READONLY | SQLITE_OPEN_URI, problem);
    }
    g_free(log);
    g_free(escaped);
    g_free(uri);
    return db;
}

sqlite3 *pintle_priv_database_open(const char *path, struct pintle_problem *problem)
{
    if (!g_file_test(path, G_FILE_TEST_EXISTS)) {
        pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                           "there is no database %s; check the path, or log into it first", path);
        return NULL;
    }
    int tables = 0;
    struct pintle_problem first = { 0 };
    sqlite3 *db = open_with(path, SQLITE_OPEN_READONLY, &first);
    if (db && !number_of(db, "SELECT count(*) FROM sqlite_master", &tables)
        && (sqlite3_errcode(db) == SQLITE_CANTOPEN || sqlite3_errcode(db) == SQLITE_READONLY)) {
        sqlite3_close(db);
        db = open_still(path, &first);
    }
    if (!db) {
        pintle_problem_set(problem, first.failure, "%s", first.text);
        return NULL;
    }
    if (!is_ours(db, path, false, problem)) {
        sqlite3_close(db);
        return NULL;
    }
    return db;
}
