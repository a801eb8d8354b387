#include <errno.h>
#include <glib/gstdio.h>
#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/host/draw/draw.h"

/* A stop of the tour: what is said, then the command that is run. */
struct stop {
    const char *said;
    const struct command *command;
    const char *words[12];
    int expected; /* the status that shows what was to be shown */
};

static const struct stop stops[] = {
    { "A sloop lies on her mooring. Which parts can be wired to her?", &command_parts, { 0 }, 0 },
    { "Would these go together on one bus, and with which straps?",
      &command_parts,
      { "--fit", "BME280", "BME280", "TMP102", "SHT31", "DS3231" },
      0 },
    { "Which wire goes where, and may she be switched on?",
      &command_wiring,
      { "--demo", "--draw", "card.png" },
      0 },
    { "Is everything there that her rig file expects?", &command_scan, { "--demo" }, 0 },
    { "If the panel sent nothing but ones, what would that mean?",
      &command_explain,
      { "all-ones" },
      0 },
    { "The sea sensor's configuration, as the datasheet names it.",
      &command_regs,
      { "--demo", "sea", "CONFIGURATION" },
      0 },
    { "Four conversions a second are many. Once a second, its neighbours untouched:",
      &command_regs,
      { "--demo", "sea", "CONFIGURATION.CR=1Hz" },
      0 },
    { "What went over the wires for that? And who answers on the panel and along the hull?",
      &command_trace,
      { "--demo", "--do", "aft 0x48: read CONFIGURATION", "--do", "panel S1: read WHO_AM_I", "--do",
        "hull 284c1e720700001d: send be, fetch 9" },
      0 },
    { "Raw bytes to a value, with no hardware and every step shown.",
      &command_convert,
      { "TMP102", "fe70", "--working" },
      0 },
    { "One reading of everything.", &command_read, { "--demo" }, 0 },
    { "How long would a battery of 7 Ah last, with a reading every ten minutes?",
      &command_power,
      { "--demo", "--every", "10min", "--battery", "7000" },
      0 },
    { "Her heading is worked out of six channels. How, and when is it right?",
      &command_derive,
      { "heading" },
      0 },
    { "Every sample of her motion, each with its time.",
      &command_burst,
      { "--demo", "motion", "--for", "50ms" },
      0 },
    { "The engine is started at nine. Its thermometer watches a limit by itself.",
      &command_limits,
      { "--demo", "engine", "--high", "50", "--for", "20min", "--at", "9h" },
      0 },
    { "The logbook's memory is new.", &command_store, { "--demo", "--count", "16" }, 0 },
    { "The clock, beside the board's.", &command_clock, { "--demo" }, 0 },
    { "Three thermometers in one cabin. Do they agree?",
      &command_compare,
      { "--demo", "cabin.temperature", "baro.temperature", "motion.temperature" },
      0 },
    { "The barometer's thermometer reads warm. Three readings beside a good thermometer:",
      &command_calibrate,
      { "--demo", "baro.temperature", "13.5=12.9", "18.7=18.0", "22.0=21.4", "--yes" },
      0 },
    { "Kept, and gone back to at any time.", &command_corrections, { "--demo" }, 0 },
    { "Read again: corrected, and how exact it is.",
      &command_read,
      { "--demo", "baro", "--uncertainty" },
      0 },
    { "Log a day, a record a minute. In the afternoon a plug works loose.",
      &command_log,
      { "--demo", "--for", "1d", "--quiet", "--title", "A day at the mooring" },
      0 },
    { "Somebody remembers something.",
      &command_note,
      { "--demo", "--at", "2026-06-12 09:00", "engine started to charge the battery" },
      0 },
    { "What did the day come to, and what happened when?",
      &command_summary,
      { "--demo", "last", "--channels", "cabin,sea,baro.pressure,boat" },
      0 },
    { "For a spreadsheet, an average every six hours.",
      &command_export,
      { "--demo", "last", "--mean", "6h", "--channels", "cabin,sea" },
      0 },
    { "What does a scan say at that hour?",
      &command_scan,
      { "--demo", "--at", "16h" },
      PINTLE_FAILURE_RIG },
};

static int run_stop(const struct stop *stop)
{
    char *argv[14] = { (char *)(uintptr_t)stop->command->name };
    int argc = 1;
    printf("\n%s%s%s\n%s$ pintle %s", cli_bold(), stop->said, cli_plain(), cli_dim(),
           stop->command->name);
    while (stop->words[argc - 1]) {
        argv[argc] = (char *)(uintptr_t)stop->words[argc - 1];
        bool blank = strchr(argv[argc], ' ') != NULL;
        printf(blank ? " \"%s\"" : " %s", argv[argc]);
        argc++;
    }
    printf("%s\n", cli_plain());
    fflush(stdout);
    int status = stop->command->run(argc, argv);
    fflush(stdout);
    return status == stop->expected ? 0 : PINTLE_FAILURE_UNABLE;
}

static int plot_newest(void)
{
    static const struct stop picture = { "The day as a picture, the gap where the plug was out.",
                                         &command_plot,
                                         { "--demo", "last", "--channels",
                                           "cabin,sea,pressure,battery,deck,boat.heel" },
                                         0 };
    static const struct stop report = { "And all of it as one file, to be printed or sent.",
                                        &command_report,
                                        { "--demo", "last" },
                                        0 };
    if (!pintle_draw_can()) {
        cli_say("this build has no plotting, so the day is not drawn");
    }
    int status = pintle_draw_can() ? run_stop(&picture) : 0;
    return status ? status : run_stop(&report);
}

static int run(int argc, char **argv)
{
    char *into = NULL;
    const GOptionEntry entries[] = { { "into", 0, 0, G_OPTION_ARG_FILENAME, &into,
                                       "folder for the run and the calibration (pintle-demo)",
                                       "DIR" },
                                     { 0 } };
    if (!cli_options(&command_demo, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    const char *folder = into ? into : "pintle-demo";
    if (argc > 1) {
        return cli_misuse("demo: it takes no names");
    }
    if (g_mkdir_with_parents(folder, 0755) != 0 || g_chdir(folder) != 0) {
        struct pintle_problem problem = { 0 };
        pintle_problem_set(&problem, PINTLE_FAILURE_UNABLE,
                           "cannot use the folder %s: %s; name another one with --into", folder,
                           g_strerror(errno));
        return cli_fail(&problem);
    }
    g_unlink("sloop.calibration.json"); /* the tour begins uncalibrated */
    int status = 0;
    for (size_t i = 0; i < G_N_ELEMENTS(stops) && status == 0; i++) {
        status = run_stop(&stops[i]);
    }
    status = status ? status : plot_newest();
    printf("\n%sAll of it is in %s.%s\n", cli_bold(), folder, cli_plain());
    return status;
}

const struct command command_demo = {
    .name = "demo",
    .summary = "a guided tour of the commands, on the built-in rig",
    .more =
        "Everything is simulated and takes seconds. It leaves a run, its plots and a calibration\n"
        "in a folder.\n\n"
        "Example:\n  pintle demo --into /tmp/tour",
    .run = run,
};
