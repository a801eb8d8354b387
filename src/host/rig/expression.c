#include "host/rig/expression.h"

#include <glib.h>
#include <math.h>
#include <string.h>

/* Numbers and names; functions come behind. Operators are their characters. */
enum expression_does { NUMBER = 1, NAME, NEGATE, FUNCTION };

static double least(double a, double b)
{
    return isnan(a) || isnan(b) ? (double)NAN : fmin(a, b);
}

static double greatest(double a, double b)
{
    return isnan(a) || isnan(b) ? (double)NAN : fmax(a, b);
}

static const struct function {
    const char *name;
    double (*of_one)(double);
    double (*of_two)(double, double);
} functions[] = {
    { "root", sqrt, NULL },     { "exp", exp, NULL },     { "ln", log, NULL },
    { "absolute", fabs, NULL }, { "least", NULL, least }, { "greatest", NULL, greatest },
    { "power", NULL, pow },
};

/* Being read: where, and how many operands wait. */
struct taking {
    const char *at;
    expression_name find;
    const void *context;
    struct expression *to;
    unsigned waiting, nested;
    bool ok;
};

static void skip(struct taking *t)
{
    while (*t->at == ' ') {
        t->at++;
    }
}

static bool is_next(struct taking *t, char c)
{
    skip(t);
    bool is = *t->at == c;
    t->at += is;
    return is;
}

/* `operands` give way to one. */
static void put(struct taking *t, uint8_t does, unsigned operands, unsigned name, double number)
{
    t->waiting += 1 - operands;
    t->ok = t->ok && t->to->count < EXPRESSION_MOST && t->waiting <= EXPRESSION_DEPTH;
    if (t->ok) {
        t->to->step[t->to->count++] = (struct expression_step){ does, (uint8_t)name, number };
    }
}

static void take_sum(struct taking *t);

static void take_operands(struct taking *t, unsigned count)
{
    t->ok = t->ok && is_next(t, '(');
    for (unsigned i = 0; i < count && t->ok; i++) {
        t->ok = i == 0 || is_next(t, ',');
        if (t->ok) {
            take_sum(t);
        }
    }
    t->ok = t->ok && is_next(t, ')');
}

static bool within_name(char c)
{
    return g_ascii_isalnum(c) || c == '-' || c == '_';
}

static void take_name(struct taking *t)
{
    const char *from = t->at;
    size_t length = 0;
    while (within_name(from[length])) {
        length++;
    }
    char *name = g_strndup(from, length);
    int at = t->find(t->context, name);
    unsigned f = 0;
    while (f < G_N_ELEMENTS(functions) && strcmp(functions[f].name, name) != 0) {
        f++;
    }
    t->ok = at >= 0 || f < G_N_ELEMENTS(functions);
    if (t->ok) {
        t->at += length;
    }
    if (at >= 0) {
        put(t, NAME, 0, (unsigned)at, 0);
    } else if (t->ok) {
        unsigned count = functions[f].of_two ? 2 : 1;
        take_operands(t, count);
        put(t, (uint8_t)(FUNCTION + f), count, 0, 0);
    }
    g_free(name);
}

static void take_operand(struct taking *t)
{
    char *end = NULL;
    skip(t);
    if (is_next(t, '(')) {
        take_sum(t);
        t->ok = t->ok && is_next(t, ')');
    } else if (is_next(t, '-')) {
        t->ok = t->ok && ++t->nested <= EXPRESSION_MOST;
        if (t->ok) {
            take_operand(t);
            put(t, NEGATE, 1, 0, 0);
        }
    } else if (g_ascii_isdigit(*t->at) || *t->at == '.') {
        double number = g_ascii_strtod(t->at, &end);
        t->at = end;
        put(t, NUMBER, 0, 0, number);
    } else if (g_ascii_isalpha(*t->at)) {
        take_name(t);
    } else {
        t->ok = false;
    }
}

static void take_product(struct taking *t)
{
    take_operand(t);
    for (bool more = true; t->ok && more;) {
        char does = is_next(t, '*') ? '*' : is_next(t, '/') ? '/' : '\0';
        more = does != '\0';
        if (more) {
            take_operand(t);
            put(t, (uint8_t)does, 2, 0, 0);
        }
    }
}

static void take_sum(struct taking *t)
{
    t->ok = t->ok && ++t->nested <= EXPRESSION_MOST; /* of parentheses, too */
    if (t->ok) {
        take_product(t);
    }
    for (bool more = true; t->ok && more;) {
        char does = is_next(t, '+') ? '+' : is_next(t, '-') ? '-' : '\0';
        more = does != '\0';
        if (more) {
            take_product(t);
            put(t, (uint8_t)does, 2, 0, 0);
        }
    }
}

bool pintle_priv_expression_take(const char *text, expression_name find, const void *context,
                                 struct expression *to, const char **wrong)
{
    struct taking t = { .at = text, .find = find, .context = context, .to = to, .ok = true };
    to->count = 0;
    take_sum(&t);
    skip(&t);
    *wrong = t.at;
    return t.ok && *t.at == '\0';
}

static double of_two(uint8_t does, double a, double b)
{
    switch (does) {
    case '+':
        return a + b;
    case '-':
        return a - b;
    case '*':
        return a * b;
    case '/':
        return a / b;
    default:
        return functions[does - FUNCTION].of_two(a, b);
    }
}

static bool takes_two(uint8_t does)
{
    return does >= '*' || (does >= FUNCTION && functions[does - FUNCTION].of_two);
}

double pintle_priv_expression_value(const struct expression *of, const double *values)
{
    double waiting[EXPRESSION_DEPTH + 1] = { 0 };
    unsigned count = 0;
    for (unsigned i = 0; i < of->count; i++) {
        const struct expression_step *step = &of->step[i];
        if (step->does == NUMBER || step->does == NAME) {
            waiting[count++] = step->does == NUMBER ? step->number : values[step->name];
        } else if (takes_two(step->does)) {
            count--;
            waiting[count - 1] = of_two(step->does, waiting[count - 1], waiting[count]);
        } else {
            double x = waiting[count - 1];
            waiting[count - 1] =
                step->does == NEGATE ? -x : functions[step->does - FUNCTION].of_one(x);
        }
    }
    return waiting[0];
}

bool pintle_priv_expression_uses(const struct expression *of, unsigned name)
{
    bool uses = false;
    for (unsigned i = 0; i < of->count; i++) {
        uses = uses || (of->step[i].does == NAME && of->step[i].name == name);
    }
    return uses;
}
