#include "host/base/files.h"

#include <errno.h>
#include <glib.h>

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

char *pintle_priv_files_read(const char *path, const char *what, struct pintle_problem *problem)
{
    char *text = NULL;
    GError *error = NULL;
    if (g_file_get_contents(path, &text, NULL, &error)) {
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
