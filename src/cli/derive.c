#include <math.h>
#include <stdio.h>
#include <string.h>

#include "cli/cli.h"

static int list(void)
{
    const struct pintle_formula_text *text = NULL;
    printf("%s%-20s %-52s %s%s\n", cli_bold(), "formula", "of", "gives", cli_plain());
    for (size_t i = 0; (text = pintle_formula_at(i)) != NULL; i++) {
        GString *of = g_string_new(NULL);
        for (unsigned k = 0; k < text->formula->inputs; k++) {
            g_string_append_printf(of, "%s%s", k ? ", " : "", text->inputs[k]);
        }
        printf("%-20s %-52s %s\n", text->name, of->str, text->what);
        g_string_free(of, TRUE);
    }
    printf("\n'pintle derive FORMULA' explains one; behind it come values, and it is worked out.\n"
           "A rig file declares such channels in a derive section.\n");
    return 0;
}

static void explain(const struct pintle_formula_text *text)
{
    printf("%s%s%s: %s\n  formula  %s\n  valid    %s\n  source   %s\n", cli_bold(), text->name,
           cli_plain(), text->what, text->as, text->valid, text->source);
    for (unsigned i = 0; i < text->formula->inputs; i++) {
        unsigned takes = text->formula->takes[i];
        printf("  of       %s%s%s\n", text->inputs[i], takes == PINTLE_ANY ? "" : ", in ",
               takes == PINTLE_ANY ? "" : pintle_quantity_symbol((enum pintle_quantity)takes));
    }
    for (unsigned i = 0; i < text->formula->numbers; i++) {
        const struct pintle_formula_number *number = &text->numbers[i];
        char *initial = isnan(number->initial)
                            ? g_strdup("it must be given")
                            : g_strdup_printf("%g unless set", (double)number->initial);
        printf("  set      %s, %g to %g %s; %s\n", number->name, (double)number->lowest,
               (double)number->highest, number->unit, initial);
        g_free(initial);
    }
}

/* What is measured in a unit that is written so, the base unit's symbol in machine output included;
 * *unit: how to get to that. */
static enum pintle_quantity measured_in(const char *symbol, enum pintle_quantity wanted,
                                        enum pintle_unit *unit)
{
    *unit = pintle_unit_find(symbol, wanted);
    if (*unit != PINTLE_UNIT_COUNT) {
        return pintle_unit_quantity(*unit);
    }
    for (int q = 0; q < PINTLE_QUANTITY_COUNT; q++) {
        if ((wanted == PINTLE_QUANTITY_COUNT || wanted == (enum pintle_quantity)q)
            && strcmp(symbol, pintle_quantity_symbol((enum pintle_quantity)q)) == 0) {
            return (enum pintle_quantity)q;
        }
    }
    return PINTLE_QUANTITY_COUNT;
}

/* Values of formulas that take anything: all in one quantity, or all bare numbers. */
struct anything {
    enum pintle_quantity quantity;
    bool begun;
};

/* "21.5degC"; without a unit in the quantity's base unit. */
static bool take_value(const struct pintle_formula_text *text, unsigned i, const char *words,
                       struct anything *all, float *value, struct pintle_problem *problem)
{
    unsigned takes = text->formula->takes[i];
    enum pintle_quantity wanted = takes == PINTLE_ANY ? all->quantity : (enum pintle_quantity)takes;
    enum pintle_unit unit = PINTLE_UNIT_COUNT;
    char *end = NULL;
    double given = g_ascii_strtod(words, &end);
    enum pintle_quantity is = end[0] ? measured_in(end, wanted, &unit) : PINTLE_QUANTITY_COUNT;
    if (end == words || !isfinite(given) || (end[0] && is == PINTLE_QUANTITY_COUNT)) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE, "'%s' is no %s%s%s", words, text->inputs[i],
            wanted == PINTLE_QUANTITY_COUNT ? "" : "; write a number in ",
            wanted == PINTLE_QUANTITY_COUNT ? "" : pintle_quantity_symbol(wanted));
    }
    if (takes == PINTLE_ANY && all->begun && is != all->quantity) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "'%s': write a unit behind each value, or behind none", words);
    }
    *all = takes == PINTLE_ANY ? (struct anything){ is, true } : *all;
    *value = pintle_unit_base(unit, (float)given);
    return true;
}

static bool take_numbers(const struct pintle_formula_text *text, char *const *words, float *numbers,
                         struct pintle_problem *problem)
{
    for (unsigned i = 0; i < text->formula->numbers; i++) {
        numbers[i] = text->numbers[i].initial;
    }
    for (unsigned w = 0; words && words[w]; w++) {
        const char *equals = strchr(words[w], '=');
        unsigned i = 0;
        while (i < text->formula->numbers
               && !(equals
                    && strncmp(words[w], text->numbers[i].name, (size_t)(equals - words[w])) == 0
                    && text->numbers[i].name[equals - words[w]] == '\0')) {
            i++;
        }
        if (i == text->formula->numbers) {
            return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                      "'%s' sets no number of %s; 'pintle derive %s' lists them",
                                      words[w], text->name, text->name);
        }
        if (!pintle_formula_number_parse(&text->numbers[i], equals + 1, &numbers[i], problem)) {
            return false;
        }
    }
    for (unsigned i = 0; i < text->formula->numbers; i++) {
        if (isnan(numbers[i])) {
            return pintle_problem_set(
                problem, PINTLE_FAILURE_USE, "%s must know its %s; add --set %s=..., in %s",
                text->name, text->numbers[i].name, text->numbers[i].name, text->numbers[i].unit);
        }
    }
    return true;
}

static void print_result(const struct pintle_formula_text *text, enum pintle_quantity first,
                         const struct pintle_reading *result)
{
    enum pintle_quantity gives = pintle_derive_gives(text->formula, first);
    bool plain = gives == PINTLE_QUANTITY_COUNT;
    const struct pintle_channel channel = { .quantity = (uint8_t)gives,
                                            .decimals = text->decimals == PINTLE_DECIMALS_AS_INPUT
                                                            ? 3
                                                            : text->decimals };
    enum pintle_unit unit = gives == PINTLE_QUANTITY_LENGTH ? PINTLE_UNIT_METRE : PINTLE_UNIT_COUNT;
    char *value =
        plain ? g_strdup_printf("%g", (double)result->value) : cli_value(&channel, unit, result, 0);
    char *quality = cli_quality(result->quality);
    printf("%-20s %s %s   %s%s%s\n", text->name, value, plain ? "" : cli_unit(&channel, unit),
           pintle_reading_good(result) ? cli_good() : cli_bad(), quality, cli_plain());
    g_free(value);
    g_free(quality);
}

static bool work_out(const struct pintle_formula_text *text, int count, char **values,
                     char *const *words, struct pintle_problem *problem)
{
    float numbers[PINTLE_FORMULA_NUMBERS] = { 0 };
    struct pintle_reading inputs[PINTLE_DERIVE_INPUTS] = { { 0, 0, 0 } };
    struct pintle_reading result;
    struct pintle_derivation of = { .formula = text->formula, .numbers = numbers };
    struct anything all = { PINTLE_QUANTITY_COUNT, false };
    if (text->formula->windowed || text->formula == &pintle_through_points) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "%s has a course of time or a table, which a rig file gives it",
                                  text->name);
    }
    if (count != text->formula->inputs) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "%s takes %u values, not %d; 'pintle derive %s' names them",
                                  text->name, text->formula->inputs, count, text->name);
    }
    for (int i = 0; i < count; i++) {
        if (!take_value(text, (unsigned)i, values[i], &all, &inputs[i].value, problem)) {
            return false;
        }
    }
    if (!take_numbers(text, words, numbers, problem)) {
        return false;
    }
    unsigned takes = text->formula->takes[0];
    enum pintle_quantity first = takes == PINTLE_ANY ? all.quantity : (enum pintle_quantity)takes;
    of.round = first == PINTLE_QUANTITY_ANGLE;
    pintle_derive_begin(&of);
    pintle_derive(&of, inputs, 0, &result);
    print_result(text, first, &result);
    return true;
}

/* The resistors that there are: 24 a decade (IEC 60063). */
static double nearest_e24(double ohms)
{
    static const double steps[] = { 1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3,
                                    3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1, 10 };
    double decade = pow(10, floor(log10(ohms)));
    double best = decade;
    for (size_t i = 0; i < G_N_ELEMENTS(steps); i++) {
        bool nearer = fabs(log(steps[i] * decade / ohms)) < fabs(log(best / ohms));
        best = nearer ? steps[i] * decade : best;
    }
    return best;
}

/* "1kohm,33kohm" */
static bool propose_resistor(const char *words, int bits, struct pintle_problem *problem)
{
    static const struct pintle_formula_number ohms = { "resistance", "ohm", 0, 1e-3f, 1e9f };
    char **sides = g_strsplit(words, ",", 2);
    float least = 0;
    float greatest = 0;
    float span = 0;
    bool ok = sides[0] && sides[1] && pintle_formula_number_parse(&ohms, sides[0], &least, problem)
              && pintle_formula_number_parse(&ohms, sides[1], &greatest, problem);
    g_strfreev(sides);
    if (!ok || !(least < greatest) || bits < 1 || bits > 24) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "--resistor takes the sensor's least and greatest ohms, as in "
                                  "1kohm,33kohm, and --bits 1 to 24");
    }
    double best = (double)pintle_derive_resistor(least, greatest, &span);
    double real = nearest_e24(best);
    double counts = (double)(1 << bits);
    double got =
        (double)greatest / ((double)greatest + real) - (double)least / ((double)least + real);
    printf("best      %.6g ohm: the input then spans %.0f of %.0f counts\n", best,
           floor((double)span * counts), counts);
    printf("buy       %.6g ohm: %.0f counts\n", real, floor(got * counts));
    return true;
}

/* A value may have a minus, and is no option for that. */
static void shield(int argc, char **argv)
{
    for (int i = 1; i < argc; i++) {
        if (argv[i][0] == '-' && (g_ascii_isdigit(argv[i][1]) || argv[i][1] == '.')) {
            argv[i] = g_strconcat(" ", argv[i], NULL); /* for as long as the program runs */
        }
    }
}

static int run(int argc, char **argv)
{
    char **words = NULL;
    char *resistor = NULL;
    int bits = 10;
    const GOptionEntry entries[] = {
        { "set", 's', 0, G_OPTION_ARG_STRING_ARRAY, &words,
          "a number of the formula's; again for more", "NAME=VALUE" },
        { "resistor", 0, 0, G_OPTION_ARG_STRING, &resistor,
          "the best one beside a sensor of so many ohms", "LEAST,GREATEST" },
        { "bits", 0, 0, G_OPTION_ARG_INT, &bits, "of the converter (10)", "N" },
        { 0 }
    };
    struct pintle_problem problem = { 0 };
    shield(argc, argv);
    if (!cli_options(&command_derive, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (resistor) {
        return propose_resistor(resistor, bits, &problem) ? 0 : cli_fail(&problem);
    }
    if (argc < 2) {
        return list();
    }
    const struct pintle_formula_text *text = pintle_formula_find(argv[1]);
    if (!text) {
        return cli_misuse("derive: there is no formula '%s'; 'pintle derive' lists them", argv[1]);
    }
    if (argc == 2) {
        explain(text);
        return 0;
    }
    return work_out(text, argc - 2, argv + 2, words, &problem) ? 0 : cli_fail(&problem);
}

const struct command command_derive = {
    .name = "derive",
    .usage = "[FORMULA [VALUE...]]",
    .summary = "what can be worked out of readings: dew point, altitude, heading, ...",
    .more = "Example:\n  pintle derive\n  pintle derive dew-point 21.4 63\n"
            "  pintle derive altitude 955.2hPa --set reference=1013.25hPa\n"
            "  pintle derive --resistor 1kohm,33kohm --bits 10",
    .run = run,
};
