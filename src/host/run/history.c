/* Reading a run back: only what record.c writes, but from a file that anything may have happened
 * to. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/base/files.h"
#include "pintle/host/run/run.h"

/* Split one CSV line in place (RFC 4180 without line ends inside fields). */
static unsigned split(char *line, char **fields)
{
    unsigned count = 0;
    char *at = line;
    for (;;) {
        char *to = at;
        fields[count++] = to;
        bool quoted = *at == '"';
        at += quoted;
        while (*at && (quoted || *at != ',')) {
            if (quoted && at[0] == '"' && at[1] != '"') {
                quoted = false;
                at++;
                continue;
            }
            at += quoted && at[0] == '"';
            *to++ = *at++;
        }
        bool more = *at == ',';
        *to = '\0';
        if (!more) {
            return count;
        }
        at++;
    }
}

static enum pintle_quantity quantity_of(const char *symbol)
{
    enum pintle_quantity q = (enum pintle_quantity)0;
    while (q < PINTLE_QUANTITY_COUNT && strcmp(pintle_quantity_symbol(q), symbol) != 0) {
        q = (enum pintle_quantity)(q + 1);
    }
    return q;
}

/* "baro.temperature.uncorrected/Cel" stands behind "baro.temperature/Cel" and belongs to it. */
static double *take_beside(struct pintle_history *history, const char *field, unsigned rows)
{
    struct pintle_column *last =
        history->columns > 0 ? &history->column[history->columns - 1] : NULL;
    size_t length = last ? strlen(last->name) : 0;
    if (!last || strncmp(field, last->name, length) != 0) {
        return NULL;
    }
    double **to = g_str_has_prefix(field + length, PINTLE_RUN_UNCORRECTED "/") ? &last->uncorrected
                  : g_str_has_prefix(field + length, PINTLE_RUN_UNCERTAINTY "/")
                      ? &last->uncertainty
                      : NULL;
    if (!to || *to) {
        return NULL;
    }
    *to = g_new0(double, rows);
    return *to;
}

/* "cabin.temperature/Cel"; what is in front of the last dot and the slash must be there. */
static bool take_column(struct pintle_column *column, const char *field, unsigned rows)
{
    const char *slash = strchr(field, '/');
    const char *end = slash ? slash : field + strlen(field);
    column->quantity = slash ? quantity_of(slash + 1) : PINTLE_QUANTITY_COUNT;
    column->unit = pintle_quantity_unit(column->quantity);
    column->also = PINTLE_UNIT_COUNT;
    column->name = g_strndup(field, (gsize)(end - field));
    column->value = g_new0(double, rows);
    column->suspect = g_new0(uint8_t, rows);
    column->remarked = g_new0(uint8_t, rows);
    return end > field;
}

static bool take_header(struct pintle_history *history, char **fields, unsigned count,
                        unsigned rows)
{
    if (count < 4 || strcmp(fields[0], "record") != 0
        || strcmp(fields[count - 1], "quality") != 0) {
        return false;
    }
    history->fields = count - 3;
    history->column = g_new0(struct pintle_column, history->fields);
    history->into = g_new0(double *, history->fields);
    history->time = g_new0(double, rows);
    bool ok = true;
    for (unsigned i = 0; i < history->fields; i++) {
        history->into[i] = take_beside(history, fields[2 + i], rows);
        if (!history->into[i]) {
            struct pintle_column *column = &history->column[history->columns++];
            ok = take_column(column, fields[2 + i], rows) && ok;
            history->into[i] = column->value;
        }
    }
    return ok;
}

/* Of "jump+warming" up to the next "; ": is one of the words more than a remark? */
static bool speaks_against(const char *words)
{
    static const char *const remarks[] = { "gap", "warming", "smoothed", "uncorrected" };
    for (size_t length = 0; *words && *words != ';'; words += length + (words[length] == '+')) {
        bool remark = false;
        length = strcspn(words, "+;");
        for (size_t i = 0; i < G_N_ELEMENTS(remarks); i++) {
            remark =
                remark || (strlen(remarks[i]) == length && strncmp(words, remarks[i], length) == 0);
        }
        if (!remark) {
            return true;
        }
    }
    return false;
}

/* What is said of a channel among the remarks, between which stands "; ": "jump" of
 * "cabin.temperature=jump"; null: nothing. */
static const char *said_of(const char *quality, const char *name)
{
    size_t length = strlen(name);
    for (const char *at = quality; at; at = strstr(at, "; ")) {
        at += at > quality ? 2 : 0;
        if (strncmp(at, name, length) == 0 && at[length] == '=') {
            return at + length + 1;
        }
    }
    return NULL;
}

static bool take_row(struct pintle_history *history, char **fields, unsigned count)
{
    if (count != history->fields + 3) {
        return false;
    }
    GDateTime *time = g_date_time_new_from_iso8601(fields[1], NULL);
    if (!time) {
        return false;
    }
    unsigned row = history->rows++;
    history->time[row] =
        (double)g_date_time_to_unix(time) + g_date_time_get_microsecond(time) / 1e6;
    g_date_time_unref(time);
    for (unsigned i = 0; i < history->fields; i++) {
        char *end = NULL;
        double value = g_ascii_strtod(fields[2 + i], &end);
        bool number = end > fields[2 + i] && *end == '\0';
        history->into[i][row] = number ? value : (double)NAN;
    }
    for (unsigned i = 0; i < history->columns; i++) {
        struct pintle_column *column = &history->column[i];
        const char *said = said_of(fields[history->fields + 2], column->name);
        column->suspect[row] = said && speaks_against(said);
        column->remarked[row] =
            said && !column->suspect[row] && !g_str_has_prefix(said, "smoothed");
    }
    return true;
}

static bool take_line(struct pintle_history *history, char *line, unsigned number, unsigned rows)
{
    char **fields = g_new0(char *, strlen(line) + 1); /* no more than that */
    unsigned count = split(line, fields);
    bool ok =
        number == 1 ? take_header(history, fields, count, rows) : take_row(history, fields, count);
    g_free(fields);
    return ok;
}

static bool take_lines(struct pintle_history *history, char *text, struct pintle_problem *problem)
{
    char *end = strrchr(text, '\n'); /* what follows was cut off */
    *(end ? end : text) = '\0';
    char **lines = g_strsplit(text, "\n", -1);
    unsigned count = g_strv_length(lines);
    bool ok = true;
    for (unsigned i = 0; i < count && ok; i++) {
        g_strchomp(lines[i]);
        ok = take_line(history, lines[i], i + 1, count);
        if (!ok) {
            pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                               "%s/readings.csv:%u: this is no line of a run; the file was "
                               "changed, or is something else",
                               history->path, i + 1);
        }
    }
    g_strfreev(lines);
    if (ok && history->rows == 0) {
        return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "%s: the run has no record yet",
                                  history->path);
    }
    return ok;
}

static char *find_run(const char *folder, const char *name, struct pintle_problem *problem)
{
    char *end = NULL;
    guint64 number = g_ascii_strtoull(name, &end, 10);
    if (*name != '\0' && *end == '\0') {
        char padded[24];
        g_snprintf(padded, sizeof padded, "%04" G_GUINT64_FORMAT, number);
        char *path = g_build_filename(folder, padded, NULL);
        if (g_file_test(path, G_FILE_TEST_IS_DIR)) {
            return path;
        }
        g_free(path);
    }
    if (g_file_test(name, G_FILE_TEST_IS_DIR)) {
        return g_strdup(name);
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE,
                       "there is no run '%s' in %s; give a run's number or the path of its folder, "
                       "or make one with 'pintle log'",
                       name, folder);
    return NULL;
}

struct pintle_history *pintle_history_load(const char *folder, const char *name,
                                           struct pintle_problem *problem)
{
    char *path = find_run(folder, name, problem);
    if (!path) {
        return NULL;
    }
    struct pintle_history *history = g_new0(struct pintle_history, 1);
    history->path = path;
    char *file = g_build_filename(path, "readings.csv", NULL);
    char *text = pintle_priv_files_read(file, "record file", problem);
    bool ok = text && take_lines(history, text, problem);
    g_free(file);
    g_free(text);
    if (!ok) {
        pintle_history_free(history);
        return NULL;
    }
    return history;
}

void pintle_history_free(struct pintle_history *history)
{
    if (!history) {
        return;
    }
    for (unsigned i = 0; history->column && i < history->columns; i++) {
        g_free(history->column[i].name);
        g_free(history->column[i].value);
        g_free(history->column[i].uncorrected);
        g_free(history->column[i].uncertainty);
        g_free(history->column[i].suspect);
        g_free(history->column[i].remarked);
    }
    g_free(history->column);
    g_free(history->into);
    g_free(history->time);
    g_free(history->path);
    g_free(history);
}
