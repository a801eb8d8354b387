#include "system.h"

#include <errno.h>
#include <fcntl.h>
#include <grp.h>
#include <stdarg.h>
#include <stdio.h>
#include <string.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <time.h>
#include <unistd.h>

/* How long another program may keep a bus: longer than any step takes. */
#define LOCK_TRIES 3000
#define LOCK_NAP_NS 1000000

enum pintle_status pintle_priv_linux_say(char words[PINTLE_LINUX_WORDS], enum pintle_status status,
                                         const char *format, ...)
{
    va_list args;
    va_start(args, format);
    vsnprintf(words, PINTLE_LINUX_WORDS, format, args);
    va_end(args);
    return status;
}

/* Who may use it? */
static enum pintle_status denied(const char *path, char words[PINTLE_LINUX_WORDS])
{
    struct stat about;
    const struct group *group = NULL;
    if (stat(path, &about) == 0 && (about.st_mode & S_IWGRP) != 0) {
        group = getgrgid(about.st_gid);
    }
    if (group && about.st_gid != 0) {
        return pintle_priv_linux_say(words, PINTLE_DENIED,
                                     "no permission for %s, which group '%s' has; add your user to "
                                     "it (usermod -aG %s USER) and log in again",
                                     path, group->gr_name, group->gr_name);
    }
    return pintle_priv_linux_say(words, PINTLE_DENIED,
                                 "no permission for %s, which only root has; give it to a group by "
                                 "a rule of udev, or run as root",
                                 path);
}

enum pintle_status pintle_priv_linux_open(const char *path, const char *what, int *file,
                                          char words[PINTLE_LINUX_WORDS])
{
    /* A serial line must not become the terminal of a service: unplugged, it would end it. */
    *file = open(path, O_RDWR | O_CLOEXEC | O_NONBLOCK | O_NOCTTY);
    if (*file >= 0) {
        return PINTLE_OK;
    }
    switch (errno) {
    case EACCES:
    case EPERM:
    case EROFS:
        return denied(path, words);
    case ENOENT:
    case ENXIO:
    case ENODEV:
    case ENOTDIR:
        return pintle_priv_linux_say(
            words, PINTLE_NO_DEVICE,
            "there is no %s: %s that is switched off or has another number; switch it on in the "
            "board's settings or device tree, load its module, or see 'pintle scan' for what there "
            "is",
            path, what);
    default:
        return pintle_priv_linux_say(words, PINTLE_IO_ERROR, "%s cannot be opened: %s", path,
                                     strerror(errno));
    }
}

enum pintle_status pintle_priv_linux_failed(int error, const char *path,
                                            char words[PINTLE_LINUX_WORDS])
{
    if (error == ENODEV || error == ESHUTDOWN || error == EBADF) {
        return pintle_priv_linux_say(words, PINTLE_NO_DEVICE,
                                     "%s has gone: its adapter was unplugged or its driver removed",
                                     path);
    }
    if (error == EACCES || error == EPERM) {
        return denied(path, words);
    }
    return pintle_priv_linux_say(words, PINTLE_IO_ERROR,
                                 "the system says of %s: %s; its log (dmesg) may say more", path,
                                 strerror(error));
}

enum pintle_status pintle_priv_linux_lock(int file)
{
    const struct timespec nap = { 0, LOCK_NAP_NS };
    for (int i = 0; i < LOCK_TRIES; i++) {
        if (flock(file, LOCK_EX | LOCK_NB) == 0) {
            return PINTLE_OK;
        }
        if (errno != EWOULDBLOCK && errno != EINTR) {
            return PINTLE_IO_ERROR;
        }
        nanosleep(&nap, NULL);
    }
    return PINTLE_TIME_LIMIT;
}

void pintle_priv_linux_unlock(int file)
{
    flock(file, LOCK_UN);
}

void pintle_priv_linux_defer(sigset_t *before)
{
    sigset_t all;
    sigfillset(&all);
    pthread_sigmask(SIG_SETMASK, &all, before);
}

void pintle_priv_linux_resume(const sigset_t *before)
{
    pthread_sigmask(SIG_SETMASK, before, NULL);
}

int pintle_priv_linux_line(const char *path, char *text, size_t room)
{
    FILE *file = fopen(path, "re");
    if (!file) {
        return 0;
    }
    int ok = fgets(text, (int)room, file) != NULL;
    fclose(file);
    if (ok) {
        text[strcspn(text, "\n")] = '\0';
    }
    return ok;
}
