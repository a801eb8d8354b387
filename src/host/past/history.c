#include "pintle/host/past/history.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#include "pintle/host/past/average.h"

/* Rows so far. */
struct loading {
    struct pintle_past *const *runs;
    struct pintle_history *history;
    unsigned room;
    bool many; /* a row stands for several records */
};

static void grow(struct loading *l)
{
    struct pintle_history *h = l->history;
    if (h->rows < l->room) {
        return;
    }
    l->room = l->room ? 2 * l->room : 1024;
    h->time = g_renew(double, h->time, l->room);
    h->reach = g_renew(double, h->reach, l->room);
    h->record = g_renew(double, h->record, l->room);
    for (unsigned i = 0; i < h->columns; i++) {
        struct pintle_column *c = &h->column[i];
        double **const all[] = { &c->value,
                                 c->uncorrected ? &c->uncorrected : NULL,
                                 c->uncertainty ? &c->uncertainty : NULL,
                                 l->many ? &c->least : NULL,
                                 l->many ? &c->greatest : NULL,
                                 l->many ? &c->odd : NULL };
        for (unsigned k = 0; k < G_N_ELEMENTS(all); k++) {
            if (all[k]) {
                *all[k] = g_renew(double, *all[k], l->room);
            }
        }
        c->suspect = g_renew(uint8_t, c->suspect, l->room);
        c->remarked = g_renew(uint8_t, c->remarked, l->room);
    }
}

#define REMARKED                                                                                   \
    ((pintle_marks) ~(PINTLE_QUALITY_SUSPECT | PINTLE_CELL_UNKNOWN | PINTLE_QUALITY_SMOOTHED       \
                      | PINTLE_QUALITY_UNCORRECTED))

static void put_row(struct loading *l, const struct pintle_record *record)
{
    grow(l);
    struct pintle_history *h = l->history;
    unsigned row = h->rows++;
    h->time[row] = ((double)record->time_us + (double)record->over_us / 2) / 1e6;
    h->reach[row] = (double)MAX(record->over_us, l->runs[record->run]->every_us) / 1e6;
    h->record[row] = (double)record->number;
    for (unsigned i = 0; i < h->columns; i++) {
        struct pintle_column *c = &h->column[i];
        const struct pintle_cell *cell = &record->cell[i];
        c->marked += cell->suspect;
        c->value[row] = cell->value;
        c->suspect[row] = cell->suspect > 0;
        c->remarked[row] = cell->suspect == 0 && (cell->quality & REMARKED);
        if (c->uncorrected) {
            c->uncorrected[row] = cell->uncorrected;
        }
        if (c->uncertainty) {
            c->uncertainty[row] = cell->uncertainty;
        }
        if (l->many) {
            c->least[row] = cell->least;
            c->greatest[row] = cell->greatest;
            c->odd[row] = cell->odd;
        }
    }
}

void pintle_history_reach(struct pintle_history *history)
{
    history->reach = history->reach ? history->reach : g_new0(double, history->rows + 1);
    double step = INFINITY;
    for (unsigned r = 1; r < history->rows; r++) {
        double by = history->time[r] - history->time[r - 1];
        step = by > 0 ? fmin(step, by) : step;
    }
    for (unsigned r = 0; r < history->rows; r++) {
        history->reach[r] = history->reach[r] > 0 ? history->reach[r] : step;
    }
}

static void make_columns(struct pintle_history *history, const struct pintle_reader *reader)
{
    history->columns = reader->columns;
    history->column = g_new0(struct pintle_column, reader->columns + 1);
    for (unsigned i = 0; i < reader->columns; i++) {
        struct pintle_column *c = &history->column[i];
        c->name = g_strdup(reader->column[i].name);
        c->quantity = reader->column[i].quantity;
        c->decimals = reader->column[i].decimals;
        c->unit = pintle_quantity_unit(c->quantity);
        c->also = PINTLE_UNIT_COUNT;
        c->uncorrected = reader->column[i].corrected ? g_new0(double, 1) : NULL;
        c->uncertainty = reader->column[i].uncertain ? g_new0(double, 1) : NULL;
    }
}

/* Of a window that is read first: how many records, when. */
struct extent {
    uint64_t records;
    int64_t first_us, last_us;
};

static bool measure(struct pintle_past *const *runs, unsigned count, struct pintle_window window,
                    struct extent *extent, struct pintle_problem *problem)
{
    struct pintle_record record;
    struct pintle_reader *reader = pintle_reader_open(runs, count, window, problem);
    *extent = (struct extent){ .first_us = INT64_MAX, .last_us = INT64_MIN };
    while (reader && pintle_reader_next(reader, &record, problem)) {
        extent->records++;
        extent->first_us = MIN(extent->first_us, record.time_us);
        extent->last_us = MAX(extent->last_us, record.time_us);
    }
    pintle_reader_free(reader);
    return problem->text[0] == '\0';
}

static void note_time(struct pintle_history *history, double time)
{
    history->first = history->rows == 0 ? time : fmin(history->first, time);
    history->last = history->rows == 0 ? time : fmax(history->last, time);
}

static bool read_each(struct loading *l, struct pintle_reader *reader,
                      struct pintle_problem *problem)
{
    struct pintle_record record;
    while (pintle_reader_next(reader, &record, problem)) {
        l->history->records += (unsigned)record.stands_for;
        note_time(l->history, (double)record.time_us / 1e6);
        put_row(l, &record);
    }
    return problem->text[0] == '\0';
}

static bool read_averaged(struct loading *l, struct pintle_reader *reader, int64_t every_us,
                          struct pintle_problem *problem)
{
    struct pintle_record record;
    struct pintle_averager *averager = pintle_averager_open(reader, every_us, false);
    while (pintle_averager_next(averager, &record, problem)) {
        l->history->records += (unsigned)record.stands_for;
        put_row(l, &record);
    }
    pintle_averager_free(averager);
    return problem->text[0] == '\0';
}

struct pintle_history *pintle_history_read(struct pintle_past *const *runs, unsigned count,
                                           struct pintle_window window, unsigned rows,
                                           struct pintle_problem *problem)
{
    struct extent extent = { 0 };
    if (rows > 0 && !measure(runs, count, window, &extent, problem)) {
        return NULL;
    }
    struct pintle_reader *reader = pintle_reader_open(runs, count, window, problem);
    if (!reader) {
        return NULL;
    }
    struct pintle_history *history = g_new0(struct pintle_history, 1);
    struct loading l = { .runs = runs,
                         .history = history,
                         .many = rows > 0 && extent.records > rows };
    history->path = g_strdup(runs[0]->where);
    make_columns(history, reader);
    int64_t every_us = l.many ? (extent.last_us - extent.first_us) / rows + 1 : 0;
    bool ok =
        l.many ? read_averaged(&l, reader, every_us, problem) : read_each(&l, reader, problem);
    if (l.many) {
        history->first = (double)extent.first_us / 1e6;
        history->last = (double)extent.last_us / 1e6;
    }
    pintle_history_reach(history);
    if (ok && history->rows == 0) {
        bool all = window.from_us == INT64_MIN && window.to_us == INT64_MAX;
        ok = pintle_problem_set(
            problem, PINTLE_FAILURE_UNABLE,
            all ? "%s: the run has no record yet"
                : "%s has no record in that time; 'pintle runs' says when it was",
            runs[0]->where);
    }
    pintle_reader_free(reader);
    if (!ok) {
        pintle_history_free(history);
        return NULL;
    }
    return history;
}

struct pintle_history *pintle_history_load(const char *folder, const char *database,
                                           const char *name, struct pintle_problem *problem)
{
    struct pintle_past **runs = NULL;
    unsigned count = 0;
    bool exists = folder && g_file_test(folder, G_FILE_TEST_IS_DIR);
    struct pintle_archive *archive = pintle_archive_open(
        exists ? folder : NULL,
        database && g_file_test(database, G_FILE_TEST_EXISTS) ? database : NULL, problem);
    if (archive && archive->count == 0 && folder) { /* messages name where it would be */
        g_free(archive->where);
        archive->where = g_strdup(folder);
    }
    bool ok = archive && pintle_archive_choose(archive, name, &runs, &count, problem);
    struct pintle_history *history =
        ok ? pintle_history_read(runs, count, PINTLE_ALL_TIME, 0, problem) : NULL;
    g_free(runs);
    pintle_archive_free(archive);
    return history;
}

void pintle_history_free(struct pintle_history *history)
{
    if (!history) {
        return;
    }
    for (unsigned i = 0; history->column && i < history->columns; i++) {
        struct pintle_column *c = &history->column[i];
        void *const all[] = { c->name,     c->value, c->uncorrected, c->uncertainty, c->suspect,
                              c->remarked, c->least, c->greatest,    c->odd };
        for (unsigned k = 0; k < G_N_ELEMENTS(all); k++) {
            g_free(all[k]);
        }
    }
    g_free(history->column);
    g_free(history->time);
    g_free(history->reach);
    g_free(history->record);
    g_free(history->path);
    g_free(history);
}
