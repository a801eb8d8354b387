/* Serial lines over the kernel's terminals. */
#include <errno.h>
#include <poll.h>
#include <stdio.h>
#include <string.h>
#include <sys/ioctl.h>
#include <termios.h>
#include <time.h>
#include <unistd.h>

#include "system.h"

static const struct {
    uint32_t baud;
    speed_t code;
} speeds[] = { { 300, B300 },       { 600, B600 },        { 1200, B1200 },     { 2400, B2400 },
               { 4800, B4800 },     { 9600, B9600 },      { 19200, B19200 },   { 38400, B38400 },
               { 57600, B57600 },   { 115200, B115200 },  { 230400, B230400 }, { 460800, B460800 },
               { 921600, B921600 }, { 1000000, B1000000 } };

/* Eight bits, no parity, one stop bit, nothing changed on the way; bytes with no stop bit left out.
 */
static enum pintle_status set_up(struct pintle_linux_stream *line)
{
    struct termios modes;
    size_t i = 0;
    while (i < sizeof speeds / sizeof speeds[0] && speeds[i].baud != line->baud) {
        i++;
    }
    if (i == sizeof speeds / sizeof speeds[0]) {
        return pintle_priv_linux_say(line->words, PINTLE_UNSUPPORTED,
                                     "%s cannot run at %u baud; usual are 9600 and 115200",
                                     line->path, line->baud);
    }
    if (tcgetattr(line->file, &modes) != 0) {
        return pintle_priv_linux_say(line->words, PINTLE_NO_DEVICE, "%s is no serial line",
                                     line->path);
    }
    cfmakeraw(&modes);
    modes.c_iflag |= IGNPAR | IGNBRK;
    modes.c_cflag = (modes.c_cflag & ~(tcflag_t)(CSTOPB | CRTSCTS)) | CLOCAL | CREAD;
    modes.c_cc[VMIN] = 0;
    modes.c_cc[VTIME] = 0;
    if (cfsetispeed(&modes, speeds[i].code) != 0 || cfsetospeed(&modes, speeds[i].code) != 0
        || tcsetattr(line->file, TCSANOW, &modes) != 0) {
        return pintle_priv_linux_failed(errno, line->path, line->words);
    }
    return PINTLE_OK;
}

static void shut(struct pintle_linux_stream *line)
{
    if (line->file >= 0) {
        close(line->file);
    }
    line->file = -1;
}

static enum pintle_status be_open(struct pintle_linux_stream *line)
{
    if (line->file >= 0) {
        return PINTLE_OK;
    }
    enum pintle_status status =
        pintle_priv_linux_open(line->path, "a serial line", &line->file, line->words);
    if (status == PINTLE_OK) {
        status = set_up(line);
    }
    if (status != PINTLE_OK) {
        shut(line);
    }
    return status;
}

enum pintle_status pintle_linux_stream_open(struct pintle_linux_stream *line, const char *path,
                                            uint32_t baud)
{
    memset(line, 0, sizeof *line);
    line->file = -1;
    line->baud = baud;
    if (strlen(path) >= PINTLE_LINUX_PATH) {
        return PINTLE_BAD_ARGUMENT;
    }
    snprintf(line->path, sizeof line->path, "%s", path);
    return be_open(line);
}

void pintle_linux_stream_close(struct pintle_linux_stream *line)
{
    shut(line);
}

/* A line that has gone is opened again with the next call. */
static enum pintle_status failed(struct pintle_linux_stream *line, int error)
{
    error = error == EIO ? ENODEV : error; /* the other end of it has gone */
    enum pintle_status status = pintle_priv_linux_failed(error, line->path, line->words);
    shut(line);
    return status;
}

static int64_t now_us(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (int64_t)now.tv_sec * 1000000 + now.tv_nsec / 1000;
}

/* Wait until it is ready for this, until then at the longest. 0: it isn't. */
static int ready(const struct pintle_linux_stream *line, short for_what, int64_t until_us)
{
    struct pollfd it = { .fd = line->file, .events = for_what };
    int result = 0;
    do {
        int64_t left = until_us - now_us();
        result = poll(&it, 1, left > 0 ? (int)((left + 999) / 1000) : 0);
    } while (result < 0 && errno == EINTR);
    return result > 0;
}

static enum pintle_status send(void *context, const uint8_t *bytes, uint16_t count,
                               uint32_t limit_us)
{
    struct pintle_linux_stream *line = context;
    int64_t until = now_us() + limit_us;
    line->words[0] = '\0';
    enum pintle_status status = be_open(line);
    while (status == PINTLE_OK && count > 0) {
        ssize_t wrote = write(line->file, bytes, count);
        if (wrote > 0) {
            bytes += wrote;
            count = (uint16_t)(count - wrote);
        } else if (wrote < 0 && errno != EAGAIN && errno != EINTR) {
            status = failed(line, errno);
        } else if (!ready(line, POLLOUT, until)) {
            status = pintle_priv_linux_say(line->words, PINTLE_TIME_LIMIT,
                                           "%s does not take what is sent", line->path);
        }
    }
    return status;
}

static enum pintle_status receive(void *context, uint8_t *bytes, uint16_t count, uint16_t *got,
                                  uint32_t limit_us)
{
    struct pintle_linux_stream *line = context;
    int64_t until = now_us() + limit_us;
    *got = 0;
    line->words[0] = '\0';
    enum pintle_status status = be_open(line);
    if (status != PINTLE_OK || (limit_us > 0 && !ready(line, POLLIN, until))) {
        return status;
    }
    ssize_t result = 0;
    do {
        result = read(line->file, bytes, count);
    } while (result < 0 && errno == EINTR);
    if (result < 0 && errno != EAGAIN) {
        return failed(line, errno);
    }
    *got = (uint16_t)(result > 0 ? result : 0);
    return PINTLE_OK;
}

static enum pintle_status acquire(void *context)
{
    struct pintle_linux_stream *line = context;
    if (be_open(line) != PINTLE_OK) {
        return PINTLE_OK; /* what is asked of it says why */
    }
    enum pintle_status status = pintle_priv_linux_lock(line->file);
    return status == PINTLE_OK
               ? status
               : pintle_priv_linux_say(line->words, status, "another program keeps %s", line->path);
}

static void release(void *context)
{
    const struct pintle_linux_stream *line = context;
    if (line->file >= 0) {
        pintle_priv_linux_unlock(line->file);
    }
}

static const char *words(void *context)
{
    const struct pintle_linux_stream *line = context;
    return line->words;
}

struct pintle_stream pintle_linux_stream_bus(struct pintle_linux_stream *line)
{
    static const struct pintle_claims claims = { acquire, release };
    static const struct pintle_stream_calls calls = { .send = send,
                                                      .receive = receive,
                                                      .words = words };
    return (struct pintle_stream){
        .calls = &calls,
        .common = { .context = line, .clock = &pintle_linux_clock, .claims = &claims },
        .bit_ns = line->baud ? 1000000000u / line->baud : 0
    };
}
