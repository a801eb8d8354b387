#include "pintle/host/past/summary.h"

#include <glib.h>
#include <math.h>

struct summing {
    struct pintle_summary *summary;
    bool *gone; /* of each column: no reading in the last record */
};

static void begin(struct summing *s, const struct pintle_reader *reader)
{
    struct pintle_summary *summary = s->summary;
    summary->columns = reader->columns;
    summary->column = g_new0(struct pintle_summed, reader->columns + 1);
    s->gone = g_new0(bool, reader->columns + 1);
    for (unsigned i = 0; i < reader->columns; i++) {
        summary->column[i].column = reader->column[i];
        summary->column[i].column.name = g_strdup(reader->column[i].name);
        summary->column[i].cell = pintle_cell_empty();
    }
    summary->first_us = INT64_MAX;
    summary->last_us = INT64_MIN;
    summary->events = pintle_events_open(reader);
}

static void add_cell(struct pintle_summed *to, const struct pintle_cell *cell,
                     const struct pintle_record *record)
{
    double least = to->cell.least;
    double greatest = to->cell.greatest;
    pintle_cell_merge(&to->cell, cell, to->column.quantity);
    to->good += cell->good;
    to->suspect += cell->suspect;
    if (cell->good > 0 && !(to->cell.least >= least)) {
        to->least_us = record->time_us;
    }
    if (cell->good > 0 && !(to->cell.greatest <= greatest)) {
        to->greatest_us = record->time_us;
    }
}

static void add(struct summing *s, const struct pintle_record *record)
{
    struct pintle_summary *summary = s->summary;
    for (unsigned i = 0; i < summary->columns; i++) {
        const struct pintle_cell *cell = &record->cell[i];
        bool gone = cell->good == 0 && isnan(cell->value);
        add_cell(&summary->column[i], cell, record);
        summary->column[i].gaps += (record->missed > 0 && !s->gone[i]) || (gone && !s->gone[i]);
        s->gone[i] = gone;
    }
    summary->records += record->stands_for;
    summary->marked += record->marked;
    summary->missed += record->missed;
    summary->first_us = MIN(summary->first_us, record->time_us);
    summary->last_us = MAX(summary->last_us, record->time_us);
    pintle_events_take(summary->events, record);
}

struct pintle_summary *pintle_summary_make(struct pintle_past *const *runs, unsigned count,
                                           struct pintle_window window,
                                           struct pintle_problem *problem)
{
    struct pintle_record record;
    struct pintle_reader *reader = pintle_reader_open(runs, count, window, problem);
    if (!reader) {
        return NULL;
    }
    struct summing s = { .summary = g_new0(struct pintle_summary, 1) };
    begin(&s, reader);
    while (pintle_reader_next(reader, &record, problem)) {
        add(&s, &record);
    }
    for (unsigned i = 0; i < s.summary->columns; i++) {
        struct pintle_summed *column = &s.summary->column[i];
        pintle_cell_settle(&column->cell, column->column.quantity);
    }
    pintle_events_end(s.summary->events, runs, count, window);
    bool all = window.from_us == INT64_MIN && window.to_us == INT64_MAX;
    bool ok = problem->text[0] == '\0'
              && (s.summary->records > 0
                  || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                        all ? "%s: the run has no record yet"
                                            : "%s has no record in that time; 'pintle runs' says "
                                              "when it was",
                                        runs[0]->where));
    g_free(s.gone);
    pintle_reader_free(reader);
    if (!ok) {
        pintle_summary_free(s.summary);
        return NULL;
    }
    return s.summary;
}

void pintle_summary_free(struct pintle_summary *summary)
{
    if (!summary) {
        return;
    }
    for (unsigned i = 0; i < summary->columns; i++) {
        g_free(summary->column[i].column.name);
    }
    pintle_events_free(summary->events);
    g_free(summary->column);
    g_free(summary);
}
