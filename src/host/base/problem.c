#include "pintle/host/base/problem.h"

#include <glib.h>
#include <stdarg.h>
#include <string.h>

#include "host/base/plain.h"

bool pintle_problem_set(struct pintle_problem *problem, enum pintle_failure failure,
                        const char *format, ...)
{
    if (problem->failure == PINTLE_FAILURE_NONE) {
        va_list args;
        va_start(args, format);
        problem->failure = failure;
        g_vsnprintf(problem->text, sizeof problem->text, format, args);
        pintle_priv_plain_here(problem->text);
        va_end(args);
    }
    return false;
}

/* How many letters to add, drop or change to get from a to b (b up to 63 letters). */
static unsigned distance(const char *a, const char *b)
{
    unsigned row[64];
    unsigned length = (unsigned)MIN(strlen(b), 63);
    for (unsigned j = 0; j <= length; j++) {
        row[j] = j;
    }
    for (unsigned i = 1; a[i - 1]; i++) {
        unsigned corner = row[0];
        row[0] = i;
        for (unsigned j = 1; j <= length; j++) {
            bool same = g_ascii_tolower(a[i - 1]) == g_ascii_tolower(b[j - 1]);
            unsigned change = corner + (same ? 0 : 1);
            corner = row[j];
            row[j] = MIN(change, MIN(row[j], row[j - 1]) + 1);
        }
    }
    return row[length];
}

const char *pintle_problem_nearest(const char *word, const char *const *candidates, unsigned count)
{
    const char *best = NULL;
    unsigned least = (unsigned)strlen(word) / 3 + 2;
    for (unsigned i = 0; i < count; i++) {
        unsigned d = candidates[i] ? distance(word, candidates[i]) : least;
        if (candidates[i] && word[0]
            && g_ascii_strncasecmp(candidates[i], word, strlen(word)) == 0) {
            d = MIN(d, 1); /* the beginning of it was typed */
        }
        if (d < least) {
            least = d;
            best = candidates[i];
        }
    }
    return best;
}

void pintle_host_free(void *memory)
{
    g_free(memory);
}
