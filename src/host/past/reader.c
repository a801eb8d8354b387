#include "pintle/host/past/reader.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/past/source.h"

struct reading {
    struct pintle_past *const *run;
    struct pintle_window window;
    struct pintle_source *source; /* of the run that is read now; null: it is not open yet */
    unsigned now;
    unsigned read;
    unsigned *place; /* the column of each of its own */
    struct pintle_cell *cell;
};

static struct pintle_source *open_one(const struct pintle_past *run, struct pintle_window window,
                                      struct pintle_problem *problem)
{
    if (run->broken) {
        pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "%s", run->broken);
        return NULL;
    }
    return run->folder ? pintle_priv_source_folder(run, window, problem)
                       : pintle_priv_source_base(run, window, problem);
}

static unsigned find_column(const struct pintle_reader *reader, const char *name)
{
    unsigned i = 0;
    while (i < reader->columns && strcmp(reader->column[i].name, name) != 0) {
        i++;
    }
    return i;
}

static struct pintle_run_column *add_column(struct pintle_reader *reader,
                                            const struct pintle_run_column *its)
{
    reader->column = g_renew(struct pintle_run_column, reader->column, reader->columns + 1);
    struct pintle_run_column *added = &reader->column[reader->columns++];
    *added = *its;
    added->name = g_strdup(its->name);
    return added;
}

/* A run's columns among those of all. False: one has another quantity under the same name. */
static bool join_columns(struct pintle_reader *reader, const struct pintle_past *run,
                         const struct pintle_layout *layout, struct pintle_problem *problem)
{
    for (unsigned i = 0; i < layout->columns; i++) {
        const struct pintle_run_column *its = &layout->column[i];
        unsigned at = find_column(reader, its->name);
        struct pintle_run_column *all =
            at < reader->columns ? &reader->column[at] : add_column(reader, its);
        if (all->quantity != its->quantity) {
            return pintle_problem_set(
                problem, PINTLE_FAILURE_USE,
                "%s has '%s' as another quantity than the run before it; they "
                "can't be joined",
                run->where, its->name);
        }
        all->made = all->made || its->made;
        all->decimals = MAX(all->decimals, its->decimals);
        all->corrected = all->corrected || its->corrected;
        all->uncertain = all->uncertain || its->uncertain;
    }
    return true;
}

struct pintle_reader *pintle_reader_open(struct pintle_past *const *runs, unsigned count,
                                         struct pintle_window window,
                                         struct pintle_problem *problem)
{
    struct pintle_reader *reader = g_new0(struct pintle_reader, 1);
    struct reading *own = g_new0(struct reading, 1);
    bool ok = true;
    reader->own = own;
    reader->runs = count;
    own->run = runs;
    own->window = window;
    for (unsigned i = 0; ok && i < count; i++) {
        struct pintle_source *source = open_one(runs[i], window, problem);
        ok = source && join_columns(reader, runs[i], &source->layout, problem);
        if (source) {
            source->free(source);
        }
    }
    if (!ok) {
        pintle_reader_free(reader);
        return NULL;
    }
    own->place = g_new0(unsigned, reader->columns + 1);
    own->cell = g_new0(struct pintle_cell, reader->columns + 1);
    return reader;
}

/* The run that is next, with its columns' places; null on failure. */
static struct pintle_source *begin_run(struct pintle_reader *reader, struct pintle_problem *problem)
{
    struct reading *own = reader->own;
    own->source = open_one(own->run[own->now], own->window, problem);
    for (unsigned i = 0; own->source && i < own->source->layout.columns; i++) {
        unsigned at = find_column(reader, own->source->layout.column[i].name);
        if (at == reader->columns) {
            pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                               "%s was changed while it was read; try again",
                               own->run[own->now]->where);
            return NULL;
        }
        own->place[i] = at;
    }
    return own->source;
}

/* Now and then. */
static bool go_on(const struct pintle_reader *reader, struct pintle_problem *problem)
{
    struct reading *own = reader->own;
    const struct pintle_progress *progress = own->window.progress;
    return ++own->read % 256 != 0 || !progress
           || progress->step(progress->context, pintle_reader_progress(reader))
           || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "stopped; nothing was changed");
}

bool pintle_reader_next(struct pintle_reader *reader, struct pintle_record *record,
                        struct pintle_problem *problem)
{
    struct reading *own = reader->own;
    while (own->now < reader->runs) {
        if (!go_on(reader, problem)) {
            return false;
        }
        struct pintle_source *source = own->source ? own->source : begin_run(reader, problem);
        if (!source) {
            return false;
        }
        *record = (struct pintle_record){ .run = own->now, .stands_for = 1, .cell = own->cell };
        if (source->next(source, record, problem)) {
            if (record->time_us < own->window.from_us || record->time_us >= own->window.to_us) {
                continue;
            }
            pintle_priv_cells_clear(own->cell, reader->columns);
            for (unsigned i = 0; i < source->layout.columns; i++) {
                own->cell[own->place[i]] = source->cell[i];
            }
            return true;
        }
        if (problem->text[0]) {
            return false;
        }
        source->free(source);
        own->source = NULL;
        own->now++;
    }
    return false;
}

double pintle_reader_progress(const struct pintle_reader *reader)
{
    const struct reading *own = reader->own;
    double part = own->source ? own->source->progress(own->source) : 0;
    return reader->runs > 0 ? fmin((own->now + part) / reader->runs, 1) : 1;
}

void pintle_reader_free(struct pintle_reader *reader)
{
    if (!reader) {
        return;
    }
    struct reading *own = reader->own;
    if (own->source) {
        own->source->free(own->source);
    }
    for (unsigned i = 0; i < reader->columns; i++) {
        g_free(reader->column[i].name);
    }
    g_free(reader->column);
    g_free(own->place);
    g_free(own->cell);
    g_free(own);
    g_free(reader);
}
