#include "host/run/fields.h"

#include <glib.h>
#include <stdbool.h>
#include <string.h>

static void add(struct pintle_fields *fields, char *field)
{
    if (fields->count == fields->room) {
        fields->room = fields->room ? 2 * fields->room : 64;
        fields->at = g_renew(char *, fields->at, fields->room);
    }
    fields->at[fields->count++] = field;
}

/* In place: a field never grows. */
static void split(struct pintle_fields *fields)
{
    char *at = fields->copy;
    for (;;) {
        char *to = at;
        add(fields, to);
        bool quoted = *at == '"';
        at += quoted;
        while (*at && (quoted || *at != ',')) {
            if (quoted && at[0] == '"' && at[1] != '"') {
                quoted = false;
                at++;
                continue;
            }
            at += quoted && at[0] == '"';
            *to++ = *at++;
        }
        bool more = *at == ',';
        *to = '\0';
        if (!more) {
            return;
        }
        at++;
    }
}

void pintle_priv_fields_split(struct pintle_fields *fields, const char *line, size_t length)
{
    while (length > 0 && (line[length - 1] == '\n' || line[length - 1] == '\r')) {
        length--;
    }
    if (length + 1 > fields->size) {
        fields->size = 2 * length + 64;
        fields->copy = g_realloc(fields->copy, fields->size);
    }
    memcpy(fields->copy, line, length);
    fields->copy[length] = '\0';
    fields->count = 0;
    split(fields);
}

void pintle_priv_fields_free(struct pintle_fields *fields)
{
    g_free(fields->copy);
    g_free(fields->at);
    *fields = (struct pintle_fields){ 0 };
}
