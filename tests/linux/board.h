/* A machine under test: an emulator with a Debian kernel and the built tool in it, a shell on its
 * console, and a line to the emulator, which knows what is really there. */
#ifndef TESTS_LINUX_BOARD_H
#define TESTS_LINUX_BOARD_H

#include <CUnit/CUnit.h>
#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

struct board {
    GPid pid;
    int in, out;    /* the console */
    int monitor;    /* to the emulator */
    GString *heard; /* from the console, not taken yet */
    unsigned commands;
    char command[100]; /* the last one, for people */
    char *lost;        /* why it can't be used any longer; NULL: it can */
    gint64 began_us;   /* until its shell answered it took so long */
};

/* What a command said, and how it ended; -1: it did not within its time. */
struct answer {
    int status;
    char *text;
};

/* Start an emulator with these words; its console is its standard input and output. */
bool board_boot(struct board *board, char **words);

/* Wait until its shell answers. */
bool board_ready(struct board *board);
void board_off(struct board *board);

/* Run a command in its shell; `seconds` are those of a quiet machine, of which ten times as many
 * are allowed. printf style. */
struct answer board_run(struct board *board, int seconds, const char *format, ...)
    __attribute__((format(printf, 3, 4)));
/* The same in two steps, for what is done outside meanwhile. Its shell ends when a child of it does
 * while it waits for a line: nothing may be left in the background. */
void board_begin(struct board *board, const char *command);
struct answer board_end(struct board *board, int seconds);
/* In between: has it printed this by now, or within half a second? */
bool board_hears(struct board *board, const char *text);
/* Wait until so many lines with this text were printed; returns how many were. */
unsigned board_watch(struct board *board, const char *with, unsigned count);
void answer_free(struct answer *answer);

/* Run it, print it as a line of the record, and expect this status and each of these texts
 * ("one|another"), and none behind "!". */
void board_expect(struct board *board, const char *command, int status, const char *texts);

/* Write a file there. */
void board_write(struct board *board, const char *path, const char *text);

/* Set a property of what is emulated. */
void board_set(struct board *board, const char *path, const char *property, const char *value);

/* The number behind a text; NAN without it. */
double number_after(const char *text, const char *before);

/* Fails under a printf-style name of the row. */
void expect(int holds, const char *file, unsigned line, const char *format, ...)
    __attribute__((format(printf, 4, 5)));
#define EXPECT(holds, ...) expect((holds) ? 1 : 0, __FILE__, __LINE__, __VA_ARGS__)

#endif
