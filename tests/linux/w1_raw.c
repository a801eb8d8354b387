/* What the kernel's 1-Wire connector really says: one request, and all that comes back, as bytes.
 * tests/linux/w1_answers.txt was captured with it.
 *
 *     w1_raw MASTER COMMANDS [COUNT]
 *
 * COMMANDS are hex, as struct w1_netlink_cmd has them ("05000000": reset); with COUNT it waits for
 * so many answers, without until no more come.
 */
#include <linux/connector.h>
#include <linux/netlink.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>

#define SEQUENCE 7
#define MASTER_COMMAND 4
#define HEADER 12       /* struct w1_netlink_msg */
#define SILENCE_MS 5000 /* after the last answer */
#define PATIENCE_MS 100000

static void print(const char *mark, const unsigned char *bytes, size_t count)
{
    printf("%s ", mark);
    for (size_t i = 0; i < count; i++) {
        printf("%02x", bytes[i]);
    }
    printf("\n");
    fflush(stdout);
}

int main(int argc, char **argv)
{
    static unsigned char bytes[4096];
    unsigned char *message = bytes + NLMSG_HDRLEN + sizeof(struct cn_msg);
    unsigned count = 0;
    if (argc < 3) {
        return 2;
    }
    for (const char *at = argv[2]; sscanf(at, "%2hhx", message + HEADER + count) == 1; at += 2) {
        count++;
    }
    const unsigned master = (unsigned)atoi(argv[1]);
    message[0] = MASTER_COMMAND;
    message[2] = (unsigned char)count;
    memcpy(message + 4, &master, 4);
    const struct cn_msg connector = { .id = { CN_W1_IDX, CN_W1_VAL },
                                      .seq = SEQUENCE,
                                      .len = (unsigned short)(HEADER + count) };
    const size_t length = NLMSG_HDRLEN + sizeof connector + HEADER + count;
    const struct nlmsghdr netlink = { .nlmsg_len = (unsigned)length, .nlmsg_type = NLMSG_DONE };
    memcpy(bytes, &netlink, sizeof netlink);
    memcpy(bytes + NLMSG_HDRLEN, &connector, sizeof connector);
    int file = socket(AF_NETLINK, SOCK_DGRAM, NETLINK_CONNECTOR);
    const struct sockaddr_nl address = { .nl_family = AF_NETLINK };
    if (file < 0 || bind(file, (const struct sockaddr *)&address, sizeof address) < 0
        || send(file, bytes, length, 0) < 0) {
        perror("connector");
        return 1;
    }
    print(">", bytes + NLMSG_HDRLEN, length - NLMSG_HDRLEN);
    struct pollfd wait = { .fd = file, .events = POLLIN };
    const int wanted = argc > 3 ? atoi(argv[3]) : -1;
    for (int i = 0; i != wanted && poll(&wait, 1, wanted < 0 ? SILENCE_MS : PATIENCE_MS) > 0; i++) {
        ssize_t got = recv(file, bytes, sizeof bytes, 0);
        if (got < NLMSG_HDRLEN) {
            return 1;
        }
        print("<", bytes + NLMSG_HDRLEN, (size_t)got - NLMSG_HDRLEN);
    }
    return 0;
}
