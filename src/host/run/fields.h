/* Lines of CSV (RFC 4180), one at a time. */
#ifndef PINTLE_PRIV_RUN_FIELDS_H
#define PINTLE_PRIV_RUN_FIELDS_H

#include <stddef.h>

struct pintle_fields {
    char *copy; /* what the fields point into */
    char **at;
    unsigned count, room;
    size_t size;
};

/* Split a line, up to its end or `length`; line ends inside fields there are none. */
void pintle_priv_fields_split(struct pintle_fields *fields, const char *line, size_t length);
void pintle_priv_fields_free(struct pintle_fields *fields);

#endif
