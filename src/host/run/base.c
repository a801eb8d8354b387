/* A run's part of a database: a row of `runs`, and a table of its own for its records, with the
 * columns of readings.csv. */
#include <glib.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "host/run/fields.h"
#include "host/run/database.h"
#include "host/run/held.h"
#include "host/run/places.h"

struct pintle_run_base {
    char *path;
    unsigned number;
    int mark; /* closed behind the database, whose locks would go with it */
    sqlite3 *db;
    sqlite3_stmt *begin, *insert, *count, *commit;
    struct pintle_fields fields;
    sqlite3_int64 records, suspect, missed; /* that it has, which may be fewer than the run's */
};

static bool run_once(struct pintle_run_base *base, sqlite3_stmt *statement,
                     struct pintle_problem *problem)
{
    bool ok = sqlite3_step(statement) == SQLITE_DONE
              || pintle_priv_database_failed(base->db, base->path, problem);
    sqlite3_reset(statement);
    return ok;
}

struct pintle_run_base *pintle_priv_base_hold(const char *path, unsigned *last,
                                              struct pintle_problem *problem)
{
    struct pintle_run_base *base = g_new0(struct pintle_run_base, 1);
    base->path = g_strdup(path);
    base->mark = -1;
    base->db = pintle_priv_database_make(path, problem);
    bool ok = base->db && pintle_priv_database_do(base->db, path, "BEGIN IMMEDIATE", problem);
    sqlite3_stmt *ask =
        ok ? pintle_priv_database_ask(base->db, path, problem, "SELECT max(number) FROM runs")
           : NULL;
    ok = ask
         && (sqlite3_step(ask) == SQLITE_ROW
             || pintle_priv_database_failed(base->db, path, problem));
    *last = ok ? (unsigned)sqlite3_column_int(ask, 0) : 0;
    sqlite3_finalize(ask);
    if (!ok) {
        pintle_priv_base_free(base);
        return NULL;
    }
    return base;
}

/* CREATE TABLE readings_7 ("record" INTEGER PRIMARY KEY, "time" TEXT, ... REAL, "quality" TEXT) */
static bool make_table(struct pintle_run_base *base, const struct pintle_run_line *header,
                       struct pintle_problem *problem)
{
    GString *sql = g_string_new(NULL);
    GString *marks = g_string_new("?");
    struct pintle_fields *fields = &base->fields;
    pintle_priv_fields_split(fields, header->at, header->used);
    g_string_printf(sql, "CREATE TABLE readings_%u (record INTEGER PRIMARY KEY, time TEXT NOT NULL",
                    base->number);
    for (unsigned i = 1; i < fields->count; i++) {
        bool reading = i > 1 && i + 1 < fields->count;
        if (i > 1) {
            g_string_append_printf(sql, ", \"%s\" %s", fields->at[i], reading ? "REAL" : "TEXT");
        }
        g_string_append(marks, ", ?");
    }
    g_string_append(sql, ")");
    bool ok = pintle_priv_database_do(base->db, base->path, sql->str, problem);
    base->insert = ok ? pintle_priv_database_ask(base->db, base->path, problem,
                                                 "INSERT INTO readings_%u VALUES (%s)",
                                                 base->number, marks->str)
                      : NULL;
    g_string_free(sql, TRUE);
    g_string_free(marks, TRUE);
    return base->insert != NULL;
}

static bool put_run(struct pintle_run_base *base, const char *about,
                    const struct pintle_run_texts *texts, struct pintle_problem *problem)
{
    sqlite3_stmt *run = pintle_priv_database_ask(
        base->db, base->path, problem, "INSERT INTO runs VALUES (%u, %Q, %Q, %Q, %Q, NULL)",
        base->number, about, texts->text[0], texts->text[1], texts->text[2]);
    sqlite3_stmt *counts =
        run ? pintle_priv_database_ask(base->db, base->path, problem,
                                       "INSERT INTO counts VALUES (%u, 0, 0, 0, 0)", base->number)
            : NULL;
    bool ok = pintle_priv_database_finish(run, base->path, problem);
    return pintle_priv_database_finish(counts, base->path, problem) && ok;
}

bool pintle_priv_base_begin(struct pintle_run_base *base, unsigned number, const char *about,
                            const struct pintle_run_texts *texts,
                            const struct pintle_run_line *header, struct pintle_problem *problem)
{
    base->number = number;
    bool ok = put_run(base, about, texts, problem) && make_table(base, header, problem);
    base->begin =
        ok ? pintle_priv_database_ask(base->db, base->path, problem, "BEGIN IMMEDIATE") : NULL;
    base->commit = ok ? pintle_priv_database_ask(base->db, base->path, problem, "COMMIT") : NULL;
    base->count =
        ok ? pintle_priv_database_ask(base->db, base->path, problem,
                                      "UPDATE counts SET records = ?, suspect = ?, missed = ?, "
                                      "steps = ? WHERE run = %u",
                                      number)
           : NULL;
    ok = base->begin && base->commit && base->count
         && pintle_priv_database_do(base->db, base->path, "COMMIT", problem);
    base->mark = ok ? pintle_priv_held_mark(base->path, number) : -1;
    return ok;
}

static void bind_fields(struct pintle_run_base *base)
{
    const struct pintle_fields *fields = &base->fields;
    for (unsigned i = 0; i < fields->count; i++) {
        const char *field = fields->at[i];
        int at = (int)i + 1;
        if (i == 0) {
            sqlite3_bind_int64(base->insert, at, (sqlite3_int64)g_ascii_strtoull(field, NULL, 10));
        } else if (i == 1 || i + 1 == fields->count) {
            sqlite3_bind_text(base->insert, at, field, -1, SQLITE_STATIC);
        } else if (*field) {
            sqlite3_bind_double(base->insert, at, g_ascii_strtod(field, NULL));
        } else {
            sqlite3_bind_null(base->insert, at);
        }
    }
}

bool pintle_priv_base_append(struct pintle_run_base *base, const struct pintle_run *run,
                             const struct pintle_run_line *line, struct pintle_problem *problem)
{
    pintle_priv_fields_split(&base->fields, line->at, line->used);
    bind_fields(base);
    sqlite3_bind_int64(base->count, 1, base->records + 1);
    sqlite3_bind_int64(base->count, 2, base->suspect + !line->good);
    sqlite3_bind_int64(base->count, 3, base->missed + line->missed);
    sqlite3_bind_int64(base->count, 4, (sqlite3_int64)run->steps + run->unset);
    bool ok = run_once(base, base->begin, problem) && run_once(base, base->insert, problem)
              && run_once(base, base->count, problem) && run_once(base, base->commit, problem);
    if (!ok && !sqlite3_get_autocommit(base->db)) {
        sqlite3_exec(base->db, "ROLLBACK", NULL, NULL, NULL);
    }
    base->records += ok;
    base->suspect += ok && !line->good;
    base->missed += ok ? line->missed : 0;
    return ok;
}

bool pintle_priv_base_end(struct pintle_run_base *base, const char *about, const char *how,
                          struct pintle_problem *problem)
{
    sqlite3_stmt *end = pintle_priv_database_ask(
        base->db, base->path, problem, "UPDATE runs SET about = %Q, ended = %Q WHERE number = %u",
        about, how, base->number);
    return end && pintle_priv_database_finish(end, base->path, problem);
}

sqlite3 *pintle_priv_base_db(const struct pintle_run_base *base)
{
    return base->db;
}

const char *pintle_priv_base_path(const struct pintle_run_base *base)
{
    return base->path;
}

void pintle_priv_base_free(struct pintle_run_base *base)
{
    if (!base) {
        return;
    }
    sqlite3_finalize(base->begin);
    sqlite3_finalize(base->insert);
    sqlite3_finalize(base->count);
    sqlite3_finalize(base->commit);
    sqlite3_close(base->db); /* which undoes what was begun */
    if (base->mark >= 0) {
        close(base->mark);
    }
    pintle_priv_fields_free(&base->fields);
    g_free(base->path);
    g_free(base);
}
