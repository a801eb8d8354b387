/* A run's folder. It is made whole under another name first, so that a folder with a number always
 * has its files, whenever the power goes. */
#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <stdlib.h>
#include <unistd.h>

#include "host/base/files.h"
#include "host/run/held.h"
#include "host/run/places.h"

struct pintle_run_folder {
    char *within; /* the folder of run folders */
    char *path;
    int file;    /* readings.csv */
    off_t whole; /* up to here it has whole records */
    int mark;
};

const char *const pintle_priv_run_text_names[PINTLE_RUN_TEXTS] = { "rig", "world",
                                                                   "calibration.json" };
const char *const pintle_priv_run_files[PINTLE_RUN_FILES] = {
    "rig", "world", "calibration.json", "readings.csv", "run.json", "notes.csv"
};

unsigned pintle_priv_run_number(const char *name)
{
    guint64 number = g_ascii_isdigit(name[0]) ? g_ascii_strtoull(name, NULL, 10) : 0;
    return number < 1000000 ? (unsigned)number : 0;
}

unsigned pintle_run_last(const char *folder)
{
    GDir *dir = g_dir_open(folder, 0, NULL);
    const char *name = NULL;
    unsigned last = 0;
    while (dir && (name = g_dir_read_name(dir)) != NULL) {
        bool digits = name[strspn(name, "0123456789")] == '\0';
        last = digits ? MAX(last, pintle_priv_run_number(name)) : last;
    }
    if (dir) {
        g_dir_close(dir);
    }
    return last;
}

/* The newest run may have ended in the middle of a record, by a pulled plug: what there is of it is
 * cut off, so that whatever reads the file finds whole lines. */
static void cut_torn_line(const char *within)
{
    char name[16];
    g_snprintf(name, sizeof name, "%04u", pintle_run_last(within));
    char *path = g_build_filename(within, name, "readings.csv", NULL);
    int file = open(path, O_RDWR | O_CLOEXEC);
    char bytes[4096];
    off_t size = file >= 0 && !pintle_priv_held_is(file, 0) ? lseek(file, 0, SEEK_END) : 0;
    off_t from = MAX(size - (off_t)sizeof bytes, 0);
    ssize_t got = size > 0 ? pread(file, bytes, (size_t)(size - from), from) : 0;
    ssize_t whole = got;
    while (whole > 0 && bytes[whole - 1] != '\n') {
        whole--;
    }
    if (whole > 0 && whole < got && ftruncate(file, from + whole) == 0) {
        fdatasync(file);
    }
    if (file >= 0) {
        close(file);
    }
    g_free(path);
}

static bool make_unnumbered(struct pintle_run_folder *folder, struct pintle_problem *problem)
{
    if (g_mkdir_with_parents(folder->within, 0755) != 0) {
        return pintle_priv_files_unwritable(folder->within, errno, problem);
    }
    cut_torn_line(folder->within);
    folder->path = g_build_filename(folder->within, ".beginning-XXXXXX", NULL);
    return g_mkdtemp_full(folder->path, 0755)
           || pintle_priv_files_unwritable(folder->within, errno, problem);
}

/* Put a folder's new entries on the disk too. Some file systems can't, and need not. */
static bool sync_folder(const char *folder, struct pintle_problem *problem)
{
    int file = open(folder, O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    bool ok = file >= 0 && (fsync(file) == 0 || errno == EINVAL);
    int error = errno;
    if (file >= 0) {
        close(file);
    }
    return ok || pintle_priv_files_unwritable(folder, error, problem);
}

/* The folder that `folder` is in. */
static bool sync_parent(const char *folder, struct pintle_problem *problem)
{
    char *parent = g_path_get_dirname(folder);
    bool ok = sync_folder(parent, problem);
    g_free(parent);
    return ok;
}

static bool put_text(const struct pintle_run_folder *folder, const char *name, const char *text,
                     struct pintle_problem *problem)
{
    char *path = g_build_filename(folder->path, name, NULL);
    bool ok = !text || pintle_priv_files_replace(path, text, problem);
    g_free(path);
    return ok;
}

static bool write_all(int file, const char *bytes, size_t count)
{
    while (count > 0) {
        ssize_t wrote = write(file, bytes, count);
        if (wrote < 0 && errno == EINTR) {
            continue;
        }
        if (wrote < 0) {
            return false;
        }
        bytes += wrote;
        count -= (size_t)wrote;
    }
    return fdatasync(file) == 0 || errno == EINVAL;
}

/* A record that could be written in part only is cut off again, at the latest before the next one.
 */
bool pintle_priv_folder_append(struct pintle_run_folder *folder, const char *bytes, size_t count,
                               struct pintle_problem *problem)
{
    bool ok = lseek(folder->file, 0, SEEK_END) == folder->whole
              || ftruncate(folder->file, folder->whole) == 0;
    if (ok && write_all(folder->file, bytes, count)) {
        folder->whole += (off_t)count;
        return true;
    }
    int error = errno;
    if (ftruncate(folder->file, folder->whole) != 0) {
        /* tried again with the next record */
    }
    return pintle_priv_files_unwritable(folder->path, error, problem);
}

static bool open_readings(struct pintle_run_folder *folder, const struct pintle_run_line *header,
                          struct pintle_problem *problem)
{
    char *path = g_build_filename(folder->path, "readings.csv", NULL);
    folder->file = open(path, O_CREAT | O_EXCL | O_WRONLY | O_APPEND | O_CLOEXEC, 0644);
    bool ok = folder->file >= 0 || pintle_priv_files_unwritable(path, errno, problem);
    folder->mark = ok ? pintle_priv_held_mark(path, 0) : -1;
    g_free(path);
    return ok && pintle_priv_folder_append(folder, header->at, header->used, problem);
}

struct pintle_run_folder *pintle_priv_folder_make(const char *within, const char *about,
                                                  const struct pintle_run_texts *texts,
                                                  const struct pintle_run_line *header,
                                                  struct pintle_problem *problem)
{
    struct pintle_run_folder *folder = g_new0(struct pintle_run_folder, 1);
    folder->within = g_strdup(within);
    folder->file = folder->mark = -1;
    bool ok = make_unnumbered(folder, problem) && folder->path
              && put_text(folder, "run.json", about, problem);
    for (unsigned i = 0; ok && i < PINTLE_RUN_TEXTS; i++) {
        ok = put_text(folder, pintle_priv_run_text_names[i], texts->text[i], problem);
    }
    if (!ok || !open_readings(folder, header, problem) || !sync_folder(folder->path, problem)) {
        pintle_priv_folder_discard(folder);
        return NULL;
    }
    return folder;
}

/* Moving the folder to its name is what takes the number: of two at once only one can succeed. */
static bool move_to_number(struct pintle_run_folder *folder, unsigned *number,
                           struct pintle_problem *problem)
{
    do {
        char name[16];
        g_snprintf(name, sizeof name, "%04u", *number);
        char *path = g_build_filename(folder->within, name, NULL);
        if (g_rename(folder->path, path) == 0) {
            g_free(folder->path);
            folder->path = path;
            return true;
        }
        g_free(path);
        ++*number;
    } while (errno == EEXIST || errno == ENOTEMPTY || errno == ENOTDIR);
    return pintle_priv_files_unwritable(folder->within, errno, problem);
}

bool pintle_priv_folder_take(struct pintle_run_folder *folder, unsigned *number,
                             struct pintle_problem *problem)
{
    return move_to_number(folder, number, problem) && sync_folder(folder->within, problem)
           && sync_parent(folder->within, problem);
}

const char *pintle_priv_folder_path(const struct pintle_run_folder *folder)
{
    return folder->path;
}

bool pintle_priv_folder_end(struct pintle_run_folder *folder, const char *about,
                            struct pintle_problem *problem)
{
    bool ok =
        close(folder->file) == 0 || pintle_priv_files_unwritable(folder->path, errno, problem);
    folder->file = -1;
    return put_text(folder, "run.json", about, problem) && ok;
}

void pintle_priv_folder_discard(struct pintle_run_folder *folder)
{
    for (size_t i = 0; folder->path && i < PINTLE_RUN_FILES; i++) {
        char *path = g_build_filename(folder->path, pintle_priv_run_files[i], NULL);
        g_unlink(path);
        g_free(path);
    }
    if (folder->path) {
        g_rmdir(folder->path);
    }
    pintle_priv_folder_free(folder);
}

void pintle_priv_folder_free(struct pintle_run_folder *folder)
{
    if (!folder) {
        return;
    }
    if (folder->file >= 0) {
        close(folder->file);
    }
    if (folder->mark >= 0) {
        close(folder->mark);
    }
    g_free(folder->within);
    g_free(folder->path);
    g_free(folder);
}
