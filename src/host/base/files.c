#include "host/base/files.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

static const char *advice(int error)
{
    switch (error) {
    case ENOSPC:
    case EDQUOT:
        return "make room or name another folder";
    case EACCES:
    case EPERM:
    case EROFS:
        return "check who owns the folder, or name another one";
    case ENOENT:
    case ENOTDIR:
        return "check the path";
    default:
        return "check the disk";
    }
}

bool pintle_priv_files_unwritable(const char *path, int error, struct pintle_problem *problem)
{
    return pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "cannot write %s: %s; %s", path,
                              g_strerror(error), advice(error));
}

/* Which files this program has read, as they were then: a file that took the place of one of them
 * is another. */
static GArray *were_read;

static bool is_same(const struct stat *a, const struct stat *b)
{
    return a->st_dev == b->st_dev && a->st_ino == b->st_ino && a->st_size == b->st_size
           && a->st_mtim.tv_sec == b->st_mtim.tv_sec && a->st_mtim.tv_nsec == b->st_mtim.tv_nsec;
}

bool pintle_priv_files_was_read(const char *path)
{
    struct stat is;
    bool found = false;
    if (stat(path, &is) != 0 || !S_ISREG(is.st_mode)) {
        return false;
    }
    for (guint i = 0; were_read && i < were_read->len && !found; i++) {
        found = is_same(&is, &g_array_index(were_read, struct stat, i));
    }
    return found;
}

void pintle_priv_files_note(const char *path)
{
    struct stat is;
    if (stat(path, &is) == 0 && S_ISREG(is.st_mode) && !pintle_priv_files_was_read(path)) {
        were_read = were_read ? were_read : g_array_new(FALSE, FALSE, sizeof is);
        g_array_append_val(were_read, is);
    }
}

char *pintle_priv_files_read(const char *path, const char *what, struct pintle_problem *problem)
{
    char *text = NULL;
    GError *error = NULL;
    if (g_file_get_contents(path, &text, NULL, &error)) {
        pintle_priv_files_note(path);
        return text;
    }
    if (g_error_matches(error, G_FILE_ERROR, G_FILE_ERROR_NOENT)) {
        pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                           "there is no %s %s; check the path (relative ones start in the current "
                           "folder)",
                           what, path);
    } else {
        pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "cannot read the %s %s: %s", what, path,
                           error->message);
    }
    g_error_free(error);
    return NULL;
}

bool pintle_priv_files_replace(const char *path, const char *text, struct pintle_problem *problem)
{
    GError *error = NULL;
    if (g_file_set_contents_full(path, text, -1,
                                 G_FILE_SET_CONTENTS_CONSISTENT | G_FILE_SET_CONTENTS_DURABLE, 0644,
                                 &error)) {
        return true;
    }
    pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                       "cannot write %s: %s; check that its folder exists, is yours and has room",
                       path, error->message);
    g_error_free(error);
    return false;
}

#define LOCK_WAIT_US 50000
#define LOCK_TRIES 200 /* ten seconds; a file is read, changed and replaced in a moment */

int pintle_priv_files_lock(const char *path, struct pintle_problem *problem)
{
    char *folder = g_path_get_dirname(path);
    int lock = open(folder, O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    unsigned tries = 0;
    if (lock < 0) {
        (void)pintle_priv_files_unwritable(path, errno, problem);
    }
    /* A file system that has no locks says something else than "would block". */
    while (lock >= 0 && flock(lock, LOCK_EX | LOCK_NB) != 0 && errno == EWOULDBLOCK) {
        if (++tries == LOCK_TRIES) {
            close(lock);
            lock = -1;
            (void)pintle_problem_set(problem, PINTLE_FAILURE_UNABLE,
                                     "another program has been changing files in %s for ten "
                                     "seconds, and %s was not changed; end it, then try again",
                                     folder, path);
        } else {
            g_usleep(LOCK_WAIT_US);
        }
    }
    g_free(folder);
    return lock;
}
