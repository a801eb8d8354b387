/* How far something is, once it takes longer than a second, and on a terminal only; Ctrl-C gives it
 * up. */
#include <signal.h>
#include <stdarg.h>
#include <stdio.h>
#include <unistd.h>

#include "cli/past.h"

static bool there; /* a line of it */

/* A terminal, and nobody else's at the moment: a job in the background keeps still. */
static bool is_mine(void)
{
    return isatty(STDERR_FILENO) && tcgetpgrp(STDERR_FILENO) == getpgrp();
}

void cli_progress(const char *format, ...)
{
    va_list args;
    if (!is_mine()) {
        return;
    }
    va_start(args, format);
    fputs("\r\033[K", stderr);
    vfprintf(stderr, format, args);
    fflush(stderr);
    va_end(args);
    there = true;
}

void cli_progress_clear(void)
{
    if (there) {
        fputs("\r\033[K", stderr);
        there = false;
    }
}

#define QUIET_US 1000000 /* nobody wants to be told */
#define APART_US 200000  /* between two lines of it */

static struct {
    const char *what;
    gint64 began_us, told_us;
} watched;
static volatile sig_atomic_t given_up;

static void on_interrupt(int number)
{
    (void)number;
    given_up = 1;
}

static bool step(void *context, double share)
{
    gint64 now = g_get_monotonic_time();
    (void)context;
    if (now - watched.began_us > QUIET_US && now - watched.told_us > APART_US) {
        double left = share > 0 ? (double)(now - watched.began_us) / 1e6 * (1 - share) / share : 0;
        cli_progress("%s: %3.0f %%, %.0f s to go (Ctrl-C gives up)", watched.what, 100 * share,
                     left);
        watched.told_us = now;
    }
    return !given_up;
}

struct pintle_progress cli_watch_progress(const char *what)
{
    struct sigaction action = { .sa_handler = on_interrupt };
    watched.what = what;
    watched.began_us = g_get_monotonic_time();
    given_up = 0;
    sigaction(SIGINT, &action, NULL);
    return (struct pintle_progress){ .step = step };
}

void cli_end_progress(void)
{
    struct sigaction usual = { .sa_handler = SIG_DFL };
    sigaction(SIGINT, &usual, NULL);
    cli_progress_clear();
}

bool cli_goes_on(const struct pintle_progress *progress, double share, const char *left,
                 struct pintle_problem *problem)
{
    return progress->step(progress->context, share)
           || pintle_problem_set(problem, PINTLE_FAILURE_UNABLE, "stopped; %s", left);
}
