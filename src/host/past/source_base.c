/* A run in a database: its records and, where old ones were thinned, what is left of them. */
#include <float.h>
#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/past/source.h"
#include "host/run/database.h"

struct from_base {
    struct pintle_source source;
    const struct pintle_past *run;
    sqlite3 *db;
    sqlite3_stmt *thinned, *whole;    /* null: read to their ends */
    bool ahead, ready;                /* a row of `thinned`, of the records waits */
    sqlite3_int64 begin, first, last; /* of the run, and the first that is read; of those not
                                         thinned */
    sqlite3_int64 first_thinned;
    sqlite3_int64 at;
};

static const char *text_at(sqlite3_stmt *statement, int column)
{
    const unsigned char *text = sqlite3_column_text(statement, column);
    return text ? (const char *)text : "";
}

static double number_at(sqlite3_stmt *statement, int column)
{
    return sqlite3_column_type(statement, column) == SQLITE_NULL
               ? (double)NAN
               : sqlite3_column_double(statement, column);
}

/* Nothing, or a number that can be; SQLite keeps whatever it is given, and makes 0 of a word. */
static bool is_number(sqlite3_stmt *statement, int column)
{
    int type = sqlite3_column_type(statement, column);
    return type == SQLITE_NULL
           || ((type == SQLITE_FLOAT || type == SQLITE_INTEGER)
               && fabs(sqlite3_column_double(statement, column)) <= (double)FLT_MAX);
}

static bool no_record(const struct from_base *from, struct pintle_problem *problem)
{
    return pintle_problem_set(
        problem, PINTLE_FAILURE_UNABLE,
        "%s: record %lld is none; the file was changed by something else; mend or "
        "delete that one in a copy",
        from->run->where, (long long)from->at);
}

/* Step; at the end the statement is gone. False: end, or failure. */
static bool step(struct from_base *from, sqlite3_stmt **statement, struct pintle_problem *problem)
{
    int code = sqlite3_step(*statement);
    if (code == SQLITE_ROW) {
        return true;
    }
    if (code != SQLITE_DONE) {
        pintle_priv_database_failed(from->db, from->run->database, problem);
    }
    sqlite3_finalize(*statement);
    *statement = NULL;
    return false;
}

/* --- thinned: record, time, over_s, channel, mean, least, greatest, squares, good, suspect, marks;
 * a row with no channel has of all of them the records that were merged, the missed slots and
 * how many records were marked --- */

static bool take_part(struct from_base *from, struct pintle_record *record)
{
    sqlite3_stmt *row = from->thinned;
    const char *channel = text_at(row, 3);
    struct pintle_layout *layout = &from->source.layout;
    if (channel[0] == '\0') {
        record->stands_for = (uint64_t)sqlite3_column_int64(row, 8);
        record->missed = (uint32_t)sqlite3_column_int64(row, 9);
        record->marked = (uint64_t)sqlite3_column_int64(row, 11);
    }
    for (unsigned i = 0; i < layout->columns; i++) {
        if (strcmp(layout->column[i].name, channel) != 0) {
            continue;
        }
        struct pintle_cell *cell = &from->source.cell[i];
        cell->quality = pintle_priv_marks_parse(text_at(row, 10));
        cell->value = number_at(row, 4);
        cell->least = number_at(row, 5);
        cell->greatest = number_at(row, 6);
        cell->squares = number_at(row, 7);
        cell->below = cell->least < 0; /* as they are stored, turned to where they were */
        cell->good = (uint32_t)sqlite3_column_int64(row, 8);
        cell->suspect = (uint32_t)sqlite3_column_int64(row, 9);
    }
    return is_number(row, 4) && is_number(row, 5) && is_number(row, 6) && is_number(row, 7);
}

static bool next_thinned(struct from_base *from, struct pintle_record *record,
                         struct pintle_problem *problem)
{
    from->at = sqlite3_column_int64(from->thinned, 0);
    record->number = (uint64_t)from->at;
    record->over_us = (int64_t)(sqlite3_column_double(from->thinned, 2) * 1e6);
    pintle_priv_cells_clear(from->source.cell, from->source.layout.columns);
    if (!pintle_priv_time_parse(text_at(from->thinned, 1), &record->time_us)) {
        return no_record(from, problem);
    }
    do {
        if (!take_part(from, record)) {
            return no_record(from, problem);
        }
        from->ahead = step(from, &from->thinned, problem);
    } while (from->ahead && sqlite3_column_int64(from->thinned, 0) == from->at);
    return problem->text[0] == '\0';
}

/* --- the records themselves --- */

static bool next_whole(struct from_base *from, struct pintle_record *record,
                       struct pintle_problem *problem)
{
    struct pintle_source *source = &from->source;
    int last = sqlite3_column_count(from->whole) - 1;
    from->at = sqlite3_column_int64(from->whole, 0);
    record->number = (uint64_t)from->at;
    if (!pintle_priv_time_parse(text_at(from->whole, 1), &record->time_us)) {
        return no_record(from, problem);
    }
    pintle_priv_cells_clear(source->cell, source->layout.columns);
    for (int i = 2; i < last; i++) {
        if (!is_number(from->whole, i)) {
            return no_record(from, problem);
        }
        pintle_priv_cell_put(&source->layout, source->cell, (unsigned)i - 2,
                             number_at(from->whole, i));
    }
    return pintle_priv_record_mark(&source->layout, source->cell, text_at(from->whole, last),
                                   record)
           || no_record(from, problem);
}

static bool next(struct pintle_source *source, struct pintle_record *record,
                 struct pintle_problem *problem)
{
    struct from_base *from = (struct from_base *)source;
    if (from->whole && !from->ready) {
        from->ready = step(from, &from->whole, problem);
    }
    if (problem->text[0] || (!from->ahead && !from->ready)) {
        return false;
    }
    bool older =
        from->ahead
        && (!from->ready
            || sqlite3_column_int64(from->thinned, 0) < sqlite3_column_int64(from->whole, 0));
    if (older) {
        return next_thinned(from, record, problem);
    }
    from->ready = false;
    return next_whole(from, record, problem);
}

static double progress(const struct pintle_source *source)
{
    const struct from_base *from = (const struct from_base *)source;
    return from->last > from->begin
               ? (double)(from->at - from->begin) / (double)(from->last - from->begin)
               : 1;
}

static void end(struct pintle_source *source)
{
    struct from_base *from = (struct from_base *)source;
    sqlite3_finalize(from->thinned);
    sqlite3_finalize(from->whole);
    sqlite3_close(from->db);
    pintle_priv_layout_free(&source->layout);
    g_free(source->cell);
    g_free(from);
}

static bool one_number(struct from_base *from, sqlite3_stmt *ask, sqlite3_int64 *number,
                       struct pintle_problem *problem)
{
    bool ok = ask
              && (sqlite3_step(ask) == SQLITE_ROW
                  || pintle_priv_database_failed(from->db, from->run->database, problem));
    *number = ok ? sqlite3_column_int64(ask, 0) : 0;
    sqlite3_finalize(ask);
    return ok;
}

/* Of a table with times: the first record, and whether the one with this number, or the next, is
 * before a moment. */
static const char *const asks[2][3] = {
    { "SELECT coalesce(min(record), 1) FROM readings_%u",
      "SELECT coalesce(max(record), 0) FROM readings_%u",
      "SELECT time FROM readings_%u WHERE record >= %lld ORDER BY record LIMIT 1" },
    { "SELECT coalesce(min(record), 1) FROM thinned WHERE run = %u",
      "SELECT coalesce(max(record), 0) FROM thinned WHERE run = %u",
      "SELECT time FROM thinned WHERE run = %u AND record >= %lld ORDER BY record LIMIT 1" }
};

static bool is_before(struct from_base *from, bool thinned, sqlite3_int64 record, int64_t moment_us,
                      struct pintle_problem *problem)
{
    int64_t time_us = 0;
    sqlite3_stmt *ask = pintle_priv_database_ask(from->db, from->run->database, problem,
                                                 asks[thinned][2], from->run->number, record);
    bool before = ask && sqlite3_step(ask) == SQLITE_ROW
                  && pintle_priv_time_parse(text_at(ask, 0), &time_us) && time_us < moment_us;
    sqlite3_finalize(ask);
    return before;
}

/* The first record of a table that is not before a moment. */
static bool find_in(struct from_base *from, bool thinned, int64_t from_us, sqlite3_int64 *first,
                    sqlite3_int64 *last, struct pintle_problem *problem)
{
    sqlite3_int64 low = 0;
    sqlite3_int64 high = 0;
    bool ok = true;
    for (unsigned i = 0; i < 2; i++) {
        ok = ok
             && one_number(from,
                           pintle_priv_database_ask(from->db, from->run->database, problem,
                                                    asks[thinned][i], from->run->number),
                           i ? &high : &low, problem);
    }
    *last = high++;
    while (ok && from_us != INT64_MIN && low < high) {
        sqlite3_int64 middle = low + (high - low) / 2;
        if (is_before(from, thinned, middle, from_us, problem)) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    *first = low;
    return ok;
}

/* The first record of a window, where the clock never went back: years are not read for a day. An
 * average may reach into the window from before it. */
static bool find_first(struct from_base *from, int64_t from_us, struct pintle_problem *problem)
{
    const char *path = from->run->database;
    unsigned number = from->run->number;
    sqlite3_int64 steps = 0;
    sqlite3_int64 unused = 0;
    bool ok =
        one_number(from,
                   pintle_priv_database_ask(from->db, path, problem,
                                            "SELECT coalesce(max(steps), 1) FROM counts "
                                            "WHERE run = %u",
                                            number),
                   &steps, problem)
        && one_number(from, pintle_priv_database_ask(from->db, path, problem, asks[0][0], number),
                      &from->begin, problem);
    int64_t moment_us = steps == 0 ? from_us : INT64_MIN;
    return ok && find_in(from, false, moment_us, &from->first, &from->last, problem)
           && find_in(from, true, moment_us, &from->first_thinned, &unused, problem)
           && one_number(from,
                         pintle_priv_database_ask(
                             from->db, path, problem,
                             "SELECT coalesce(max(record), %lld) FROM thinned WHERE run = %u AND "
                             "record < %lld",
                             from->first_thinned, number, from->first_thinned),
                         &from->first_thinned, problem);
}

static bool ask_for_records(struct from_base *from, struct pintle_problem *problem)
{
    const char *path = from->run->database;
    from->whole = pintle_priv_database_ask(
        from->db, path, problem, "SELECT * FROM readings_%u WHERE record >= %lld ORDER BY record",
        from->run->number, from->first);
    from->thinned =
        from->whole ? pintle_priv_database_ask(
            from->db, path, problem,
            "SELECT record, time, over_s, channel, mean, least, greatest, squares, good, suspect, "
            "marks, marked FROM thinned WHERE run = %u AND record >= %lld ORDER BY record, channel",
            from->run->number, from->first_thinned)
                    : NULL;
    return from->thinned != NULL;
}

static bool make_layout(struct from_base *from, struct pintle_problem *problem)
{
    unsigned count = (unsigned)sqlite3_column_count(from->whole);
    char **names = g_new0(char *, count + 1);
    for (unsigned i = 0; i < count; i++) {
        names[i] = g_strdup(sqlite3_column_name(from->whole, (int)i));
    }
    bool ok = pintle_priv_layout_make(&from->source.layout, names, count, from->run)
              || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                    "%s: its columns are no run's; the file was changed by "
                                    "something else",
                                    from->run->where);
    g_strfreev(names);
    from->source.cell = g_new0(struct pintle_cell, from->source.layout.columns + 1);
    return ok;
}

struct pintle_source *pintle_priv_source_base(const struct pintle_past *run,
                                              struct pintle_window window,
                                              struct pintle_problem *problem)
{
    struct from_base *from = g_new0(struct from_base, 1);
    struct pintle_source *source = &from->source;
    *source = (struct pintle_source){ .next = next, .progress = progress, .free = end };
    from->run = run;
    from->db = pintle_priv_database_open(run->database, problem);
    bool ok = from->db && find_first(from, window.from_us, problem)
              && ask_for_records(from, problem) && make_layout(from, problem);
    if (ok) {
        from->ahead = step(from, &from->thinned, problem);
    }
    if (!ok || problem->text[0]) {
        end(source);
        return NULL;
    }
    return source;
}
