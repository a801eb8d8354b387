/* Requests to the kernel's 1-Wire masters, and its answers (drivers/w1/w1_netlink.c in the kernel's
 * sources). */
#include <errno.h>
#include <linux/connector.h>
#include <linux/netlink.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <unistd.h>

#include "system.h"
#include "w1.h"

/* The kernel publishes no header for these. */
struct w1_message {
    uint8_t type;
    uint8_t status;
    uint16_t length;
    uint32_t master;
    uint32_t unused;
};

struct w1_command {
    uint8_t command;
    uint8_t unused;
    uint16_t length;
};

enum { MASTER_COMMAND = 4 };
enum { READ = 0, WRITE = 1, SEARCH = 2, ALARM_SEARCH = 3, RESET = 5 };

#define ROOM 1024
/* A conversion by the kernel's driver keeps the line 0.75 s, a search 15 ms a chip; several of them
 * may be ahead of a request. */
#define PATIENCE_MS 10000

/* A message under construction. */
struct packet {
    uint8_t bytes[ROOM];
    size_t used;
    unsigned commands;
};

static void append(struct packet *p, const void *bytes, size_t count)
{
    memcpy(p->bytes + p->used, bytes, count);
    p->used += count;
}

static void add(struct packet *p, uint8_t command, const uint8_t *bytes, uint8_t count)
{
    static const uint8_t zeros[UINT8_MAX] = { 0 };
    const struct w1_command header = { command, 0, count };
    append(p, &header, sizeof header);
    append(p, bytes ? bytes : zeros, count);
    p->commands++;
}

/* The headers are filled in last, when the lengths are known. */
static void build(struct packet *p, uint32_t master, uint32_t sequence,
                  const struct w1_request *request)
{
    const size_t headers = NLMSG_HDRLEN + sizeof(struct cn_msg) + sizeof(struct w1_message);
    memset(p->bytes, 0, headers);
    p->used = headers;
    p->commands = 0;
    if (request->reset) {
        add(p, RESET, NULL, 0);
    }
    if (request->search) {
        add(p, request->search == 2 ? ALARM_SEARCH : SEARCH, NULL, 0);
    }
    if (request->out_count > 0) {
        add(p, WRITE, request->out, request->out_count);
    }
    if (request->in_count > 0) {
        add(p, READ, NULL, request->in_count);
    }
    const struct w1_message message = { MASTER_COMMAND, 0, (uint16_t)(p->used - headers), master,
                                        0 };
    const struct cn_msg connector = { .id = { CN_W1_IDX, CN_W1_VAL },
                                      .seq = sequence,
                                      .len = (uint16_t)(sizeof message + message.length) };
    const struct nlmsghdr netlink = { .nlmsg_len = (uint32_t)p->used,
                                      .nlmsg_type = NLMSG_DONE,
                                      .nlmsg_seq = sequence };
    memcpy(p->bytes, &netlink, sizeof netlink);
    memcpy(p->bytes + NLMSG_HDRLEN, &connector, sizeof connector);
    memcpy(p->bytes + NLMSG_HDRLEN + sizeof connector, &message, sizeof message);
}

/* What has come so far. */
struct answers {
    const struct w1_request *request;
    uint32_t sequence;
    uint32_t master;
    unsigned statuses;
    uint8_t failed[8]; /* by command */
    uint8_t refused;   /* the whole request, with this errno */
    uint8_t read;      /* bytes */
    uint8_t (*codes)[8];
    uint8_t room, count;
};

static void take_data(struct answers *a, uint8_t command, const uint8_t *bytes, size_t count)
{
    if (command == READ && a->request->in && count == a->request->in_count) {
        memcpy(a->request->in, bytes, count);
        a->read = (uint8_t)count;
    }
    if (command == SEARCH || command == ALARM_SEARCH) {
        for (; count >= 8 && a->count < a->room; count -= 8, bytes += 8) {
            memcpy(a->codes[a->count++], bytes, 8);
        }
    }
}

/* Data come with an acknowledge number one above the sequence number, a command's status with the
 * request's own, which is 0 (w1_netlink.c: w1_netlink_queue_cmd, w1_netlink_queue_status). */
static void take_message(struct answers *a, const struct cn_msg *connector,
                         const struct w1_message *message, const uint8_t *bytes)
{
    size_t left = message->length;
    struct w1_command command;
    uint8_t is_status = connector->ack == 0;
    if (message->type != MASTER_COMMAND || message->master != a->master
        || (!is_status && connector->ack != a->sequence + 1)) {
        return; /* a notice to all, or an answer to something else */
    }
    while (left >= sizeof command) {
        memcpy(&command, bytes, sizeof command);
        bytes += sizeof command;
        left -= sizeof command;
        size_t count = command.length < left ? command.length : left;
        if (is_status) {
            a->failed[command.command & 7] |= message->status;
        } else {
            take_data(a, command.command, bytes, count);
        }
        bytes += count;
        left -= count;
    }
    a->refused |= is_status && message->length == 0 ? message->status : 0;
    a->statuses += is_status && message->length > 0;
}

static void take_connector(struct answers *a, const struct cn_msg *connector, const uint8_t *bytes)
{
    size_t left = connector->len;
    struct w1_message message;
    if (connector->seq != a->sequence || connector->id.idx != CN_W1_IDX) {
        return;
    }
    while (left >= sizeof message) {
        memcpy(&message, bytes, sizeof message);
        bytes += sizeof message;
        left -= sizeof message;
        message.length = message.length < left ? message.length : (uint16_t)left;
        take_message(a, connector, &message, bytes);
        bytes += message.length;
        left -= message.length;
    }
}

static void take(struct answers *a, const uint8_t *bytes, size_t count)
{
    struct cn_msg connector;
    if (count < NLMSG_HDRLEN) {
        return;
    }
    bytes += NLMSG_HDRLEN;
    count -= NLMSG_HDRLEN;
    while (count >= sizeof connector) {
        memcpy(&connector, bytes, sizeof connector);
        bytes += sizeof connector;
        count -= sizeof connector;
        connector.len = connector.len < count ? connector.len : (uint16_t)count;
        take_connector(a, &connector, bytes);
        bytes += connector.len;
        count -= connector.len;
    }
}

enum pintle_status pintle_priv_w1_ask(const struct pintle_w1_wire *wire, uint32_t master,
                                      uint32_t sequence, const struct w1_request *request,
                                      uint8_t (*codes)[8], uint8_t room, uint8_t *count)
{
    struct packet packet;
    struct answers answers = {
        .request = request, .sequence = sequence, .master = master, .codes = codes, .room = room
    };
    uint8_t bytes[ROOM * 4];
    build(&packet, master, sequence, request);
    if (wire->send(wire->context, packet.bytes, packet.used) < 0) {
        uint8_t closed = errno == EPERM || errno == EACCES || errno == ECONNREFUSED;
        return closed ? PINTLE_DENIED : PINTLE_IO_ERROR;
    }
    while (answers.statuses < packet.commands && !answers.refused) {
        int got = wire->receive(wire->context, bytes, sizeof bytes);
        if (got <= 0) {
            return got == 0 ? PINTLE_TIME_LIMIT : PINTLE_IO_ERROR;
        }
        take(&answers, bytes, (size_t)got);
    }
    if (count) {
        *count = answers.count;
    }
    if (answers.refused) {
        return answers.refused == ENODEV  ? PINTLE_NO_DEVICE
               : answers.refused == EPERM ? PINTLE_DENIED
                                          : PINTLE_IO_ERROR;
    }
    if (answers.failed[RESET]) {
        return PINTLE_NO_ANSWER;
    }
    uint8_t failed = answers.failed[SEARCH] | answers.failed[ALARM_SEARCH] | answers.failed[WRITE]
                     | answers.failed[READ];
    return failed || answers.read != request->in_count ? PINTLE_IO_ERROR : PINTLE_OK;
}

/* --- the real wire --- */

/* A request to a kernel that was built without this connector would never be answered. Its list has
 * a line for each: "w1              3:1". */
static int has_connector(void)
{
    char line[80];
    int found = 0;
    FILE *list = fopen("/proc/net/connector", "re");
    while (list && !found && fgets(line, sizeof line, list)) {
        const char *id = strrchr(line, ' ');
        char *end = NULL;
        found = id && strtoul(id, &end, 10) == CN_W1_IDX && *end == ':'
                && strtoul(end + 1, NULL, 10) == CN_W1_VAL;
    }
    if (list) {
        fclose(list);
    }
    return found;
}

int pintle_priv_w1_socket(void)
{
    const struct sockaddr_nl address = { .nl_family = AF_NETLINK };
    if (!has_connector()) {
        return -1;
    }
    int file = socket(AF_NETLINK, SOCK_DGRAM | SOCK_CLOEXEC, NETLINK_CONNECTOR);
    if (file >= 0 && bind(file, (const struct sockaddr *)&address, sizeof address) < 0) {
        close(file);
        file = -1;
    }
    return file;
}

static int send_bytes(void *context, const void *bytes, size_t count)
{
    const int *file = context;
    uint8_t old[64];
    while (recv(*file, old, sizeof old, MSG_DONTWAIT) >= 0) {
        /* answers that came too late for those who asked */
    }
    return (int)send(*file, bytes, count, 0);
}

/* Signals end no wait, and don't make it longer either. */
static int receive_bytes(void *context, void *bytes, size_t room)
{
    const int *file = context;
    struct pollfd wait = { .fd = *file, .events = POLLIN };
    uint64_t end = pintle_priv_linux_now_us() + PATIENCE_MS * 1000u;
    for (;;) {
        uint64_t now = pintle_priv_linux_now_us();
        int ready = poll(&wait, 1, now < end ? (int)((end - now) / 1000) + 1 : 0);
        if (ready > 0) {
            return (int)recv(*file, bytes, room, 0);
        }
        if (ready == 0 || errno != EINTR) {
            return ready;
        }
    }
}

struct pintle_w1_wire pintle_priv_w1_wire(int *socket)
{
    return (struct pintle_w1_wire){ send_bytes, receive_bytes, socket };
}
