#include "board.h"

#include <math.h>
#include <poll.h>
#include <stdarg.h>
#include <stdio.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <sys/wait.h>
#include <unistd.h>

#define BOOT_S 600  /* 6 on a quiet machine, 91 were seen on a busy one */
#define PATIENCE 10 /* limits of commands are those of a quiet machine */

void expect(int holds, const char *file, unsigned line, const char *format, ...)
{
    char text[1500];
    va_list args;
    va_start(args, format);
    vsnprintf(text, sizeof text, format, args);
    va_end(args);
    if (CU_get_current_test()) {
        CU_assertImplementation(holds, line, text, file, "", CU_FALSE);
    } else if (!holds) { /* a suite is being set up */
        printf("%s\n", text);
    }
}

static void type(const struct board *board, const char *text)
{
    for (size_t left = strlen(text); left > 0;) {
        ssize_t sent = write(board->in, text, left);
        if (sent <= 0) {
            return;
        }
        text += sent;
        left -= (size_t)sent;
    }
}

/* The emulator ends with the tests, however they end. */
static void bind_to_parent(gpointer nothing)
{
    (void)nothing;
    prctl(PR_SET_PDEATHSIG, SIGKILL);
}

/* Say once why this machine can't be used any longer; what is still to be tried fails at once. */
/* One line to the emulator, and its answer, past whatever it tells unasked. */
static void tell(const struct board *board, const char *line, char *answer, size_t room)
{
    struct pollfd wait = { .fd = board->monitor, .events = POLLIN };
    size_t used = 0;
    answer[0] = '\0';
    if (board->monitor < 0 || write(board->monitor, line, strlen(line)) < 0) {
        return;
    }
    while (used < room - 1 && poll(&wait, 1, 60000) > 0
           && read(board->monitor, answer + used, 1) > 0) {
        answer[++used] = '\0';
        if (answer[used - 1] == '\n') {
            if (strstr(answer, "\"return\"") || strstr(answer, "\"error\"")) {
                return;
            }
            used = 0;
        }
    }
}

static void told(const struct board *board, const char *line)
{
    char answer[4096];
    tell(board, line, answer, sizeof answer);
    EXPECT(!strstr(answer, "\"error\""), "the emulator says to %s: %s", line, answer);
}

/* Where its processors are: whether it waits, or runs in circles. */
static void tell_where(const struct board *board)
{
    char answer[16384];
    tell(board,
         "{\"execute\":\"human-monitor-command\",\"arguments\":{\"command-line\":"
         "\"info registers -a\"}}\n",
         answer, sizeof answer);
    for (const char *at = answer; (at = strstr(at, "R15=")) != NULL; at++) {
        printf("    a processor is at %.12s\n", at);
    }
}

static void lose(struct board *board, const char *format, const char *what)
{
    if (!board->lost) {
        board->lost = g_strdup_printf(format, what);
        printf("    THE MACHINE IS LOST: %s\n", board->lost);
        tell_where(board);
    }
}

/* What came up to `until`, which is taken with it; NULL where it doesn't come in time. */
static char *hear(struct board *board, const char *until, int seconds)
{
    gint64 end = g_get_monotonic_time() + (gint64)seconds * 1000000;
    for (;;) {
        const char *found = strstr(board->heard->str, until);
        if (found) {
            char *text = g_strndup(board->heard->str, (gsize)(found - board->heard->str));
            g_string_erase(board->heard, 0, found - board->heard->str + (gssize)strlen(until));
            return text;
        }
        gint64 left = end - g_get_monotonic_time();
        struct pollfd wait = { .fd = board->out, .events = POLLIN };
        char bytes[4096];
        ssize_t got = left > 0 && poll(&wait, 1, (int)(left / 1000) + 1) > 0
                          ? read(board->out, bytes, sizeof bytes)
                          : -1;
        if (got == 0) {
            lose(board, "its emulator ended while it was to say '%s'", until);
        }
        if (got <= 0) {
            return NULL;
        }
        for (ssize_t i = 0; i < got; i++) {
            if (bytes[i] != '\r' && bytes[i] != '\0') {
                g_string_append_c(board->heard, bytes[i]);
            }
        }
    }
}

static int connect_to(const char *path)
{
    struct sockaddr_un address = { .sun_family = AF_UNIX };
    const struct timeval limit = { BOOT_S, 0 };
    int file = socket(AF_UNIX, SOCK_STREAM, 0);
    setsockopt(file, SOL_SOCKET, SO_RCVTIMEO, &limit, sizeof limit);
    g_strlcpy(address.sun_path, path, sizeof address.sun_path);
    for (int i = 0; i < 20 * BOOT_S; i++) {
        if (connect(file, (const struct sockaddr *)&address, sizeof address) == 0) {
            return file;
        }
        g_usleep(50000);
    }
    close(file);
    return -1;
}

bool board_boot(struct board *board, char **words)
{
    char *socket_path = g_strdup_printf("/tmp/pintle-board-%d", (int)getpid());
    char *monitor = g_strdup_printf("unix:%s,server=on,wait=off", socket_path);
    GPtrArray *all = g_ptr_array_new();
    static const char *const common[] = { "-display", "none",       "-serial", "stdio", "-monitor",
                                          "none",     "-no-reboot", "-net",    "none",  "-qmp" };
    for (; *words; words++) {
        g_ptr_array_add(all, *words);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(common); i++) {
        g_ptr_array_add(all, (char *)(uintptr_t)common[i]);
    }
    g_ptr_array_add(all, monitor);
    g_ptr_array_add(all, NULL);
    board->heard = g_string_new(NULL);
    board->lost = NULL;
    board->commands = 0;
    board->began_us = g_get_monotonic_time();
    GError *error = NULL;
    bool ok = g_spawn_async_with_pipes(
        NULL, (char **)all->pdata, NULL,
        G_SPAWN_SEARCH_PATH | G_SPAWN_STDERR_TO_DEV_NULL | G_SPAWN_DO_NOT_REAP_CHILD,
        bind_to_parent, NULL, &board->pid, &board->in, &board->out, NULL, &error);
    EXPECT(ok, "the emulator does not start: %s", ok ? "" : error->message);
    board->monitor = ok ? connect_to(socket_path) : -1;
    told(board, "{\"execute\":\"qmp_capabilities\"}\n");
    unlink(socket_path);
    g_ptr_array_free(all, TRUE);
    g_free(monitor);
    g_free(socket_path);
    return ok;
}

bool board_ready(struct board *board)
{
    char *ready = hear(board, "@@READY\n", BOOT_S);
    board->began_us = g_get_monotonic_time() - board->began_us;
    if (!ready) {
        char *said = g_strdelimit(g_strndup(board->heard->str, 200), "\n", ' ');
        lose(board, "its shell was not there after " G_STRINGIFY(BOOT_S) " s; it had said '%s'",
             said);
        g_free(said);
        return false;
    }
    struct answer prompt =
        board_run(board, BOOT_S / PATIENCE, "true"); /* what the shell says unasked */
    answer_free(&prompt);
    g_free(ready);
    return !board->lost;
}

void board_off(struct board *board)
{
    kill(board->pid, SIGKILL);
    waitpid(board->pid, NULL, 0);
    close(board->in);
    close(board->out);
    if (board->monitor >= 0) {
        close(board->monitor);
    }
    g_string_free(board->heard, TRUE);
    g_free(board->lost);
}

void board_begin(struct board *board, const char *command)
{
    char *line =
        g_strdup_printf("{ %s\n} 2>&1; echo \"@@\"\"END%u $?\"\n", command, ++board->commands);
    g_strlcpy(board->command, command, sizeof board->command);
    if (!board->lost) {
        type(board, line);
    }
    g_free(line);
}

struct answer board_end(struct board *board, int seconds)
{
    char *end = g_strdup_printf("@@END%u ", board->commands);
    char *text = board->lost ? NULL : hear(board, end, seconds * PATIENCE);
    char *status = text ? hear(board, "\n", BOOT_S) : NULL;
    if (!status) {
        lose(board, "no answer to '%s' in time", board->command);
    }
    struct answer answer = { status ? atoi(status) : -1, text ? text : g_strdup(board->lost) };
    g_free(status);
    g_free(end);
    return answer;
}

bool board_hears(struct board *board, const char *text)
{
    char bytes[4096];
    struct pollfd wait = { .fd = board->out, .events = POLLIN };
    ssize_t got = poll(&wait, 1, 500) > 0 ? read(board->out, bytes, sizeof bytes) : 0;
    for (ssize_t i = 0; i < got; i++) {
        if (bytes[i] != '\r' && bytes[i] != '\0') {
            g_string_append_c(board->heard, bytes[i]);
        }
    }
    return strstr(board->heard->str, text) != NULL;
}

unsigned board_watch(struct board *board, const char *with, unsigned count)
{
    unsigned seen = 0;
    char *line = NULL;
    while (seen < count && !board->lost && (line = hear(board, "\n", BOOT_S)) != NULL) {
        seen += strstr(line, with) != NULL;
        g_free(line);
    }
    return seen;
}

struct answer board_run(struct board *board, int seconds, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *command = g_strdup_vprintf(format, args);
    va_end(args);
    board_begin(board, command);
    g_free(command);
    return board_end(board, seconds);
}

void answer_free(struct answer *answer)
{
    g_free(answer->text);
}

void board_expect(struct board *board, const char *command, int status, const char *texts)
{
    gint64 began = g_get_monotonic_time();
    struct answer answer = board_run(board, 60, "%s", command);
    char **each = g_strsplit(texts, "|", -1);
    printf("    $ %s   (%.1f s)\n", command, (double)(g_get_monotonic_time() - began) / 1e6);
    EXPECT(answer.status == status, "%s: status %d\n%s", command, answer.status, answer.text);
    for (unsigned i = 0; each[i]; i++) {
        bool unwanted = each[i][0] == '!';
        const char *found = strstr(answer.text, each[i] + unwanted);
        EXPECT(!found == unwanted, "%s: %s '%s'\n%s", command, unwanted ? "has" : "lacks",
               each[i] + unwanted, answer.text);
        if (found && !unwanted) {
            const char *from = found;
            while (from > answer.text && from[-1] != '\n') {
                from--;
            }
            printf("      %.*s\n", (int)MIN(strcspn(from, "\n"), 150), from);
        }
    }
    g_strfreev(each);
    answer_free(&answer);
}

void board_write(struct board *board, const char *path, const char *text)
{
    struct answer answer =
        board_run(board, 10, "cat > %s <<'ENDOFFILE'\n%s\nENDOFFILE\ntrue", path, text);
    EXPECT(answer.status == 0, "%s cannot be written: %s", path, answer.text);
    answer_free(&answer);
}

void board_set(struct board *board, const char *path, const char *property, const char *value)
{
    char *line = g_strdup_printf("{\"execute\":\"qom-set\",\"arguments\":{\"path\":\"%s\","
                                 "\"property\":\"%s\",\"value\":%s}}\n",
                                 path, property, value);
    told(board, line);
    g_free(line);
}

double number_after(const char *text, const char *before)
{
    const char *found = strstr(text, before);
    return found ? g_ascii_strtod(found + strlen(before), NULL) : (double)NAN;
}
