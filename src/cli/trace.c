#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/host/trace.h"

struct trace_options {
    struct rig_options rig;
    char **raw;
    char *vcd;
    char *draw;
    int number;
};

static const struct command *const traceable[] = { &command_scan, &command_regs, &command_read,
                                                   &command_calibrate, &command_log };

static const struct command *find_command(const char *name)
{
    for (size_t i = 0; i < G_N_ELEMENTS(traceable); i++) {
        if (strcmp(traceable[i]->name, name) == 0) {
            return traceable[i];
        }
    }
    return NULL;
}

/* "w01" or "r2": a segment of a typed transfer, its bytes into `bytes`. */
static bool take_segment(const char *word, struct pintle_segment *segment, uint8_t *bytes,
                         struct pintle_problem *problem)
{
    char *end = NULL;
    if (word[0] == 'r') {
        guint64 count = g_ascii_strtoull(word + 1, &end, 10);
        *segment = (struct pintle_segment){ NULL, bytes, (uint16_t)count };
        if (end > word + 1 && *end == '\0' && count >= 1 && count <= 32) {
            return true;
        }
    }
    size_t digits = strspn(word + 1, "0123456789abcdefABCDEF");
    if (word[0] == 'w' && word[1 + digits] == '\0' && digits % 2 == 0 && digits <= 64) {
        for (size_t i = 0; i < digits / 2; i++) {
            bytes[i] = (uint8_t)(g_ascii_xdigit_value(word[1 + 2 * i]) * 16
                                 + g_ascii_xdigit_value(word[2 + 2 * i]));
        }
        *segment = (struct pintle_segment){ digits ? bytes : NULL, NULL, (uint16_t)(digits / 2) };
        return true;
    }
    return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                              "'%s' is no segment; write w and bytes in hexadecimal, or r and how "
                              "many (up to 32)",
                              word);
}

static int find_bus(const struct pintle_rig *rig, const char *name)
{
    for (unsigned i = 0; i < rig->buses; i++) {
        if (strcmp(rig->bus[i].name, name) == 0) {
            return (int)i;
        }
    }
    return -1;
}

/* "aft 0x48 w01 r2": bus, address, segments. */
static bool run_raw(struct pintle_station *station, const char *typed,
                    struct pintle_problem *problem)
{
    uint8_t bytes[8][32];
    struct pintle_segment segments[8];
    uint8_t count = 0;
    char **words = g_strsplit(typed, " ", -1);
    int bus = words[0] ? find_bus(station->rig, words[0]) : -1;
    guint64 address = bus >= 0 && words[1] ? g_ascii_strtoull(words[1], NULL, 0) : 0;
    bool ok = address >= 0x08 && address <= 0x77;
    if (!ok) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "'%s' is no transfer; write bus, address and segments, as in \"%s 0x48 "
                           "w01 r2\"",
                           typed, station->rig->bus[0].name);
    }
    for (unsigned i = 2; ok && words[i]; i++) {
        ok = count < 8 ? take_segment(words[i], &segments[count], bytes[count], problem)
                       : pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                            "a transfer has room for 8 segments");
        count++;
    }
    if (ok && count == 0) {
        segments[count++] = (struct pintle_segment){ NULL, NULL, 0 };
    }
    if (ok) {
        enum pintle_status status =
            pintle_i2c_transfer(&station->bus[bus], (uint8_t)address, segments, count);
        if (status != PINTLE_OK) {
            cli_say("%s: %s", typed, pintle_status_sentence(status));
        }
    }
    g_strfreev(words);
    return ok;
}

static bool run_all_raw(const struct trace_options *options, struct pintle_problem *problem)
{
    struct pintle_rig *rig = NULL;
    struct pintle_station *station = NULL;
    if (!cli_open(&options->rig, &rig, &station, problem)) {
        return false;
    }
    bool ok = true;
    for (unsigned i = 0; options->raw[i] && ok; i++) {
        ok = run_raw(station, options->raw[i], problem);
    }
    pintle_station_free(station);
    pintle_rig_free(rig);
    return ok;
}

/* Run the command with the same rig. */
static int run_command(const struct command *command, const struct trace_options *options, int argc,
                       char **argv)
{
    char **words = g_new0(char *, (gsize)argc + 6);
    int count = 0;
    words[count++] = argv[0];
    if (options->rig.demo) {
        words[count++] = (char *)(uintptr_t) "--demo";
    }
    if (options->rig.rig) {
        words[count++] = (char *)(uintptr_t) "--rig";
        words[count++] = options->rig.rig;
    }
    if (options->rig.at) {
        words[count++] = (char *)(uintptr_t) "--at";
        words[count++] = options->rig.at;
    }
    for (int i = 1; i < argc; i++) {
        words[count++] = argv[i];
    }
    int status = command->run(count, words);
    g_free(words);
    return status;
}

static bool deliver(const struct trace_options *options, const struct pintle_trace *trace,
                    struct pintle_problem *problem)
{
    struct pintle_rig *rig = cli_rig(&options->rig, problem);
    if (!rig) {
        return false;
    }
    char *text = pintle_trace_text(trace, rig);
    printf("%s", text);
    free(text);
    bool ok = !options->vcd || pintle_trace_vcd(trace, rig, options->vcd, problem);
    ok = ok
         && (!options->draw
             || pintle_trace_draw(trace, rig, (unsigned)options->number, options->draw, problem));
    pintle_rig_free(rig);
    return ok;
}

static int run(int argc, char **argv)
{
    struct trace_options options = { .number = 1 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options.rig),
        { "raw", 0, 0, G_OPTION_ARG_STRING_ARRAY, &options.raw,
          "do this transfer instead of a command (\"aft 0x48 w01 r2\"); again for more",
          "TRANSFER" },
        { "vcd", 0, 0, G_OPTION_ARG_FILENAME, &options.vcd, "write the waveforms here", "FILE" },
        { "draw", 0, 0, G_OPTION_ARG_FILENAME, &options.draw, "draw one transfer here, PNG or SVG",
          "FILE" },
        { "transfer", 0, 0, G_OPTION_ARG_INT, &options.number, "which one to draw (1)", "N" },
        { 0 }
    };
    if (!cli_options(&command_trace, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    int first = argc > 1 && strcmp(argv[1], "--") == 0 ? 2 : 1;
    const struct command *command = argc > first ? find_command(argv[first]) : NULL;
    if (!command == !options.raw) {
        g_strfreev(options.raw);
        return cli_misuse("trace: name one command that talks to sensors (scan, regs, read, "
                          "calibrate or log) behind --, or transfers with --raw");
    }
    struct pintle_trace trace = { 0 };
    struct pintle_problem problem = { 0 };
    int status = 0;
    cli_trace(&trace);
    bool ok = true;
    if (command) {
        status = run_command(command, &options, argc - first, argv + first);
    } else {
        ok = run_all_raw(&options, &problem);
    }
    cli_trace(NULL);
    ok = ok && status <= PINTLE_FAILURE_RIG ? deliver(&options, &trace, &problem) : ok;
    pintle_trace_free(&trace);
    g_strfreev(options.raw);
    return ok ? status : cli_fail(&problem);
}

const struct command command_trace = {
    .name = "trace",
    .usage = "-- COMMAND [ARGUMENTS]",
    .summary = "the conversation on the buses, with register names and as waveforms",
    .more =
        "The command is run with the rig simulated down to its lines; then every transfer is\n"
        "told as its edges say. Each byte is followed by + (acknowledged) or - (not).\n\n"
        "Example:\n  pintle trace --demo -- read sea\n"
        "  pintle trace --demo --raw \"aft 0x48 w01 r2\" --vcd /tmp/sea.vcd --draw /tmp/sea.png",
    .run = run,
};
