/* readings.csv, to which anything may have happened. */
#include <errno.h>
#include <glib.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "host/past/source.h"

struct from_folder {
    struct pintle_source source;
    const struct pintle_past *run;
    FILE *file;
    char *line;
    size_t room;
    unsigned number; /* of the line */
    struct pintle_fields fields;
    off_t at, size;
    uint64_t last; /* number of a record; 0: none was read */
    int64_t last_us;
};

/* The next whole line, split; a last one that was cut off is none. */
static bool next_line(struct from_folder *from)
{
    ssize_t length = getline(&from->line, &from->room, from->file);
    if (length <= 0 || from->line[length - 1] != '\n') {
        return false;
    }
    from->number++;
    from->at += length;
    pintle_priv_fields_split(&from->fields, from->line, (size_t)length);
    return true;
}

static bool no_line(const struct from_folder *from, struct pintle_problem *problem)
{
    return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                              "%s/readings.csv:%u: this is no line of a run; the file was changed, "
                              "or is something else; mend or take out that line in a copy",
                              from->run->folder, from->number);
}

/* Each record has a higher number than the one before. A clock that was moved back is said in its
 * record; less than a minute may have been slewed. */
#define SLEWED_US 60000000

static bool follows(struct from_folder *from, const struct pintle_record *record,
                    struct pintle_problem *problem)
{
    bool higher = record->number > from->last;
    bool back = from->last > 0 && record->time_us < from->last_us - SLEWED_US;
    bool said = record->stepped_us < 0;
    const char *what = !higher ? "has the number of a record before it, or of none"
                               : "is earlier than the record before it, and no one moved the clock";
    if (!higher || (back && !said)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                  "%s/readings.csv:%u: this line %s; the file was changed; mend or "
                                  "take out that line in a copy",
                                  from->run->folder, from->number, what);
    }
    from->last = record->number;
    from->last_us = record->time_us;
    return true;
}

static bool next(struct pintle_source *source, struct pintle_record *record,
                 struct pintle_problem *problem)
{
    struct from_folder *from = (struct from_folder *)source;
    const struct pintle_fields *fields = &from->fields;
    if (source->layout.columns == 0 || !next_line(from)) {
        return ferror(from->file)
                   ? pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                        "cannot read %s/readings.csv: %s; check the disk",
                                        from->run->folder, g_strerror(errno))
                   : false;
    }
    const char *number = fields->at[0];
    if (fields->count != source->layout.fields + 3
        || !pintle_priv_time_parse(fields->at[1], &record->time_us)
        || !pintle_priv_whole_parse(number, strlen(number), UINT32_MAX, &record->number)) {
        return no_line(from, problem);
    }
    pintle_priv_cells_clear(source->cell, source->layout.columns);
    for (unsigned i = 0; i < source->layout.fields; i++) {
        double value = 0;
        if (!pintle_priv_value_parse(fields->at[2 + i], &value)) {
            return no_line(from, problem);
        }
        pintle_priv_cell_put(&source->layout, source->cell, i, value);
    }
    if (!pintle_priv_record_mark(&source->layout, source->cell, fields->at[fields->count - 1],
                                 record)) {
        return no_line(from, problem);
    }
    return follows(from, record, problem);
}

static double progress(const struct pintle_source *source)
{
    const struct from_folder *from = (const struct from_folder *)source;
    return from->size > 0 ? (double)from->at / (double)from->size : 1;
}

static void end(struct pintle_source *source)
{
    struct from_folder *from = (struct from_folder *)source;
    if (from->file) {
        fclose(from->file);
    }
    free(from->line);
    pintle_priv_fields_free(&from->fields);
    pintle_priv_layout_free(&source->layout);
    g_free(source->cell);
    g_free(from);
}

static bool open_readings(struct from_folder *from, struct pintle_problem *problem)
{
    char *path = g_build_filename(from->run->folder, "readings.csv", NULL);
    from->file = fopen(path, "re");
    bool ok = from->file
              || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                    errno == ENOENT ? "there is no record file %s; the run's "
                                                      "folder is not whole (%s)"
                                                    : "cannot read the record file %s: %s",
                                    path, g_strerror(errno));
    if (ok && fseeko(from->file, 0, SEEK_END) == 0) {
        from->size = ftello(from->file);
        rewind(from->file);
    }
    g_free(path);
    return ok;
}

struct pintle_source *pintle_priv_source_folder(const struct pintle_past *run,
                                                struct pintle_window window,
                                                struct pintle_problem *problem)
{
    struct from_folder *from = g_new0(struct from_folder, 1);
    struct pintle_source *source = &from->source;
    from->run = run;
    *source = (struct pintle_source){ .next = next, .progress = progress, .free = end };
    (void)window;
    bool ok = open_readings(from, problem);
    if (ok && next_line(from)) {
        ok = pintle_priv_layout_make(&source->layout, from->fields.at, from->fields.count, run)
             || no_line(from, problem);
        source->cell = g_new0(struct pintle_cell, source->layout.columns + 1);
    }
    if (!ok) {
        end(source);
        return NULL;
    }
    return source;
}
