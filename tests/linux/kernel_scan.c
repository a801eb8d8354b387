/* A scan with no rig, of chips of the emulator's authors: what it says of them, and, by the
 * emulator's own trace, what it sends to them. */
#include <stdio.h>
#include <string.h>

#include "kernel_test.h"

static char *trace_path(void)
{
    return g_strdup_printf("%s/aspeed.trace", lab);
}

static long trace_length(void)
{
    char *path = trace_path();
    FILE *file = fopen(path, "r");
    long length = file && fseek(file, 0, SEEK_END) == 0 ? ftell(file) : -1;
    if (file) {
        fclose(file);
    }
    g_free(path);
    return length;
}

/* The most bytes that each address got in one go since `from`; events and bytes in all. */
static unsigned sent_since(long from, unsigned most[128])
{
    char *path = trace_path();
    char line[200];
    unsigned address = 0;
    unsigned byte = 0;
    unsigned seen = 0;
    unsigned now[128] = { 0 };
    char event[40];
    FILE *file = fopen(path, "r");
    EXPECT(file && fseek(file, from, SEEK_SET) == 0, "%s", path);
    while (file && fgets(line, sizeof line, file)) {
        const char *what = strstr(line, "i2c_");
        if (what && sscanf(what, "i2c_event %39[^(](addr:0x%x)", event, &address) == 2) {
            now[address & 127] = 0;
            seen++;
        } else if (what
                   && (sscanf(what, "i2c_send send(addr:0x%x) data:0x%x", &address, &byte) == 2
                       || sscanf(what, "i2c_send_async send_async(addr:0x%x) data:0x%x", &address,
                                 &byte)
                              == 2)) {
            now[address & 127]++;
            most[address & 127] = MAX(most[address & 127], now[address & 127]);
            seen++;
        }
    }
    if (file) {
        fclose(file);
    }
    g_free(path);
    return seen;
}

/* As docs/trust.md has it. The expander PCA9552 at 60h, the switch, the memory and the thermometers
 * get nothing; what is at an address where a part has an identity gets register numbers. */
void what_a_scan_sends(void)
{
    static const struct {
        unsigned address, bytes;
        const char *said;
    } rows[] = {
        { 0x48, 0,
          "0x48  ?         -          found      it could be ADS1115 or INA219 or TMP102" },
        { 0x4c, 0,
          "0x4c  ?         -          found      it could be INA219, but nothing proves it" },
        { 0x68, 1, "0x68  ?         -          found      it could be DS1307" },
        { 0x18, 1, "0x18  ?         -          found      " },
        { 0x50, 0,
          "0x50  ?         -          found      it could be AT24C32, but nothing proves" },
        { 0x60, 0, "0x60  ?         -          found      no part of the catalogue" },
        { 0x70, 0, "could be SHTC3 or a bus switch (PCA9548); nothing was sent to it" },
    };
    unsigned most[128] = { 0 };
    long from = trace_length();
    struct answer answer = board_run(&board, 60, "pintle scan --draft /tmp/strangers.rig");
    printf("%s", answer.text);
    unsigned seen = sent_since(from, most);
    printf("    the emulator traced %u events and bytes\n", seen);
    EXPECT(seen > 100, "%u", seen);
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        printf("    0x%02x got %u bytes at a time\n", rows[i].address, most[rows[i].address]);
        EXPECT(most[rows[i].address] == rows[i].bytes, "0x%02x: %u", rows[i].address,
               most[rows[i].address]);
        EXPECT(strstr(answer.text, rows[i].said) != NULL, "%s", rows[i].said);
        most[rows[i].address] = 0;
    }
    most[0x53] = 0; /* the board's memory at 50h takes its page's addresses too */
    for (unsigned i = 0; i < 128; i++) {
        EXPECT(most[i] <= 1, "0x%02x got %u bytes at a time", i, most[i]);
    }
    answer_free(&answer);
    from = trace_length();
    memset(most, 0, sizeof most);
    answer = board_run(&board, 60, "pintle read --rig /tmp/strangers.rig");
    (void)sent_since(from, most);
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        EXPECT(most[rows[i].address] == 0, "reading the draft sent %u bytes to 0x%02x",
               most[rows[i].address], rows[i].address);
    }
    printf("    the draft reads: %s", answer.text);
    answer_free(&answer);
}

/* Without the kernel's driver a switch stays as it is; with it each channel is a bus. */
void a_bus_switch(void)
{
    set_temperature("deep", 11.5);
    board_expect(&board, "pintle scan | grep -c 'mux (chan_id'", 1, "0");
    board_expect(
        &board,
        "echo pca9548 0x70 > /sys/bus/i2c/devices/i2c-2/new_device; "
        "until [ $(ls -d /sys/bus/i2c/devices/2-0070/channel-* | wc -l) = 8 ]; do sleep 1; done; "
        "cat /sys/bus/i2c/devices/2-0070/channel-0/name; pintle scan",
        0,
        "i2c-2-mux (chan_id 0)|the driver 'pca954x' runs the bus switch at this address: leave it "
        "bound|0x49  ?         -          found");
    board_write(&board, "/tmp/deep.rig",
                LINUX TMP105 "bus keel { device = \"i2c-2-mux (chan_id 0)\" }\n"
                             "sensor deep { part = \"TMP105\" bus = \"keel\" address = 0x49 }\n");
    board_expect(&board, "pintle read --rig /tmp/deep.rig", 0,
                 "deep       temperature               11.5000");
    board_expect(&board, "pintle scan --rig /tmp/deep.rig", 1, "deep       likely|held-switch");
    board_expect(&board, "echo 0x70 > /sys/bus/i2c/devices/i2c-2/delete_device", 0, "");
}
