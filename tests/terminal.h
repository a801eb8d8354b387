/* A command at a pseudo-terminal, and what stands on its screen. */
#ifndef TESTS_TERMINAL_H
#define TESTS_TERMINAL_H

#include "support.h"

#define SCREEN_ROWS 60
#define SCREEN_COLUMNS 200

struct terminal {
    int file;
    pid_t child;
    GString *said; /* every byte so far */
    /* the screen, as those bytes make it */
    unsigned rows, columns;
    unsigned row, column;
    char cell[SCREEN_ROWS][SCREEN_COLUMNS + 1]; /* '?' for what is not ASCII */
    char escape[40];                            /* a sequence that is not whole yet */
    unsigned escaped;
    char last;
    unsigned more; /* bytes of a character that are to come */
};

/* Run the tool with these arguments at a terminal of such a size; `kind` is its TERM. 0 rows: no
 * screen. */
void sit_down(struct terminal *t, const char *folder, const char *arguments);
void sit_down_at(struct terminal *t, const char *folder, const char *arguments, unsigned rows,
                 unsigned columns, const char *environment);

/* Read until this was said, or a minute is over; an empty text: until it ends. */
bool wait_for(struct terminal *t, const char *text);
void expect_on(struct terminal *t, const char *text);

/* Read until it stands on the screen, in one line; likewise until it is gone. */
bool wait_for_line(struct terminal *t, const char *text);
void expect_line(struct terminal *t, const char *text);
bool on_screen(const struct terminal *t, const char *text);
void expect_gone(struct terminal *t, const char *text);

void type(const struct terminal *t, const char *text);
void resize(struct terminal *t, unsigned rows, unsigned columns);

/* Its exit status, or a signal's number below 0. Frees what it has said. */
int stand_up(struct terminal *t);

#endif
