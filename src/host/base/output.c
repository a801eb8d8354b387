#include "pintle/host/base/output.h"

#include <errno.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <limits.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#include "host/base/files.h"

bool pintle_output_may(const char *path, struct pintle_problem *problem)
{
    return !pintle_priv_files_was_read(path)
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "%s is one of this command's own inputs and is not overwritten; "
                                 "name another file",
                                 path);
}

/* A file of a kind that can be replaced by another, or none. */
static bool is_plain(const char *path)
{
    struct stat is;
    return stat(path, &is) != 0 ? errno == ENOENT : S_ISREG(is.st_mode);
}

/* What killed programs have left beside it: PATH.NUMBER.part, of a process that is no more. */
static void clear_away(const char *path)
{
    char *folder = g_path_get_dirname(path);
    char *name = g_path_get_basename(path);
    GDir *dir = g_dir_open(folder, 0, NULL);
    const char *entry = NULL;
    size_t length = strlen(name);
    while (dir && (entry = g_dir_read_name(dir)) != NULL) {
        char *end = NULL;
        bool mine = strncmp(entry, name, length) == 0 && entry[length] == '.'
                    && g_ascii_isdigit(entry[length + 1]);
        guint64 process = mine ? g_ascii_strtoull(entry + length + 1, &end, 10) : 0;
        if (mine && strcmp(end, ".part") == 0 && process <= INT_MAX && kill((pid_t)process, 0) != 0
            && errno == ESRCH) {
            char *left = g_build_filename(folder, entry, NULL);
            g_unlink(left);
            g_free(left);
        }
    }
    if (dir) {
        g_dir_close(dir);
    }
    g_free(name);
    g_free(folder);
}

bool pintle_output_open(struct pintle_output *output, const char *path,
                        struct pintle_problem *problem)
{
    *output = (struct pintle_output){ 0 };
    if (!pintle_output_may(path, problem)) {
        return false;
    }
    char *real = realpath(path, NULL); /* a link stays one */
    path = real ? real : path;
    char *beside = is_plain(path) ? g_strdup_printf("%s.%d.part", path, (int)getpid()) : NULL;
    if (beside) {
        clear_away(path);
    }
    output->file = fopen(beside ? beside : path, "we");
    if (!output->file) {
        (void)pintle_priv_files_unwritable(path, errno, problem);
        g_free(beside);
        free(real);
        return false;
    }
    output->beside = beside;
    output->path = g_strdup(path);
    free(real);
    return true;
}

/* All of it on the disk, under its name. */
static bool put_in_place(struct pintle_output *output)
{
    bool ok = fflush(output->file) == 0 && !ferror(output->file);
    if (ok && output->beside) {
        ok = fsync(fileno(output->file)) == 0;
    }
    ok = fclose(output->file) == 0 && ok;
    return ok && (!output->beside || g_rename(output->beside, output->path) == 0);
}

bool pintle_output_close(struct pintle_output *output, bool keep, struct pintle_problem *problem)
{
    bool ok = true;
    if (!output->file) {
        return keep;
    }
    errno = 0;
    if (keep) {
        ok = put_in_place(output);
        int error = errno ? errno : EIO;
        ok = ok || pintle_priv_files_unwritable(output->path, error, problem);
    } else {
        fclose(output->file);
    }
    if (output->beside && (!keep || !ok)) {
        g_unlink(output->beside);
    }
    g_free(output->beside);
    g_free(output->path);
    *output = (struct pintle_output){ 0 };
    return ok && keep;
}
