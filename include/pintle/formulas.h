/* formulas.h: what people want to know about the formulas of derive.h; firmware need not link it.
 *
 * May still change.
 */
#ifndef PINTLE_FORMULAS_H
#define PINTLE_FORMULAS_H

#include <stddef.h>

#include "pintle/derive.h"

PINTLE_C_BEGIN

#define PINTLE_FORMULA_NUMBERS 3

struct pintle_formula_number {
    const char *name;
    const char *unit;
    float initial; /* not a number: it must be given */
    float lowest, highest;
};

struct pintle_formula_text {
    const char *name; /* "dew-point" */
    const struct pintle_formula *formula;
    const char *what;
    const char *as;     /* the formula */
    const char *valid;  /* where it holds */
    const char *source; /* a standard, or what it follows from */
    const char *inputs[PINTLE_DERIVE_INPUTS];
    struct pintle_formula_number numbers[PINTLE_FORMULA_NUMBERS];
    uint8_t decimals; /* worth printing; PINTLE_DECIMALS_AS_INPUT */
};

#define PINTLE_DECIMALS_AS_INPUT 255

/* In alphabetical order; null beyond the end. */
const struct pintle_formula_text *pintle_formula_at(size_t index);

/* The one of this name, or null. */
const struct pintle_formula_text *pintle_formula_find(const char *name);

PINTLE_C_END

#endif
