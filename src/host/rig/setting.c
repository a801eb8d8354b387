#include <glib.h>
#include <string.h>

#include "pintle/host/rig/rig.h"

const struct pintle_sheet *pintle_rig_part_at(const struct pintle_rig *rig, size_t index)
{
    size_t described = rig ? rig->described : 0;
    return index < described ? rig->part[index] : pintle_sheet_at(index - described);
}

const struct pintle_sheet *pintle_rig_part(const struct pintle_rig *rig, const char *name,
                                           struct pintle_problem *problem)
{
    const struct pintle_sheet *sheet = NULL;
    GPtrArray *names = g_ptr_array_new();
    for (size_t i = 0; (sheet = pintle_rig_part_at(rig, i)) != NULL; i++) {
        if (g_ascii_strcasecmp(sheet->part->name, name) == 0) {
            g_ptr_array_free(names, TRUE);
            return sheet;
        }
        g_ptr_array_add(names, (void *)(uintptr_t)sheet->part->name);
    }
    const char *nearest =
        pintle_problem_nearest(name, (const char *const *)names->pdata, names->len);
    g_ptr_array_free(names, TRUE);
    if (nearest) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "the catalogue has no part '%s'; did you mean '%s'?", name, nearest);
    } else {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "the catalogue has no part '%s'; 'pintle parts' lists what it has, and "
                           "a part section of a rig file describes another",
                           name);
    }
    return NULL;
}

void pintle_rig_initial(const struct pintle_part *part, struct pintle_chosen *chosen)
{
    memset(chosen, 0, sizeof *chosen);
    pintle_part_initial(part, chosen->settings);
    for (unsigned i = 0; i < part->number_count && i < PINTLE_MOST_NUMBERS; i++) {
        chosen->numbers[i] = part->numbers[i].initial;
    }
}

static char *settings_text(const struct pintle_sheet *sheet)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < sheet->part->setting_count; i++) {
        g_string_append_printf(text, "%s%s", i ? ", " : "", sheet->settings[i].name);
    }
    for (unsigned i = 0; i < sheet->part->number_count; i++) {
        g_string_append_printf(text, "%s%s", text->len ? ", " : "", sheet->numbers[i].name);
    }
    return g_string_free(text, FALSE);
}

static bool no_such_setting(const struct pintle_sheet *sheet, const char *name,
                            struct pintle_problem *problem)
{
    char *known = settings_text(sheet);
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s has no setting '%s'; it has %s",
                       sheet->part->name, name, known[0] ? known : "none");
    g_free(known);
    return false;
}

static bool no_such_option(const struct pintle_sheet *sheet, const char *name, const char *value,
                           struct pintle_problem *problem)
{
    unsigned i = 0;
    while (g_ascii_strcasecmp(sheet->settings[i].name, name) != 0) {
        i++;
    }
    char *options = g_strjoinv(", ", (char **)(uintptr_t)sheet->settings[i].options);
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s: '%s' cannot be '%s'; it can be %s%s",
                       sheet->part->name, name, value, options,
                       pintle_sheet_ranges(sheet, i) ? ", auto" : "");
    g_free(options);
    return false;
}

/* "auto" of a setting that makes the range. */
static bool is_auto(const struct pintle_sheet *sheet, char *const *sides)
{
    bool found = false;
    for (unsigned i = 0; i < sheet->part->setting_count; i++) {
        found = found
                || (g_ascii_strcasecmp(sheet->settings[i].name, sides[0]) == 0
                    && pintle_sheet_ranges(sheet, i));
    }
    return found && g_ascii_strcasecmp(sides[1], "auto") == 0;
}

static bool take_number(const struct pintle_sheet *sheet, unsigned index, const char *value,
                        struct pintle_chosen *chosen, struct pintle_problem *problem)
{
    const struct pintle_number *number = &sheet->part->numbers[index];
    const struct pintle_number_text *text = &sheet->numbers[index];
    char *end = NULL;
    double is = g_ascii_strtod(value, &end);
    if (end == value || *end != '\0' || !(is >= (double)number->lowest)
        || !(is <= (double)number->highest)) {
        return pintle_problem_set(
            problem, PINTLE_FAILURE_USE, "%s: '%s' (%s) is a number from %g to %g %s, not '%s'",
            sheet->part->name, text->name, text->meaning, (double)number->lowest,
            (double)number->highest, text->unit, value);
    }
    chosen->numbers[index] = (float)is;
    return true;
}

bool pintle_rig_setting(const struct pintle_sheet *sheet, const char *assignment,
                        struct pintle_chosen *chosen, struct pintle_problem *problem)
{
    char **sides = g_strsplit(assignment, "=", 2);
    bool whole = sides[0] && sides[1];
    int number = whole ? pintle_sheet_number(sheet, sides[0]) : -1;
    bool done = false;
    if (!whole) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "'%s' sets nothing; write NAME=VALUE",
                           assignment);
    } else if (is_auto(sheet, sides)) {
        done = chosen->ranging = true;
    } else if (number >= 0) {
        done = take_number(sheet, (unsigned)number, sides[1], chosen, problem);
    } else {
        switch (pintle_sheet_set(sheet, sides[0], sides[1], chosen->settings)) {
        case PINTLE_OK:
            done = true;
            break;
        case PINTLE_OUT_OF_RANGE:
            no_such_option(sheet, sides[0], sides[1], problem);
            break;
        default:
            no_such_setting(sheet, sides[0], problem);
            break;
        }
    }
    g_strfreev(sides);
    return done;
}
