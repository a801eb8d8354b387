#include "host/base/plain.h"

#include <glib.h>
#include <stdbool.h>
#include <string.h>

char *pintle_priv_plain(const char *text)
{
    if (!text) {
        return NULL;
    }
    char *valid = g_utf8_make_valid(text, -1);
    GString *line = g_string_new(NULL);
    for (const char *at = valid; *at; at = g_utf8_next_char(at)) {
        gunichar letter = g_utf8_get_char(at);
        g_string_append_unichar(line, g_unichar_iscntrl(letter) ? ' ' : letter);
    }
    g_free(valid);
    return g_strstrip(g_string_free(line, FALSE));
}

/* How many bytes the character at `at` has; 0: it is not UTF-8. */
static int length_of(const char *at)
{
    return (gint)g_utf8_get_char_validated(at, -1) < 0 ? 0 : g_utf8_skip[(guchar)*at];
}

void pintle_priv_plain_here(char *text)
{
    for (char *at = text; *at;) {
        int length = length_of(at);
        if (length == 0) {
            *at++ = '?';
            continue;
        }
        if (g_unichar_iscntrl(g_utf8_get_char(at)) && *at != '\n') {
            for (int i = 0; i < length; i++) {
                at[i] = ' ';
            }
        }
        at += length;
    }
}

unsigned pintle_priv_plain_line(const char *text)
{
    unsigned line = 1;
    for (const char *at = text; *at;) {
        int length = length_of(at);
        bool odd =
            length == 0 || (g_unichar_iscntrl(g_utf8_get_char(at)) && !strchr("\t\r\n", *at));
        if (odd) {
            return line;
        }
        line += *at == '\n';
        at += length;
    }
    return 0;
}
