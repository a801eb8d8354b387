/* The board's own lines: how they are, driven for a while, waited for. */
#include <signal.h>
#include <stdio.h>
#include <string.h>

#include "cli/lines.h"
#include "pintle/host/base/duration.h"
#include "pintle/host/live/platform.h"

#define SLICE_US 100000 /* so often a signal is looked at */

static volatile sig_atomic_t stop;

static void on_signal(int number)
{
    (void)number;
    stop = 1;
}

static void heed_signals(void)
{
    static const int numbers[] = { SIGINT, SIGTERM, SIGHUP };
    struct sigaction action = { .sa_handler = on_signal };
    for (size_t i = 0; i < G_N_ELEMENTS(numbers); i++) {
        sigaction(numbers[i], &action, NULL);
    }
}

/* One that was named: "NAME", or "NAME=1" to drive it. */
struct board_line {
    char *name;
    bool driven;
    uint8_t level;
    void *open;
};

static const struct pintle_board_lines *lines_of_board(struct pintle_problem *problem)
{
    const struct pintle_platform *platform = NULL;
    for (size_t i = 0; (platform = pintle_platform_at(i)) != NULL; i++) {
        if (platform->lines) {
            return platform->lines;
        }
    }
    pintle_problem_set(problem, PINTLE_FAILURE_USE,
                       "this build knows no board with lines of its own");
    return NULL;
}

static bool take(const char *word, struct board_line *line, struct pintle_problem *problem)
{
    const char *sign = strrchr(word, '=');
    *line =
        (struct board_line){ .name = sign ? g_strndup(word, (gsize)(sign - word)) : g_strdup(word),
                             .driven = sign != NULL,
                             .level = sign && strcmp(sign, "=1") == 0 };
    return !sign || line->level || strcmp(sign, "=0") == 0
           || pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                 "'%s' sets no line; write NAME=0 or NAME=1", word);
}

static bool print_one(const struct pintle_board_lines *calls, const struct board_line *line,
                      struct pintle_problem *problem)
{
    uint8_t is = 0;
    if (!calls->level(line->open, &is, problem)) {
        return false;
    }
    bool obeys = !line->driven || is == line->level;
    printf("%-24s %-10s %s%s%s\n", line->name, is ? "high" : "low", obeys ? "" : cli_bad(),
           !line->driven ? "no"
           : obeys       ? "yes"
                         : "yes, and does not obey",
           cli_plain());
    return obeys
           || pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                                 "line '%s' is not as it is driven: shorted, or overloaded; "
                                 "disconnect its load and try again",
                                 line->name);
}

/* Edges of one line, as they come. */
static bool wait_for(const struct pintle_board_lines *calls, const struct board_line *line,
                     int64_t for_us, struct pintle_problem *problem)
{
    struct pintle_board_edge edge;
    const int64_t began = g_get_monotonic_time();
    bool came = false;
    while (!came && !stop && g_get_monotonic_time() - began < for_us) {
        if (!calls->edge(line->open, SLICE_US, &came, &edge, problem)) {
            return false;
        }
    }
    if (came) {
        printf("%s went %s after %.3f s\n", line->name, edge.level ? "high" : "low",
               ((double)edge.at_us - (double)began) / 1e6);
        return true;
    }
    return pintle_problem_set(problem, PINTLE_FAILURE_RIG, "line '%s' did not change%s", line->name,
                              stop ? " until you stopped waiting" : " in that time");
}

static void hold(int64_t for_us)
{
    const int64_t began = g_get_monotonic_time();
    fflush(stdout);
    while (!stop && g_get_monotonic_time() - began < for_us) {
        gint64 left_us = for_us - (g_get_monotonic_time() - began);
        g_usleep((gulong)CLAMP(left_us, 1, SLICE_US));
    }
}

static bool act(const struct pintle_board_lines *calls, struct board_line *line, unsigned count,
                const struct lines_options *o, struct pintle_problem *problem)
{
    bool any = false;
    for (unsigned i = 0; i < count; i++) {
        line[i].open = calls->open(line[i].name, problem);
        if (!line[i].open
            || (line[i].driven && !calls->drive(line[i].open, line[i].level, problem))) {
            return false;
        }
        any = any || line[i].driven;
    }
    heed_signals();
    if (o->wait) {
        return wait_for(calls, &line[0], o->for_us, problem);
    }
    printf("%s%-24s %-10s %s%s\n", cli_bold(), "line", "is", "driven", cli_plain());
    bool ok = true;
    for (unsigned i = 0; i < count; i++) {
        ok = print_one(calls, &line[i], problem) && ok;
    }
    if (any && ok) {
        cli_say("held %s; then they are inputs again", o->length ? "that long" : "until Ctrl-C");
        hold(o->for_us);
    }
    return ok;
}

bool lines_of_the_board(const struct lines_options *o, struct pintle_problem *problem)
{
    const struct pintle_board_lines *calls = lines_of_board(problem);
    const unsigned count = g_strv_length(o->board);
    struct board_line *line = g_new0(struct board_line, count);
    bool ok = calls != NULL;
    for (unsigned i = 0; ok && i < count; i++) {
        ok = take(o->board[i], &line[i], problem);
    }
    if (ok && o->wait && (count > 1 || line[0].driven)) {
        ok = pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                "--wait waits for one line, which it doesn't drive");
    }
    ok = ok && act(calls, line, count, o, problem);
    for (unsigned i = 0; i < count; i++) {
        if (line[i].open) {
            calls->close(line[i].open);
        }
        g_free(line[i].name);
    }
    g_free(line);
    return ok;
}
