/* I2C over the kernel's character devices: combined transfers where the adapter can, the calls of
 * SMBus where it can do nothing else. */
#include <errno.h>
#include <limits.h>
#include <linux/i2c-dev.h>
#include <linux/i2c.h>
#include <stdio.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include "system.h"

#define LENGTH_MAX 8192 /* of one segment, the character device's own limit */

/* --- the device --- */

/* Ask for the adapter's features, which nothing is sent for. */
static enum pintle_status look_at(struct pintle_linux_i2c *adapter)
{
    if (ioctl(adapter->file, I2C_FUNCS, &adapter->can) == 0) {
        return PINTLE_OK;
    }
    enum pintle_status status = pintle_priv_linux_failed(errno, adapter->path, adapter->words);
    pintle_linux_i2c_close(adapter);
    return status;
}

/* The number of the adapter that has this name; -1: none has, -2: several do. */
static int number_of(const char *name)
{
    int found = -1;
    for (int i = 0; i < 256; i++) {
        char path[PINTLE_LINUX_PATH];
        char is[PINTLE_LINUX_NAME];
        snprintf(path, sizeof path, "/sys/bus/i2c/devices/i2c-%d/name", i);
        if (pintle_priv_linux_line(path, is, sizeof is) && strcmp(is, name) == 0) {
            found = found == -1 ? i : -2;
        }
    }
    return found;
}

static enum pintle_status find(struct pintle_linux_i2c *adapter)
{
    if (adapter->name[0] == '/') {
        snprintf(adapter->path, sizeof adapter->path, "%.*s", PINTLE_LINUX_PATH - 1, adapter->name);
        return PINTLE_OK;
    }
    int number = number_of(adapter->name);
    if (number < 0) {
        return pintle_priv_linux_say(adapter->words, PINTLE_NO_DEVICE,
                                     number == -1
                                         ? "no I2C adapter is named '%s'; 'pintle scan' lists them"
                                         : "several I2C adapters are named '%s'; name it by its "
                                           "path, such as /dev/i2c-1",
                                     adapter->name);
    }
    snprintf(adapter->path, sizeof adapter->path, "/dev/i2c-%d", number);
    return PINTLE_OK;
}

/* It may have been missing so far, or have come back. */
static enum pintle_status be_open(struct pintle_linux_i2c *adapter)
{
    if (adapter->file >= 0) {
        return PINTLE_OK;
    }
    enum pintle_status status = find(adapter);
    if (status == PINTLE_OK) {
        status =
            pintle_priv_linux_open(adapter->path, "an I2C bus", &adapter->file, adapter->words);
    }
    return status == PINTLE_OK ? look_at(adapter) : status;
}

enum pintle_status pintle_linux_i2c_open(struct pintle_linux_i2c *adapter, const char *name)
{
    memset(adapter, 0, sizeof *adapter);
    adapter->file = -1;
    snprintf(adapter->name, sizeof adapter->name, "%s", name);
    return be_open(adapter);
}

void pintle_linux_i2c_close(struct pintle_linux_i2c *adapter)
{
    if (adapter->file >= 0) {
        close(adapter->file);
    }
    adapter->file = -1;
}

/* "1" of "/dev/i2c-1", whatever link was given. */
static const char *digits(const struct pintle_linux_i2c *adapter, char *link, size_t room)
{
    ssize_t length = readlink(adapter->path, link, room - 1);
    if (length > 0) {
        link[length] = '\0';
    }
    const char *path = length > 0 ? link : adapter->path;
    const char *dash = strrchr(path, '-');
    return dash ? dash + 1 : "";
}

uint32_t pintle_linux_i2c_speed_hz(const struct pintle_linux_i2c *adapter)
{
    char link[PINTLE_LINUX_PATH];
    char path[2 * PINTLE_LINUX_PATH];
    static const char *const names[] = { "clock-frequency", "bus-frequency" };
    unsigned char hz[4] = { 0 };
    size_t got = 0;
    for (int i = 0; i < 2 && got != sizeof hz; i++) {
        snprintf(path, sizeof path, "/sys/bus/i2c/devices/i2c-%s/of_node/%s",
                 digits(adapter, link, sizeof link), names[i]);
        FILE *file = fopen(path, "re");
        got = file ? fread(hz, 1, sizeof hz, file) : 0;
        if (file) {
            fclose(file);
        }
    }
    return got == sizeof hz
               ? (uint32_t)hz[0] << 24 | (uint32_t)hz[1] << 16 | (uint32_t)hz[2] << 8 | hz[3]
               : 0;
}

/* The last part of where a symbolic link leads. 0: there is no such link. */
static int link_end(const char *path, char *end, size_t room)
{
    char where[PATH_MAX];
    ssize_t length = readlink(path, where, sizeof where - 1);
    if (length < 0) {
        return 0;
    }
    where[length] = '\0';
    const char *slash = strrchr(where, '/');
    const char *name = slash ? slash + 1 : where;
    size_t count = strlen(name) < room ? strlen(name) : room - 1;
    memcpy(end, name, count);
    end[count] = '\0';
    return 1;
}

const char *pintle_linux_i2c_holder(struct pintle_linux_i2c *adapter, uint8_t address)
{
    char link[PINTLE_LINUX_PATH];
    char path[2 * PINTLE_LINUX_PATH];
    if (be_open(adapter) != PINTLE_OK
        || ioctl(adapter->file, I2C_SLAVE, (unsigned long)address) == 0 || errno != EBUSY) {
        return NULL;
    }
    const char *number = digits(adapter, link, sizeof link);
    snprintf(path, sizeof path, "/sys/bus/i2c/devices/%s-%04x/driver", number, address);
    if (link_end(path, adapter->words, sizeof adapter->words)) {
        return adapter->words;
    }
    /* A channel of a bus switch: the address may be held on the bus before the switch, which is
     * named "2-0070". */
    snprintf(path, sizeof path, "/sys/bus/i2c/devices/i2c-%s/mux_device", number);
    if (link_end(path, link, sizeof link)) {
        link[strcspn(link, "-")] = '\0';
        snprintf(path, sizeof path, "/sys/bus/i2c/devices/%s-%04x/driver", link, address);
    }
    if (!link_end(path, adapter->words, sizeof adapter->words)) {
        snprintf(adapter->words, sizeof adapter->words, "unknown");
    }
    return adapter->words;
}

/* --- transfers --- */

static enum pintle_status refuse(struct pintle_linux_i2c *adapter, const char *what)
{
    return pintle_priv_linux_say(adapter->words, PINTLE_UNSUPPORTED, "the adapter of %s %s",
                                 adapter->path, what);
}

/* All segments as one message list. 0, or what errno was. */
static int combined(struct pintle_linux_i2c *adapter, uint8_t address,
                    const struct pintle_segment *segments, uint8_t count)
{
    struct i2c_msg messages[I2C_RDWR_IOCTL_MAX_MSGS];
    struct i2c_rdwr_ioctl_data all = { messages, count };
    sigset_t signals;
    for (uint8_t i = 0; i < count; i++) {
        const struct pintle_segment *s = &segments[i];
        messages[i] = (struct i2c_msg){ .addr = address,
                                        .flags = s->in ? I2C_M_RD : 0,
                                        .len = s->length,
                                        .buf = s->in ? s->in : (uint8_t *)(uintptr_t)s->out };
    }
    pintle_priv_linux_defer(&signals);
    int result = ioctl(adapter->file, I2C_RDWR, &all);
    int error = result < 0 ? errno : result < count ? EIO : 0; /* of all messages, or it is none */
    pintle_priv_linux_resume(&signals);
    return error;
}

/* A call of SMBus, where it can be done. 0, or what errno was. */
static int call(struct pintle_linux_i2c *adapter, uint8_t address, uint8_t read, uint8_t command,
                uint32_t size, union i2c_smbus_data *data)
{
    struct i2c_smbus_ioctl_data one = { read, command, size, data };
    sigset_t signals;
    pintle_priv_linux_defer(&signals);
    int result = ioctl(adapter->file, I2C_SLAVE_FORCE, (unsigned long)address);
    result = result < 0 ? result : ioctl(adapter->file, I2C_SMBUS, &one);
    int error = result < 0 ? errno : 0;
    pintle_priv_linux_resume(&signals);
    return error;
}

/* Bytes to send: the first is the command. */
static int smbus_write(struct pintle_linux_i2c *adapter, uint8_t address, const uint8_t *out,
                       uint16_t length)
{
    union i2c_smbus_data data = { .block = { 0 } };
    if (length == 1 && (adapter->can & I2C_FUNC_SMBUS_WRITE_BYTE)) {
        return call(adapter, address, I2C_SMBUS_WRITE, out[0], I2C_SMBUS_BYTE, NULL);
    }
    if (length == 2 && (adapter->can & I2C_FUNC_SMBUS_WRITE_BYTE_DATA)) {
        data.byte = out[1];
        return call(adapter, address, I2C_SMBUS_WRITE, out[0], I2C_SMBUS_BYTE_DATA, &data);
    }
    if (length == 3 && (adapter->can & I2C_FUNC_SMBUS_WRITE_WORD_DATA)) {
        data.word = (uint16_t)(out[1] | out[2] << 8); /* the low byte goes first */
        return call(adapter, address, I2C_SMBUS_WRITE, out[0], I2C_SMBUS_WORD_DATA, &data);
    }
    if (length <= I2C_SMBUS_BLOCK_MAX + 1 && (adapter->can & I2C_FUNC_SMBUS_WRITE_I2C_BLOCK)) {
        data.block[0] = (uint8_t)(length - 1);
        memcpy(data.block + 1, out + 1, length - 1u);
        return call(adapter, address, I2C_SMBUS_WRITE, out[0], I2C_SMBUS_I2C_BLOCK_DATA, &data);
    }
    return EOPNOTSUPP;
}

/* A command and bytes to fetch. */
static int smbus_read(struct pintle_linux_i2c *adapter, uint8_t address, uint8_t command,
                      uint8_t *in, uint16_t length)
{
    union i2c_smbus_data data = { .block = { 0 } };
    int error = EOPNOTSUPP;
    if (length == 1 && (adapter->can & I2C_FUNC_SMBUS_READ_BYTE_DATA)) {
        error = call(adapter, address, I2C_SMBUS_READ, command, I2C_SMBUS_BYTE_DATA, &data);
        in[0] = data.byte;
    } else if (length == 2 && (adapter->can & I2C_FUNC_SMBUS_READ_WORD_DATA)) {
        error = call(adapter, address, I2C_SMBUS_READ, command, I2C_SMBUS_WORD_DATA, &data);
        in[0] = (uint8_t)data.word;
        in[1] = (uint8_t)(data.word >> 8);
    } else if (length <= I2C_SMBUS_BLOCK_MAX && (adapter->can & I2C_FUNC_SMBUS_READ_I2C_BLOCK)) {
        data.block[0] = (uint8_t)length;
        error = call(adapter, address, I2C_SMBUS_READ, command, I2C_SMBUS_I2C_BLOCK_DATA, &data);
        error = error == 0 && data.block[0] != length ? EIO : error;
        memcpy(in, data.block + 1, length);
    }
    return error;
}

static int by_smbus(struct pintle_linux_i2c *adapter, uint8_t address,
                    const struct pintle_segment *segments, uint8_t count)
{
    const struct pintle_segment *first = &segments[0];
    if (count == 1 && first->length == 0) {
        return call(adapter, address, I2C_SMBUS_WRITE, 0, I2C_SMBUS_QUICK, NULL);
    }
    if (count == 1 && first->out) {
        return smbus_write(adapter, address, first->out, first->length);
    }
    if (count == 1 && first->length == 1 && (adapter->can & I2C_FUNC_SMBUS_READ_BYTE)) {
        union i2c_smbus_data data = { .byte = 0 };
        int error = call(adapter, address, I2C_SMBUS_READ, 0, I2C_SMBUS_BYTE, &data);
        first->in[0] = data.byte;
        return error;
    }
    if (count == 2 && first->out && first->length == 1 && segments[1].in) {
        return smbus_read(adapter, address, first->out[0], segments[1].in, segments[1].length);
    }
    return EOPNOTSUPP;
}

static int deal(struct pintle_linux_i2c *adapter, uint8_t address,
                const struct pintle_segment *segments, uint8_t count)
{
    return adapter->can & I2C_FUNC_I2C ? combined(adapter, address, segments, count)
                                       : by_smbus(adapter, address, segments, count);
}

/* A write of nothing, which some adapters cannot do, is a command to some memory chips and protects
 * them for good (JEDEC 21-C, EE1002: 0x30 to 0x37 beside memories from 0x50 on): there a byte is
 * read. */
static int ask(struct pintle_linux_i2c *adapter, uint8_t address)
{
    uint8_t byte = 0;
    const struct pintle_segment nothing = { NULL, NULL, 0 };
    const struct pintle_segment one = { NULL, &byte, 1 };
    int reads = !(adapter->can & I2C_FUNC_SMBUS_QUICK) || (address & 0x78) == 0x30
                || (address & 0x70) == 0x50;
    return deal(adapter, address, reads ? &one : &nothing, 1);
}

/* Nobody answered, or a byte was refused: kernels don't tell, so the address is asked again. */
static enum pintle_status refused(struct pintle_linux_i2c *adapter, uint8_t address,
                                  const struct pintle_segment *segments)
{
    int alone = segments[0].in || segments[0].length == 0;
    return !alone && ask(adapter, address) == 0 ? PINTLE_DATA_REFUSED : PINTLE_NO_ANSWER;
}

/* It took too long. Some adapters say that where nobody answers: where another chip still does, the
 * bus is well, and it is this one that is missing. */
static enum pintle_status late(struct pintle_linux_i2c *adapter, uint8_t address)
{
    uint8_t other = adapter->answered;
    if (other != 0 && other != address && ask(adapter, other) == 0) {
        return PINTLE_NO_ANSWER;
    }
    return pintle_priv_linux_say(
        adapter->words, PINTLE_TIME_LIMIT,
        "the adapter of %s ran into its time limit: either nobody answers and it says so in this "
        "way, or a line is held low; 'pintle scan' asks everybody",
        adapter->path);
}

/* "send 2, fetch 6" */
static enum pintle_status cannot(struct pintle_linux_i2c *adapter,
                                 const struct pintle_segment *segments, uint8_t count)
{
    char what[100];
    const char *why = adapter->can & I2C_FUNC_I2C ? "cannot do this transfer"
                                                  : "speaks SMBus only and has no call for this "
                                                    "transfer";
    size_t used = (size_t)snprintf(what, sizeof what, "%s:", why);
    for (uint8_t i = 0; i < count && used < sizeof what - 1; i++) {
        used += (size_t)snprintf(what + used, sizeof what - used, "%s %s %u", i ? "," : "",
                                 segments[i].in ? "fetch" : "send", segments[i].length);
    }
    return refuse(adapter, what);
}

static enum pintle_status what_of(struct pintle_linux_i2c *adapter, int error, uint8_t address,
                                  const struct pintle_segment *segments, uint8_t count)
{
    switch (error) {
    case 0:
        adapter->answered = address;
        return PINTLE_OK;
    case ENXIO:
    case EREMOTEIO:
        return refused(adapter, address, segments);
    case EAGAIN:
        return PINTLE_ARBITRATION_LOST;
    case ETIMEDOUT:
        return late(adapter, address);
    case EBUSY:
        return pintle_priv_linux_say(
            adapter->words, PINTLE_DATA_STUCK,
            "the adapter of %s finds its bus busy for ever: a line is held "
            "low",
            adapter->path);
    case EOPNOTSUPP:
    case EINVAL:
        return cannot(adapter, segments, count);
    default:
        break;
    }
    enum pintle_status status = pintle_priv_linux_failed(error, adapter->path, adapter->words);
    if (status == PINTLE_NO_DEVICE) {
        pintle_linux_i2c_close(adapter);
    }
    return status;
}

static enum pintle_status ready(struct pintle_linux_i2c *adapter, uint8_t address,
                                const struct pintle_segment *segments, uint8_t count)
{
    enum pintle_status status = be_open(adapter);
    if (status != PINTLE_OK) {
        return status;
    }
    if (!adapter->beside_drivers) {
        const char *driver = pintle_linux_i2c_holder(adapter, address);
        char name[32];
        snprintf(name, sizeof name, "%s", driver ? driver : "");
        if (driver) {
            return pintle_priv_linux_say(adapter->words, PINTLE_HELD,
                                         "the kernel's driver '%s' holds address 0x%02x of %s; "
                                         "unbind it, or say beside-drivers = true of the bus",
                                         name, address, adapter->path);
        }
    }
    for (uint8_t i = 0; i < count; i++) {
        if (segments[i].length > LENGTH_MAX) {
            return refuse(adapter, "takes 8192 bytes in one stretch at most");
        }
        if (segments[i].length == 0 && !(adapter->can & I2C_FUNC_SMBUS_QUICK)) {
            return refuse(adapter, "cannot write nothing, the address alone");
        }
    }
    return count > I2C_RDWR_IOCTL_MAX_MSGS ? refuse(adapter, "takes 42 stretches at most")
                                           : PINTLE_OK;
}

/* The caller's limit cannot be kept: the kernel's is for the whole adapter. */
static enum pintle_status transfer(void *context, uint8_t address,
                                   const struct pintle_segment *segments, uint8_t count,
                                   uint32_t limit_us)
{
    struct pintle_linux_i2c *adapter = context;
    (void)limit_us;
    adapter->words[0] = '\0';
    enum pintle_status status = ready(adapter, address, segments, count);
    if (status != PINTLE_OK) {
        return status;
    }
    return what_of(adapter, deal(adapter, address, segments, count), address, segments, count);
}

static enum pintle_status probe(void *context, uint8_t address, uint32_t limit_us)
{
    struct pintle_linux_i2c *adapter = context;
    const struct pintle_segment nothing = { NULL, NULL, 0 };
    (void)limit_us;
    adapter->words[0] = '\0';
    enum pintle_status status = ready(adapter, address, &nothing, 0);
    return status == PINTLE_OK ? what_of(adapter, ask(adapter, address), address, &nothing, 1)
                               : status;
}

static enum pintle_status acquire(void *context)
{
    struct pintle_linux_i2c *adapter = context;
    enum pintle_status status = be_open(adapter);
    if (status == PINTLE_OK) {
        status = pintle_priv_linux_lock(adapter->file);
    }
    if (status == PINTLE_TIME_LIMIT) {
        pintle_priv_linux_say(adapter->words, status, "another program keeps %s", adapter->path);
    }
    return status;
}

static void release(void *context)
{
    const struct pintle_linux_i2c *adapter = context;
    if (adapter->file >= 0) {
        pintle_priv_linux_unlock(adapter->file);
    }
}

static const char *words(void *context)
{
    const struct pintle_linux_i2c *adapter = context;
    return adapter->words;
}

struct pintle_i2c pintle_linux_i2c_bus(struct pintle_linux_i2c *adapter)
{
    static const struct pintle_claims claims = { acquire, release };
    static const struct pintle_i2c_calls calls = { .transfer = transfer,
                                                   .words = words,
                                                   .probe = probe };
    uint32_t hz = pintle_linux_i2c_speed_hz(adapter);
    return (struct pintle_i2c){
        .calls = &calls,
        .common = { .context = adapter, .clock = &pintle_linux_clock, .claims = &claims },
        .bit_ns = hz ? 1000000000u / hz : 0
    };
}
