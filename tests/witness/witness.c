/* Preloaded before a program, notes in the file $WITNESS, a line each and in order, what it writes
 * to files, puts on the disk and moves: "write PATH", "sync PATH", "rename PATH". */
#include <dlfcn.h>
#include <fcntl.h>
#include <limits.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/syscall.h>
#include <unistd.h>

static void note(const char *verb, const char *path)
{
    char line[PATH_MAX + 16];
    const char *file = getenv("WITNESS");
    int length = snprintf(line, sizeof line, "%s %s\n", verb, path);
    int to =
        file ? (int)syscall(SYS_openat, AT_FDCWD, file, O_WRONLY | O_CREAT | O_APPEND, 0600) : -1;
    if (to >= 0) {
        syscall(SYS_write, to, line, (size_t)length);
        syscall(SYS_close, to);
    }
}

static void note_file(const char *verb, int file)
{
    char link[40];
    char path[PATH_MAX] = "";
    snprintf(link, sizeof link, "/proc/self/fd/%d", file);
    ssize_t length = readlink(link, path, sizeof path - 1);
    if (length > 0 && path[0] == '/' && strncmp(path, "/dev/", 5) != 0) {
        note(verb, path);
    }
}

ssize_t write(int file, const void *bytes, size_t count)
{
    note_file("write", file);
    return syscall(SYS_write, file, bytes, count);
}

int fsync(int file)
{
    note_file("sync", file);
    return (int)syscall(SYS_fsync, file);
}

int fdatasync(int file)
{
    note_file("sync", file);
    return (int)syscall(SYS_fdatasync, file);
}

int rename(const char *from, const char *to)
{
    char path[PATH_MAX];
    int result = (int)syscall(SYS_renameat, AT_FDCWD, from, AT_FDCWD, to);
    note("rename", result == 0 && realpath(to, path) ? path : to);
    return result;
}
