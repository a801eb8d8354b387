#include <glib.h>
#include <math.h>
#include <string.h>

#include "pintle/host/base/duration.h"

static const struct {
    const char *name;
    double us;
} units[] = { { "us", 1 },       { "ms", 1e3 },      { "s", 1e6 },     { "sec", 1e6 },
              { "min", 60e6 },   { "m", 60e6 },      { "h", 3.6e9 },   { "d", 86.4e9 },
              { "day", 86.4e9 }, { "days", 86.4e9 }, { "w", 604.8e9 }, { "y", 365 * 86.4e9 } };

static double unit_us(const char *text, size_t length)
{
    for (size_t i = 0; i < G_N_ELEMENTS(units); i++) {
        if (strlen(units[i].name) == length && strncmp(units[i].name, text, length) == 0) {
            return units[i].us;
        }
    }
    return 0;
}

bool pintle_duration_parse(const char *text, int64_t *us)
{
    double sum = 0;
    const char *at = text + strspn(text, " ");
    while (g_ascii_isdigit(*at) || *at == '.') {
        char *end = NULL;
        double number = g_ascii_strtod(at, &end);
        end += strspn(end, " ");
        size_t letters = strspn(end, "abcdefghijklmnopqrstuvwxyz");
        double unit = unit_us(end, letters);
        if (unit == 0) {
            return false;
        }
        sum += number * unit;
        at = end + letters;
        at += strspn(at, " ");
    }
    if (*at != '\0' || at == text || !(sum < 9e18)) {
        return false;
    }
    *us = (int64_t)llround(sum);
    return true;
}

char *pintle_duration_about(int64_t us)
{
    int64_t part = us >= 172800000000 ? 86400000000
                   : us >= 7200000000 ? 3600000000
                   : us >= 90000000   ? 60000000
                   : us >= 1000000    ? 1000000
                                      : 1000;
    return pintle_duration_text((us + part / 2) / part * part);
}

char *pintle_duration_text(int64_t us)
{
    static const struct {
        int64_t us;
        const char *word;
    } parts_of[] = { { 86400000000, "d" },
                     { 3600000000, "h" },
                     { 60000000, "min" },
                     { 1000000, "s" },
                     { 1000, "ms" } };
    GString *text = g_string_new(us < 0 ? "-" : "");
    int64_t left = ABS(us);
    unsigned parts = 0;
    for (size_t i = 0; i < G_N_ELEMENTS(parts_of) && parts < 2; i++) {
        if (left >= parts_of[i].us) {
            g_string_append_printf(text, "%s%" G_GINT64_FORMAT " %s", parts ? " " : "",
                                   left / parts_of[i].us, parts_of[i].word);
            left %= parts_of[i].us;
            parts++;
        }
    }
    if (parts == 0) {
        g_string_append(text, "0 s");
    }
    return g_string_free(text, FALSE);
}
