#include "host/base/conf.h"

#include <float.h>
#include <glib.h>
#include <math.h>
#include <stdarg.h>
#include <string.h>

#include "host/base/plain.h"

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

int pintle_priv_conf_complain(cfg_t *cfg, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *message = g_strdup_vprintf(format, args);
    va_end(args);
    complain(cfg->line, message);
    g_free(message);
    return -1;
}

int pintle_priv_conf_complain_at(int line, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *message = g_strdup_vprintf(format, args);
    va_end(args);
    complain(line, message);
    g_free(message);
    return -1;
}

#define TAKEN (1 << 30) /* a flag of ours: this section was read before */

/* A section of a title that was there already takes the place of the one before, wherever that is.
 */
cfg_t *pintle_priv_conf_section(cfg_opt_t *opt)
{
    unsigned i = 0;
    while (i + 1 < cfg_opt_size(opt) && cfg_opt_getnsec(opt, i)->flags & TAKEN) {
        i++;
    }
    cfg_t *section = cfg_opt_getnsec(opt, i);
    section->flags |= TAKEN;
    return section;
}

int pintle_priv_conf_name(cfg_t *cfg, const char *what, const char *name)
{
    for (const char *at = name; *at; at++) {
        if (!g_ascii_isalnum(*at) && *at != '-' && *at != '_') {
            return pintle_priv_conf_complain(
                cfg,
                "%s cannot be called '%s'; a name has letters (a to z), digits, "
                "hyphens and underscores, and nothing else",
                what, name);
        }
    }
    return *name ? 0 : pintle_priv_conf_complain(cfg, "%s needs a name", what);
}

bool pintle_priv_conf_number(cfg_t *cfg, const char *text, double *value)
{
    char *end = NULL;
    *value = g_ascii_strtod(text, &end);
    if (end > text && *end == '\0' && fabs(*value) <= (double)FLT_MAX) {
        return true;
    }
    pintle_priv_conf_complain(cfg, "'%s' is no number", text);
    return false;
}

/* Infinities, numbers too large for a reading, and what is none at all. */
static int check_finite(cfg_t *cfg, cfg_opt_t *opt)
{
    for (unsigned i = 0; i < cfg_opt_size(opt); i++) {
        double value = cfg_opt_getnfloat(opt, i);
        if (!(fabs(value) <= (double)FLT_MAX)) {
            return pintle_priv_conf_complain(cfg, "'%s' cannot be %g; it takes a number",
                                             cfg_opt_name(opt), value);
        }
    }
    return 0;
}

static void check_floats(cfg_opt_t *schema)
{
    for (cfg_opt_t *opt = schema; opt->name; opt++) {
        if (opt->type == CFGT_FLOAT && !opt->validcb) {
            opt->validcb = check_finite;
        } else if (opt->type == CFGT_SEC) {
            check_floats(opt->subopts);
        }
    }
}

/* What stands at the end of what libconfuse gets, and nowhere else: it takes an end of the file for
 * that of every section. */
#define LAST "end-of-the-file"

/* An option that the section doesn't have: which one was meant, or which there are. */
static char *unknown_option(cfg_t *cfg, const char *word)
{
    const char *names[32];
    unsigned count = 0;
    GString *all = g_string_new(NULL);
    for (cfg_opt_t *opt = cfg->opts; opt->name && count < G_N_ELEMENTS(names); opt++) {
        if (strcmp(opt->name, LAST) == 0) {
            continue;
        }
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
    if (strstr(message, "duplicate title") && quoted) {
        char *word = g_strndup(quoted + 1, strcspn(quoted + 1, "'"));
        g_free(message);
        message = g_strdup_printf("there is a '%s' here already; give each its own name", word);
        g_free(word);
    } else if (g_str_has_prefix(message, "invalid ") && quoted) {
        char *word = g_strndup(quoted + 1, strcspn(quoted + 1, "'"));
        bool whole = strstr(message, "integer") != NULL;
        g_free(message);
        message = g_strdup_printf("'%s' takes a %s, with no unit and no prefix behind it", word,
                                  whole ? "whole number such as 8 or 0x48"
                                        : "number such as 4700 or 0.5");
        g_free(word);
    } else if (strstr(message, "'" LAST "'")) {
        g_free(message);
        message = g_strdup_printf("the file ends within '%s%s%s', whose '}' is missing: it is cut "
                                  "off, or there is a '{' too many",
                                  cfg->name, cfg->title ? " " : "", cfg->title ? cfg->title : "");
    } else if (strstr(message, "no such option") && quoted) {
        char *word = g_strndup(quoted + 1, strcspn(quoted + 1, "'"));
        g_free(message);
        message = unknown_option(cfg, word);
        g_free(word);
    }
    complain(cfg->line, message);
    g_free(message);
}

/* libconfuse copies what it is given. */
static cfg_opt_t *with_last(const cfg_opt_t *schema)
{
    unsigned count = 0;
    while (schema[count].name) {
        count++;
    }
    const cfg_opt_t more[] = { CFG_BOOL(LAST, cfg_false, CFGF_NONE), CFG_END() };
    cfg_opt_t *all = g_new(cfg_opt_t, count + 2);
    memcpy(all, schema, count * sizeof *all);
    memcpy(all + count, more, sizeof more);
    return all;
}

cfg_t *pintle_priv_conf_parse(cfg_opt_t *schema, void (*prepare)(cfg_t *cfg), const char *name,
                              const char *text, struct pintle_problem *problem)
{
    check_floats(schema);
    cfg_opt_t *opts = with_last(schema);
    cfg_t *cfg = cfg_init(opts, CFGF_NONE);
    g_free(opts);
    parsing.problem = problem;
    parsing.name = name;
    cfg_set_error_function(cfg, on_error);
    if (prepare) {
        prepare(cfg);
    }
    unsigned odd = pintle_priv_plain_line(text);
    if (odd > 0) {
        complain((int)odd, "a character here is no UTF-8, or a control character; save the file as "
                           "UTF-8 text");
    }
    char *whole = g_strconcat(text, "\n" LAST " = true\n", NULL);
    int result = cfg_parse_buf(cfg, whole);
    g_free(whole);
    if (result == CFG_SUCCESS && problem->failure == PINTLE_FAILURE_NONE) {
        return cfg;
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE, "%s: it cannot be read as a rig or world file",
                       name);
    cfg_free(cfg);
    return NULL;
}
