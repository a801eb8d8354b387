/* JSON as text and files. */
#ifndef PINTLE_PRIV_BASE_JSON_H
#define PINTLE_PRIV_BASE_JSON_H

#include <jansson.h>

#include "pintle/host/base/problem.h"

/* Parse; every string becomes plain text on one line. Null, with `error` set (may be null). */
json_t *pintle_priv_json_parse(const char *text, json_error_t *error);

/* The value as text on one line, with every digit of its numbers; g_free it. */
char *pintle_priv_json_line(const json_t *root);

/* Likewise as a file has it, indented. */
char *pintle_priv_json_text(const json_t *root);

/* A number that is the shortest which is this float. */
json_t *pintle_priv_json_float(float value);

/* Write a file of it, indented, whole or not at all. */
bool pintle_priv_json_write(const json_t *root, const char *path, struct pintle_problem *problem);

#endif
