#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/host/draw/draw.h"
#include "pintle/host/trace/trace.h"

struct trace_options {
    struct rig_options rig;
    char **typed;
    char *vcd;
    char *draw;
    int number;
};

static const struct command *const traceable[] = {
    &command_scan, &command_regs,  &command_read,  &command_calibrate,
    &command_log,  &command_lines, &command_store, &command_clock,
    &command_show, &command_burst, &command_limits
};

static const struct command *find_command(const char *name)
{
    for (size_t i = 0; i < G_N_ELEMENTS(traceable); i++) {
        if (strcmp(traceable[i]->name, name) == 0) {
            return traceable[i];
        }
    }
    return NULL;
}

static bool run_typed(const struct trace_options *options, struct pintle_problem *problem)
{
    struct pintle_rig *rig = NULL;
    struct pintle_station *station = NULL;
    if (!cli_open(&options->rig, &rig, &station, problem)) {
        return false;
    }
    bool ok = true;
    for (unsigned i = 0; options->typed[i] && ok; i++) {
        enum pintle_status status = PINTLE_OK;
        ok = pintle_trace_typed(station, options->typed[i], &status, problem);
        if (status != PINTLE_OK) {
            cli_say("%s: %s", options->typed[i], pintle_status_sentence(status));
        }
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
    pintle_host_free(text);
    bool ok = !options->vcd || pintle_trace_vcd(trace, rig, options->vcd, problem);
    ok = ok
         && (!options->draw
             || pintle_draw_timing(trace, rig, (unsigned)options->number, options->draw, problem));
    pintle_rig_free(rig);
    return ok;
}

static int run(int argc, char **argv)
{
    struct trace_options options = { .number = 1, .rig.may_be_empty = true };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options.rig),
        AT_OPTION(options.rig.at),
        { "do", 0, 0, G_OPTION_ARG_STRING_ARRAY, &options.typed,
          "do this instead of a command (\"aft 0x48: read TEMPERATURE 2\"); again for more",
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
    const struct command *command = argc > 1 ? find_command(argv[1]) : NULL;
    if (!command == !options.typed) {
        return cli_misuse(
            "trace: name one command that talks to sensors (scan, regs, read, "
            "calibrate, log, lines, store, clock or show) behind --, or transfers with --do");
    }
    struct pintle_trace trace = { 0 };
    struct pintle_problem problem = { 0 };
    int status = 0;
    cli_trace(&trace);
    bool ok = true;
    if (command) {
        status = run_command(command, &options, argc - 1, argv + 1);
    } else {
        ok = run_typed(&options, &problem);
    }
    cli_trace(NULL);
    ok = ok && status <= PINTLE_FAILURE_RIG ? deliver(&options, &trace, &problem) : ok;
    pintle_trace_free(&trace);
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
        "  pintle trace --demo --do \"aft 0x48: read TEMPERATURE 2\" --vcd sea.vcd --draw "
        "sea.png\n\n"
        "A typed transfer is a bus, a place (I2C: a 7-bit address, SPI: a select pin, 1-Wire: a\n"
        "code or nothing), a colon and steps with commas between. Where the rig has a sensor:\n"
        "read REGISTER [COUNT], write REGISTER VALUE, command CODE. Anywhere: send BYTES and\n"
        "fetch COUNT, which next to each other are one transfer; an I2C address alone asks "
        "whether\n"
        "somebody is there.",
    .run = run,
};
