/* Corrections for other rigs and other programs: as JSON, as constants in C. */
#include <glib.h>
#include <math.h>
#include <string.h>
#include <unistd.h>

#include "host/base/json.h"
#include "host/keep/file.h"

char *pintle_calibration_export(const struct pintle_rig *rig, int sensor,
                                struct pintle_problem *problem)
{
    json_t *root = pintle_priv_entries_read(rig, problem);
    if (!root) {
        return NULL;
    }
    struct pintle_entries entries;
    pintle_priv_entries_take(rig, root, &entries);
    json_t *list = json_object_get(root, "corrections");
    for (unsigned i = entries.count; i-- > 0;) {
        const struct pintle_entry *e = &entries.entry[i];
        if (!e->in_use || (sensor >= 0 && (!e->fits || e->sensor_index != (unsigned)sensor))) {
            json_array_remove(list, i);
        }
    }
    char *text = NULL;
    if (json_array_size(list) == 0) {
        pintle_problem_set(problem, PINTLE_FAILURE_USE,
                           "no correction is in use%s; 'pintle corrections' lists what there is",
                           sensor >= 0 ? " for that sensor" : "");
    } else {
        text = pintle_priv_json_line(root);
    }
    pintle_entries_free(&entries);
    json_decref(root);
    return text;
}

/* Does the rig have what it is for, and are its numbers some? */
static bool can_be_used(const struct pintle_entry *e, const char *name,
                        struct pintle_problem *problem)
{
    if (!e->fits) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "%s: it has a correction for sensor '%s', a %s at %s, which the "
                                  "rig doesn't have; nothing was taken over",
                                  name, e->sensor, e->part, e->where);
    }
    return pintle_priv_entry_valid(&e->found)
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "%s: the numbers of the correction for '%s.%s' are none that can "
                                 "be used; nothing was taken over",
                                 name, e->sensor, e->channel);
}

bool pintle_calibration_import(const struct pintle_rig *rig, const char *name, const char *text,
                               unsigned *count, struct pintle_problem *problem)
{
    json_t *from = pintle_priv_entries_parse(name, text, problem);
    int lock = from ? pintle_priv_entries_lock(rig, problem) : -1;
    json_t *root = lock >= 0 ? pintle_priv_entries_read(rig, problem) : NULL;
    struct pintle_entries entries = { 0 };
    bool ok = root != NULL;
    *count = 0;
    if (ok) {
        pintle_priv_entries_take(rig, from, &entries);
    }
    for (unsigned i = 0; i < entries.count && ok; i++) {
        ok = can_be_used(&entries.entry[i], name, problem);
        if (ok) {
            pintle_priv_entries_add(rig, root,
                                    json_array_get(json_object_get(from, "corrections"), i));
            (*count)++;
        }
    }
    if (ok && *count == 0) {
        ok = pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s: there is no correction in it",
                                name);
    }
    ok = ok && pintle_priv_entries_write(rig, root, problem);
    pintle_entries_free(&entries);
    json_decref(root);
    json_decref(from);
    if (lock >= 0) {
        close(lock);
    }
    return ok;
}

/* A float as C takes it back to the bit. */
static void put_float(GString *text, double value)
{
    char digits[G_ASCII_DTOSTR_BUF_SIZE];
    g_ascii_formatd(digits, sizeof digits, "%.9g", value);
    g_string_append_printf(text, "%s%sf", digits, strpbrk(digits, ".en") ? "" : ".0");
}

/* A name of C: letters, digits, underscores. */
static char *c_name(const char *sensor, unsigned number)
{
    char *name = g_strdup_printf("%s_%u", sensor, number);
    g_strcanon(name, G_CSET_A_2_Z G_CSET_a_2_z G_CSET_DIGITS "_", '_');
    if (g_ascii_isdigit(name[0])) {
        name[0] = '_';
    }
    return name;
}

static void put_stage(GString *text, const struct pintle_entry *e)
{
    static const char *const kinds[] = { "NONE", "HEAT", "THERMAL", "POLYNOMIAL", "TABLE", "AXES" };
    const struct pintle_calibration *c = &e->found;
    char *name = c_name(e->sensor, e->number);
    g_string_append_printf(text,
                           "    { .kind = PINTLE_STAGE_%s, .channel = %u, .count = %u, .by = 0,\n",
                           kinds[c->kind], e->channel_index, c->count);
    g_string_append(text, "      .lowest = ");
    put_float(text, c->lowest);
    g_string_append(text, ", .highest = ");
    put_float(text, c->highest);
    g_string_append(text, ", .uncertainty = ");
    put_float(text, isnan(c->uncertainty) ? 0 : c->uncertainty);
    g_string_append_printf(text, ", .numbers = %s },%s%s%s\n", name,
                           e->second ? " /* link .second: " : "", e->second ? e->second : "",
                           e->second ? " */" : "");
    g_free(name);
}

static void put_numbers(GString *text, const struct pintle_entry *e)
{
    const struct pintle_calibration *c = &e->found;
    char *name = c_name(e->sensor, e->number);
    g_string_append_printf(text, "/* %s.%s, %s: %s, %s, %u samples */\n", e->sensor, e->channel,
                           e->part, pintle_method_word(c->method), e->date, c->samples);
    g_string_append_printf(text, "static const float %s[] = { ", name);
    for (unsigned i = 0; i < c->count; i++) {
        g_string_append(text, i ? ", " : "");
        put_float(text, (double)c->numbers[i]);
    }
    g_string_append(text, " };\n");
    g_free(name);
}

char *pintle_calibration_constants(const struct pintle_rig *rig, unsigned sensor,
                                   struct pintle_problem *problem)
{
    struct pintle_entries entries;
    if (!pintle_entries_load(rig, &entries, problem)) {
        return NULL;
    }
    GString *numbers = g_string_new("#include \"pintle/correct.h\"\n\n");
    GString *stages = g_string_new(NULL);
    unsigned count = 0;
    /* In the order in which they are applied. */
    for (unsigned kind = PINTLE_STAGE_HEAT; kind < PINTLE_STAGE_KINDS; kind++) {
        for (unsigned i = 0; i < entries.count; i++) {
            const struct pintle_entry *e = &entries.entry[i];
            if (e->in_use && e->fits && e->sensor_index == sensor && e->found.kind == kind) {
                put_numbers(numbers, e);
                put_stage(stages, e);
                count++;
            }
        }
    }
    char *name = c_name(rig->sensor[sensor].name, count);
    g_string_append_printf(numbers,
                           "static const struct pintle_correct_stage %.*s_stages[] = {\n%s};\n",
                           (int)(strrchr(name, '_') - name), name, stages->str);
    if (count == 0) {
        pintle_problem_set(
            problem, PINTLE_FAILURE_USE,
            "no correction is in use for sensor '%s'; 'pintle corrections' lists what "
            "there is",
            rig->sensor[sensor].name);
    }
    g_free(name);
    g_string_free(stages, TRUE);
    pintle_entries_free(&entries);
    return g_string_free(numbers, count == 0);
}
