#include <stdio.h>
#include <string.h>

#include "cli/cli.h"
#include "pintle/host/check/hint.h"

static char *buses_text(unsigned buses)
{
    GString *text = g_string_new(NULL);
    for (unsigned kind = PINTLE_BUS_I2C; kind <= PINTLE_BUS_STREAM; kind++) {
        if (buses & 1u << kind) {
            g_string_append_printf(text, "%s%s", text->len ? ", " : "",
                                   pintle_bus_word((enum pintle_bus_kind)kind));
        }
    }
    return g_string_free(text, FALSE);
}

static bool has_causes(enum pintle_status status)
{
    bool any = false;
    for (unsigned kind = PINTLE_BUS_I2C; kind <= PINTLE_BUS_STREAM; kind++) {
        any = any || pintle_hint_causes(status, (enum pintle_bus_kind)kind)[0];
    }
    return any;
}

static void print_status(enum pintle_status status, const char *indent, const char *bullet)
{
    for (unsigned kind = PINTLE_BUS_I2C; kind <= PINTLE_BUS_STREAM; kind++) {
        const char *causes = pintle_hint_causes(status, (enum pintle_bus_kind)kind);
        if (causes[0]) {
            printf("%s%s%s: %s\n", indent, bullet, pintle_bus_word((enum pintle_bus_kind)kind),
                   causes);
        }
    }
}

static int list(void)
{
    const struct pintle_hint_text *hint = NULL;
    printf("%s%-19s %-18s %s%s\n", cli_bold(), "what scan finds", "on", "seen as", cli_plain());
    for (size_t i = 0; (hint = pintle_hint_at(i)) != NULL; i++) {
        char *buses = buses_text(hint->buses);
        printf("%-19s %-18s %s\n", hint->word, buses, hint->evidence);
        g_free(buses);
    }
    printf("\n%s%-19s %s%s\n", cli_bold(), "a transfer fails", "which is", cli_plain());
    for (int status = PINTLE_OK + 1; status < PINTLE_STATUS_COUNT; status++) {
        if (has_causes((enum pintle_status)status)) {
            printf("%-19s %s\n", pintle_status_word((enum pintle_status)status),
                   pintle_status_sentence((enum pintle_status)status));
        }
    }
    printf("\n%s%-19s %s%s\n", cli_bold(), "a reading is marked", "which is", cli_plain());
    const struct pintle_mark_text *mark = NULL;
    for (size_t i = 0; (mark = pintle_hint_mark(i)) != NULL; i++) {
        printf("%-19s %s\n", pintle_quality_word(mark->bit), pintle_quality_sentence(mark->bit));
    }
    printf("\n'pintle explain WORD' says what is likely and what to do.\n");
    return 0;
}

static void markdown_hints(unsigned kind)
{
    const struct pintle_hint_text *hint = NULL;
    for (size_t i = 0; (hint = pintle_hint_at(i)) != NULL; i++) {
        if (hint->buses & 1u << kind) {
            printf("- **%s**: %s.\n  %c%s.\n", hint->word, hint->evidence,
                   g_ascii_toupper(hint->text[0]), hint->text + 1);
        }
    }
}

static void markdown_marks(void)
{
    const struct pintle_mark_text *mark = NULL;
    printf("\n## When a reading is marked\n\n");
    for (size_t i = 0; (mark = pintle_hint_mark(i)) != NULL; i++) {
        printf("- **%s**: %s.\n  - likely: %s\n  - do: %s\n  - believed again: %s\n",
               pintle_quality_word(mark->bit), pintle_quality_sentence(mark->bit), mark->causes,
               mark->remedy, mark->until);
    }
}

static void markdown_parts(void)
{
    printf("\n## Parts\n\n");
    for (size_t i = 0; pintle_sheet_at(i); i++) {
        const struct pintle_sheet *sheet = pintle_sheet_at(i);
        if (sheet->known_for) {
            printf("- **%s**: %s.\n", sheet->part->name, sheet->known_for);
        }
    }
}

static int markdown(void)
{
    printf("# What is wrong, and what to do\n\n"
           "Made by `pintle explain --markdown` from what `pintle scan` finds with; don't edit it "
           "here.\n"
           "Words in braces stand for names of your rig. Likeliest causes come first.\n");
    for (unsigned kind = PINTLE_BUS_I2C; kind <= PINTLE_BUS_STREAM; kind++) {
        printf("\n## %s\n\n", pintle_bus_word((enum pintle_bus_kind)kind));
        markdown_hints(kind);
    }
    printf("\n## When a transfer fails\n\n");
    for (int status = PINTLE_OK + 1; status < PINTLE_STATUS_COUNT; status++) {
        if (has_causes((enum pintle_status)status)) {
            printf("- **%s**: %s.\n", pintle_status_word((enum pintle_status)status),
                   pintle_status_sentence((enum pintle_status)status));
            print_status((enum pintle_status)status, "  ", "- ");
        }
    }
    markdown_marks();
    markdown_parts();
    return 0;
}

static bool explain_hint(const char *word)
{
    const struct pintle_hint_text *hint = NULL;
    for (size_t i = 0; (hint = pintle_hint_at(i)) != NULL; i++) {
        if (strcmp(hint->word, word) == 0) {
            char *buses = buses_text(hint->buses);
            printf("%s%s%s  (%s)\n  seen as: %s\n  %s.\n", cli_bold(), word, cli_plain(), buses,
                   hint->evidence, hint->text);
            g_free(buses);
            return true;
        }
    }
    return false;
}

static bool explain_status(const char *word)
{
    for (int status = PINTLE_OK + 1; status < PINTLE_STATUS_COUNT; status++) {
        if (strcmp(pintle_status_word((enum pintle_status)status), word) == 0) {
            printf("%s%s%s  %s\n", cli_bold(), word, cli_plain(),
                   pintle_status_sentence((enum pintle_status)status));
            print_status((enum pintle_status)status, "  ", "");
            return true;
        }
    }
    return false;
}

static bool explain_mark(const char *word)
{
    const struct pintle_mark_text *mark = NULL;
    for (size_t i = 0; (mark = pintle_hint_mark(i)) != NULL; i++) {
        if (strcmp(pintle_quality_word(mark->bit), word) == 0) {
            printf("%s%s%s  %s\n  likely: %s\n  do: %s\n  believed again: %s\n", cli_bold(), word,
                   cli_plain(), pintle_quality_sentence(mark->bit), mark->causes, mark->remedy,
                   mark->until);
            return true;
        }
    }
    return false;
}

static bool explain_part(const char *word)
{
    const struct pintle_sheet *sheet = pintle_sheet_find(word);
    if (sheet && sheet->known_for) {
        printf("%s%s%s  %s.\n", cli_bold(), sheet->part->name, cli_plain(), sheet->known_for);
    }
    return sheet && sheet->known_for;
}

static int no_such_word(const char *word)
{
    GPtrArray *words = g_ptr_array_new();
    for (size_t i = 0; pintle_hint_at(i); i++) {
        g_ptr_array_add(words, (gpointer)pintle_hint_at(i)->word);
    }
    for (int status = PINTLE_OK + 1; status < PINTLE_STATUS_COUNT; status++) {
        g_ptr_array_add(words, (gpointer)pintle_status_word((enum pintle_status)status));
    }
    for (size_t i = 0; pintle_hint_mark(i); i++) {
        g_ptr_array_add(words, (gpointer)pintle_quality_word(pintle_hint_mark(i)->bit));
    }
    const char *nearest =
        pintle_problem_nearest(word, (const char *const *)words->pdata, words->len);
    g_ptr_array_free(words, TRUE);
    return nearest ? cli_misuse("explain: there is nothing about '%s'; did you mean '%s'?", word,
                                nearest)
                   : cli_misuse("explain: there is nothing about '%s'; 'pintle explain' lists the "
                                "words",
                                word);
}

static int run(int argc, char **argv)
{
    gboolean as_markdown = FALSE;
    const GOptionEntry entries[] = { { "markdown", 0, 0, G_OPTION_ARG_NONE, &as_markdown,
                                       "everything, as docs/troubleshooting.md", NULL },
                                     { 0 } };
    if (!cli_options(&command_explain, entries, &argc, &argv)) {
        return PINTLE_FAILURE_USE;
    }
    if (argc > 2 || (as_markdown && argc > 1)) {
        return cli_misuse("explain: one word at a time, and none with --markdown");
    }
    if (argc == 1) {
        return as_markdown ? markdown() : list();
    }
    return explain_hint(argv[1]) || explain_status(argv[1]) || explain_mark(argv[1])
                   || explain_part(argv[1])
               ? 0
               : no_such_word(argv[1]);
}

const struct command command_explain = {
    .name = "explain",
    .usage = "[WORD]",
    .summary = "what can be wrong, how it shows, what to do about it",
    .more = "WORD is a finding of 'pintle scan' (its last word), how a transfer failed, the mark "
            "of a suspect reading, or a part.\n\n"
            "Example:\n  pintle explain all-ones\n  pintle explain jump",
    .run = run,
};
