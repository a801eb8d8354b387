/* The kernel's 1-Wire masters: its netlink interface (Documentation/w1/w1-netlink in the kernel's
 * sources) and what it shows in /sys. */
#ifndef PINTLE_PRIV_LINUX_W1_H
#define PINTLE_PRIV_LINUX_W1_H

#include "pintle/linux.h"

/* What is asked in one go, under the master's own lock: a reset, bytes to write, bytes to read; or
 * a search. */
struct w1_request {
    uint8_t reset;
    uint8_t search; /* 1: all, 2: those that are alarmed */
    const uint8_t *out;
    uint8_t out_count;
    uint8_t *in;
    uint8_t in_count;
};

/* Where requests and answers go, so that it can be tried without a kernel: send one message (-1:
 * failed, with errno); receive one: its length, 0 where none came within some seconds, -1 where it
 * failed. */
struct pintle_w1_wire {
    int (*send)(void *context, const void *bytes, size_t count);
    int (*receive)(void *context, void *bytes, size_t room);
    void *context;
};

/* Ask and wait for the answers. NO_ANSWER: no chip showed presence; codes that a search finds come
 * into `codes`, at most `room` of them, *count. NO_DEVICE: there is no such
 * master any more; DENIED: the kernel takes no requests; TIME_LIMIT: no answer came in time. */
enum pintle_status pintle_priv_w1_ask(const struct pintle_w1_wire *wire, uint32_t master,
                                      uint32_t sequence, const struct w1_request *request,
                                      uint8_t (*codes)[8], uint8_t room, uint8_t *count);

/* Open a socket to the kernel's 1-Wire connector; -1: this kernel has none, or not here. */
int pintle_priv_w1_socket(void);
struct pintle_w1_wire pintle_priv_w1_wire(int *socket);

/* The chips that the kernel has found on a master by itself; `master` is the path of its folder. */
uint8_t pintle_priv_w1_listed(const char *master, uint8_t (*codes)[8], uint8_t room);

/* A thermometer measured and its scratchpad read by the kernel's driver. UNSUPPORTED: it has none
 * for this chip; NO_ANSWER, BAD_CRC. */
enum pintle_status pintle_priv_w1_measured(const char *master, const uint8_t code[8],
                                           uint8_t pad[9]);

/* Does the chip say that it has a supply of its own? 1 or 0; -1: the driver does not know it. */
int pintle_priv_w1_powered(const char *master, const uint8_t code[8]);

#endif
