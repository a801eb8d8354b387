#include <locale.h>
#include <stdio.h>
#include <string.h>

#include "cli/cli.h"

static const struct command *const commands[] = {
    &command_demo,    &command_wiring,  &command_parts,       &command_convert,   &command_scan,
    &command_explain, &command_regs,    &command_read,        &command_calibrate, &command_log,
    &command_runs,    &command_summary, &command_plot,        &command_report,    &command_export,
    &command_note,    &command_live,    &command_thin,        &command_trace,     &command_clock,
    &command_store,   &command_lines,   &command_show,        &command_burst,     &command_derive,
    &command_power,   &command_limits,  &command_corrections, &command_compare
};

static void help(void)
{
    printf("pintle: sensors on a bus, from the wiring to the log.\n\n"
           "  pintle COMMAND [OPTIONS]\n\n");
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        printf("  %s%-11s%s %s\n", cli_bold(), commands[i]->name, cli_plain(),
               commands[i]->summary);
    }
    printf(
        "\nEvery command takes --rig FILE, or --demo for the built-in rig, and --help.\n"
        "Exit status: 0 done, 1 a fault was found or nothing was kept, 2 wrong use, 3 failed.\n\n"
        "Begin with:  pintle demo\n");
}

static int unknown(const char *name)
{
    const char *names[G_N_ELEMENTS(commands)];
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        names[i] = commands[i]->name;
    }
    const char *nearest = pintle_problem_nearest(name, names, G_N_ELEMENTS(names));
    return nearest
               ? cli_misuse("there is no command '%s'; did you mean 'pintle %s'?", name, nearest)
               : cli_misuse("there is no command '%s'; 'pintle --help' lists them", name);
}

/* What could not be printed is a failure too. */
static int finish(int status)
{
    struct pintle_problem problem = { 0 };
    return cli_printed(&problem) || status == PINTLE_FAILURE_UNABLE ? status : cli_fail(&problem);
}

int main(int argc, char **argv)
{
    setlocale(LC_CTYPE, "");
    if (argc < 2) {
        help();
        return PINTLE_FAILURE_USE;
    }
    if (strcmp(argv[1], "--help") == 0 || strcmp(argv[1], "-h") == 0
        || strcmp(argv[1], "help") == 0) {
        help();
        return finish(0);
    }
    if (strcmp(argv[1], "--version") == 0) {
        printf("pintle %s\n", PINTLE_VERSION);
        return finish(0);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        if (strcmp(commands[i]->name, argv[1]) == 0) {
            int status = commands[i]->run(argc - 1, argv + 1);
            cli_end();
            return finish(status);
        }
    }
    return unknown(argv[1]);
}
