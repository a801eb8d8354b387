/* 1-Wire over the kernel's own masters. They know resets, bytes and searches, but no single slots:
 * a search that the core does slot by slot is played from the codes that the kernel has found. */
#include <dirent.h>
#include <errno.h>
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "pintle/onewire.h"
#include "system.h"
#include "w1.h"

#define FOLDER "/sys/bus/w1/devices"
#define PREFIX "w1_bus_master"
#define PATH_ROOM 320

enum { SEARCH_ROM = 0xf0, ALARM_SEARCH = 0xec, MATCH_ROM = 0x55 };
enum { CONVERT = 0x44, READ_SCRATCHPAD = 0xbe, WRITE_SCRATCHPAD = 0x4e, READ_POWER = 0xb4 };

#define COMMAND_AT 9  /* behind "match ROM" and a code */
#define WRITABLE_AT 2 /* bytes of a scratchpad that can be written */
#define WRITABLE 3

/* What the slots since the last reset are about. */
enum mode { BYTES, SEARCHING, TALKING };

/* --- the master --- */

static const char *folder_of(const struct pintle_linux_onewire *line)
{
    return line->folder ? line->folder : FOLDER;
}

/* The path of the master's own folder. */
static const char *path_of(const struct pintle_linux_onewire *line, char path[PATH_ROOM])
{
    snprintf(path, PATH_ROOM, "%.200s/%.100s", folder_of(line), line->name);
    return path;
}

/* The only master there is; a hint at the others where there are several. */
static enum pintle_status find(struct pintle_linux_onewire *line)
{
    unsigned found = 0;
    char name[PINTLE_LINUX_NAME] = "";
    DIR *folder = opendir(folder_of(line));
    const struct dirent *entry = NULL;
    while (folder && (entry = readdir(folder)) != NULL) {
        if (strncmp(entry->d_name, PREFIX, sizeof PREFIX - 1) == 0
            && (line->name[0] == '\0' || strcmp(entry->d_name, line->name) == 0)) {
            snprintf(name, sizeof name, "%.100s", entry->d_name);
            found++;
        }
    }
    if (folder) {
        closedir(folder);
    }
    if (found == 1) {
        memcpy(line->name, name, sizeof line->name);
        line->master = (uint32_t)strtoul(name + sizeof PREFIX - 1, NULL, 10);
        return PINTLE_OK;
    }
    return pintle_priv_linux_say(line->words, PINTLE_NO_DEVICE,
                                 found ? "there are several 1-Wire masters; name one, as "
                                         "'pintle scan' lists them%s"
                                       : "there is no 1-Wire master%s: switch one on in the "
                                         "board's settings or device tree (w1-gpio)",
                                 found || !line->name[0] ? "" : " of this name");
}

static enum pintle_status be_open(struct pintle_linux_onewire *line)
{
    if (line->lock >= 0) {
        return PINTLE_OK;
    }
    enum pintle_status status = find(line);
    if (status != PINTLE_OK) {
        return status;
    }
    char path[PATH_ROOM];
    line->lock = open(path_of(line, path), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (line->lock < 0) {
        return pintle_priv_linux_failed(errno, path, line->words);
    }
    line->socket = pintle_priv_w1_socket();
    line->reading_only = line->socket < 0;
    return PINTLE_OK;
}

enum pintle_status pintle_linux_onewire_open(struct pintle_linux_onewire *line, const char *name)
{
    memset(line, 0, sizeof *line);
    line->socket = line->lock = -1;
    snprintf(line->name, sizeof line->name, "%s", name);
    return be_open(line);
}

void pintle_linux_onewire_close(struct pintle_linux_onewire *line)
{
    if (line->socket >= 0) {
        close(line->socket);
    }
    if (line->lock >= 0) {
        close(line->lock);
    }
    line->socket = line->lock = -1;
}

/* --- talking --- */

static enum pintle_status ask(struct pintle_linux_onewire *line, const struct w1_request *request)
{
    const struct pintle_w1_wire kernels = pintle_priv_w1_wire(&line->socket);
    enum pintle_status status =
        pintle_priv_w1_ask(line->wire ? line->wire : &kernels, line->master, ++line->sequence,
                           request, line->codes, PINTLE_LINUX_CODES, &line->count);
    if (status == PINTLE_NO_DEVICE) {
        pintle_linux_onewire_close(line);
        return pintle_priv_linux_say(line->words, status, "the 1-Wire master '%s' has gone",
                                     line->name);
    }
    if (status == PINTLE_DENIED) {
        line->reading_only = 1;
        return pintle_priv_linux_say(
            line->words, status,
            "the kernel does not let this program talk on '%s'; it is read "
            "as the kernel's own driver measures it",
            line->name);
    }
    if (status == PINTLE_TIME_LIMIT) {
        return pintle_priv_linux_say(line->words, status,
                                     "the kernel did not answer on '%s' in time: another program "
                                     "or driver keeps the line, or it is very slow; try again",
                                     line->name);
    }
    return status;
}

static enum pintle_status only_reading(struct pintle_linux_onewire *line)
{
    return pintle_priv_linux_say(
        line->words, PINTLE_DENIED,
        "without permission to talk on '%s' only thermometers can be read, "
        "as they are set, by the kernel's driver w1_therm",
        line->name);
}

/* What waits is sent, with the reset before it, and `in_count` bytes are read behind it. */
static enum pintle_status flush(struct pintle_linux_onewire *line, uint8_t *in, uint8_t in_count)
{
    const struct w1_request request = { .reset = line->mode == BYTES,
                                        .out = line->out,
                                        .out_count = line->waiting,
                                        .in = in,
                                        .in_count = in_count };
    if (line->waiting == 0 && in_count == 0) {
        return PINTLE_OK;
    }
    line->waiting = 0;
    line->mode = TALKING;
    return ask(line, &request);
}

/* Without permission to talk, what was to be sent is done where nothing had to change: the driver
 * converts when it is read, and what is written may be there already. */
static enum pintle_status spared(struct pintle_linux_onewire *line)
{
    const uint8_t *out = line->out;
    uint8_t waiting = line->waiting;
    line->waiting = 0;
    if (waiting == 0 || (waiting == COMMAND_AT + 1 && out[COMMAND_AT] == CONVERT)) {
        return PINTLE_OK;
    }
    if (waiting == COMMAND_AT + 1 + WRITABLE && out[COMMAND_AT] == WRITE_SCRATCHPAD
        && memcmp(out + 1, line->pad_of, sizeof line->pad_of) == 0
        && memcmp(out + COMMAND_AT + 1, line->pad + WRITABLE_AT, WRITABLE) == 0) {
        return PINTLE_OK;
    }
    return only_reading(line);
}

/* Keep what was sent late and came to nothing, for the next call to say. */
static void settle(struct pintle_linux_onewire *line)
{
    enum pintle_status status = line->reading_only ? spared(line) : flush(line, NULL, 0);
    line->failed = line->failed ? line->failed : (uint8_t)status;
}

static enum pintle_status taken(struct pintle_linux_onewire *line)
{
    enum pintle_status status = (enum pintle_status)line->failed;
    line->failed = PINTLE_OK;
    return status;
}

static enum pintle_status reset(void *context)
{
    struct pintle_linux_onewire *line = context;
    const struct w1_request alone = { .reset = 1 };
    char path[PATH_ROOM];
    enum pintle_status status = be_open(line);
    if (status != PINTLE_OK) {
        return status;
    }
    settle(line);
    line->words[0] = '\0';
    line->waiting = line->pad_at = 0;
    line->mode = BYTES;
    status = taken(line);
    if (status == PINTLE_OK && !line->reading_only) {
        status = ask(line, &alone);
        if (status != PINTLE_DENIED) {
            return status;
        }
        status = PINTLE_OK; /* from now on it is only read */
    }
    if (status != PINTLE_OK) {
        return status;
    }
    line->count = pintle_priv_w1_listed(path_of(line, path), line->codes, PINTLE_LINUX_CODES);
    return line->count > 0 ? PINTLE_OK : PINTLE_NO_ANSWER;
}

/* --- searching --- */

#define MANY 8

/* A line that stays low answers every bit of a search with 0: the kernel finds as many codes as it
 * looks for, and hardly one has a right CRC. */
static int stays_low(const struct pintle_linux_onewire *line)
{
    unsigned wrong = 0;
    for (unsigned i = 0; i < line->count; i++) {
        const uint8_t *code = line->codes[i];
        wrong += code[0] == 0 || pintle_onewire_crc(code, 8) != 0;
    }
    return line->count >= MANY && wrong * 10u >= line->count * 9u;
}

/* A kernel whose last search was broken off begins the next one where that ended, and finds the
 * chips beyond only (w1.c: search_id): so the first one is made twice. */
static enum pintle_status begin_search(struct pintle_linux_onewire *line, uint8_t command)
{
    const struct w1_request request = { .search = command == ALARM_SEARCH ? 2 : 1 };
    enum pintle_status status = PINTLE_OK;
    if (!line->reading_only) {
        status = line->searched ? PINTLE_OK : ask(line, &request);
        line->searched = 1;
        line->count = 0;
        status = status == PINTLE_OK ? ask(line, &request) : status;
    } else if (command == ALARM_SEARCH) {
        return pintle_priv_linux_say(line->words, PINTLE_UNSUPPORTED,
                                     "without permission to talk on '%s' nobody can be asked for "
                                     "alarms",
                                     line->name);
    }
    if (status == PINTLE_OK && stays_low(line)) {
        return pintle_priv_linux_say(line->words, PINTLE_DATA_STUCK,
                                     "the line '%s' reads as low all the time", line->name);
    }
    line->mode = SEARCHING;
    line->bit = 0;
    memset(line->left, 1, sizeof line->left);
    return status;
}

static uint8_t bit_of(const struct pintle_linux_onewire *line, unsigned chip)
{
    return line->codes[chip][line->bit >> 3] >> (line->bit & 7) & 1;
}

/* The bit and its complement, each as all that are left pull it low. */
static enum pintle_status search_slots(struct pintle_linux_onewire *line, const uint8_t *out,
                                       uint8_t *in, uint16_t count)
{
    uint8_t seen = 3;
    if (count == 2 && in && !out) {
        for (unsigned i = 0; i < line->count; i++) {
            seen &= line->left[i] ? (uint8_t)(bit_of(line, i) ? 1 : 2) : 3;
        }
        *in = seen;
        return PINTLE_OK;
    }
    if (count != 1 || !out || line->bit > 63) {
        return PINTLE_UNSUPPORTED;
    }
    for (unsigned i = 0; i < line->count; i++) {
        line->left[i] &= bit_of(line, i) == (*out & 1);
    }
    line->bit++;
    return PINTLE_OK;
}

/* --- bytes --- */

/* The chip that what waits is for: "match ROM" and its code come first. */
static const uint8_t *matched(const struct pintle_linux_onewire *line)
{
    return line->waiting > COMMAND_AT && line->out[0] == MATCH_ROM ? line->out + 1 : NULL;
}

/* A conversion under strong power is what the kernel's driver of thermometers can do. */
static enum pintle_status power(struct pintle_linux_onewire *line)
{
    uint8_t pad[9];
    char path[PATH_ROOM];
    const uint8_t *code = matched(line);
    enum pintle_status status = PINTLE_UNSUPPORTED;
    if (code && line->out[COMMAND_AT] == CONVERT) {
        status = pintle_priv_w1_measured(path_of(line, path), code, pad);
        status = status == PINTLE_BAD_CRC ? PINTLE_OK : status; /* it is read once more */
    }
    line->waiting = 0;
    return status == PINTLE_UNSUPPORTED ? pintle_priv_linux_say(
               line->words, status,
               "the kernel gives strong power for a thermometer's conversion "
               "only, by its driver w1_therm, which has not taken this chip")
                                        : status;
}

static enum pintle_status append(struct pintle_linux_onewire *line, const uint8_t *out,
                                 uint8_t count)
{
    if (line->waiting + count > (int)sizeof line->out) {
        return PINTLE_UNSUPPORTED;
    }
    memcpy(line->out + line->waiting, out, count);
    line->waiting = (uint8_t)(line->waiting + count);
    return PINTLE_OK;
}

/* Does what waits make a whole command, which no chip answers? Then it is sent at once, so that the
 * caller gets its status. */
static int is_whole(const struct pintle_linux_onewire *line)
{
    uint8_t at = line->out[0] == MATCH_ROM ? COMMAND_AT : 1;
    if (line->mode != BYTES || line->waiting <= at) {
        return 0;
    }
    uint8_t command = line->out[at];
    return command == WRITE_SCRATCHPAD
               ? line->waiting == at + 1 + WRITABLE
               : command != READ_SCRATCHPAD && command != READ_POWER && command != CONVERT;
}

static enum pintle_status send(struct pintle_linux_onewire *line, const uint8_t *out, uint8_t count,
                               uint8_t strong)
{
    if (line->mode == BYTES && line->waiting == 0 && count == 1
        && (out[0] == SEARCH_ROM || out[0] == ALARM_SEARCH)) {
        return begin_search(line, out[0]);
    }
    enum pintle_status status = append(line, out, count);
    if (status != PINTLE_OK || strong) {
        return status == PINTLE_OK ? power(line) : status;
    }
    if (!is_whole(line)) {
        return PINTLE_OK;
    }
    return line->reading_only ? spared(line) : flush(line, NULL, 0);
}

/* Without permission to talk, what the driver shows. */
static enum pintle_status read_only(struct pintle_linux_onewire *line, uint8_t *in, uint8_t count)
{
    const uint8_t *code = matched(line);
    uint8_t command = line->out[COMMAND_AT];
    char path[PATH_ROOM];
    enum pintle_status status = PINTLE_OK;
    if (line->waiting > 0 && (!code || line->waiting > COMMAND_AT + 1)) {
        return only_reading(line);
    }
    if (line->waiting > 0 && command == READ_SCRATCHPAD) {
        status = pintle_priv_w1_measured(path_of(line, path), code, line->pad);
        memcpy(line->pad_of, code, sizeof line->pad_of);
        line->pad_at = 0;
    } else if (line->waiting > 0 && command == READ_POWER) {
        int powered = pintle_priv_w1_powered(path_of(line, path), code);
        memset(line->pad, powered ? 0xff : 0x00, sizeof line->pad);
        memset(line->pad_of, 0, sizeof line->pad_of);
        line->pad_at = 0;
        status = powered < 0 ? PINTLE_UNSUPPORTED : PINTLE_OK;
    } else if (line->waiting > 0 && command == CONVERT) {
        memset(line->pad, 0x00, sizeof line->pad); /* it will, when it is read */
        memset(line->pad_of, 0, sizeof line->pad_of);
        line->pad_at = 0;
    } else if (line->waiting > 0) {
        status = PINTLE_UNSUPPORTED;
    }
    line->waiting = 0;
    if (status == PINTLE_UNSUPPORTED) {
        return only_reading(line);
    }
    for (uint8_t i = 0; i < count && status != PINTLE_NO_ANSWER; i++) {
        in[i] = line->pad_at < sizeof line->pad ? line->pad[line->pad_at++] : 0xff;
    }
    return status == PINTLE_BAD_CRC ? PINTLE_OK : status;
}

static enum pintle_status slots(void *context, const uint8_t *out, uint8_t *in, uint16_t count,
                                uint8_t strong)
{
    struct pintle_linux_onewire *line = context;
    if (line->mode == SEARCHING) {
        return search_slots(line, out, in, count);
    }
    if (count % 8 != 0 || (out && in)) {
        return pintle_priv_linux_say(
            line->words, PINTLE_UNSUPPORTED,
            "the kernel's master '%s' knows whole bytes only, one way at a "
            "time",
            line->name);
    }
    uint8_t bytes = (uint8_t)(count / 8);
    if (out) {
        return send(line, out, bytes, strong);
    }
    return line->reading_only ? read_only(line, in, bytes) : flush(line, in, bytes);
}

static enum pintle_status acquire(void *context)
{
    struct pintle_linux_onewire *line = context;
    enum pintle_status status = be_open(line);
    return status == PINTLE_OK ? pintle_priv_linux_lock(line->lock) : status;
}

static void release(void *context)
{
    struct pintle_linux_onewire *line = context;
    if (line->lock >= 0) {
        settle(line);
        pintle_priv_linux_unlock(line->lock);
    }
}

static const char *words(void *context)
{
    const struct pintle_linux_onewire *line = context;
    return line->words;
}

struct pintle_onewire pintle_linux_onewire_bus(struct pintle_linux_onewire *line)
{
    static const struct pintle_claims claims = { acquire, release };
    static const struct pintle_onewire_calls calls = { .reset = reset,
                                                       .slots = slots,
                                                       .words = words };
    return (struct pintle_onewire){
        .calls = &calls,
        .common = { .context = line, .clock = &pintle_linux_clock, .claims = &claims }
    };
}
