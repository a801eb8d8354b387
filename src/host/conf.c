#include "host/conf.h"

#include <glib.h>
#include <stdarg.h>
#include <string.h>

/* libconfuse hands no context to its callbacks, so the parse under way is kept here. */
static struct {
    struct pintle_problem *problem;
    const char *name;
} parsing;

static void complain(int line, const char *message)
{
    pintle_problem_set(parsing.problem, PINTLE_FAILURE_USE, "%s:%d: %s", parsing.name, line,
                       message);
}

int conf_complain(cfg_t *cfg, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *message = g_strdup_vprintf(format, args);
    va_end(args);
    complain(cfg->line, message);
    g_free(message);
    return -1;
}

int conf_complain_at(int line, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *message = g_strdup_vprintf(format, args);
    va_end(args);
    complain(line, message);
    g_free(message);
    return -1;
}

/* An option that the section doesn't have: which one was meant, or which there are. */
static char *unknown_option(cfg_t *cfg, const char *word)
{
    const char *names[32];
    unsigned count = 0;
    GString *all = g_string_new(NULL);
    for (cfg_opt_t *opt = cfg->opts; opt->name && count < G_N_ELEMENTS(names); opt++) {
        names[count++] = opt->name;
        g_string_append_printf(all, "%s%s", all->len ? ", " : "", opt->name);
    }
    const char *nearest = pintle_problem_nearest(word, names, count);
    char *message =
        nearest ? g_strdup_printf("there is no '%s' here; did you mean '%s'?", word, nearest)
                : g_strdup_printf("there is no '%s' here; known: %s", word, all->str);
    g_string_free(all, TRUE);
    return message;
}

static void on_error(cfg_t *cfg, const char *format, va_list args)
{
    char *message = g_strdup_vprintf(format, args);
    char *quoted = strchr(message, '\'');
    if (strstr(message, "no such option") && quoted) {
        char *word = g_strndup(quoted + 1, strcspn(quoted + 1, "'"));
        g_free(message);
        message = unknown_option(cfg, word);
        g_free(word);
    }
    complain(cfg->line, message);
    g_free(message);
}

cfg_t *conf_parse(cfg_opt_t *schema, void (*prepare)(cfg_t *cfg), const char *name,
                  const char *text, struct pintle_problem *problem)
{
    cfg_t *cfg = cfg_init(schema, CFGF_NONE);
    parsing.problem = problem;
    parsing.name = name;
    cfg_set_error_function(cfg, on_error);
    if (prepare) {
        prepare(cfg);
    }
    int result = cfg_parse_buf(cfg, text);
    if (result == CFG_SUCCESS && problem->failure == PINTLE_FAILURE_NONE) {
        return cfg;
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s: it cannot be read as a rig or world file",
                       name);
    cfg_free(cfg);
    return NULL;
}
