#include "host/base/json.h"

#include <glib.h>
#include <stdlib.h>

#include "host/base/files.h"
#include "host/base/plain.h"

/* A string may hold any character, an escape sequence written as \u001b among them. */
static void clean(json_t *value)
{
    const char *key = NULL;
    json_t *within = NULL;
    size_t i = 0;
    if (json_is_string(value)) {
        char *plain = pintle_priv_plain(json_string_value(value));
        json_string_set(value, plain);
        g_free(plain);
    }
    json_object_foreach(value, key, within)
    {
        clean(within);
    }
    json_array_foreach (value, i, within) {
        clean(within);
    }
}

json_t *pintle_priv_json_parse(const char *text, json_error_t *error)
{
    json_t *root = json_loads(text, 0, error);
    clean(root);
    return root;
}

/* In memory of the allocator that the rest of pintle-host has. */
static char *text_of(const json_t *root, size_t flags)
{
    char *text = json_dumps(root, flags);
    char *copy = g_strdup(text);
    free(text);
    return copy;
}

char *pintle_priv_json_line(const json_t *root)
{
    return text_of(root, JSON_COMPACT | JSON_REAL_PRECISION(15));
}

json_t *pintle_priv_json_float(float value)
{
    char digits[32];
    double shortest = (double)value;
    for (int places = 6; places <= 9; places++) {
        g_snprintf(digits, sizeof digits, "%.*g", places, (double)value);
        shortest = g_ascii_strtod(digits, NULL);
        if ((float)shortest == value) {
            break;
        }
    }
    return json_real(shortest);
}

char *pintle_priv_json_text(const json_t *root)
{
    return text_of(root, JSON_INDENT(2) | JSON_REAL_PRECISION(9));
}

bool pintle_priv_json_write(const json_t *root, const char *path, struct pintle_problem *problem)
{
    char *text = pintle_priv_json_text(root);
    bool ok = pintle_priv_files_replace(path, text, problem);
    g_free(text);
    return ok;
}
