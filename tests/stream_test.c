/* Serial lines: frames found among anything; a chip behind a terminal of the kernel's. */
#define _GNU_SOURCE
#include "support.h"

#include <fcntl.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

#include "pintle/linux.h"

/* --- a line that says what a row has, and then nothing --- */

struct script {
    const char *says;
    size_t length, at;
    size_t each; /* bytes a call */
    char heard[64];
};

static enum pintle_status script_send(void *context, const uint8_t *bytes, uint16_t count,
                                      uint32_t limit_us)
{
    struct script *s = context;
    (void)limit_us;
    strncat(s->heard, (const char *)bytes, count);
    return PINTLE_OK;
}

static enum pintle_status script_receive(void *context, uint8_t *bytes, uint16_t count,
                                         uint16_t *got, uint32_t limit_us)
{
    struct script *s = context;
    (void)limit_us;
    size_t left = s->length - s->at;
    *got = (uint16_t)MIN(MIN(left, s->each), count);
    memcpy(bytes, s->says + s->at, *got);
    s->at += *got;
    return PINTLE_OK;
}

static const struct pintle_part_crc sum = {
    .check = pintle_part_crc_check, .polynomial = 0, .bits = 8, .span = 5
};
static const struct pintle_frame text_frame = { 9600, 100, 0, '\n' };
static const struct pintle_frame byte_frame = { 9600, 100, 6, 0 };
static const struct pintle_step nothing[] = { PINTLE_END() };
static const struct pintle_step take_text[] = { PINTLE_READ(0x4c3d, 10), PINTLE_END() };
static const struct pintle_step take_any[] = { PINTLE_CALL(), PINTLE_READ(PINTLE_NO_REG, 10),
                                               PINTLE_END() };
static const struct pintle_step take_bytes[] = { PINTLE_READ(0x5959, 6), PINTLE_CHECK(),
                                                 PINTLE_END() };
static const struct pintle_linear digits = {
    .bytes = 4, .flags = PINTLE_LINEAR_SIGNED, .scale = 1, .lowest = INT32_MIN, .highest = INT32_MAX
};
static const struct pintle_linear word = { .bytes = 2, .scale = 1, .lowest = -1, .highest = -1 };
static const struct pintle_channel at_2[] = { PINTLE_CHANNEL("d", LENGTH, 0, -1e9f, 1e9f, &digits,
                                                             .at = 2) };
static const struct pintle_channel at_0[] = { PINTLE_CHANNEL("d", LENGTH, 0, -1e9f, 1e9f, &digits,
                                                             .at = 0) };
static const struct pintle_channel of_bytes[] = { PINTLE_CHANNEL("d", LENGTH, 0, 0, 1e9f, &word,
                                                                 .at = 2) };

#define PART(steps, rows, rules, size, ...)                                                        \
    {                                                                                              \
        .name = "X", .flags = PINTLE_PART_BIG_ENDIAN, .raw_size = (size), .channel_count = 1,      \
        .link = &pintle_link_stream, .identity = nothing, .setup = nothing, .measure = (steps),    \
        .rare = pintle_part_steps_rare, .channels = (rows), .frame = &(rules), __VA_ARGS__         \
    }
static const struct pintle_part text_part =
    PART(take_text, at_2, text_frame, 10, .integer = pintle_part_digits);
static const struct pintle_part any_part =
    PART(take_any, at_0, text_frame, 10, .integer = pintle_part_digits);
static const struct pintle_part byte_part = PART(take_bytes, of_bytes, byte_frame, 6, .crc = &sum);

static void frames(void)
{
    static const struct {
        const char *name;
        const struct pintle_part *part;
        const char *says;
        size_t length; /* 0: a string */
        enum pintle_status status;
        int value;
        bool good;
    } rows[] = {
        { "a line", &text_part, "L=740\r\n", 0, PINTLE_OK, 740, true },
        { "ended by a line feed alone", &text_part, "L=7\n", 0, PINTLE_OK, 7, true },
        { "others before it", &text_part, "740mm\r\nok\r\n\r\nL=-12\r\n", 0, PINTLE_OK, -12, true },
        { "as long as is read", &text_part, "L=1234567\r\n", 0, PINTLE_OK, 1234567, true },
        { "longer than is read, twice", &text_part, "L=12345678\r\nL=12345678\r\n", 0,
          PINTLE_NO_ANSWER, 0, false },
        { "no digits, twice", &text_part, "L=mm\r\nL=mm\r\n", 0, PINTLE_NO_ANSWER, 0, false },
        { "too many digits, twice", &text_part, "L=9999999999\nL=9999999999\n", 0, PINTLE_NO_ANSWER,
          0, false },
        { "torn, and the next one", &text_part, "L=74L=596mm\r\nL=74L=596mm\r\n", 0,
          PINTLE_NO_ANSWER, 0, false },
        { "never ended", &text_part, "L=740", 0, PINTLE_NO_ANSWER, 0, false },
        { "a line without an end", &text_part,
          "L=7777777777777777777777777777777777777777777777777777777\nL=5\n", 0, PINTLE_OK, 5,
          true },
        { "nothing", &text_part, "", 0, PINTLE_NO_ANSWER, 0, false },
        { "the middle of a line", &any_part, "34\r\n56\r\n", 0, PINTLE_OK, 56, true },
        { "bytes", &byte_part, "\x59\x59\x01\x02\x00\xb5", 6, PINTLE_OK, 258, true },
        { "bytes before them", &byte_part, "\x01\x59\x02\x59\x59\x00\x07\x00\xb9", 9, PINTLE_OK, 7,
          true },
        { "a head in the head", &byte_part, "\x59\x59\x59\x00\x07\x00\x12", 7, PINTLE_BAD_CRC, 0,
          false },
        { "a wrong sum", &byte_part, "\x59\x59\x01\x02\x00\xb4", 6, PINTLE_BAD_CRC, 0, false },
        { "half a frame", &byte_part, "\x59\x59\x01", 3, PINTLE_NO_ANSWER, 0, false },
    };
    static const struct pintle_stream_calls calls = { .send = script_send,
                                                      .receive = script_receive };
    for (size_t i = 0; i < COUNT(rows) * 3; i++) {
        size_t r = i / 3;
        struct bench bench;
        struct pintle_any sensor;
        struct pintle_sample sample;
        size_t length = rows[r].length ? rows[r].length : strlen(rows[r].says);
        struct script script = { rows[r].says, length, 0, 1 + 6 * (i % 3), "" };
        struct pintle_stream line = { .calls = &calls,
                                      .common = { .context = &script, .clock = &bench.clock } };
        bench_make(&bench, &pintle_tmp102, 0x48); /* for its clock */
        CU_ASSERT_EQUAL(any_on_stream(&sensor, rows[r].part, &line), PINTLE_OK);
        if (rows[r].part == &text_part || rows[r].part == &byte_part) {
            line.begun = 1;
        } else {
            script.at = 0; /* it is called before: what was said by then is gone */
        }
        enum pintle_status status = PINTLE_NOT_READY;
        if (rows[r].part == &any_part) {
            script.length = 0;
            CU_ASSERT_EQUAL(pintle_sensor_start(&sensor.sensor), PINTLE_OK);
            script.length = length;
            while (status == PINTLE_NOT_READY) {
                pintle_sim_pass(&bench.sim, 500);
                status = pintle_sample_collect(&sensor.sensor, &sample);
            }
        } else {
            status = pintle_sample_read(&sensor.sensor, &sample);
        }
        EXPECT(status == rows[r].status, "%s: %s", rows[r].name, pintle_status_word(status));
        bool good = status == PINTLE_OK && pintle_reading_good(&sample.channel[0]);
        EXPECT(good == rows[r].good, "%s: %04x", rows[r].name, sample.channel[0].quality);
        EXPECT(!good || sample.channel[0].raw == rows[r].value, "%s: %d", rows[r].name,
               sample.channel[0].raw);
    }
}

/* A line on which nobody speaks is waited for as long as its part says, neither shorter nor much
 * longer, whenever that begins. */
static void silence(void)
{
    static const uint16_t limits_ms[] = { 1, 2, 3, 150, 4095, 32767, 60000, 65535 };
    static const struct pintle_stream_calls calls = { .send = script_send,
                                                      .receive = script_receive };
    for (size_t i = 0; i < 16 * COUNT(limits_ms); i++) {
        struct bench bench;
        struct pintle_any sensor;
        uint16_t limit_ms = limits_ms[i / 16];
        struct script script = { "", 0, 0, 1, "" };
        struct pintle_stream line = { .calls = &calls,
                                      .common = { .context = &script, .clock = &bench.clock } };
        const struct pintle_frame frame = { .bit_hz = 9600, .limit_ms = limit_ms, .end = '\n' };
        struct pintle_part part = any_part;
        part.frame = &frame;
        bench_make(&bench, &pintle_tmp102, 0x48);                /* for its clock */
        pintle_sim_pass(&bench.sim, 134217728 - 4096 + 512 * i); /* about where the count wraps */
        CU_ASSERT_EQUAL(any_on_stream(&sensor, &part, &line), PINTLE_OK);
        uint64_t began = bench.sim.now_us;
        CU_ASSERT_EQUAL(pintle_sensor_read(&sensor.sensor), PINTLE_NO_ANSWER);
        double ms = (double)(bench.sim.now_us - began) / 1000;
        EXPECT(ms >= limit_ms && ms < 1.025 * limit_ms + 10, "%u ms: %g", limit_ms, ms);
    }
}

/* --- a simulated chip at the other end of a terminal --- */

struct behind {
    int master;
    struct bench bench;
};

static enum pintle_status pump(struct behind *b)
{
    uint8_t bytes[64];
    uint16_t got = 0;
    ssize_t count = read(b->master, bytes, sizeof bytes);
    if (count > 0) {
        CU_ASSERT_EQUAL(b->bench.stream.calls->send(b->bench.stream.common.context, bytes,
                                                    (uint16_t)count, UINT32_MAX),
                        PINTLE_OK);
    }
    pintle_sim_pass(&b->bench.sim, 2000);
    enum pintle_status status = b->bench.stream.calls->receive(b->bench.stream.common.context,
                                                               bytes, sizeof bytes, &got, 0);
    if (got > 0) {
        CU_ASSERT(write(b->master, bytes, got) == got);
    }
    return status;
}

static void over_a_terminal(void)
{
    struct behind b;
    struct pintle_linux_stream line;
    struct pintle_any sensor;
    struct pintle_sample sample;
    bench_make(&b.bench, &pintle_tof10120, 0);
    b.master = posix_openpt(O_RDWR | O_NOCTTY | O_NONBLOCK);
    CU_ASSERT_FATAL(b.master >= 0 && grantpt(b.master) == 0 && unlockpt(b.master) == 0);
    CU_ASSERT_EQUAL(pintle_linux_stream_open(&line, ptsname(b.master), 9600), PINTLE_OK);
    struct pintle_stream bus = pintle_linux_stream_bus(&line);
    bus.common.clock = &b.bench.clock;
    /* The chip's own time: a machine that stands still for a moment is no chip that is silent. */
    CU_ASSERT_EQUAL(any_on_stream(&sensor, &pintle_tof10120, &bus), PINTLE_OK);
    for (int k = 0; k < 20; k++) {
        enum pintle_status status = pintle_sensor_start(&sensor.sensor);
        while (status == PINTLE_OK || status == PINTLE_NOT_READY) {
            CU_ASSERT_EQUAL(pump(&b), PINTLE_OK);
            status = pintle_sample_collect(&sensor.sensor, &sample);
            if (status == PINTLE_OK) {
                break;
            }
            usleep(500);
        }
        EXPECT(status == PINTLE_OK && pintle_reading_good(&sample.channel[0])
                   && fabs((double)sample.channel[0].value - 0.8) < 0.09,
               "reading %d: %s, %s", k, pintle_status_word(status), line.words);
    }
    close(b.master); /* unplugged */
    enum pintle_status gone = pintle_sample_read(&sensor.sensor, &sample);
    EXPECT(gone == PINTLE_NO_DEVICE, "unplugged: %s, %s", pintle_status_word(gone), line.words);
    EXPECT(strstr(line.words, "pts") != NULL, "%s", line.words);
    pintle_linux_stream_close(&line);
    CU_ASSERT_EQUAL(pintle_linux_stream_open(&line, "/dev/null", 9600), PINTLE_NO_DEVICE);
    EXPECT(strstr(line.words, "is no serial line") != NULL, "%s", line.words);
    CU_ASSERT_EQUAL(pintle_linux_stream_open(&line, "/dev/tty", 12345), PINTLE_NO_DEVICE);
    pintle_linux_stream_close(&line);
}

/* A program with no terminal, as a service is, has none when a line is open, and lives on when it
 * is unplugged. */
static void as_a_service(void)
{
    int master = posix_openpt(O_RDWR | O_NOCTTY);
    CU_ASSERT_FATAL(master >= 0 && grantpt(master) == 0 && unlockpt(master) == 0);
    pid_t child = fork();
    if (child == 0) {
        struct pintle_linux_stream line;
        setsid();
        bool ok = pintle_linux_stream_open(&line, ptsname(master), 9600) == PINTLE_OK;
        int terminal = open("/dev/tty", O_RDWR);
        close(master);
        _exit(ok && terminal < 0 ? 0 : 1);
    }
    int status = 0;
    close(master);
    CU_ASSERT_EQUAL(waitpid(child, &status, 0), child);
    EXPECT(WIFEXITED(status) && WEXITSTATUS(status) == 0, "status %x", (unsigned)status);
}

void add_stream_suite(void)
{
    SUITE("stream", { "frames", frames }, { "silence", silence },
          { "over a terminal", over_a_terminal }, { "as a service", as_a_service });
}
