/* Pins over the kernel's character devices, version 2 of their interface. */
#include <errno.h>
#include <fcntl.h>
#include <linux/gpio.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include "system.h"

#define CHIPS 64

/* Where a pin is. */
struct found {
    char path[PINTLE_LINUX_PATH];
    unsigned line;
    unsigned count; /* how many fit the name */
};

static int is_number(const char *text, unsigned *number)
{
    char *end = NULL;
    unsigned long value = strtoul(text, &end, 10);
    *number = (unsigned)value;
    return *text != '\0' && *end == '\0' && value < 4096;
}

/* Among the lines of one open chip. */
static void look_on(int file, const char *path, const char *line, unsigned lines,
                    struct found *found)
{
    unsigned number = 0;
    int numbered = is_number(line, &number);
    for (unsigned i = 0; i < lines; i++) {
        struct gpio_v2_line_info info = { .offset = i };
        if (ioctl(file, GPIO_V2_GET_LINEINFO_IOCTL, &info) < 0
            || (numbered ? i != number : strcmp(info.name, line) != 0)) {
            continue;
        }
        snprintf(found->path, sizeof found->path, "%s", path);
        found->line = i;
        found->count++;
    }
}

/* `chip` is a label, a path or, with any length of 0, whichever. */
static void look_at(const char *path, const char *chip, size_t length, const char *line,
                    struct found *found)
{
    struct gpiochip_info info = { .lines = 0 };
    int file = open(path, O_RDWR | O_CLOEXEC);
    if (file < 0) {
        return;
    }
    if (ioctl(file, GPIO_GET_CHIPINFO_IOCTL, &info) == 0
        && (length == 0 || (strlen(info.label) == length && strncmp(info.label, chip, length) == 0)
            || (strlen(path) == length && strncmp(path, chip, length) == 0))) {
        look_on(file, path, line, info.lines, found);
    }
    close(file);
}

static void find(const char *name, struct found *found)
{
    const char *colon = strrchr(name, ':');
    size_t length = colon ? (size_t)(colon - name) : 0;
    const char *line = colon ? colon + 1 : name;
    memset(found, 0, sizeof *found);
    for (unsigned i = 0; i < CHIPS; i++) {
        char path[PINTLE_LINUX_PATH];
        snprintf(path, sizeof path, "/dev/gpiochip%u", i);
        look_at(path, name, length, line, found);
    }
}

static enum pintle_status unclear(struct pintle_linux_pin *pin, const char *name, unsigned count)
{
    if (count > 1) {
        return pintle_priv_linux_say(
            pin->words, PINTLE_NO_DEVICE,
            "several pins are named '%s'; put the chip's label and a colon "
            "before it",
            name);
    }
    if (access("/dev/gpiochip0", F_OK) == 0 && access("/dev/gpiochip0", R_OK | W_OK) != 0) {
        int file = -1;
        return pintle_priv_linux_open("/dev/gpiochip0", "a chip of pins", &file, pin->words);
    }
    return pintle_priv_linux_say(pin->words, PINTLE_NO_DEVICE,
                                 "no pin is named '%s'; write a line's name, or a chip's label or "
                                 "path, a colon and a line's name or number",
                                 name);
}

/* Who has it? A program or a driver that asked for the line; or another function of the pin, such
 * as a bus. */
static enum pintle_status refused(struct pintle_linux_pin *pin, int chip, const struct found *found,
                                  const char *name)
{
    struct gpio_v2_line_info info = { .offset = found->line };
    struct gpiochip_info about = { .lines = 0 };
    char owner[100] = "";
    int error = errno;
    if (error != EBUSY && error != EINVAL && error != EPERM) {
        return pintle_priv_linux_failed(error, found->path, pin->words);
    }
    if (error == EBUSY && ioctl(chip, GPIO_V2_GET_LINEINFO_IOCTL, &info) == 0 && info.consumer[0]) {
        return pintle_priv_linux_say(pin->words, PINTLE_HELD, "pin '%s' is in use by '%s'", name,
                                     info.consumer);
    }
    if (ioctl(chip, GPIO_GET_CHIPINFO_IOCTL, &about) == 0
        && pintle_priv_linux_pin_owner(about.label, found->line, owner, sizeof owner)) {
        return pintle_priv_linux_say(pin->words, PINTLE_HELD,
                                     "pin '%s' belongs to '%s'; switch that off in the board's "
                                     "settings to have it",
                                     name, owner);
    }
    return pintle_priv_linux_say(
        pin->words, PINTLE_HELD,
        "pin '%s' belongs to another function, such as a bus; with debugfs "
        "mounted, root is told which; switch it off in the board's settings",
        name);
}

enum pintle_status pintle_linux_pin_open(struct pintle_linux_pin *pin, const char *name)
{
    struct found found;
    struct gpio_v2_line_request request = { .num_lines = 1,
                                            .config.flags = GPIO_V2_LINE_FLAG_INPUT };
    int chip = -1;
    memset(pin, 0, sizeof *pin);
    pin->file = -1;
    find(name, &found);
    if (found.count != 1) {
        return unclear(pin, name, found.count);
    }
    enum pintle_status status =
        pintle_priv_linux_open(found.path, "a chip of pins", &chip, pin->words);
    if (status != PINTLE_OK) {
        return status;
    }
    request.offsets[0] = found.line;
    snprintf(request.consumer, sizeof request.consumer, "pintle");
    if (ioctl(chip, GPIO_V2_GET_LINE_IOCTL, &request) == 0) {
        pin->file = request.fd;
    } else {
        status = refused(pin, chip, &found, name);
    }
    close(chip);
    return status;
}

void pintle_linux_pin_close(struct pintle_linux_pin *pin)
{
    if (pin->file >= 0) {
        close(pin->file);
    }
    pin->file = -1;
}

static int configure(struct pintle_linux_pin *pin, uint64_t flags, uint64_t value)
{
    struct gpio_v2_line_config config = { .flags = flags };
    if (flags & GPIO_V2_LINE_FLAG_OUTPUT) {
        config.num_attrs = 1;
        config.attrs[0].mask = 1;
        config.attrs[0].attr.id = GPIO_V2_LINE_ATTR_ID_OUTPUT_VALUES;
        config.attrs[0].attr.values = value;
    }
    return ioctl(pin->file, GPIO_V2_LINE_SET_CONFIG_IOCTL, &config);
}

/* An output that stays one is only set; whoever turns it round sets both at once. */
static void drive(void *context, enum pintle_drive drive)
{
    struct pintle_linux_pin *pin = context;
    struct gpio_v2_line_values values = { drive == PINTLE_DRIVE_HIGH, 1 };
    pin->words[0] = '\0';
    int result = 0;
    if (drive == PINTLE_RELEASE) {
        result = configure(pin, GPIO_V2_LINE_FLAG_INPUT, 0);
    } else if (pin->driven) {
        result = ioctl(pin->file, GPIO_V2_LINE_SET_VALUES_IOCTL, &values);
    } else {
        result = configure(pin, GPIO_V2_LINE_FLAG_OUTPUT, values.bits);
    }
    pin->driven = drive != PINTLE_RELEASE;
    if (result < 0) {
        pintle_priv_linux_say(pin->words, PINTLE_IO_ERROR, "the pin cannot be driven: %s",
                              strerror(errno));
    }
}

static uint8_t level(void *context)
{
    const struct pintle_linux_pin *pin = context;
    struct gpio_v2_line_values values = { 0, 1 };
    return ioctl(pin->file, GPIO_V2_LINE_GET_VALUES_IOCTL, &values) == 0 && (values.bits & 1);
}

struct pintle_pin pintle_linux_pin_of(struct pintle_linux_pin *pin)
{
    static const struct pintle_pin_calls calls = { drive, level };
    return (struct pintle_pin){ &calls, pin };
}

enum pintle_status pintle_linux_pin_watch(struct pintle_linux_pin *pin)
{
    pin->driven = 0;
    if (configure(pin,
                  GPIO_V2_LINE_FLAG_INPUT | GPIO_V2_LINE_FLAG_EDGE_RISING
                      | GPIO_V2_LINE_FLAG_EDGE_FALLING,
                  0)
        == 0) {
        return PINTLE_OK;
    }
    return pintle_priv_linux_say(pin->words, PINTLE_UNSUPPORTED, "the pin tells no edges: %s",
                                 strerror(errno));
}

enum pintle_status pintle_linux_pin_edge(struct pintle_linux_pin *pin, uint32_t limit_us,
                                         struct pintle_linux_edge *edge)
{
    const struct pintle_clock clock = pintle_linux_clock;
    uint64_t until = clock.calls->now_us(clock.context) + limit_us;
    struct pollfd wait = { .fd = pin->file, .events = POLLIN };
    struct gpio_v2_line_event event;
    int ready = 0;
    do {
        uint64_t now = clock.calls->now_us(clock.context);
        uint64_t left = now < until ? until - now : 0;
        ready = poll(&wait, 1, (int)((left + 999) / 1000));
    } while (ready < 0 && errno == EINTR);
    if (ready == 0) {
        return PINTLE_NOT_READY;
    }
    if (ready < 0 || read(pin->file, &event, sizeof event) != (ssize_t)sizeof event) {
        return pintle_priv_linux_say(pin->words, PINTLE_IO_ERROR, "the pin cannot be read: %s",
                                     strerror(errno));
    }
    *edge =
        (struct pintle_linux_edge){ event.timestamp_ns / 1000,
                                    event.id == GPIO_V2_LINE_EVENT_RISING_EDGE, event.line_seqno };
    return PINTLE_OK;
}
