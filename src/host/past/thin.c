#include "pintle/host/past/thin.h"

#include <glib.h>
#include <math.h>

#include "host/past/past.h"
#include "host/run/database.h"
#include "pintle/text.h"
#include "pintle/host/past/average.h"
#include "pintle/host/past/summary.h"

#define MINUTE_US 60000000LL
#define DAY_US 86400000000LL
#define TOGETHER 4000 /* records in one transaction: what it takes beside the file is little */

/* The interval that is gathered. */
struct gathering {
    const struct pintle_thinning *how;
    const struct pintle_past *run;
    struct pintle_reader *reader;
    sqlite3 *db; /* null: it is only counted */
    sqlite3_stmt *insert;
    int64_t minute_us, hour_us, day_us; /* from these moments on, backwards, records are such */
    struct pintle_cell *cell;
    int64_t slot_us, begin_us, over_us;
    uint64_t first, last, records, stand_for, missed, marked;
    uint64_t together;   /* records in this transaction */
    bool any;            /* the run's first record was seen */
    int64_t end_us;      /* of the run, */
    uint64_t end_number; /* and its last record, which stays */
    struct pintle_thinned *thinned;
};

/* Over how long what is so old is averaged. */
static int64_t over_of(const struct gathering *g, int64_t time_us)
{
    return time_us >= g->hour_us ? MINUTE_US : time_us >= g->day_us ? 60 * MINUTE_US : DAY_US;
}

static void put_time(char buffer[32], int64_t time_us)
{
    struct pintle_text text;
    pintle_text_init(&text, buffer, 32);
    pintle_text_time(&text, time_us, 0, time_us % 1000000 ? 3 : 0);
}

static void bind_number(sqlite3_stmt *insert, int at, double value)
{
    if (isnan(value)) {
        sqlite3_bind_null(insert, at);
    } else {
        sqlite3_bind_double(insert, at, value);
    }
}

static bool put_row(struct gathering *g, const char *channel, const struct pintle_cell *cell,
                    struct pintle_problem *problem)
{
    char when[32];
    char *marks = pintle_marks_text(cell->quality & (pintle_marks)~PINTLE_QUALITY_UNCORRECTED);
    put_time(when, g->begin_us);
    sqlite3_bind_int64(g->insert, 1, g->run->number);
    sqlite3_bind_text(g->insert, 2, channel, -1, SQLITE_TRANSIENT);
    sqlite3_bind_int64(g->insert, 3, (sqlite3_int64)g->first);
    sqlite3_bind_text(g->insert, 4, when, -1, SQLITE_TRANSIENT);
    sqlite3_bind_double(g->insert, 5, (double)g->over_us / 1e6);
    bind_number(g->insert, 6, cell->good ? cell->value : (double)NAN);
    bind_number(g->insert, 7, cell->least);
    bind_number(g->insert, 8, cell->greatest);
    sqlite3_bind_double(g->insert, 9, cell->squares);
    sqlite3_bind_int64(g->insert, 10, cell->good);
    sqlite3_bind_int64(g->insert, 11, cell->suspect);
    sqlite3_bind_text(g->insert, 12, marks, -1, SQLITE_TRANSIENT);
    sqlite3_bind_int64(g->insert, 13, channel[0] ? 0 : (sqlite3_int64)g->marked);
    bool ok = sqlite3_step(g->insert) == SQLITE_DONE
              || pintle_priv_database_failed(g->db, g->run->database, problem);
    sqlite3_reset(g->insert);
    g_free(marks);
    return ok;
}

static bool delete_from(struct gathering *g, const char *sql, struct pintle_problem *problem)
{
    sqlite3_stmt *statement = pintle_priv_database_ask(g->db, g->run->database, problem, sql,
                                                       g->run->number, g->first, g->last);
    return statement && pintle_priv_database_finish(statement, g->run->database, problem);
}

static bool write_interval(struct gathering *g, struct pintle_problem *problem)
{
    const struct pintle_cell all = { .value = (double)NAN,
                                     .least = (double)NAN,
                                     .greatest = (double)NAN,
                                     .good = (uint32_t)g->stand_for,
                                     .suspect = (uint32_t)g->missed };
    bool ok =
        (g->together > 0
         || pintle_priv_database_do(g->db, g->run->database, "BEGIN IMMEDIATE", problem))
        && delete_from(g, "DELETE FROM readings_%u WHERE record BETWEEN %llu AND %llu", problem)
        && delete_from(g, "DELETE FROM thinned WHERE run = %u AND record BETWEEN %llu AND %llu",
                       problem)
        && put_row(g, "", &all, problem);
    for (unsigned i = 0; ok && i < g->reader->columns; i++) {
        pintle_cell_turn(&g->cell[i], g->reader->column[i].quantity);
        ok = put_row(g, g->reader->column[i].name, &g->cell[i], problem);
    }
    g->together += g->records;
    return ok;
}

static void pragma(const struct gathering *g, const char *sql)
{
    (void)!sqlite3_exec(g->db, sql, NULL, NULL, NULL);
}

static int free_pages(const struct gathering *g)
{
    sqlite3_stmt *ask = NULL;
    int count = 0;
    if (sqlite3_prepare_v2(g->db, "PRAGMA freelist_count", -1, &ask, NULL) == SQLITE_OK
        && sqlite3_step(ask) == SQLITE_ROW) {
        count = sqlite3_column_int(ask, 0);
    }
    sqlite3_finalize(ask);
    return count;
}

/* What was deleted goes back to the disk, little by little, with an empty write-ahead log each
 * time. It is no failure that somebody else reads just now: the next time does it. */
static void give_back(const struct gathering *g)
{
    int before = 0;
    int left = 0;
    do {
        pragma(g, "PRAGMA wal_checkpoint(TRUNCATE)");
        before = free_pages(g);
        pragma(g, "PRAGMA incremental_vacuum(256)");
        left = free_pages(g);
    } while (left > 0 && left < before);
    pragma(g, "PRAGMA wal_checkpoint(TRUNCATE)");
}

static bool commit(struct gathering *g, struct pintle_problem *problem)
{
    bool ok =
        g->together == 0 || pintle_priv_database_do(g->db, g->run->database, "COMMIT", problem);
    g->together = 0;
    if (ok) {
        give_back(g);
    }
    return ok;
}

/* A single record that is one already stays what it is. */
static bool end_interval(struct gathering *g, struct pintle_problem *problem)
{
    bool worth = g->records > 1;
    bool ok = !worth || !g->db || write_interval(g, problem);
    if (worth) {
        g->thinned->before += g->records;
        g->thinned->after++;
    }
    g->records = 0;
    g->stand_for = g->missed = g->marked = 0;
    return ok;
}

static void begin_interval(struct gathering *g, const struct pintle_record *record)
{
    int64_t over_us = over_of(g, record->time_us);
    g->slot_us = pintle_interval_begin(record->time_us, over_us, false);
    g->begin_us = record->time_us;
    g->over_us = MIN(g->slot_us + over_us, MAX(g->end_us, record->time_us)) - record->time_us;
    g->first = record->number;
    for (unsigned i = 0; i < g->reader->columns; i++) {
        g->cell[i] = pintle_cell_empty();
    }
}

/* Another interval than the one that is gathered? */
static bool is_beyond(const struct gathering *g, const struct pintle_record *record)
{
    int64_t over_us = over_of(g, record->time_us);
    return g->records > 0 && pintle_interval_begin(record->time_us, over_us, false) != g->slot_us;
}

static void take(struct gathering *g, const struct pintle_record *record)
{
    if (g->records == 0) {
        begin_interval(g, record);
    }
    for (unsigned i = 0; i < g->reader->columns; i++) {
        pintle_cell_merge(&g->cell[i], &record->cell[i], g->reader->column[i].quantity);
    }
    g->last = record->number;
    g->missed += record->missed;
    g->marked += record->marked;
    g->records++;
    g->stand_for += record->stands_for;
}

/* A run's first and last records stay: when it began and ended is told by them. */
static bool stays(struct gathering *g, const struct pintle_record *record)
{
    bool first = !g->any;
    g->any = true;
    return first || record->number == g->end_number;
}

static bool note_it(struct gathering *g, uint64_t before, struct pintle_problem *problem)
{
    char when[32];
    put_time(when, g->minute_us);
    char *text = g_strdup_printf("thinned: %" G_GUINT64_FORMAT " records before %s were averaged",
                                 g->thinned->before - before, when);
    bool ok = g->thinned->before == before
              || pintle_past_note(g->run, g->minute_us, false, text, problem);
    g_free(text);
    return ok;
}

static bool begin_run(struct gathering *g, const struct pintle_past *run,
                      struct pintle_problem *problem)
{
    const char *path = run->database;
    g->run = run;
    g->any = false;
    g->together = 0;
    if (!pintle_priv_past_last(run, &g->end_us, &g->end_number, problem) || !g->how->really) {
        return problem->text[0] == '\0';
    }
    g->db = pintle_priv_database_make(path, problem);
    g->insert = g->db ? pintle_priv_database_ask(
                    g->db, path, problem,
                    "INSERT INTO thinned VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)")
                      : NULL;
    return g->insert != NULL;
}

/* Records from a moment on, as many as one transaction takes; it stops at an interval's end, and
 * *from_us is where to go on. No reader is open while it is written down: it would hold the
 * write-ahead log. */
static bool thin_some(struct gathering *g, struct pintle_past *const *run, int64_t *from_us,
                      bool *over, struct pintle_problem *problem)
{
    const struct pintle_window old = { *from_us, g->minute_us, g->how->progress };
    struct pintle_record record;
    g->reader = pintle_reader_open(run, 1, old, problem);
    g->cell = g->reader ? g_new0(struct pintle_cell, g->reader->columns + 1) : NULL;
    bool ok = g->reader != NULL;
    bool full = false;
    while (ok && !full && pintle_reader_next(g->reader, &record, problem)) {
        if (is_beyond(g, &record)) {
            ok = end_interval(g, problem);
            full = g->together >= TOGETHER;
            *from_us = pintle_interval_begin(record.time_us, over_of(g, record.time_us), false);
        }
        if (!full && !stays(g, &record)) {
            take(g, &record);
        }
    }
    ok = ok && problem->text[0] == '\0' && (g->records == 0 || end_interval(g, problem));
    *over = !full;
    pintle_reader_free(g->reader);
    g_free(g->cell);
    g->reader = NULL;
    g->cell = NULL;
    return ok && (!g->db || commit(g, problem));
}

static bool thin_run(struct gathering *g, struct pintle_past *const *run,
                     struct pintle_problem *problem)
{
    uint64_t before = g->thinned->before;
    int64_t from_us = INT64_MIN;
    bool over = false;
    bool ok = begin_run(g, *run, problem);
    while (ok && !over) {
        ok = thin_some(g, run, &from_us, &over, problem);
    }
    sqlite3_finalize(g->insert);
    sqlite3_close(g->db); /* with what was not committed */
    g->db = NULL;
    g->insert = NULL;
    g->records = g->stand_for = g->missed = g->marked = 0;
    g->thinned->runs += g->thinned->before > before;
    return ok && (!g->how->really || note_it(g, before, problem));
}

/* Its clock was moved, or never set: what is old in it? */
static bool has_steps(const struct pintle_past *run, struct pintle_problem *problem)
{
    sqlite3 *db = pintle_priv_database_open(run->database, problem);
    sqlite3_stmt *ask =
        db ? pintle_priv_database_ask(db, run->database, problem,
                                      "SELECT steps FROM counts WHERE run = %u", run->number)
           : NULL;
    bool steps = !ask || sqlite3_step(ask) != SQLITE_ROW || sqlite3_column_int(ask, 0) > 0;
    sqlite3_finalize(ask);
    sqlite3_close(db);
    return steps;
}

static int64_t newest_of(const struct pintle_archive *archive, struct pintle_problem *problem)
{
    int64_t newest = INT64_MIN;
    for (unsigned i = 0; i < archive->count; i++) {
        int64_t last = 0;
        if (!archive->run[i]->broken && pintle_past_last(archive->run[i], &last, problem)) {
            newest = MAX(newest, last);
        }
    }
    return newest;
}

bool pintle_thin(const char *database, const struct pintle_thinning *how,
                 struct pintle_thinned *thinned, struct pintle_problem *problem)
{
    *thinned = (struct pintle_thinned){ 0 };
    struct pintle_archive *archive = pintle_archive_open(NULL, database, problem);
    int64_t newest = archive ? newest_of(archive, problem) : INT64_MIN;
    bool ok = archive && problem->text[0] == '\0';
    if (ok && newest != INT64_MIN) {
        struct gathering g = {
            .how = how,
            .thinned = thinned,
            .minute_us = pintle_interval_begin(newest - how->whole_us, DAY_US, false),
            .hour_us = pintle_interval_begin(newest - how->minutes_us, DAY_US, false),
            .day_us = pintle_interval_begin(newest - how->hours_us, DAY_US, false)
        };
        thinned->whole_from_us = g.minute_us;
        for (unsigned i = 0; ok && i < archive->count; i++) {
            bool left = archive->run[i]->broken || has_steps(archive->run[i], problem);
            thinned->left += left;
            ok = problem->text[0] == '\0' && (left || thin_run(&g, &archive->run[i], problem));
        }
    }
    pintle_archive_free(archive);
    return ok;
}
