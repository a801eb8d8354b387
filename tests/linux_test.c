/* The ports to Linux as far as any machine goes: clocks under signals, what is said of devices that
 * are not there, and 1-Wire against a stand-in for the kernel, over a simulated line. What real
 * kernels do is tried by 'make test-linux'. */
#include "support.h"

#include <errno.h>
#include <fcntl.h>
#include <linux/connector.h>
#include <linux/netlink.h>
#include <signal.h>
#include <sys/time.h>
#include <unistd.h>

#include "pintle/host/live/station.h"
#include "pintle/linux.h"
#include "pintle/onewire.h"
#include "pintle/port_check.h"
#include "port/linux/w1.h"

static unsigned alarms;

static void on_alarm(int number)
{
    (void)number;
    alarms++;
}

/* A storm of signals makes no sleep shorter: the lengths in turn, for as long as the machine takes
 * to send enough of them. */
static void sleeps_survive_signals(void)
{
    static const uint32_t lengths[] = { 0, 50, 150, 999, 2500, 30000 };
    const unsigned enough = 30;
    struct sigaction action = { .sa_handler = on_alarm };
    struct sigaction before;
    struct itimerval suite;
    const struct itimerval often = { { 0, 300 }, { 0, 300 } };
    struct pintle_clock clock = pintle_linux_clock;
    sigaction(SIGALRM, &action, &before);
    setitimer(ITIMER_REAL, &often, &suite);
    for (size_t i = 0; i < COUNT(lengths) || (alarms < enough && i < 10000); i++) {
        uint32_t length = lengths[i % COUNT(lengths)];
        uint64_t began = clock.calls->now_us(clock.context);
        clock.calls->sleep_us(clock.context, length);
        uint64_t slept = clock.calls->now_us(clock.context) - began;
        EXPECT(slept >= length, "%u us were %u", length, (unsigned)slept);
    }
    setitimer(ITIMER_REAL, &suite, NULL);
    sigaction(SIGALRM, &before, NULL);
    EXPECT(alarms >= enough, "%u signals", alarms);
    int64_t utc_us = 0;
    int64_t earliest = g_get_real_time();
    CU_ASSERT_EQUAL(clock.calls->get_wall_us(clock.context, &utc_us), PINTLE_OK);
    CU_ASSERT(utc_us >= earliest && utc_us <= g_get_real_time());
}

#define MISSING "no-such-device"
#define LINUX "board { port = \"linux\" }\n"
#define SEA "sensor sea { part = \"TMP102\" address = 0x48 }\n"

static void what_is_said(void)
{
    static const struct {
        const char *name, *rig, *arguments;
        int status;
        const char *answer;
    } rows[] = {
        { "a path", LINUX "bus b { device = \"/dev/" MISSING "\" }\n" SEA, "read", 1,
          "TMP102 at 0x48 on bus 'b': there is no /dev/" MISSING
          ": an I2C bus that is switched off" },
        { "a name", LINUX "bus b { device = \"" MISSING "\" }\n" SEA, "read", 1,
          "no I2C adapter is named '" MISSING "'" },
        { "no adapter", LINUX "bus b { device = \"/dev/null\" }\n" SEA, "read", 1,
          "the system says of /dev/null: " },
        { "in a scan", LINUX "bus b { device = \"/dev/" MISSING "\" }\n" SEA, "scan", 1,
          "broken  there is no /dev/" MISSING },
        { "in a log", LINUX "bus b { device = \"/dev/" MISSING "\" }\n" SEA,
          "log --for 1s --every 1s --into runs", 1,
          "sensor 'sea' fails: there is no /dev/" MISSING },
        { "registers", LINUX "bus b { device = \"/dev/" MISSING "\" }\n" SEA, "regs sea T_HIGH", 1,
          "register T_HIGH: there is no /dev/" MISSING },
        { "a calibration", LINUX "bus b { device = \"/dev/" MISSING "\" }\n" SEA,
          "calibrate sea.temperature --yes", 1, "sensor 'sea': there is no /dev/" MISSING },
        { "SPI",
          LINUX "bus b { kind = \"spi\" device = \"/dev/" MISSING "\" }\n"
                "sensor m { part = \"ICM20948\" select = \"1\" }\n",
          "read", 1, "there is no /dev/" MISSING ".1: an SPI select line" },
        { "a select's own",
          LINUX "bus b { kind = \"spi\" }\nsensor m { part = \"ICM20948\" select = "
                "\"S1\" device = \"/dev/" MISSING "\" }\n",
          "read", 1, "there is no /dev/" MISSING ": an SPI select line" },
        { "1-Wire",
          LINUX "bus b { kind = \"onewire\" device = \"" MISSING "\" }\n"
                "sensor s { part = \"DS18B20\" code = \"284c1e720700001d\" }\n",
          "read", 1, "there is no 1-Wire master of this name" },
        { "no device", LINUX "bus b { }\n" SEA, "read", 2,
          "bus 'b' names no device; add device = " },
        { "no select",
          LINUX "bus b { kind = \"spi\" }\nsensor m { part = \"ICM20948\" select = "
                "\"S1\" }\n",
          "read", 2, "select 'S1' of bus 'b' names no device" },
        { "a device too many",
          LINUX "bus b { device = \"/dev/null\" }\nsensor s { part = \"TMP102\" "
                "address = 0x48 device = \"/dev/null\" }\n",
          "read", 2, "only a select line of SPI has a device" },
        { "selects of I2C", LINUX "bus b { selects = { \"1\" } }\n" SEA, "read", 2,
          "bus 'b' is I2C and has no select pins" },
        { "another moment", LINUX "bus b { device = \"/dev/null\" }\n" SEA, "read --at 1h", 2,
          "on port 'linux' time is real" },
        { "pacing", LINUX "bus b { device = \"/dev/null\" }\n" SEA, "log --real-time", 2,
          "--real-time is for the simulation; on port 'linux'" },
        { "lines", LINUX "bus b { device = \"/dev/null\" }\n" SEA, "trace -- read", 2,
          "trace watches the lines, which port 'linux' cannot" },
        { "depth",
          "board { port = \"linux\" depth = \"wires\" }\nbus b { device = \"/dev/null\" }\n" SEA,
          "read", 2, "depth = \"wires\" is for the simulation" },
        { "a port", "board { port = \"usb\" }\nbus b { }\n" SEA, "read", 2,
          "there is no port 'usb' in this build; it has 'sim' (the simulation), 'linux' (this" },
    };
    char *folder = scratch_make();
    for (size_t i = 0; i < COUNT(rows); i++) {
        char **words = g_strsplit(rows[i].arguments, " ", 2);
        char *arguments = g_strdup_printf("%s --rig x.rig %s", words[0], words[1] ? words[1] : "");
        file_write(folder, "x.rig", rows[i].rig);
        expect_said(folder, arguments, rows[i].status, rows[i].answer);
        g_free(arguments);
        g_strfreev(words);
    }
    scratch_remove(folder);
}

static void pins_and_devices_missing(void)
{
    struct pintle_linux_pin pin;
    struct pintle_linux_i2c adapter;
    CU_ASSERT_EQUAL(pintle_linux_pin_open(&pin, MISSING), PINTLE_NO_DEVICE);
    EXPECT(strstr(pin.words, "no pin is named '" MISSING "'") != NULL, "%s", pin.words);
    CU_ASSERT_EQUAL(pintle_linux_i2c_open(&adapter, "/dev/" MISSING), PINTLE_NO_DEVICE);
    struct pintle_i2c bus = pintle_linux_i2c_bus(&adapter);
    CU_ASSERT_EQUAL(pintle_i2c_probe(&bus, 0x48), PINTLE_NO_DEVICE);
    CU_ASSERT_EQUAL(bus.common.sole_master, 0);
    CU_ASSERT_PTR_NULL(pintle_linux_i2c_holder(&adapter, 0x48));
    pintle_linux_i2c_close(&adapter);
}

/* --- the kernel's 1-Wire connector: first what it said, byte for byte --- */

/* A request, and the answers that a kernel gave to it (tests/linux/w1_answers.txt). */
struct captured {
    gchar **lines; /* "> hex" and "< hex" */
    unsigned at;
};

static size_t from_hex(const char *text, uint8_t *bytes)
{
    size_t count = strlen(text) / 2;
    for (size_t i = 0; i < count; i++) {
        bytes[i] = (uint8_t)(g_ascii_xdigit_value(text[2 * i]) << 4
                             | g_ascii_xdigit_value(text[2 * i + 1]));
    }
    return count;
}

static int send_captured(void *context, const void *bytes, size_t count)
{
    struct captured *c = context;
    uint8_t wanted[512];
    size_t length = from_hex(c->lines[c->at] + 2, wanted);
    EXPECT(length == count - NLMSG_HDRLEN
               && memcmp((const uint8_t *)bytes + NLMSG_HDRLEN, wanted, length) == 0,
           "sent something else than %s", c->lines[c->at]);
    c->at++;
    return (int)count;
}

static int receive_captured(void *context, void *bytes, size_t room)
{
    struct captured *c = context;
    const char *line = c->lines[c->at];
    if (!line || line[0] != '<') {
        return 0;
    }
    c->at++;
    memset(bytes, 0, NLMSG_HDRLEN);
    CU_ASSERT_FATAL(strlen(line) / 2 + NLMSG_HDRLEN < room);
    return NLMSG_HDRLEN + (int)from_hex(line + 2, (uint8_t *)bytes + NLMSG_HDRLEN);
}

/* What was on the line then is in the file's head. */
static void onewire_as_captured(void)
{
    static const uint8_t read_pad[] = { 0x55, 0x28, 0x3d, 0x2c, 0x1b, 0x0a, 0, 0, 0xa6, 0xbe };
    static const uint8_t supply[] = { 0x55, 0x28, 0x3d, 0x2c, 0x1b, 0x0a, 0, 0, 0xa6, 0xb4 };
    static const uint8_t convert[] = { 0x55, 0x28, 0x3d, 0x2c, 0x1b, 0x0a, 0, 0, 0xa6, 0x44 };
    static const struct {
        const char *name;
        uint32_t master;
        struct w1_request request;
        enum pintle_status status;
        const char *read;
        unsigned codes;
    } rows[] = {
        { "a reset", 2, { .reset = 1 }, PINTLE_OK, "", 0 },
        { "a search", 2, { .search = 1 }, PINTLE_OK, "", 2 },
        { "an alarm search", 2, { .search = 2 }, PINTLE_OK, "", 2 },
        { "a scratchpad",
          2,
          { .reset = 1, .out = read_pad, .out_count = 10, .in_count = 9 },
          PINTLE_OK,
          "59014b467fff0710a2",
          0 },
        { "a supply",
          2,
          { .reset = 1, .out = supply, .out_count = 10, .in_count = 1 },
          PINTLE_OK,
          "ff",
          0 },
        { "a conversion", 2, { .reset = 1, .out = convert, .out_count = 10 }, PINTLE_OK, "", 0 },
        { "no such master", 9, { .reset = 1 }, PINTLE_NO_DEVICE, "", 0 },
        { "a reset of an empty line", 2, { .reset = 1 }, PINTLE_NO_ANSWER, "", 0 },
        { "a search of an empty line", 2, { .search = 1 }, PINTLE_OK, "", 0 },
        { "a scratchpad of an empty line",
          2,
          { .reset = 1, .out = read_pad, .out_count = 10, .in_count = 9 },
          PINTLE_NO_ANSWER,
          "ffffffffffffffffff",
          0 },
    };
    char *text = NULL;
    CU_ASSERT_FATAL(g_file_get_contents(SOURCE "/tests/linux/w1_answers.txt", &text, NULL, NULL));
    struct captured c = { .lines = g_strsplit(g_strstrip(text), "\n", -1) };
    const struct pintle_w1_wire wire = { send_captured, receive_captured, &c };
    while (c.lines[c.at] && c.lines[c.at][0] == '#') {
        c.at++;
    }
    for (size_t i = 0; i < COUNT(rows); i++) {
        uint8_t in[9] = { 0 };
        uint8_t found[8][8];
        uint8_t count = 0;
        uint8_t read[9];
        struct w1_request request = rows[i].request;
        request.in = in;
        CU_ASSERT_PTR_NOT_NULL_FATAL(c.lines[c.at]);
        enum pintle_status status =
            pintle_priv_w1_ask(&wire, rows[i].master, 7, &request, found, 8, &count);
        EXPECT(status == rows[i].status, "%s: %s", rows[i].name, pintle_status_word(status));
        EXPECT(count == rows[i].codes, "%s: %u codes", rows[i].name, count);
        EXPECT(memcmp(in, read, from_hex(rows[i].read, read)) == 0, "%s", rows[i].name);
        EXPECT(count == 0
                   || (memcmp(found[0], "\x28\x3e\x2c\x1b\x0a\0\0\xff", 8) == 0
                       && memcmp(found[1], "\x28\x3d\x2c\x1b\x0a\0\0\xa6", 8) == 0),
               "%s", rows[i].name);
    }
    CU_ASSERT_PTR_NULL(c.lines[c.at]); /* every answer was needed */
    g_strfreev(c.lines);
    g_free(text);
}

/* --- then a stand-in for it, which answers as captured, in front of a simulated line --- */

struct kernel {
    struct pintle_onewire line;
    struct pintle_clock clock;
    GQueue answers; /* GBytes: a datagram each */
    unsigned messages;
    int refuses;         /* it takes no request, with this errno */
    bool deaf;           /* it never answers */
    bool gone;           /* there is no such master any more */
    const uint8_t *lost; /* the conversion of the chip with this code fails */
    bool search;         /* in between it searches the line by itself, as kernels do */
};

struct message {
    uint8_t type, status;
    uint16_t length;
    uint32_t master, unused;
};

struct command {
    uint8_t command, unused;
    uint16_t length;
};

enum { DATA = -1 }; /* instead of a status */

/* A datagram: the connector's message with one command in it, or none. Data are acknowledged with
 * one more than the sequence number, a status with the request's own number, 0. */
static void reply(struct kernel *k, const struct cn_msg *request, const struct message *message,
                  const struct command *command, const uint8_t *bytes, int status)
{
    uint8_t packet[512] = { 0 };
    struct cn_msg connector = *request;
    struct message m = *message;
    m.length = command ? (uint16_t)(sizeof *command + command->length) : 0;
    m.status = (uint8_t)(status > 0 ? status : 0);
    connector.ack = status == DATA ? request->seq + 1 : request->ack;
    connector.len = (uint16_t)(sizeof m + m.length);
    size_t at = NLMSG_HDRLEN;
    memcpy(packet + at, &connector, sizeof connector);
    memcpy(packet + (at += sizeof connector), &m, sizeof m);
    at += sizeof m;
    if (command) {
        memcpy(packet + at, command, sizeof *command);
        memcpy(packet + (at += sizeof *command), bytes, command->length);
        at += command->length;
    }
    g_queue_push_tail(&k->answers, g_bytes_new(packet, at));
}

static uint16_t search_line(struct kernel *k, uint8_t alarmed, uint8_t *codes)
{
    struct pintle_onewire_search search = { .alarmed = alarmed };
    uint16_t count = 0;
    while (pintle_onewire_next(&k->line, &search) == PINTLE_OK) {
        memcpy(codes + count, search.code, 8);
        count = (uint16_t)(count + 8);
    }
    return count;
}

static void do_command(struct kernel *k, const struct cn_msg *connector,
                       const struct message *message, const struct command *command, uint8_t *bytes)
{
    uint8_t codes[256];
    const uint16_t bits = (uint16_t)(8 * command->length);
    struct command data = *command;
    int status = 0;
    switch (command->command) {
    case 0:
        (void)k->line.calls->slots(k->line.common.context, NULL, bytes, bits, 0);
        reply(k, connector, message, &data, bytes, DATA);
        break;
    case 1:
        if (k->lost && command->length == 10 && memcmp(bytes + 1, k->lost, 8) == 0
            && bytes[9] == 0x44) {
            status = EIO;
            break;
        }
        (void)k->line.calls->slots(k->line.common.context, bytes, NULL, bits, 0);
        break;
    case 2:
    case 3:
        data.length = search_line(k, command->command == 3, codes);
        reply(k, connector, message, &data, codes, DATA);
        break;
    default:
        status = k->line.calls->reset(k->line.common.context) == PINTLE_OK ? 0 : 255;
        break;
    }
    data.length = 0;
    reply(k, connector, message, &data, bytes, status);
}

static int take_request(void *context, const void *bytes, size_t count)
{
    struct kernel *k = context;
    uint8_t text[2048];
    uint8_t codes[256];
    struct cn_msg connector;
    struct message message;
    size_t at = NLMSG_HDRLEN;
    if (k->refuses) {
        errno = k->refuses;
        return -1;
    }
    memcpy(text, bytes, count);
    memcpy(&connector, text + at, sizeof connector);
    memcpy(&message, text + at + sizeof connector, sizeof message);
    at += sizeof connector + sizeof message;
    CU_ASSERT(connector.id.idx == CN_W1_IDX && connector.id.val == CN_W1_VAL && message.type == 4
              && message.master == 3 && connector.len == sizeof message + message.length
              && count == at + message.length);
    k->messages++;
    if (k->search) {
        (void)search_line(k, 0, codes);
    }
    if (k->gone) {
        reply(k, &connector, &message, NULL, NULL, ENODEV);
        return (int)count;
    }
    for (size_t end = at + message.length; at < end;) {
        struct command command;
        memcpy(&command, text + at, sizeof command);
        at += sizeof command;
        do_command(k, &connector, &message, &command, text + at);
        at += command.length;
    }
    return (int)count;
}

static int give_answer(void *context, void *bytes, size_t room)
{
    struct kernel *k = context;
    GBytes *packet = k->deaf ? NULL : g_queue_pop_head(&k->answers);
    if (!packet) {
        return 0;
    }
    gsize size = 0;
    const void *data = g_bytes_get_data(packet, &size);
    CU_ASSERT_FATAL(size <= room);
    memcpy(bytes, data, size);
    g_bytes_unref(packet);
    return (int)size;
}

/* Three probes on a simulated line, behind the stand-in. */
struct hull {
    struct pintle_sim sim;
    struct kernel kernel;
    struct pintle_w1_wire wire;
    struct pintle_linux_onewire port;
    struct pintle_onewire line;
    struct pintle_sim_chip *probe[3];
};

static const char *const codes[] = { "284c1e720700001d", "28a03b91070000a2", "280102030405069e" };

static uint8_t digit(char c)
{
    return (uint8_t)g_ascii_xdigit_value(c);
}

static void parse_code(const char *text, uint8_t code[8])
{
    for (unsigned i = 0; i < 8; i++) {
        code[i] = (uint8_t)(digit(text[2 * i]) << 4 | digit(text[2 * i + 1]));
    }
}

static void build(struct hull *hull)
{
    memset(hull, 0, sizeof *hull);
    pintle_sim_init(&hull->sim, 1, 1781222400000000, 5);
    for (unsigned i = 0; i < COUNT(codes); i++) {
        hull->probe[i] = pintle_sim_add(&hull->sim, "DS18B20", 0, 0);
        CU_ASSERT_PTR_NOT_NULL_FATAL(hull->probe[i]);
        parse_code(codes[i], hull->probe[i]->rom.code);
    }
    hull->kernel.line = pintle_sim_onewire(&hull->sim, 0);
    hull->kernel.clock = pintle_sim_clock(&hull->sim);
    hull->wire = (struct pintle_w1_wire){ take_request, give_answer, &hull->kernel };
    hull->port = (struct pintle_linux_onewire){ .socket = -1,
                                                .lock = open("/dev/null", O_RDONLY),
                                                .master = 3,
                                                .name = "w1_bus_master3",
                                                .wire = &hull->wire };
    hull->line = pintle_linux_onewire_bus(&hull->port);
    hull->line.common.clock = &hull->kernel.clock;
}

static void end(struct hull *hull)
{
    g_queue_clear_full(&hull->kernel.answers, (GDestroyNotify)g_bytes_unref);
    pintle_linux_onewire_close(&hull->port);
}

/* All codes are found, and each probe is read, while the kernel searches the line in between. */
static void onewire_through_the_kernel(void)
{
    static struct hull hull;
    struct pintle_onewire_search search = { .alarmed = 0 };
    struct pintle_sample sample;
    unsigned found = 0;
    build(&hull);
    hull.kernel.search = true;
    while (pintle_onewire_next(&hull.line, &search) == PINTLE_OK) {
        char text[17];
        for (unsigned i = 0; i < 8; i++) {
            g_snprintf(text + 2 * i, 3, "%02x", search.code[i]);
        }
        found += strcmp(text, codes[0]) == 0 || strcmp(text, codes[1]) == 0
                 || strcmp(text, codes[2]) == 0;
    }
    CU_ASSERT_EQUAL(found, 3);
    for (unsigned i = 0; i < COUNT(codes); i++) {
        struct pintle_any sensor;
        uint8_t code[8];
        parse_code(codes[i], code);
        CU_ASSERT_EQUAL_FATAL(any_on_onewire(&sensor, &pintle_ds18b20, &hull.line, code),
                              PINTLE_OK);
        for (unsigned turn = 0; turn < 3; turn++) {
            const struct pintle_sim_curve water = { .level = 10.0 * i - 12.5 + 5 * turn };
            CU_ASSERT_EQUAL(pintle_sim_feel(hull.probe[i], "temperature", &water), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_sample_read(&sensor.sensor, &sample), PINTLE_OK);
            EXPECT(pintle_reading_good(&sample.channel[0]), "%s: quality %x", codes[i],
                   sample.channel[0].quality);
            EXPECT_NEAR(sample.channel[0].value, water.level, 0.6, codes[i]);
        }
    }
    end(&hull);
}

/* A conversion that the kernel could not begin is no value of its probe's, and no failure of
 * another's.
 */
static void onewire_loses_a_conversion(void)
{
    static struct hull hull;
    struct pintle_any sensor[2];
    struct turn turn[2];
    uint8_t code[2][8];
    build(&hull);
    for (unsigned i = 0; i < 2; i++) {
        parse_code(codes[i], code[i]);
        CU_ASSERT_EQUAL_FATAL(any_on_onewire(&sensor[i], &pintle_ds18b20, &hull.line, code[i]),
                              PINTLE_OK);
        turn[i].sensor = &sensor[i].sensor;
    }
    CU_ASSERT_EQUAL(turns_round(turn, 2), 0);
    hull.kernel.lost = code[0];
    CU_ASSERT_EQUAL(turns_round(turn, 2), 1);
    CU_ASSERT_EQUAL(turn[0].status, PINTLE_IO_ERROR);
    CU_ASSERT(!pintle_reading_good(&turn[0].sample.channel[0]));
    CU_ASSERT_EQUAL(turn[1].status, PINTLE_OK);
    CU_ASSERT(pintle_reading_good(&turn[1].sample.channel[0]));
    hull.kernel.lost = NULL;
    CU_ASSERT_EQUAL(turns_round(turn, 2), 0);
    end(&hull);
}

/* Nobody there; a kernel that doesn't answer; slots that no kernel can do. */
static void onewire_refusals(void)
{
    static struct hull hull;
    uint8_t byte = 0;
    build(&hull);
    const struct pintle_onewire_calls *calls = hull.line.calls;
    CU_ASSERT_EQUAL(calls->reset(hull.line.common.context), PINTLE_OK);
    CU_ASSERT_EQUAL(calls->slots(hull.line.common.context, NULL, &byte, 3, 0), PINTLE_UNSUPPORTED);
    EXPECT(strstr(hull.port.words, "whole bytes only") != NULL, "%s", hull.port.words);
    byte = 0x44;
    CU_ASSERT_EQUAL(calls->slots(hull.line.common.context, &byte, NULL, 8, 1), PINTLE_UNSUPPORTED);
    EXPECT(strstr(hull.port.words, "strong power") != NULL, "%s", hull.port.words);
    hull.kernel.deaf = true; /* busy with something else: that is no refusal, and passes */
    CU_ASSERT_EQUAL(calls->reset(hull.line.common.context), PINTLE_TIME_LIMIT);
    EXPECT(strstr(hull.port.words, "did not answer on 'w1_bus_master3' in time") != NULL, "%s",
           hull.port.words);
    hull.kernel.deaf = false; /* and its late answer is none to what is asked next */
    hull.kernel.gone = true;
    CU_ASSERT_EQUAL(calls->reset(hull.line.common.context), PINTLE_NO_DEVICE);
    hull.kernel.gone = false;
    hull.port.lock = open("/dev/null", O_RDONLY);
    CU_ASSERT_EQUAL(calls->reset(hull.line.common.context), PINTLE_OK);
    CU_ASSERT_EQUAL(hull.port.reading_only, 0);
    hull.kernel.refuses = EPERM;
    CU_ASSERT_EQUAL(calls->reset(hull.line.common.context), PINTLE_NO_ANSWER);
    CU_ASSERT_EQUAL(hull.port.reading_only, 1);
    EXPECT(strstr(hull.port.words, "does not let this program talk") != NULL, "%s",
           hull.port.words);
    end(&hull);
    build(&hull);
    hull.kernel.gone = true;
    CU_ASSERT_EQUAL(calls->reset(hull.line.common.context), PINTLE_NO_DEVICE);
    EXPECT(strstr(hull.port.words, "w1_bus_master3' has gone") != NULL, "%s", hull.port.words);
    CU_ASSERT_EQUAL(hull.port.lock, -1);
}

/* Without permission to talk: what the kernel shows of a master and its driver of thermometers, in
 * a folder as the kernel's documentation has it (w1_therm). */
static void onewire_read_only(void)
{
    static const struct {
        const char *name, *pad, *power;
        unsigned resolution;
        enum pintle_status status;
        double value;
    } rows[] = {
        { "as it is set", "72 01 4b 46 7f ff 0e 10 57 : crc=57 YES", "1", PINTLE_DS18B20_12_BIT,
          PINTLE_OK, 23.125 },
        { "below zero", "5e ff 4b 46 7f ff 02 10 b6 : crc=b6 YES", "1", PINTLE_DS18B20_12_BIT,
          PINTLE_OK, -10.125 },
        { "another resolution", "72 01 4b 46 7f ff 0e 10 57 : crc=57 YES", "1",
          PINTLE_DS18B20_9_BIT, PINTLE_DENIED, 0 },
        { "garbled", "72 01 4b 46 7f ff 0e 10 56 : crc=57 NO", "1", PINTLE_DS18B20_12_BIT,
          PINTLE_BAD_CRC, 0 },
        { "gone", "", "1", PINTLE_DS18B20_12_BIT, PINTLE_NO_ANSWER, 0 },
        { "it lives on the line", "72 01 4b 46 7f ff 0e 10 57 : crc=57 YES", "0",
          PINTLE_DS18B20_12_BIT, PINTLE_MISFIT, 0 },
        { "no driver", "72 01 4b 46 7f ff 0e 10 57 : crc=57 YES", NULL, PINTLE_DS18B20_12_BIT,
          PINTLE_DENIED, 0 },
    };
    for (size_t i = 0; i < COUNT(rows); i++) {
        static struct hull hull;
        struct pintle_any sensor;
        struct pintle_sample sample;
        struct pintle_onewire_search search = { .alarmed = 0 };
        uint8_t code[8];
        char *folder = scratch_make();
        char *chip = g_build_filename(folder, "w1_bus_master3", "28-000007721e4c", NULL);
        g_mkdir_with_parents(chip, 0755);
        file_write(chip, "w1_slave", rows[i].pad);
        if (rows[i].power) {
            file_write(chip, "ext_power", rows[i].power);
        }
        build(&hull);
        close(hull.port.lock);
        hull.port.lock = -1;
        hull.port.name[0] = '\0';
        hull.port.folder = folder;
        hull.kernel.refuses = EPERM;
        parse_code(codes[0], code);
        enum pintle_status found = pintle_onewire_next(&hull.line, &search);
        EXPECT(found == PINTLE_OK && memcmp(search.code, code, 8) == 0 && search.ended,
               "%s: found %s", rows[i].name, pintle_status_word(found));
        EXPECT(strcmp(hull.port.name, "w1_bus_master3") == 0, "%s", hull.port.name);
        CU_ASSERT_EQUAL(any_on_onewire(&sensor, &pintle_ds18b20, &hull.line, code), PINTLE_OK);
        CU_ASSERT_EQUAL(
            pintle_sensor_set(&sensor.sensor, PINTLE_DS18B20_RESOLUTION, rows[i].resolution),
            PINTLE_OK);
        enum pintle_status status = pintle_sample_read(&sensor.sensor, &sample);
        EXPECT(status == rows[i].status, "%s: %s, %s", rows[i].name, pintle_status_word(status),
               hull.port.words);
        if (rows[i].status == PINTLE_OK) {
            EXPECT_NEAR(sample.channel[0].value, rows[i].value, 1e-4, rows[i].name);
            EXPECT(pintle_reading_good(&sample.channel[0]), "%s", rows[i].name);
            /* What this probe holds already is no write to another one. */
            const uint8_t same[] = { 0x4e, 0x4b, 0x46, 0x7f };
            uint8_t other[8];
            parse_code(codes[1], other);
            CU_ASSERT_EQUAL(pintle_onewire_select(&hull.line, other), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_onewire_write(&hull.line, same, 1), PINTLE_OK);
            CU_ASSERT_EQUAL(pintle_onewire_write(&hull.line, same + 1, 3), PINTLE_DENIED);
        }
        end(&hull);
        g_free(chip);
        scratch_remove(folder);
    }
}

/* --- a shared bus, and first contact, on the simulation --- */

static struct pintle_station *open_rig(const char *folder, struct pintle_rig **rig)
{
    struct pintle_problem problem = { 0 };
    char *path = g_build_filename(folder, "x.rig", NULL);
    *rig = pintle_rig_load(path, &problem);
    struct pintle_station *station = *rig ? pintle_station_open(*rig, 0, &problem) : NULL;
    EXPECT(station != NULL, "%s", problem.text);
    g_free(path);
    return station;
}

#define TMP102_WORLD "chip c { part = \"TMP102\" address = 0x48 }\n"

/* Another program sets the chip to another range: what comes then is no value, and the next
 * measurement sets it up afresh. */
static void somebody_else_sets_it_up(void)
{
    static const char *const buses[] = { "shared = true", "" };
    for (size_t i = 0; i < COUNT(buses); i++) {
        char *folder = scratch_make();
        char *text = g_strdup_printf("board { world = \"w\" }\nbus b { %s }\n"
                                     "sensor heel { part = \"ADXL345\" address = 0x53 }\n",
                                     buses[i]);
        struct pintle_rig *rig = NULL;
        file_write(folder, "x.rig", text);
        file_write(folder, "w", "chip c { part = \"ADXL345\" address = 0x53 }\n");
        struct pintle_station *station = open_rig(folder, &rig);
        CU_ASSERT_PTR_NOT_NULL_FATAL(station);
        CU_ASSERT_EQUAL(pintle_station_read(station, 0, true), PINTLE_OK);
        const struct pintle_reg format = PINTLE_REG(0x31, 1, 0);
        struct pintle_any other;
        union pintle_place place = { .address = 0x53 };
        CU_ASSERT_EQUAL(pintle_station_wire(station, &other, &pintle_adxl345, 0, &place),
                        PINTLE_OK);
        CU_ASSERT_EQUAL(pintle_reg_write(&other.sensor, &format, 0x03), PINTLE_OK); /* 16 g */
        EXPECT(pintle_station_read(station, 0, false) == PINTLE_MISFIT, "%s", buses[i]);
        EXPECT(!pintle_reading_good(&station->turn[0].sample.channel[0]), "%s", buses[i]);
        CU_ASSERT_EQUAL(pintle_station_read(station, 0, false), PINTLE_OK);
        pintle_station_free(station);
        pintle_rig_free(rig);
        g_free(text);
        scratch_remove(folder);
    }
}

#define EXPANDER                                                                                   \
    "part LINES { addresses = { 0x48 } acts = true register R { address = 1 width = 2 }\n"         \
    " identity = { \"expect R 0x6000 mask 0x600f\" } measure = { \"read R\" }\n"                   \
    " channel level { quantity = \"voltage\" range = { 0, 65536 } } }\n"

/* A part that acts when it is asked is proven only where the rig names it, and nothing else is
 * tried at an address where it may be. */
static void what_acts_is_not_asked(void)
{
    char *folder = scratch_make();
    file_write(folder, "w", TMP102_WORLD);
    file_write(folder, "x.rig", "board { world = \"w\" }\n" EXPANDER "bus b { }\n");
    expect_said(
        folder, "scan --rig x.rig", 0,
        "could be LINES or ADS1115 or INA219 or TMP102; nothing was sent to it, since a byte "
        "could switch something");
    expect_said(folder, "trace --rig x.rig -- scan", 0, "0x48");
    struct said said = tool(folder, "trace --rig x.rig -- scan");
    EXPECT(strstr(said.out, "CONFIGURATION") == NULL && strstr(said.out, "write 01") == NULL,
           "nothing may be written: %.600s", said.out);
    said_free(&said);
    file_write(folder, "x.rig",
               "board { world = \"w\" }\n" EXPANDER "bus b { }\n"
               "sensor lines { part = \"LINES\" address = 0x48 }\n");
    expect_said(folder, "scan --rig x.rig", 0, "lines      proven");
    scratch_remove(folder);
}

/* A draft of the sloop loads at once and has every sensor where it is; what nobody knows is a
 * remark. */
static void drafts_load(void)
{
    char *folder = scratch_make();
    expect_said(folder, "scan --demo --draft d.rig", 0, "drafted d.rig; 'pintle read --rig d.rig'");
    expect_said(folder, "scan --rig d.rig", 0, "12 of 12 sensors are there, nothing else answers.");
    expect_said(folder, "scan --demo --draft d.rig", 2, "there is a file d.rig already");
    expect_said(folder, "scan --demo --draft no/such/d.rig", 3, "cannot write no/such/d.rig: ");
    file_write(folder, "w",
               TMP102_WORLD "chip d { part = \"TMP102\" address = 0x49 }\n"
                            "chip e { part = \"SHT31\" address = 0x22 }\n"
                            "chip f { part = \"ICM20948\" bus = \"s\" select = \"P7\" }\n");
    file_write(folder, "x.rig",
               "board { world = \"w\" }\nbus b { }\nbus s { kind = \"spi\" selects = "
               "{ \"P6\", \"P7\" } }\n");
    expect_said(folder, "scan --rig x.rig --draft y.rig", 0,
                "select P7        ICM20948  -          found");
    char *text = file_text(folder, "y.rig");
    static const char *const wanted[] = {
        "\n#sensor at-48 {", "\n#    part     = \"ADS1115\"    # ADS1115 or INA219 or TMP102\n",
        "# 0x22 found on bus 'b'", "\nsensor icm20948 {", "select   = \"P7\""
    };
    for (size_t i = 0; i < COUNT(wanted); i++) {
        EXPECT(strstr(text, wanted[i]) != NULL, "%s: %s", wanted[i], text);
    }
    /* What nothing proves is not talked to, until somebody says what it is. */
    expect_said(folder, "read --rig y.rig", 0, "icm20948   accel-x");
    struct said said = tool(folder, "trace --rig y.rig -- read");
    EXPECT(strstr(said.out, "0x48") == NULL && strstr(said.out, "0x22") == NULL, "%s", said.out);
    said_free(&said);
    GString *known = g_string_new(text);
    g_string_replace(known, "\n#sensor", "\nsensor", 0);
    g_string_replace(known, "\n#    ", "\n    ", 0);
    g_string_replace(known, "\n#}", "\n}", 0);
    g_string_replace(known, "part     = \"ADS1115\"", "part     = \"TMP102\"", 0);
    file_write(folder, "z.rig", known->str);
    expect_said(folder, "read --rig z.rig at-48 at-49", 0, "at-49      temperature");
    g_string_free(known, TRUE);
    g_free(text);
    scratch_remove(folder);
}

/* --- what the check of a port finds --- */

enum fault {
    NONE,
    EVERYBODY,
    REFUSED,
    MERGED,
    HELD_DATA,
    LATE,
    SHORT_SLEEP,
    CLOCK_BACK,
    NO_RECOVERY
};

static struct broken {
    struct pintle_i2c inner;
    struct pintle_clock clock;
    enum fault fault;
    unsigned looks;
    char failed[2000];
} broken;

static enum pintle_status broken_transfer(void *context, uint8_t address,
                                          const struct pintle_segment *segments, uint8_t count,
                                          uint32_t limit_us)
{
    struct broken *b = context;
    const struct pintle_i2c_calls *calls = b->inner.calls;
    struct pintle_segment merged[2];
    if (b->fault == LATE && address == 0x49) {
        b->clock.calls->sleep_us(b->clock.context, 200000);
    }
    if (b->fault == HELD_DATA && count == 1 && b->looks > 20) {
        return PINTLE_DATA_STUCK;
    }
    b->looks += count == 2;
    if (b->fault == MERGED && count == 3) { /* one read for both */
        merged[0] = segments[0];
        merged[1] = (struct pintle_segment){ NULL, segments[1].in, 2 };
        return calls->transfer(b->inner.common.context, address, merged, 2, limit_us);
    }
    enum pintle_status status =
        calls->transfer(b->inner.common.context, address, segments, count, limit_us);
    return status == PINTLE_NO_ANSWER && b->fault == EVERYBODY ? PINTLE_OK
           : status == PINTLE_NO_ANSWER && b->fault == REFUSED && segments[0].length > 0
               ? PINTLE_DATA_REFUSED
               : status;
}

static enum pintle_status broken_recover(void *context)
{
    const struct broken *b = context;
    return b->fault == NO_RECOVERY ? PINTLE_CLOCK_STUCK : PINTLE_OK;
}

static uint64_t broken_now(void *context)
{
    struct broken *b = context;
    uint64_t now = b->clock.calls->now_us(b->clock.context);
    return b->fault == CLOCK_BACK && ++b->looks == 500 ? now - 5 : now;
}

static void broken_sleep(void *context, uint32_t us)
{
    const struct broken *b = context;
    b->clock.calls->sleep_us(b->clock.context, b->fault == SHORT_SLEEP ? us - 1 : us);
}

static void note_line(void *context, const char *what, enum pintle_verdict verdict,
                      enum pintle_status status, uint32_t figure, const char *unit)
{
    struct broken *b = context;
    (void)status;
    (void)figure;
    (void)unit;
    if (verdict == PINTLE_FAILS) {
        g_strlcat(b->failed, what, sizeof b->failed);
        g_strlcat(b->failed, "|", sizeof b->failed);
    }
}

static void the_contract_is_checked(void)
{
    static const struct {
        enum fault fault;
        const char *failed;
    } rows[] = {
        { NONE, "" },
        { EVERYBODY, "nobody answers at the empty address|a byte for nobody is no refused byte|" },
        { REFUSED, "a byte for nobody is no refused byte|" },
        { MERGED, "each segment begins with a START of its own|" },
        { HELD_DATA,
          "the last byte is not acknowledged: the bus is free behind it|recovery leaves a "
          "healthy bus as it was|" },
        { LATE, "and that is said within the time limit|" },
        { SHORT_SLEEP,
          "a sleep of 100 us is no shorter|a sleep of 1000 us is no shorter|a sleep of "
          "20000 us is no shorter|" },
        { CLOCK_BACK, "the clock never goes back|" },
        { NO_RECOVERY, "recovery leaves a healthy bus as it was|" },
    };
    static const struct pintle_i2c_calls calls = { .transfer = broken_transfer,
                                                   .recover = broken_recover };
    static const struct pintle_clock_calls clock_calls = { .now_us = broken_now,
                                                           .sleep_us = broken_sleep };
    for (size_t i = 0; i < COUNT(rows); i++) {
        struct pintle_sim sim;
        pintle_sim_init(&sim, 1, 1781222400000000, 1);
        CU_ASSERT_PTR_NOT_NULL_FATAL(pintle_sim_add(&sim, "TMP102", 0, 0x48));
        broken = (struct broken){ .inner = pintle_sim_i2c(&sim, 0),
                                  .clock = pintle_sim_clock(&sim),
                                  .fault = rows[i].fault };
        const struct pintle_clock clock = { &clock_calls, &broken };
        struct pintle_i2c bus = { .calls = &calls,
                                  .common = { .context = &broken, .clock = &clock },
                                  .bit_ns = 10000 };
        const struct pintle_port_check check = { .bus = &bus,
                                                 .known = 0x48,
                                                 .empty = 0x49,
                                                 .reg = 3,
                                                 .bytes = { 0x50, 0x00 },
                                                 .line = note_line,
                                                 .context = &broken };
        unsigned failed = pintle_port_check_run(&check);
        EXPECT(strcmp(broken.failed, rows[i].failed) == 0
                   && (failed > 0) == (rows[i].fault != NONE),
               "fault %d: %s", (int)rows[i].fault, broken.failed);
    }
}

void add_linux_suite(void)
{
    SUITE("linux", { "somebody else sets it up", somebody_else_sets_it_up },
          { "what acts is not asked", what_acts_is_not_asked }, { "drafts load", drafts_load },
          { "the contract is checked", the_contract_is_checked },
          { "sleeps survive signals", sleeps_survive_signals }, { "what is said", what_is_said },
          { "pins and devices missing", pins_and_devices_missing },
          { "1-Wire as captured", onewire_as_captured },
          { "1-Wire through the kernel", onewire_through_the_kernel },
          { "a conversion lost", onewire_loses_a_conversion },
          { "1-Wire refusals", onewire_refusals }, { "1-Wire read-only", onewire_read_only });
}
