#include <glib.h>

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

static char *settings_text(const struct pintle_sheet *sheet)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < sheet->part->setting_count; i++) {
        g_string_append_printf(text, "%s%s", i ? ", " : "", sheet->settings[i].name);
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
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s: '%s' cannot be '%s'; it can be %s",
                       sheet->part->name, name, value, options);
    g_free(options);
    return false;
}

bool pintle_rig_setting(const struct pintle_sheet *sheet, const char *assignment, uint8_t *settings,
                        struct pintle_problem *problem)
{
    char **sides = g_strsplit(assignment, "=", 2);
    bool done = false;
    if (!sides[0] || !sides[1]) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE, "'%s' sets nothing; write NAME=VALUE",
                           assignment);
        g_strfreev(sides);
        return false;
    }
    switch (pintle_sheet_set(sheet, sides[0], sides[1], settings)) {
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
    g_strfreev(sides);
    return done;
}
