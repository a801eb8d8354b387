/* An expression that a rig file writes, worked out again and again: numbers, names, + - * / and
 * parentheses, and functions by name. A name has letters, digits and "-" within, so that a minus
 * between two names has blanks around it. */
#ifndef PINTLE_PRIV_RIG_EXPRESSION_H
#define PINTLE_PRIV_RIG_EXPRESSION_H

#include <stdbool.h>
#include <stdint.h>

#define EXPRESSION_MOST 160 /* numbers, names, operators and functions */
#define EXPRESSION_DEPTH 16 /* that wait for the one behind them */

/* In the order in which they are worked out, operands first. */
struct expression {
    uint16_t count; /* 0: there is none */
    struct expression_step {
        uint8_t does; /* an operator's character, or enum expression_does */
        uint8_t name;
        double number;
    } step[EXPRESSION_MOST];
};

/* What a name stands for: its place among the values, or -1. */
typedef int (*expression_name)(const void *context, const char *name);

/* False: it is none; `wrong` has the place from which on it makes no sense. */
bool pintle_priv_expression_take(const char *text, expression_name find, const void *context,
                                 struct expression *to, const char **wrong);

/* NaN or infinite where it has no value. */
double pintle_priv_expression_value(const struct expression *of, const double *values);

/* Is this place among the values in it? */
bool pintle_priv_expression_uses(const struct expression *of, unsigned name);

#endif
