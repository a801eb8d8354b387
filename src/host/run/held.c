#include "host/run/held.h"

#include <fcntl.h>
#include <unistd.h>

/* Beyond whatever a file has, and beyond SQLite's. */
#define FAR ((off_t)1 << 40)

static struct flock mark_of(unsigned number)
{
    return (struct flock){
        .l_type = F_WRLCK, .l_whence = SEEK_SET, .l_start = FAR + (off_t)number, .l_len = 1
    };
}

int pintle_priv_held_mark(const char *path, unsigned number)
{
    struct flock mark = mark_of(number);
    int file = open(path, O_RDWR | O_CLOEXEC);
    if (file >= 0 && fcntl(file, F_OFD_SETLK, &mark) != 0) {
        close(file);
        return -1;
    }
    return file;
}

bool pintle_priv_held_is(int file, unsigned number)
{
    struct flock mark = mark_of(number);
    return file >= 0 && fcntl(file, F_OFD_GETLK, &mark) == 0 && mark.l_type != F_UNLCK;
}
