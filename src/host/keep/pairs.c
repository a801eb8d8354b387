/* Pairs from a CSV file. */
#include <glib.h>
#include <math.h>
#include <string.h>

#include "host/base/files.h"
#include "pintle/host/keep/calibration.h"

/* Numbers in two columns. The comma of "13,5" would make two numbers of one. */
static bool parse_pair(const char *line, struct pintle_pair *pair)
{
    char *end = NULL;
    pair->sensor = g_ascii_strtod(line, &end);
    if (end == line) {
        return false;
    }
    end += strspn(end, " \t");
    if (*end != ',' && *end != ';' && end[-1] != '\t') {
        return false;
    }
    end -= *end != ',' && *end != ';';
    const char *second = end + 1;
    pair->reference = g_ascii_strtod(second, &end);
    return end > second && end[strspn(end, " \t\r")] == '\0' && isfinite(pair->sensor)
           && isfinite(pair->reference);
}

/* A heading has letters and no digit. */
static bool is_heading(const char *line)
{
    bool letters = false;
    for (; *line; line++) {
        letters |= g_ascii_isalpha(*line);
        if (g_ascii_isdigit(*line)) {
            return false;
        }
    }
    return letters;
}

static bool no_pair(const char *path, unsigned number, const char *line,
                    struct pintle_problem *problem)
{
    bool decimal_comma = strchr(line, ',') && strpbrk(line, ";\t");
    return pintle_problem_set(
        problem, PINTLE_FAILURE_USE,
        "%s:%u: '%s' is no pair of numbers; each line is the sensor's value, a "
        "comma, the reference's%s",
        path, number, line, decimal_comma ? ", with a point before the decimals" : "");
}

/* Pairs from lines, behind a heading. */
static bool take_pairs(const char *path, char **lines, struct pintle_pair *pairs, unsigned *count,
                       struct pintle_problem *problem)
{
    bool heading = false;
    for (unsigned i = 0; lines[i]; i++) {
        g_strchomp(lines[i]);
        if (parse_pair(lines[i], &pairs[*count])) {
            (*count)++;
        } else if (lines[i][0] != '\0' && (heading || *count > 0 || !is_heading(lines[i]))) {
            return no_pair(path, i + 1, lines[i], problem);
        } else {
            heading |= lines[i][0] != '\0';
        }
    }
    return *count > 0
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "%s: there is no pair of numbers in it; each line is the sensor's "
                                 "value, a comma, the reference's",
                                 path);
}

struct pintle_pair *pintle_calibration_pairs(const char *path, unsigned *count,
                                             struct pintle_problem *problem)
{
    char *text = pintle_priv_files_read(path, "CSV file of pairs", problem);
    if (!text) {
        return NULL;
    }
    char **lines = g_strsplit(text + (g_str_has_prefix(text, "\xef\xbb\xbf") ? 3 : 0), "\n", -1);
    struct pintle_pair *pairs = g_new0(struct pintle_pair, g_strv_length(lines) + 1);
    *count = 0;
    bool ok = take_pairs(path, lines, pairs, count, problem);
    g_strfreev(lines);
    g_free(text);
    if (!ok) {
        g_free(pairs);
    }
    return ok ? pairs : NULL;
}
