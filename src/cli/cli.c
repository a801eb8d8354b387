#include "cli/cli.h"

#include <errno.h>
#include <math.h>
#include <stdarg.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "pintle/host/check/hint.h"
#include "pintle/host/keep/calibration.h"

void cli_say(const char *format, ...)
{
    va_list args;
    va_start(args, format);
    cli_progress_clear();
    fflush(stdout);
    vfprintf(stderr, format, args);
    fputc('\n', stderr);
    va_end(args);
}

bool cli_printed(struct pintle_problem *problem)
{
    if (fflush(stdout) == 0 && !ferror(stdout)) {
        return true;
    }
    return pintle_problem_set(
        problem, PINTLE_FAILURE_UNABLE,
        "cannot write to standard output: %s; where it goes is full, closed or "
        "gone",
        g_strerror(errno));
}

int cli_fail(const struct pintle_problem *problem)
{
    cli_say("pintle: %s%s", problem->text, g_str_has_suffix(problem->text, "?") ? "" : ".");
    return (int)problem->failure;
}

int cli_misuse(const char *format, ...)
{
    struct pintle_problem problem = { .failure = PINTLE_FAILURE_USE };
    va_list args;
    va_start(args, format);
    g_vsnprintf(problem.text, sizeof problem.text, format, args);
    va_end(args);
    return cli_fail(&problem);
}

/* What options were given as strings, until the program ends. */
static GPtrArray *kept;

static void keep_strings(const GOptionEntry *entries)
{
    if (!kept) {
        kept = g_ptr_array_new_with_free_func(g_free);
    }
    for (; entries->long_name; entries++) {
        if (entries->arg == G_OPTION_ARG_STRING || entries->arg == G_OPTION_ARG_FILENAME) {
            g_ptr_array_add(kept, *(char **)entries->arg_data);
        } else if (entries->arg == G_OPTION_ARG_STRING_ARRAY) {
            char **list = *(char ***)entries->arg_data;
            for (unsigned i = 0; list && list[i]; i++) {
                g_ptr_array_add(kept, list[i]);
            }
            g_ptr_array_add(kept, list);
        }
    }
}

void cli_end(void)
{
    if (kept) {
        g_ptr_array_free(kept, TRUE);
        kept = NULL;
    }
}

/* A duration is checked here, whatever the command makes of it. */
static bool durations_make_sense(const GOptionEntry *entries)
{
    for (const GOptionEntry *entry = entries; entry->long_name; entry++) {
        struct pintle_problem problem = { 0 };
        int64_t us = 0;
        bool duration = g_strcmp0(entry->arg_description, "DURATION") == 0;
        const char *text = duration ? *(char **)entry->arg_data : NULL;
        if (text && !pintle_duration_parse(text, &us)) {
            pintle_problem_set(&problem, PINTLE_FAILURE_USE,
                               "--%s takes a duration such as \"1d 6h\", not '%s'",
                               entry->long_name, text);
            cli_fail(&problem);
            return false;
        }
    }
    return true;
}

bool cli_options(const struct command *command, const GOptionEntry *entries, int *argc,
                 char ***argv)
{
    GError *error = NULL;
    GOptionContext *context = g_option_context_new(command->usage);
    char *name = g_strdup_printf("pintle %s", command->name);
    g_set_prgname(name);
    g_option_context_set_summary(context, command->summary);
    g_option_context_set_description(context, command->more);
    g_option_context_add_main_entries(context, entries, NULL);
    bool ok = g_option_context_parse(context, argc, argv, &error);
    if (!ok) {
        bool letters = error->domain == G_CONVERT_ERROR;
        cli_misuse("%s: %s; %s 'pintle %s --help'", command->name,
                   letters ? "an option has letters that this shell's character set lacks"
                           : error->message,
                   letters ? "set LC_ALL=C.UTF-8, or see" : "see", command->name);
        g_error_free(error);
    }
    ok = ok && durations_make_sense(entries);
    if (ok && *argc > 1 && strcmp((*argv)[1], "--") == 0) { /* it stays before words with a dash */
        (*argv)[1] = (*argv)[0];
        ++*argv;
        --*argc;
    }
    keep_strings(entries);
    g_option_context_free(context);
    g_free(name);
    return ok;
}

bool cli_format(const char *name, enum format *format, struct pintle_problem *problem)
{
    static const char *const names[] = { "text", "csv", "senml" };
    *format = FORMAT_TEXT;
    for (unsigned i = 0; name && i < G_N_ELEMENTS(names); i++) {
        if (strcmp(names[i], name) == 0) {
            *format = (enum format)i;
            return true;
        }
    }
    return !name
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "there is no format '%s'; there are text, csv and senml", name);
}

bool cli_duration(const char *option, const char *text, int64_t usual, int64_t *us,
                  struct pintle_problem *problem)
{
    *us = usual;
    return !text || (pintle_duration_parse(text, us) && *us > 0)
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "--%s takes a duration such as \"10 min\", not '%s'", option,
                                 text);
}

bool cli_units_fit(char *const *units, enum format format, enum format last,
                   struct pintle_problem *problem)
{
    return !units || format <= last
           || pintle_problem_set(
               problem, PINTLE_FAILURE_USE,
               "this format has base units always; leave --unit or --format away");
}

static void remark(const char *sentence)
{
    cli_say("pintle: %s.", sentence);
}

struct pintle_rig *cli_rig(const struct rig_options *options, struct pintle_problem *problem)
{
    if (!options->rig && !options->demo && options->may_offer) {
        char *text = pintle_platform_offers(problem);
        struct pintle_rig *offered =
            text ? pintle_rig_parse("(this machine)", text, problem) : NULL;
        pintle_host_free(text);
        return offered;
    }
    if (!options->rig == !options->demo) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           options->rig ? "--rig and --demo exclude each other; give one"
                                        : "which rig? Name its file with --rig FILE, or take the "
                                          "built-in one with --demo");
        return NULL;
    }
    struct pintle_rig *rig =
        options->demo ? pintle_rig_demo(problem) : pintle_rig_load(options->rig, problem);
    bool ok = rig && pintle_calibration_load(rig, remark, problem);
    for (unsigned i = 0; ok && options->units && options->units[i]; i++) {
        ok = pintle_rig_show_in(rig, options->units[i], problem);
    }
    if (!ok) {
        pintle_rig_free(rig);
        return NULL;
    }
    return rig;
}

static struct pintle_trace *tracing;

void cli_trace(struct pintle_trace *trace)
{
    tracing = trace;
}

/* What the command asks for and the rig's port cannot do. */
static bool port_can(const struct rig_options *options, const struct pintle_rig *rig,
                     struct pintle_problem *problem)
{
    struct pintle_problem unknown = { 0 };
    const struct pintle_platform *platform = pintle_platform_find(rig->port, &unknown);
    if (platform && options->at && !platform->pass) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--at begins at another moment, and on port '%s' time is real; "
                                  "leave it away, or take a rig of the simulation",
                                  platform->name);
    }
    if (platform && tracing && !platform->listen) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "trace watches the lines, which port '%s' cannot; take a rig of the simulation, or a "
            "logic analyser",
            platform->name);
    }
    return true;
}

bool cli_open(const struct rig_options *options, struct pintle_rig **rig,
              struct pintle_station **station, struct pintle_problem *problem)
{
    int64_t at = 0;
    if (options->at && !pintle_duration_parse(options->at, &at)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--at takes a duration such as \"1d 6h\", not '%s'", options->at);
    }
    *rig = cli_rig(options, problem);
    if (!*rig) {
        return false;
    }
    (*rig)->wires |= tracing != NULL;
    bool usable = (*rig)->sensors > 0 || options->may_be_empty
                  || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                        "the rig has no sensor yet; 'pintle scan' shows who "
                                        "answers on its buses, then add a sensor section for each");
    usable = usable && port_can(options, *rig, problem);
    *station = usable ? pintle_station_open(*rig, at, problem) : NULL;
    if (!*station) {
        pintle_rig_free(*rig);
        *rig = NULL;
        return false;
    }
    if ((*station)->remark) {
        remark((*station)->remark);
    }
    if (tracing) {
        pintle_trace_attach(tracing, *station);
    }
    return true;
}

/* The only sensor of a rig that is able, or a negative number and who they are. */
static int the_only(const struct pintle_rig *rig, const char *what, cli_able *able,
                    struct pintle_problem *problem)
{
    GString *names = g_string_new(NULL);
    unsigned count = 0;
    int found = -1;
    for (unsigned i = 0; i < rig->sensors; i++) {
        if (!rig->sensor[i].made && able(rig->sensor[i].sheet->part)) {
            g_string_append_printf(names, "%s%s", count++ ? ", " : "", rig->sensor[i].name);
            found = (int)i;
        }
    }
    if (count > 1) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "which sensor? A %s is in %s", what,
                           names->str);
    } else if (count == 0) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "no sensor of this rig has a %s", what);
    }
    g_string_free(names, TRUE);
    return count == 1 ? found : -1;
}

bool cli_open_one(const struct rig_options *options, const char *name, const char *what,
                  cli_able *able, struct one *one, struct pintle_problem *problem)
{
    *one = (struct one){ 0 };
    if (!cli_open(options, &one->rig, &one->station, problem)) {
        return false;
    }
    int index = name ? pintle_rig_find_wired(one->rig, name, problem)
                     : the_only(one->rig, what, able, problem);
    if (index >= 0) {
        one->index = (unsigned)index;
        one->from = &one->rig->sensor[index];
        one->sensor = &one->station->rigged[index].any.sensor;
    }
    if (index < 0 || (!able(one->sensor->part) && !cli_unable(one, what, able, problem))) {
        cli_close_one(one);
        return false;
    }
    return true;
}

void cli_close_one(struct one *one)
{
    pintle_station_free(one->station);
    pintle_rig_free(one->rig);
    *one = (struct one){ 0 };
}

bool cli_one_failed(const struct one *one, const char *what, enum pintle_status status,
                    struct pintle_problem *problem)
{
    const struct pintle_sheet *sheet = one->from->sheet;
    bool known = sheet->known_for && (sheet->known_by_status >> status & 1);
    const char *causes = pintle_hint_causes(status, one->rig->bus[one->from->bus].kind);
    char *why = cli_why(one->station, one->from->bus, status);
    pintle_problem_set(
        problem, PINTLE_FAILURE_RIG, "%s '%s' failed: %s%s%s%s%s", what, one->from->name, why,
        known       ? "; it is known: "
        : causes[0] ? "; likely "
                    : "",
        known ? sheet->known_for : causes, known ? "" : "; 'pintle scan' looks for the cause", "");
    g_free(why);
    return false;
}

bool cli_unable(const struct one *one, const char *what, cli_able *able,
                struct pintle_problem *problem)
{
    GString *names = g_string_new(NULL);
    const struct pintle_sheet *sheet = NULL;
    for (size_t i = 0; (sheet = pintle_rig_part_at(one->rig, i)) != NULL; i++) {
        if (able(sheet->part)) {
            g_string_append_printf(names, "%s%s", names->len ? ", " : "", sheet->part->name);
        }
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "'%s' is a %s, which has no %s; %s have",
                       one->from->name, one->from->sheet->part->name, what, names->str);
    g_string_free(names, TRUE);
    return false;
}

static const char *code(const char *sequence)
{
    return isatty(STDOUT_FILENO) && !g_getenv("NO_COLOR") ? sequence : "";
}

const char *cli_bold(void)
{
    return code("\033[1m");
}

const char *cli_good(void)
{
    return code("\033[32m");
}

const char *cli_bad(void)
{
    return code("\033[1;31m");
}

const char *cli_dim(void)
{
    return code("\033[2m");
}

const char *cli_plain(void)
{
    return code("\033[0m");
}

const char *cli_s(uint64_t count)
{
    return count == 1 ? "" : "s";
}

enum pintle_unit cli_chosen(const struct pintle_channel *channel, enum pintle_unit unit)
{
    return unit == PINTLE_UNIT_COUNT ? pintle_quantity_unit((enum pintle_quantity)channel->quantity)
                                     : unit;
}

/* As many places as show the last digit of the base unit, in any unit. */
unsigned cli_places(const struct pintle_channel *channel, enum pintle_unit unit)
{
    double per_base = (double)(pintle_unit_show(unit, 1) - pintle_unit_show(unit, 0));
    int more = (int)ceil(-log10(per_base) - 1e-3);
    return (unsigned)CLAMP(channel->decimals + more, 0, PINTLE_DECIMALS_MAX);
}

char *cli_value(const struct pintle_channel *channel, enum pintle_unit unit,
                const struct pintle_reading *reading, unsigned extra)
{
    char buffer[48];
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    if ((reading->quality & (PINTLE_QUALITY_BUS | PINTLE_QUALITY_IDLE)) || isnan(reading->value)) {
        return g_strdup("-");
    }
    if (channel->quantity == PINTLE_QUANTITY_TIME) {
        pintle_text_reading(&text, channel, reading);
    } else {
        unit = cli_chosen(channel, unit);
        pintle_text_fixed(&text, pintle_unit_show(unit, reading->value),
                          (uint8_t)(cli_places(channel, unit) + extra));
    }
    return g_strdup(buffer);
}

char *cli_worth(const struct pintle_channel *channel, enum pintle_unit unit, double uncertainty)
{
    unit = cli_chosen(channel, unit);
    double shown = uncertainty * (double)(pintle_unit_show(unit, 1) - pintle_unit_show(unit, 0));
    if (isnan(shown)) {
        return g_strdup("");
    }
    int decimals = shown > 0 ? 1 - (int)floor(log10(shown)) : 0;
    return g_strdup_printf("%.*f", CLAMP(decimals, 0, 9), shown);
}

const char *cli_unit(const struct pintle_channel *channel, enum pintle_unit unit)
{
    return unit == PINTLE_UNIT_COUNT
               ? pintle_quantity_shown((enum pintle_quantity)channel->quantity)
               : pintle_unit_symbol(unit);
}

char *cli_field(const struct pintle_channel *channel, enum pintle_unit unit,
                const struct pintle_reading *reading, const char **symbol)
{
    char buffer[48];
    struct pintle_text text;
    enum pintle_quantity quantity = (enum pintle_quantity)channel->quantity;
    *symbol = pintle_quantity_symbol(quantity);
    if (unit != PINTLE_UNIT_COUNT) {
        char *value = cli_value(channel, unit, reading, 0);
        *symbol = pintle_unit_symbol(unit);
        value[strcmp(value, "-") == 0 ? 0 : strlen(value)] = '\0';
        return value;
    }
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_reading(&text, channel, reading);
    return g_strdup(buffer);
}

char *cli_raw(const struct pintle_channel *channel, const struct pintle_reading *reading)
{
    bool is_signed = channel->linear ? channel->linear->flags & PINTLE_LINEAR_SIGNED
                                     : channel->quantity != PINTLE_QUANTITY_TIME;
    return is_signed ? g_strdup_printf("%d", reading->raw)
                     : g_strdup_printf("%u", (uint32_t)reading->raw);
}

char *cli_quality(pintle_marks quality)
{
    char buffer[100];
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_quality(&text, quality);
    return g_strdup(buffer);
}

char *cli_why(const struct pintle_station *station, unsigned bus, enum pintle_status status)
{
    const char *words = pintle_station_words(station, bus);
    return g_strdup(words[0] ? words : pintle_status_sentence(status));
}

char *cli_bytes(const uint8_t *bytes, size_t count)
{
    GString *text = g_string_new(NULL);
    for (size_t i = 0; i < count; i++) {
        g_string_append_printf(text, "%s%02x", i ? " " : "", bytes[i]);
    }
    return g_string_free(text, FALSE);
}

char *cli_figure(double number)
{
    int decimals = number != 0 ? 3 - (int)floor(log10(fabs(number))) : 0;
    char *text = g_strdup_printf("%.*f", MAX(decimals, 0), number);
    if (strchr(text, '.')) {
        size_t length = strlen(text);
        while (text[length - 1] == '0') {
            length--;
        }
        text[text[length - 1] == '.' ? length - 1 : length] = 0;
    }
    return text;
}
