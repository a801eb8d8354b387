/* What is known of a run before its records are read. */
#include "host/past/past.h"

#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "host/base/files.h"
#include "host/base/json.h"
#include "host/base/plain.h"
#include "host/past/record.h"
#include "host/run/held.h"
#include "host/run/note.h"
#include "host/run/places.h"
#include "pintle/host/past/reader.h"

#define FORMAT "pintle run "

/* --- run.json --- */

static char *string_of(const json_t *about, const char *key)
{
    return g_strdup(json_string_value(json_object_get(about, key)));
}

static uint64_t count_of(const json_t *about, const char *key)
{
    json_int_t number = json_integer_value(json_object_get(about, key));
    return number > 0 ? (uint64_t)number : 0;
}

static int64_t steps_of(const json_t *steps)
{
    double seconds = 0;
    for (size_t i = 0; i < json_array_size(steps); i++) {
        seconds += json_number_value(json_object_get(json_array_get(steps, i), "by_s"));
    }
    return (int64_t)(seconds * 1e6);
}

static void take_channels(struct pintle_past *past, const json_t *channels)
{
    past->channels = (unsigned)json_array_size(channels);
    past->channel = g_new0(struct pintle_channel_about, past->channels + 1);
    for (unsigned i = 0; i < past->channels; i++) {
        const json_t *one = json_array_get(channels, i);
        past->channel[i].name = string_of(one, "name");
        past->channel[i].name = past->channel[i].name ? past->channel[i].name : g_strdup("");
        past->channel[i].unit = string_of(one, "unit");
        past->channel[i].made = json_is_true(json_object_get(one, "made"));
        past->channel[i].decimals = (uint8_t)MIN(count_of(one, "decimals"), 9);
    }
}

static void take_about(struct pintle_past *past, const char *text)
{
    json_t *about = pintle_priv_json_parse(text, NULL);
    const char *format = json_string_value(json_object_get(about, "format"));
    const char *began = json_string_value(json_object_get(about, "began"));
    double every_s = json_number_value(json_object_get(about, "every_s"));
    past->about = g_strdup(text);
    if (format && g_str_has_prefix(format, FORMAT)
        && g_ascii_strtoll(format + strlen(FORMAT), NULL, 10) > 1) {
        past->broken = g_strdup_printf("%s was written by a newer version (%s); take that version",
                                       past->where, format);
    } else if (!format || !g_str_has_prefix(format, FORMAT) || !(every_s >= 1e-6 && every_s <= 1e9)
               || !began || !pintle_priv_time_parse(began, &past->began_us)) {
        past->broken = g_strdup_printf("%s: its run.json is damaged; the records may still be read "
                                       "as CSV",
                                       past->where);
    } else {
        past->board = string_of(about, "board");
        past->ended = string_of(about, "ended");
        past->unset = json_object_get(about, "clock") != NULL;
        past->simulated = g_strcmp0(json_string_value(json_object_get(about, "port")), "sim") == 0;
        past->every_us = (int64_t)(every_s * 1e6);
        past->counted = past->ended && json_object_get(about, "missed");
        past->records = count_of(about, "records");
        past->suspect = count_of(about, "suspect");
        past->missed = count_of(about, "missed");
        past->stepped_us = steps_of(json_object_get(about, "clock_steps"));
        take_channels(past, json_object_get(about, "channels"));
    }
    json_decref(about);
}

/* --- notes --- */

static void take_note(struct pintle_past *past, const char *when, const char *what,
                      const char *said)
{
    int64_t time_us = 0;
    if (strcmp(what, "title") == 0) {
        g_free(past->title);
        past->title = said[0] ? pintle_priv_plain(said) : NULL;
    } else if (pintle_priv_time_parse(when, &time_us)) {
        past->note = g_renew(struct pintle_note, past->note, past->notes + 1);
        past->note[past->notes++] = (struct pintle_note){ time_us, pintle_priv_plain(said) };
    }
}

static void take_notes_file(struct pintle_past *past)
{
    char *text = pintle_past_text(past, PINTLE_NOTES_FILE);
    char **lines = g_strsplit(text ? text : "", "\n", -1);
    struct pintle_fields fields = { 0 };
    for (unsigned i = 1; text && lines[0] && lines[i] && lines[i + 1]; i++) {
        pintle_priv_fields_split(&fields, lines[i], strlen(lines[i]));
        if (fields.count == 3) {
            take_note(past, fields.at[0], fields.at[1], fields.at[2]);
        }
    }
    pintle_priv_fields_free(&fields);
    g_strfreev(lines);
    g_free(text);
}

/* --- a folder --- */

struct pintle_past *pintle_priv_past_folder(const char *path)
{
    struct pintle_past *past = g_new0(struct pintle_past, 1);
    char *name = g_path_get_basename(path);
    char *readings = g_build_filename(path, "readings.csv", NULL);
    past->number = pintle_priv_run_number(name);
    past->where = g_strdup(path);
    past->folder = g_strdup(path);
    char *about = pintle_past_text(past, "run.json");
    if (about) {
        take_about(past, about);
    }
    int file = open(readings, O_RDONLY | O_CLOEXEC);
    past->writing = pintle_priv_held_is(file, 0);
    if (file >= 0) {
        close(file);
    }
    take_notes_file(past);
    g_free(about);
    g_free(readings);
    g_free(name);
    return past;
}

/* --- a database --- */

static const char *text_at(sqlite3_stmt *statement, int column)
{
    return (const char *)sqlite3_column_text(statement, column);
}

static bool take_notes_base(sqlite3 *db, struct pintle_past *past, struct pintle_problem *problem)
{
    sqlite3_stmt *ask = pintle_priv_database_ask(
        db, past->database, problem,
        "SELECT time, what, text FROM notes WHERE run = %u ORDER BY rowid", past->number);
    while (ask && sqlite3_step(ask) == SQLITE_ROW) {
        take_note(past, text_at(ask, 0), text_at(ask, 1), text_at(ask, 2));
    }
    sqlite3_finalize(ask);
    return ask != NULL;
}

static struct pintle_past *take_row(const char *path, sqlite3_stmt *row, int file)
{
    struct pintle_past *past = g_new0(struct pintle_past, 1);
    const char *ended = text_at(row, 2);
    past->number = (unsigned)sqlite3_column_int(row, 0);
    past->where = g_strdup_printf("run %u in %s", past->number, path);
    past->database = g_strdup(path);
    take_about(past, text_at(row, 1));
    g_free(past->ended);
    past->ended = g_strdup(ended);
    past->writing = pintle_priv_held_is(file, past->number);
    /* By how much a clock was moved is in the records until a run ends. */
    past->counted = sqlite3_column_type(row, 3) != SQLITE_NULL
                    && (past->ended || sqlite3_column_int(row, 6) == 0);
    past->records = (uint64_t)sqlite3_column_int64(row, 3);
    past->suspect = (uint64_t)sqlite3_column_int64(row, 4);
    past->missed = (uint64_t)sqlite3_column_int64(row, 5);
    return past;
}

bool pintle_priv_past_base(const char *path, struct pintle_past ***all, unsigned *count,
                           struct pintle_problem *problem)
{
    int file = open(path, O_RDONLY | O_CLOEXEC); /* closed behind the database: held.h */
    sqlite3 *db = pintle_priv_database_open(path, problem);
    sqlite3_stmt *ask = db ? pintle_priv_database_ask(
                            db, path, problem,
                            "SELECT number, about, ended, records, suspect, missed, steps FROM "
                            "runs LEFT JOIN counts ON run = number ORDER BY number")
                           : NULL;
    bool ok = ask != NULL;
    int code = ok ? sqlite3_step(ask) : SQLITE_DONE;
    for (; ok && code == SQLITE_ROW; code = sqlite3_step(ask)) {
        struct pintle_past *past = take_row(path, ask, file);
        *all = g_renew(struct pintle_past *, *all, *count + 1);
        (*all)[(*count)++] = past;
        ok = take_notes_base(db, past, problem);
    }
    if (ok && code != SQLITE_DONE) {
        ok = pintle_priv_database_failed(db, path, problem);
    }
    sqlite3_finalize(ask);
    sqlite3_close(db);
    if (file >= 0) {
        close(file);
    }
    return ok;
}

static char *base_text(const struct pintle_past *past, const char *column)
{
    struct pintle_problem problem = { 0 };
    sqlite3 *db = pintle_priv_database_open(past->database, &problem);
    sqlite3_stmt *ask = db ? pintle_priv_database_ask(db, past->database, &problem,
                                                      "SELECT \"%w\" FROM runs WHERE number = %u",
                                                      column, past->number)
                           : NULL;
    char *text = ask && sqlite3_step(ask) == SQLITE_ROW ? g_strdup(text_at(ask, 0)) : NULL;
    sqlite3_finalize(ask);
    sqlite3_close(db);
    return text;
}

char *pintle_past_text(const struct pintle_past *past, const char *name)
{
    char *text = NULL;
    if (past->folder) {
        char *path = g_build_filename(past->folder, name, NULL);
        g_file_get_contents(path, &text, NULL, NULL);
        g_free(path);
        return text;
    }
    return base_text(past, strcmp(name, "calibration.json") == 0 ? "calibration" : name);
}

/* --- all of it --- */

bool pintle_past_count(struct pintle_past *past, struct pintle_problem *problem)
{
    if (past->counted) {
        return true;
    }
    struct pintle_record record;
    struct pintle_reader *reader = pintle_reader_open(&past, 1, PINTLE_ALL_TIME, problem);
    past->records = past->suspect = past->missed = 0;
    past->stepped_us = 0;
    while (reader && pintle_reader_next(reader, &record, problem)) {
        past->records += record.stands_for;
        past->suspect += record.marked;
        past->missed += record.missed;
        past->stepped_us += record.stepped_us;
    }
    pintle_reader_free(reader);
    past->counted = problem->text[0] == '\0';
    return past->counted;
}

#define TAIL 65536 /* bytes that hold a last record, of all but the largest rigs */

/* The time in the last whole line of a CSV file. */
static bool last_of_tail(FILE *file, off_t back, int64_t *time_us, uint64_t *number)
{
    char *text = g_malloc0((gsize)back + 1);
    size_t got = fseeko(file, -back, SEEK_END) == 0 ? fread(text, 1, (size_t)back, file) : 0;
    bool found = false;
    char *end = g_strrstr_len(text, (gssize)got, "\n");
    while (end && !found) {
        *end = '\0';
        char *before = g_strrstr(text, "\n");
        char *comma = strchr(before ? before : text, ',');
        char *next = comma ? strchr(comma + 1, ',') : NULL;
        if (next) {
            *next = '\0';
            found = pintle_priv_time_parse(comma + 1, time_us);
            *number = g_ascii_strtoull(before ? before + 1 : text, NULL, 10);
        }
        end = before;
    }
    g_free(text);
    return found;
}

static bool last_of_folder(const struct pintle_past *past, int64_t *time_us, uint64_t *number)
{
    char *path = g_build_filename(past->folder, "readings.csv", NULL);
    FILE *file = fopen(path, "re");
    bool found = false;
    if (file && fseeko(file, 0, SEEK_END) == 0) {
        off_t size = ftello(file);
        for (off_t back = MIN(size, TAIL); !found; back = MIN(size, 8 * back)) {
            found = last_of_tail(file, back, time_us, number);
            if (back == size) {
                break;
            }
        }
    }
    if (file) {
        fclose(file);
    }
    g_free(path);
    return found;
}

uint64_t pintle_past_lost(const struct pintle_past *past)
{
    int64_t time_us = 0;
    uint64_t number = 0;
    struct pintle_problem unread = { 0 };
    if (!past->ended || !past->counted || past->broken) {
        return 0;
    }
    (void)!pintle_priv_past_last(past, &time_us, &number, &unread); /* with no record it is 0 */
    return unread.text[0] || number >= past->records ? 0 : past->records - number;
}

static bool last_of_base(const struct pintle_past *past, int64_t *time_us, uint64_t *number,
                         struct pintle_problem *problem)
{
    sqlite3 *db = pintle_priv_database_open(past->database, problem);
    static const char *const asks[] = {
        "SELECT time, record FROM readings_%u ORDER BY record DESC LIMIT 1",
        "SELECT time, record FROM thinned WHERE run = %u ORDER BY record DESC LIMIT 1"
    };
    bool found = false;
    for (unsigned i = 0; db && i < G_N_ELEMENTS(asks) && !found; i++) {
        sqlite3_stmt *ask =
            pintle_priv_database_ask(db, past->database, problem, asks[i], past->number);
        found = ask && sqlite3_step(ask) == SQLITE_ROW
                && pintle_priv_time_parse(text_at(ask, 0), time_us);
        *number = found ? (uint64_t)sqlite3_column_int64(ask, 1) : 0;
        sqlite3_finalize(ask);
    }
    sqlite3_close(db);
    return found;
}

bool pintle_priv_past_last(const struct pintle_past *past, int64_t *time_us, uint64_t *number,
                           struct pintle_problem *problem)
{
    *number = 0;
    return past->folder ? last_of_folder(past, time_us, number)
                        : last_of_base(past, time_us, number, problem);
}

bool pintle_past_last(const struct pintle_past *past, int64_t *time_us,
                      struct pintle_problem *problem)
{
    uint64_t number = 0;
    return pintle_priv_past_last(past, time_us, &number, problem);
}

bool pintle_past_note(const struct pintle_past *past, int64_t time_us, bool title, const char *text,
                      struct pintle_problem *problem)
{
    if (past->folder && !pintle_priv_note_folder(past->folder, time_us, title, text, problem)) {
        return false;
    }
    sqlite3 *db = past->database ? pintle_priv_database_make(past->database, problem) : NULL;
    bool ok = !past->database
              || (db
                  && pintle_priv_note_base(db, past->database, past->number, time_us, title, text,
                                           problem));
    sqlite3_close(db);
    return ok;
}

/* By whatever names. */
static bool is_same_file(const char *path, const char *other)
{
    GStatBuf one;
    GStatBuf two;
    return g_stat(path, &one) == 0 && g_stat(other, &two) == 0 && one.st_dev == two.st_dev
           && one.st_ino == two.st_ino;
}

bool pintle_past_owns(const struct pintle_past *past, const char *path)
{
    bool owns = past->database && is_same_file(path, past->database);
    for (unsigned i = 0; past->folder && !owns && i < PINTLE_RUN_FILES; i++) {
        char *file = g_build_filename(past->folder, pintle_priv_run_files[i], NULL);
        owns = is_same_file(path, file);
        g_free(file);
    }
    return owns;
}

void pintle_priv_past_free(struct pintle_past *past)
{
    for (unsigned i = 0; i < past->channels; i++) {
        g_free(past->channel[i].name);
        g_free(past->channel[i].unit);
    }
    for (unsigned i = 0; i < past->notes; i++) {
        g_free(past->note[i].text);
    }
    g_free(past->channel);
    g_free(past->note);
    g_free(past->where);
    g_free(past->folder);
    g_free(past->database);
    g_free(past->broken);
    g_free(past->about);
    g_free(past->board);
    g_free(past->title);
    g_free(past->ended);
    g_free(past);
}

static char *correction_text(const json_t *stage)
{
    GString *text = g_string_new(json_string_value(json_object_get(stage, "is")));
    const json_t *numbers = json_object_get(stage, "numbers");
    const char *second = json_string_value(json_object_get(stage, "second"));
    for (size_t i = 0; i < json_array_size(numbers); i++) {
        g_string_append_printf(text, " %.6g", json_number_value(json_array_get(numbers, i)));
    }
    if (second) {
        g_string_append_printf(text, " by %s", second);
    }
    json_int_t entry = json_integer_value(json_object_get(stage, "correction"));
    if (entry > 0) {
        g_string_append_printf(text, ", calibration %d", (int)entry);
    } else {
        g_string_append(text, ", from the rig file");
    }
    return g_string_free(text, FALSE);
}

struct pintle_past_correction *pintle_past_corrections(const struct pintle_past *past)
{
    struct pintle_past_correction *all = g_new0(struct pintle_past_correction, 1);
    json_t *about = past->about ? pintle_priv_json_parse(past->about, NULL) : NULL;
    const json_t *sensors = json_object_get(about, "sensors");
    unsigned count = 0;
    for (size_t i = 0; i < json_array_size(sensors); i++) {
        const json_t *sensor = json_array_get(sensors, i);
        const json_t *stages = json_object_get(sensor, "corrections");
        const char *name = json_string_value(json_object_get(sensor, "sensor"));
        for (size_t k = 0; k < json_array_size(stages); k++) {
            const json_t *stage = json_array_get(stages, k);
            const char *channel = json_string_value(json_object_get(stage, "channel"));
            all = g_renew(struct pintle_past_correction, all, count + 2);
            all[count].channel =
                g_strdup_printf("%s.%s", name ? name : "?", channel ? channel : "?");
            all[count++].text = correction_text(stage);
            all[count] = (struct pintle_past_correction){ NULL, NULL };
        }
    }
    json_decref(about);
    return all;
}
