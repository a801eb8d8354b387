/* SPI over the kernel's character devices, one for each select line. */
#include <errno.h>
#include <linux/spi/spi.h>
#include <linux/spi/spidev.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include "system.h"

#define SEGMENTS_MAX 16
#define USUAL_LENGTH 4096 /* of one transfer, in bytes, where the module doesn't say */

void pintle_linux_spi_begin(struct pintle_linux_spi *bus)
{
    memset(bus, 0, sizeof *bus);
    for (unsigned i = 0; i < PINTLE_LINUX_SELECTS; i++) {
        bus->select[i].file = -1;
    }
}

static enum pintle_status be_open(struct pintle_linux_spi *bus, uint8_t select)
{
    struct pintle_linux_select *line = &bus->select[select];
    return line->file >= 0
               ? PINTLE_OK
               : pintle_priv_linux_open(line->path, "an SPI select line", &line->file, bus->words);
}

enum pintle_status pintle_linux_spi_open(struct pintle_linux_spi *bus, uint8_t select,
                                         const char *path)
{
    if (select >= PINTLE_LINUX_SELECTS || strlen(path) >= PINTLE_LINUX_PATH) {
        return PINTLE_BAD_ARGUMENT;
    }
    snprintf(bus->select[select].path, PINTLE_LINUX_PATH, "%s", path);
    bus->selects = select >= bus->selects ? (uint8_t)(select + 1) : bus->selects;
    return be_open(bus, select);
}

static void shut(struct pintle_linux_select *line)
{
    if (line->file >= 0) {
        close(line->file);
    }
    line->file = -1;
}

void pintle_linux_spi_close(struct pintle_linux_spi *bus)
{
    for (unsigned i = 0; i < bus->selects; i++) {
        shut(&bus->select[i]);
    }
}

static enum pintle_status failed(struct pintle_linux_spi *bus, struct pintle_linux_select *line)
{
    enum pintle_status status = pintle_priv_linux_failed(errno, line->path, bus->words);
    if (status == PINTLE_NO_DEVICE) {
        shut(line);
    }
    return status;
}

/* The mode is the device's and not the file's: another program may have changed it. What else it
 * says (a select line that is high while active) stays. */
static enum pintle_status set_mode(struct pintle_linux_spi *bus, struct pintle_linux_select *line,
                                   const struct pintle_spi_way *way)
{
    uint32_t is = 0;
    if (ioctl(line->file, SPI_IOC_RD_MODE32, &is) < 0) {
        return failed(bus, line);
    }
    uint32_t mode = (is & ~(uint32_t)(SPI_CPHA | SPI_CPOL | SPI_LSB_FIRST | SPI_NO_CS))
                    | (way->mode & 3u) | (way->low_bit_first ? SPI_LSB_FIRST : 0)
                    | (way->select == PINTLE_SELECT_NONE ? SPI_NO_CS : 0);
    if (mode == is || ioctl(line->file, SPI_IOC_WR_MODE32, &mode) == 0) {
        return PINTLE_OK;
    }
    if (errno != EINVAL) {
        return failed(bus, line);
    }
    return pintle_priv_linux_say(bus->words, PINTLE_UNSUPPORTED,
                                 "the controller of %s cannot do mode %u with the %s bit first%s",
                                 line->path, way->mode, way->low_bit_first ? "low" : "high",
                                 way->select == PINTLE_SELECT_NONE ? " and nobody selected" : "");
}

static unsigned long longest(void)
{
    char text[24];
    unsigned long size = 0;
    if (pintle_priv_linux_line("/sys/module/spidev/parameters/bufsiz", text, sizeof text)) {
        size = strtoul(text, NULL, 10);
    }
    return size > 0 ? size : USUAL_LENGTH;
}

static enum pintle_status fits(struct pintle_linux_spi *bus, const struct pintle_linux_select *line,
                               const struct pintle_segment *segments, uint8_t count)
{
    unsigned long bytes = 0;
    unsigned long most = USUAL_LENGTH;
    for (uint8_t i = 0; i < count; i++) {
        bytes += segments[i].length;
    }
    if (count > SEGMENTS_MAX || (bytes > most && bytes > (most = longest()))) {
        return pintle_priv_linux_say(
            bus->words, PINTLE_UNSUPPORTED,
            "%s takes %d stretches and %lu bytes in one transfer at most, and this has %u and %lu; "
            "the module spidev has a parameter for the bytes, bufsiz",
            line->path, SEGMENTS_MAX, most, count, bytes);
    }
    return PINTLE_OK;
}

static enum pintle_status exchange(struct pintle_linux_spi *bus, struct pintle_linux_select *line,
                                   const struct pintle_spi_way *way,
                                   const struct pintle_segment *segments, uint8_t count)
{
    struct spi_ioc_transfer messages[SEGMENTS_MAX];
    sigset_t signals;
    int bytes = 0;
    memset(messages, 0, sizeof messages);
    for (uint8_t i = 0; i < count; i++) {
        messages[i].tx_buf = (uintptr_t)segments[i].out;
        messages[i].rx_buf = (uintptr_t)segments[i].in;
        messages[i].len = segments[i].length;
        messages[i].speed_hz = way->clock_hz;
        messages[i].bits_per_word = 8;
        bytes += segments[i].length;
    }
    messages[count - 1].cs_change = way->hold; /* of the last one: it stays */
    pintle_priv_linux_defer(&signals);
    int result = ioctl(line->file, SPI_IOC_MESSAGE(count), messages);
    int error = result < 0 ? errno : EIO; /* of all bytes, or it is none */
    pintle_priv_linux_resume(&signals);
    if (result == bytes) {
        return PINTLE_OK;
    }
    if (error == EINVAL) {
        return pintle_priv_linux_say(bus->words, PINTLE_UNSUPPORTED,
                                     "the controller of %s cannot do this transfer; %u Hz may be "
                                     "slower than it goes",
                                     line->path, way->clock_hz);
    }
    errno = error;
    return failed(bus, line);
}

/* The line that tells a display's commands from its data. */
static enum pintle_status tell_kind(struct pintle_linux_spi *bus, const struct pintle_spi_way *way)
{
    if (!bus->command) {
        return way->command ? pintle_priv_linux_say(
                   bus->words, PINTLE_UNSUPPORTED, "no pin was named that tells commands from data")
                            : PINTLE_OK;
    }
    const struct pintle_pin pin = pintle_linux_pin_of(bus->command);
    if (bus->command->file >= 0) {
        pin.calls->drive(pin.context, way->command ? PINTLE_DRIVE_LOW : PINTLE_DRIVE_HIGH);
    }
    return bus->command->words[0]
               ? pintle_priv_linux_say(bus->words, PINTLE_IO_ERROR, "%s", bus->command->words)
               : PINTLE_OK;
}

static enum pintle_status transfer(void *context, const struct pintle_spi_way *way,
                                   const struct pintle_segment *segments, uint8_t count)
{
    struct pintle_linux_spi *bus = context;
    uint8_t select = way->select == PINTLE_SELECT_NONE ? 0 : way->select;
    bus->words[0] = '\0';
    if (select >= bus->selects || bus->select[select].path[0] == '\0') {
        return pintle_priv_linux_say(bus->words, PINTLE_NO_DEVICE, "select line %u has no device",
                                     select);
    }
    struct pintle_linux_select *line = &bus->select[select];
    enum pintle_status status = be_open(bus, select);
    if (status == PINTLE_OK) {
        status = tell_kind(bus, way);
    }
    if (status == PINTLE_OK) {
        status = fits(bus, line, segments, count);
    }
    if (status == PINTLE_OK) {
        status = set_mode(bus, line, way);
    }
    return status == PINTLE_OK ? exchange(bus, line, way, segments, count) : status;
}

/* Every select line that is there, in order, so that two programs can't wait for each other. */
static enum pintle_status acquire(void *context)
{
    struct pintle_linux_spi *bus = context;
    for (unsigned i = 0; i < bus->selects; i++) {
        if (bus->select[i].file < 0) {
            continue;
        }
        enum pintle_status status = pintle_priv_linux_lock(bus->select[i].file);
        if (status != PINTLE_OK) {
            pintle_priv_linux_say(bus->words, status, "another program keeps %s",
                                  bus->select[i].path);
            while (i-- > 0) {
                pintle_priv_linux_unlock(bus->select[i].file);
            }
            return status;
        }
    }
    return PINTLE_OK;
}

static void release(void *context)
{
    const struct pintle_linux_spi *bus = context;
    for (unsigned i = 0; i < bus->selects; i++) {
        if (bus->select[i].file >= 0) {
            pintle_priv_linux_unlock(bus->select[i].file);
        }
    }
}

static const char *words(void *context)
{
    const struct pintle_linux_spi *bus = context;
    return bus->words;
}

struct pintle_spi pintle_linux_spi_bus(struct pintle_linux_spi *bus)
{
    static const struct pintle_claims claims = { acquire, release };
    static const struct pintle_spi_calls calls = { .transfer = transfer, .words = words };
    return (struct pintle_spi){
        .calls = &calls,
        .common = { .context = bus, .clock = &pintle_linux_clock, .claims = &claims }
    };
}
