#include "pintle/host/past/archive.h"

#include <glib.h>
#include <stdlib.h>
#include <string.h>

#include "host/past/past.h"

static void add(struct pintle_archive *archive, struct pintle_past *past)
{
    archive->run = g_renew(struct pintle_past *, archive->run, archive->count + 1);
    archive->run[archive->count++] = past;
}

static bool add_folder(struct pintle_archive *archive, const char *folder,
                       struct pintle_problem *problem)
{
    GError *error = NULL;
    GDir *dir = g_dir_open(folder, 0, &error);
    const char *name = NULL;
    if (!dir) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "cannot look for runs in %s: %s; 'pintle log' makes them", folder,
                           error->message);
        g_error_free(error);
        return false;
    }
    while ((name = g_dir_read_name(dir)) != NULL) {
        char *path = g_build_filename(folder, name, NULL);
        if (*name && strspn(name, "0123456789") == strlen(name) && strlen(name) < 7
            && g_file_test(path, G_FILE_TEST_IS_DIR)) {
            add(archive, pintle_priv_past_folder(path));
        }
        g_free(path);
    }
    g_dir_close(dir);
    return true;
}

/* Logged into both places at once? Then they are one run, and the folder is read. */
static bool is_same(const struct pintle_past *a, const struct pintle_past *b)
{
    return a->number == b->number && a->began_us == b->began_us
           && g_strcmp0(a->board, b->board) == 0;
}

/* One of the two may have given out before the other: the one that has more is read, by its
 * records' numbers, for the clock may have been moved. */
static void merge(struct pintle_past **folder, struct pintle_past *base)
{
    struct pintle_problem problem = { 0 };
    int64_t time_us = 0;
    uint64_t its = 0;
    uint64_t other = 0;
    (void)!pintle_priv_past_last(*folder, &time_us, &its, &problem);
    (void)!pintle_priv_past_last(base, &time_us, &other, &problem);
    if (other > its) {
        pintle_priv_past_free(*folder);
        *folder = base;
        return;
    }
    if (other == its) {
        (*folder)->database = g_strdup(base->database);
    }
    (*folder)->writing = (*folder)->writing || base->writing;
    pintle_priv_past_free(base);
}

static bool add_base(struct pintle_archive *archive, const char *path,
                     struct pintle_problem *problem)
{
    struct pintle_past **all = NULL;
    unsigned count = 0;
    unsigned folders = archive->count;
    bool ok = pintle_priv_past_base(path, &all, &count, problem);
    for (unsigned i = 0; i < count; i++) {
        unsigned k = 0;
        while (k < folders && !is_same(archive->run[k], all[i])) {
            k++;
        }
        if (k < folders) {
            merge(&archive->run[k], all[i]);
        } else {
            add(archive, all[i]);
        }
    }
    g_free(all);
    return ok;
}

static int by_number(const void *a, const void *b)
{
    const struct pintle_past *one = *(struct pintle_past *const *)a;
    const struct pintle_past *other = *(struct pintle_past *const *)b;
    return one->number < other->number   ? -1
           : one->number > other->number ? 1
                                         : g_strcmp0(one->where, other->where);
}

struct pintle_archive *pintle_archive_open(const char *folder, const char *database,
                                           struct pintle_problem *problem)
{
    struct pintle_archive *archive = g_new0(struct pintle_archive, 1);
    archive->where = folder && database ? g_strdup_printf("%s and %s", folder, database)
                                        : g_strdup(folder     ? folder
                                                   : database ? database
                                                              : "no place");
    bool ok = (!folder || add_folder(archive, folder, problem))
              && (!database || add_base(archive, database, problem));
    if (!ok) {
        pintle_archive_free(archive);
        return NULL;
    }
    if (archive->count > 0) {
        qsort(archive->run, archive->count, sizeof(void *), by_number);
    }
    return archive;
}

void pintle_archive_free(struct pintle_archive *archive)
{
    if (!archive) {
        return;
    }
    for (unsigned i = 0; i < archive->count; i++) {
        pintle_priv_past_free(archive->run[i]);
    }
    g_free(archive->run);
    g_free(archive->where);
    g_free(archive);
}

static void choose(struct pintle_past ***chosen, unsigned *count, struct pintle_past *past)
{
    *chosen = g_renew(struct pintle_past *, *chosen, *count + 1);
    (*chosen)[(*count)++] = past;
}

static bool choose_numbers(const struct pintle_archive *archive, unsigned from, unsigned to,
                           struct pintle_past ***chosen, unsigned *count,
                           struct pintle_problem *problem)
{
    unsigned before = *count;
    for (unsigned i = 0; i < archive->count; i++) {
        struct pintle_past *past = archive->run[i];
        if (past->number < from || past->number > to) {
            continue;
        }
        if (*count > before && (*chosen)[*count - 1]->number == past->number) {
            return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                      "%s and %s are not the same run; name one place with --in",
                                      (*chosen)[*count - 1]->where, past->where);
        }
        choose(chosen, count, past);
    }
    return true;
}

/* A number that is too large stays so: it is no run's. */
static unsigned whole(const char *digits, char **end)
{
    return (unsigned)MIN(g_ascii_strtoull(digits, end, 10), UINT32_MAX);
}

static bool is_range(const char *word, unsigned *from, unsigned *to)
{
    char *end = NULL;
    if (!g_ascii_isdigit(word[0])) {
        return false;
    }
    *from = whole(word, &end);
    *to = *from;
    if (*end == '-' && g_ascii_isdigit(end[1])) {
        *to = whole(end + 1, &end);
    }
    return *end == '\0';
}

bool pintle_archive_choose(struct pintle_archive *archive, const char *word,
                           struct pintle_past ***chosen, unsigned *count,
                           struct pintle_problem *problem)
{
    unsigned from = 0;
    unsigned to = UINT32_MAX;
    unsigned before = *count;
    bool last = strcmp(word, "last") == 0;
    if (last && archive->count > 0) {
        from = to = archive->run[archive->count - 1]->number;
    }
    bool numbers = last || strcmp(word, "all") == 0 || is_range(word, &from, &to);
    if (numbers && !choose_numbers(archive, from, to, chosen, count, problem)) {
        return false;
    }
    if (*count == before && g_file_test(word, G_FILE_TEST_IS_DIR)) {
        struct pintle_past *past = pintle_priv_past_folder(word);
        add(archive, past);
        choose(chosen, count, past);
    }
    return *count > before
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "there is no run '%s' in %s; give a run's number, 'last' or the "
                                 "path of its folder, or make one with 'pintle log'",
                                 word, archive->where);
}
