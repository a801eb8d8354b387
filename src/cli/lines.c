#include <stdio.h>
#include <string.h>

#include "cli/lines.h"
#include "pintle/ability.h"

static bool able(const struct pintle_part *part)
{
    return part->can && part->can->lines;
}

/* "p3=1": drive it; "p3": look at it only. */
static bool take_words(const struct one *one, int argc, char **argv, uint16_t *lines,
                       uint16_t *levels, struct pintle_problem *problem)
{
    for (int i = 0; i < argc; i++) {
        char **sides = g_strsplit(argv[i], "=", 2);
        int line = pintle_sheet_channel(one->from->sheet, sides[0]);
        bool level = g_strcmp0(sides[1], "1") == 0;
        bool ok = line >= 0 && (level || g_strcmp0(sides[1], "0") == 0);
        g_strfreev(sides);
        if (!ok) {
            return pintle_problem_set(
                problem, PINTLE_FAILURE_USE,
                "'%s' sets no line; write LINE=0 or LINE=1, with a line of %s "
                "to %s",
                argv[i], one->from->sheet->part->channels[0].name,
                one->from->sheet->part->channels[one->from->sheet->part->channel_count - 1].name);
        }
        *lines |= (uint16_t)(1u << line);
        *levels = (uint16_t)((*levels & ~(1u << line)) | (unsigned)level << line);
    }
    return true;
}

static void print(const struct one *one, const struct pintle_outputs *outputs, uint16_t levels)
{
    const struct pintle_part *part = one->from->sheet->part;
    printf("%s%-12s %-10s %s%s\n", cli_bold(), "line", "is", "driven", cli_plain());
    for (unsigned i = 0; i < part->channel_count; i++) {
        unsigned is = levels >> i & 1;
        unsigned driven = outputs->driven >> i & 1;
        bool obeys = !driven || is == (outputs->levels >> i & 1u);
        printf("%-12s %-10s %s%s%s\n", part->channels[i].name, is ? "high" : "low",
               obeys ? "" : cli_bad(),
               !driven ? "no"
               : obeys ? "yes"
                       : "yes, and does not obey",
               cli_plain());
    }
}

static bool act(const struct one *one, int argc, char **argv, struct pintle_problem *problem)
{
    struct pintle_outputs outputs;
    uint16_t lines = 0;
    uint16_t levels = 0;
    if (!take_words(one, argc, argv, &lines, &levels, problem)) {
        return false;
    }
    enum pintle_status status = pintle_outputs_init(&outputs, one->sensor);
    if (status == PINTLE_OK) {
        status =
            lines ? pintle_outputs_set(&outputs, lines, levels) : pintle_sensor_prove(one->sensor);
    }
    if (status != PINTLE_OK) {
        return cli_one_failed(one, "driving", status, problem);
    }
    status = pintle_outputs_read(&outputs, &levels);
    if (status != PINTLE_OK && status != PINTLE_MISFIT) {
        return cli_one_failed(one, "reading", status, problem);
    }
    print(one, &outputs, levels);
    return status == PINTLE_OK
           || pintle_problem_set(
               problem, PINTLE_FAILURE_RIG,
               "a line of '%s' is not as it is driven: shorted, or overloaded; take "
               "off what hangs on it and try again",
               one->from->name);
}

static int run_board(struct lines_options *o, int argc, char **argv)
{
    struct pintle_problem problem = { 0 };
    if (argc > 1) {
        return cli_misuse("lines: '%s' belongs to a chip; name the board's own lines with --board "
                          "each",
                          argv[1]);
    }
    return cli_duration("for", o->length, INT64_MAX, &o->for_us, &problem)
                   && lines_of_the_board(o, &problem)
               ? 0
               : cli_fail(&problem);
}

static int run(int argc, char **argv)
{
    struct rig_options options = { 0 };
    struct lines_options lines = { 0 };
    const GOptionEntry entries[] = {
        RIG_OPTIONS(options),
        AT_OPTION(options.at),
        { "board", 'b', 0, G_OPTION_ARG_STRING_ARRAY, &lines.board,
          "a line of the board itself, and perhaps what to drive it to", "NAME[=0|1]" },
        { "wait", 'w', 0, G_OPTION_ARG_NONE, &lines.wait, "wait until the board's line changes",
          NULL },
        { "for", 0, 0, G_OPTION_ARG_STRING, &lines.length,
          "drive the board's lines, or wait, for this long (until Ctrl-C)", "DURATION" },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    struct one one;
    if (!cli_options(&command_lines, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (lines.board) {
        return run_board(&lines, argc, argv);
    }
    if (lines.wait || lines.length) {
        return cli_misuse("lines: --wait and --for are for the board's own lines; name one with "
                          "--board");
    }
    int named = argc > 1 && !strchr(argv[1], '=');
    if (!cli_open_one(&options, named ? argv[1] : NULL, "line to drive", able, &one, &problem)) {
        return cli_fail(&problem);
    }
    bool ok = act(&one, argc - 1 - named, argv + 1 + named, &problem);
    cli_close_one(&one);
    return ok ? 0 : cli_fail(&problem);
}

const struct command command_lines = {
    .name = "lines",
    .usage = "[SENSOR] [LINE=0|1...]",
    .summary = "read and drive the lines of a chip, or of the board itself",
    .more = "What is set here is all that is driven afterwards: lines that are not named become\n"
            "inputs. Without any, nothing is written.\n\n"
            "A line of the board is named by its name, or by its chip and number. It is driven\n"
            "while this runs, and an input again afterwards.\n\n"
            "Example:\n  pintle lines --rig boat.rig panel\n"
            "  pintle lines --rig boat.rig panel p0=0 p1=1\n"
            "  pintle lines --board /dev/gpiochip0:17\n"
            "  pintle lines --board /dev/gpiochip0:17=1 --for 5s\n"
            "  pintle lines --board /dev/gpiochip0:27 --wait --for 1min",
    .run = run,
};
