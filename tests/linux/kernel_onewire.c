/* 1-Wire through the kernel's own core: its line is a module of ours (tests/linux/probes) with
 * probes written from the datasheet; its driver of thermometers reads the same ones. */
#include <string.h>

#include "kernel_test.h"

#define LINE "/sys/module/probes/parameters/line"
#define HULL_SEA "00000a1b2c3d"
#define HULL_ENGINE "00000a1b2c3e"
#define SEA_CODE "283d2c1b0a0000a6"
#define ENGINE_CODE "283e2c1b0a0000ff"
#define SEA_FILE "/sys/bus/w1/devices/28-" HULL_SEA "/w1_slave"

static void set_line(const char *text)
{
    struct answer answer = board_run(&board, 20, "echo '%s' > " LINE, text);
    EXPECT(answer.status == 0, "%s: %s", text, answer.text);
    answer_free(&answer);
}

/* Each answer, byte for byte, as it was captured for the test of our side of it. */
void onewire_as_captured(void)
{
    char *text = NULL;
    board_expect(&board,
                 "insmod /lib/probes.ko && echo '" HULL_SEA ":345 " HULL_ENGINE ":-162' > " LINE
                 "; until cat /sys/bus/w1/devices/28-" HULL_SEA
                 "/w1_slave /sys/bus/w1/devices/28-" HULL_ENGINE
                 "/w1_slave 2>/dev/null; do sleep 1; done",
                 0, "t=21562|t=-10125");
    EXPECT(g_file_get_contents("tests/linux/w1_answers.txt", &text, NULL, NULL), "w1_answers.txt");
    char **requests = g_strsplit(text ? text : "", "> ", -1);
    unsigned count = g_strv_length(requests);
    EXPECT(count == 11, "%u requests", count - 1);
    for (unsigned i = 1; i < count; i++) {
        char **lines = g_strsplit(g_strchomp(requests[i]), "\n", -1);
        if (i + 3 == count) { /* the file's head says so */
            set_line("");
        }
        struct answer answer = board_run(&board, 30, "w1_raw %u %s %u", i == 7 ? 9 : 2,
                                         lines[0] + 64, g_strv_length(lines) - 1);
        EXPECT(strstr(g_strchomp(answer.text), requests[i]) != NULL, "captured %s\nnow %s",
               requests[i], answer.text);
        answer_free(&answer);
        g_strfreev(lines);
    }
    printf("    %u requests answered as captured\n", count - 1);
    g_strfreev(requests);
    g_free(text);
}

#define HULL                                                                                       \
    LINUX "bus hull { kind = \"onewire\" device = \"w1_bus_master2\" }\n"                          \
          "sensor sea { part = \"DS18B20\" bus = \"hull\" code = \"" SEA_CODE "\" }\n"
#define BOTH HULL "sensor engine { part = \"DS18B20\" bus = \"hull\" code = \"" ENGINE_CODE "\" }\n"

/* What is set outside is read by the kernel's driver, and by the tool to the last digit. */
void probes_are_read(void)
{
    static const int set[] = { 345, 0, 1, -1, -162, 1359, 1360, 1361, -871, 1999 };
    set_line(HULL_SEA ":345 " HULL_ENGINE ":-162");
    board_expect(&board, "pintle scan --draft /tmp/hull-draft.rig", 0,
                 "bus onewire-2|" SEA_CODE " DS18B20   -          found|" ENGINE_CODE
                 " DS18B20   -          found|!unsteady");
    board_expect(&board, "pintle scan --rig /tmp/hull-draft.rig | grep onewire-2 -A 3", 0,
                 ENGINE_CODE " DS18B20   ds18b20    proven|" SEA_CODE
                             " DS18B20   ds18b20-2  proven");
    board_expect(&board, "pintle read --rig /tmp/hull-draft.rig ds18b20 ds18b20-2", 0,
                 "21.5625 degC|-10.1250 degC|!bus");
    board_write(&board, "/tmp/hull.rig", HULL);
    board_write(&board, "/tmp/both.rig", BOTH);
    for (size_t i = 0; i < G_N_ELEMENTS(set); i++) {
        char *line = g_strdup_printf(HULL_SEA ":%d " HULL_ENGINE ":-162", set[i]);
        set_line(line);
        struct answer answer = board_run(
            &board, 20, "pintle read --rig /tmp/hull.rig --format csv; tail -n 1 " SEA_FILE);
        double is = number_after(answer.text, "sea,temperature,");
        double kernels = number_after(answer.text, "t=") / 1000;
        printf("    set outside %9.4f degC, read %9.4f degC, by the kernel's driver %9.4f degC\n",
               set[i] / 16.0, is, kernels);
        EXPECT(is == set[i] / 16.0 && strstr(answer.text, "good") && kernels - is < 0.001
                   && is - kernels < 0.001,
               "%d: %s", set[i], answer.text);
        answer_free(&answer);
        g_free(line);
    }
}

/* Unplugged and plugged in again while a log runs: it has had no supply in between. */
void a_probe_goes_and_comes(void)
{
    set_line(HULL_SEA ":345 " HULL_ENGINE ":-162");
    board_expect(&board, "date -s '2026-06-12 08:00:00' >/dev/null", 0, "");
    board_expect(&board,
                 "pintle log --rig /tmp/both.rig --every 2s --for 20s --into /tmp/hull --quiet & "
                 "sleep 5; echo '" HULL_ENGINE ":-162' > " LINE "; sleep 7; echo '" HULL_SEA
                 ":345 " HULL_ENGINE ":-162' > " LINE
                 "; wait; cut -d, -f3- /tmp/hull/0001/readings.csv | sort | uniq -c",
                 0,
                 "sensor 'sea' fails: |sensor 'sea' is back|21.5625,-10.1250,good|"
                 ",-10.1250,sea.temperature=bus|!85.0000,-10.1250,good");
}

/* None of these is a good reading of 85 degC, or of 0. */
void probes_that_fail(void)
{
    static const struct {
        const char *line, *scan, *read;
    } rows[] = {
        { HULL_SEA ":345:crc", "28", "bus|!good|!21.56" },
        { HULL_SEA ":345:zeros", "28", "bus|!good|!0.0000" },
        { HULL_SEA ":345:code", "a code came that does not hold together", "bus|!good" },
        { HULL_SEA ":345:idle", SEA_CODE, "nothing answered|does not convert|!good|!85" },
        { HULL_ENGINE ":345", "this code is not on the line", "bus|!good" },
        { "", "no probe shows its presence", "bus|!good" },
    };
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        printf("    on the line: %s\n", rows[i].line);
        set_line("");
        set_line(rows[i].line);
        for (int turn = 0; turn < 2; turn++) { /* the second one knows it already */
            board_expect(&board, "pintle read --rig /tmp/hull.rig", 1, rows[i].read);
        }
        struct answer answer = board_run(&board, 20, "pintle scan --rig /tmp/hull.rig");
        EXPECT(strstr(answer.text, rows[i].scan) != NULL, "%s: %s", rows[i].line, answer.text);
        printf("%s", answer.text);
        answer_free(&answer);
    }
    set_line(HULL_SEA ":345");
    board_expect(&board, "pintle read --rig /tmp/hull.rig", 0, "21.5625 degC|!bus");
}

/* Strong power is given by the kernel's driver, which asks a probe for its kind of supply when it
 * takes it: so this is one that it has not seen before. */
#define HULL_LOG "00000a1b2c3f"
#define LOG_FILE "/sys/bus/w1/devices/28-" HULL_LOG "/w1_slave"
#define ON_THE_LINE(options)                                                                       \
    LINUX "bus hull { kind = \"onewire\" device = \"w1_bus_master2\" }\n"                          \
          "sensor log { part = \"DS18B20\" bus = \"hull\" code = \"283f2c1b0a0000c8\" " options    \
          "}\n"
void probe_on_the_line(void)
{
    board_write(&board, "/tmp/parasite.rig", ON_THE_LINE("set = { \"power=parasite\" } "));
    board_write(&board, "/tmp/wired.rig", ON_THE_LINE(""));
    set_line(HULL_LOG ":-1:parasite " HULL_ENGINE ":-162");
    board_expect(&board, /* the kernel searches from time to time */
                 "i=0; until [ -e " LOG_FILE " ] || [ $i = 100 ]; do sleep 1; i=$((i+1)); done; "
                 "pintle read --rig /tmp/parasite.rig",
                 0, "-0.0625 degC");
    set_line(HULL_LOG ":1360:parasite " HULL_ENGINE ":-162"); /* or what it shows without power */
    board_expect(&board, "pintle read --rig /tmp/parasite.rig", 0, "85.0000 degC|power-on|!good");
    board_expect(&board, "pintle scan --rig /tmp/wired.rig", 1, "says that the line powers it");
    board_expect(&board, "pintle read --rig /tmp/wired.rig", 1, "bus|!good");
}

/* It is slow, and not unsteady; a kernel that is too slow is said to be so, and asked again. */
void a_slow_line(void)
{
    set_line(HULL_SEA ":345 " HULL_ENGINE ":-162");
    board_expect(&board,
                 "echo 1000 > /sys/module/probes/parameters/slot_us; for i in 1 2 3 4 5; do "
                 "pintle scan --rig /tmp/both.rig && break; done", /* where it is kept, it says to
                                                                      try again */
                 0, "sea        proven|engine     proven|!unsteady");
    board_expect(&board,
                 "pintle log --rig /tmp/both.rig --every 3s --for 60s --into /tmp/slow --quiet & "
                 "echo 200000 > /sys/module/probes/parameters/slot_us; sleep 15; "
                 "echo 0 > /sys/module/probes/parameters/slot_us; wait",
                 0, "did not answer on 'w1_bus_master2' in time|sensor 'sea' is back");
    board_expect(&board, "tail -n 1 /tmp/slow/0001/readings.csv", 0, "21.5625,-10.1250,good");
}
