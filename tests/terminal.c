#include "terminal.h"

#include <pty.h>
#include <signal.h>
#include <sys/ioctl.h>
#include <sys/wait.h>
#include <unistd.h>

#define PATIENCE_US (40 * G_USEC_PER_SEC)

void sit_down_at(struct terminal *t, const char *folder, const char *arguments, unsigned rows,
                 unsigned columns, const char *environment)
{
    struct winsize size = { .ws_row = (unsigned short)rows, .ws_col = (unsigned short)columns };
    char *line = g_strdup_printf("cd %s && %s exec %s %s", folder, environment, TOOL, arguments);
    *t = (struct terminal){ .said = g_string_new(NULL), .rows = rows, .columns = columns };
    memset(t->cell, 0, sizeof t->cell);
    for (unsigned r = 0; r < SCREEN_ROWS; r++) {
        memset(t->cell[r], ' ', SCREEN_COLUMNS);
    }
    t->child = forkpty(&t->file, NULL, NULL, rows ? &size : NULL);
    if (t->child == 0) {
        execl("/bin/sh", "sh", "-c", line, (char *)NULL);
        _exit(127);
    }
    g_free(line);
}

void sit_down(struct terminal *t, const char *folder, const char *arguments)
{
    sit_down_at(t, folder, arguments, 0, 0, "");
}

/* --- the screen: what a VT100 makes of it (ECMA-48) --- */

static unsigned number(const char *sequence, unsigned which, unsigned usual)
{
    const char *at = sequence;
    for (; which > 0 && at; which--) {
        at = strchr(at, ';');
        at = at ? at + 1 : NULL;
    }
    unsigned value = at ? (unsigned)strtoul(at, NULL, 10) : 0;
    return value > 0 ? value : usual;
}

static void erase(struct terminal *t, unsigned row, unsigned from, unsigned to)
{
    if (row < SCREEN_ROWS && from < to && to <= SCREEN_COLUMNS) {
        memset(&t->cell[row][from], ' ', to - from);
    }
}

static void write_cell(struct terminal *t, char byte)
{
    if (t->row < SCREEN_ROWS && t->column < SCREEN_COLUMNS) {
        t->cell[t->row][t->column] = byte;
    }
    t->column++;
    t->last = byte;
}

/* Characters behind the cursor go, or make room. */
static void shift(struct terminal *t, unsigned by, bool insert)
{
    if (t->row >= SCREEN_ROWS || t->column + by >= t->columns) {
        return;
    }
    char *at = &t->cell[t->row][t->column];
    size_t rest = t->columns - t->column - by;
    memmove(insert ? at + by : at, insert ? at : at + by, rest);
    memset(insert ? at : at + rest, ' ', by);
}

static void obey(struct terminal *t, char final)
{
    const char *numbers = t->escape + 1;
    unsigned kind = numbers[0] >= '0' && numbers[0] <= '9' ? number(numbers, 0, 0) : 0;
    switch (final) {
    case 'H':
        t->row = number(numbers, 0, 1) - 1;
        t->column = number(numbers, 1, 1) - 1;
        break;
    case 'A':
        t->row -= MIN(t->row, number(numbers, 0, 1));
        break;
    case 'B':
        t->row += number(numbers, 0, 1);
        break;
    case 'C':
        t->column += number(numbers, 0, 1);
        break;
    case 'D':
        t->column -= MIN(t->column, number(numbers, 0, 1));
        break;
    case 'K':
        erase(t, t->row, kind == 1 ? 0 : t->column, kind == 1 ? t->column + 1 : SCREEN_COLUMNS);
        break;
    case 'J':
        erase(t, t->row, kind == 0 ? t->column : 0, SCREEN_COLUMNS);
        for (unsigned r = 0; r < SCREEN_ROWS; r++) {
            if (kind == 2 || (kind == 0 && r > t->row)) {
                erase(t, r, 0, SCREEN_COLUMNS);
            }
        }
        break;
    case 'G':
        t->column = number(numbers, 0, 1) - 1;
        break;
    case 'd':
        t->row = number(numbers, 0, 1) - 1;
        break;
    case 'X':
        erase(t, t->row, t->column, t->column + number(numbers, 0, 1));
        break;
    case 'P':
    case '@':
        shift(t, number(numbers, 0, 1), final == '@');
        break;
    case 'b': /* the last one again */
        for (unsigned n = number(numbers, 0, 1); n > 0; n--) {
            write_cell(t, t->last);
        }
        break;
    default: /* colours, modes */
        break;
    }
}

/* True: the byte belonged to a sequence. */
static bool in_sequence(struct terminal *t, char byte)
{
    if (t->escaped == 0) {
        t->escaped = byte == 27;
        return byte == 27;
    }
    t->escape[t->escaped - 1] = byte;
    t->escape[t->escaped] = '\0';
    bool control = t->escape[0] == '[';
    bool ends = control ? t->escaped > 1 && byte >= '@' : !strchr("()#", byte);
    if (ends && control) {
        obey(t, byte);
    }
    t->escaped = ends || t->escaped + 2 >= sizeof t->escape ? 0 : t->escaped + 1;
    return true;
}

static void put(struct terminal *t, char byte)
{
    unsigned char u = (unsigned char)byte;
    if (t->more > 0) { /* inside a character of UTF-8 */
        t->more--;
        return;
    }
    if (in_sequence(t, byte)) {
        return;
    }
    if (byte == '\r') {
        t->column = 0;
    } else if (byte == '\n') {
        t->row++;
    } else if (byte == '\t') {
        t->column = (t->column / 8 + 1) * 8;
    } else if (byte == '\b') {
        t->column -= t->column > 0;
    } else if (u >= 32) {
        t->more = u >= 0xf0 ? 3 : u >= 0xe0 ? 2 : u >= 0xc0 ? 1 : 0;
        write_cell(t, u < 127 ? byte : '?');
    }
}

/* --- waiting --- */

/* Take what has come within a fifth of a second. False: it has ended. */
static bool hear(struct terminal *t)
{
    char bytes[4096];
    GPollFD in = { .fd = t->file, .events = G_IO_IN };
    if (g_poll(&in, 1, 200) <= 0) {
        return true;
    }
    ssize_t got = read(t->file, bytes, sizeof bytes);
    for (ssize_t i = 0; i < got; i++) {
        put(t, bytes[i]);
    }
    g_string_append_len(t->said, bytes, MAX(got, 0));
    return got > 0;
}

bool wait_for(struct terminal *t, const char *text)
{
    gint64 until = g_get_monotonic_time() + PATIENCE_US;
    while (!(text[0] && strstr(t->said->str, text)) && g_get_monotonic_time() < until) {
        if (!hear(t)) {
            return !text[0] || strstr(t->said->str, text);
        }
    }
    return text[0] != '\0' && strstr(t->said->str, text);
}

void expect_on(struct terminal *t, const char *text)
{
    EXPECT(wait_for(t, text), "no '%s' in: %s", text, t->said->str);
}

bool on_screen(const struct terminal *t, const char *text)
{
    for (unsigned r = 0; r < SCREEN_ROWS; r++) {
        if (strstr(t->cell[r], text)) {
            return true;
        }
    }
    return false;
}

static char *screen_text(const struct terminal *t)
{
    GString *text = g_string_new("\n");
    for (unsigned r = 0; r < t->rows; r++) {
        g_string_append_printf(text, "|%.*s\n", (int)t->columns, t->cell[r]);
    }
    return g_string_free(text, FALSE);
}

bool wait_for_line(struct terminal *t, const char *text)
{
    gint64 until = g_get_monotonic_time() + PATIENCE_US;
    while (!on_screen(t, text) && g_get_monotonic_time() < until && hear(t)) {
    }
    return on_screen(t, text);
}

void expect_line(struct terminal *t, const char *text)
{
    bool there = wait_for_line(t, text);
    char *screen = screen_text(t);
    EXPECT(there, "no '%s' on:%s", text, screen);
    g_free(screen);
}

void expect_gone(struct terminal *t, const char *text)
{
    gint64 until = g_get_monotonic_time() + PATIENCE_US;
    while (on_screen(t, text) && g_get_monotonic_time() < until && hear(t)) {
    }
    EXPECT(!on_screen(t, text), "'%s' stays", text);
}

void type(const struct terminal *t, const char *text)
{
    if (write(t->file, text, strlen(text)) < 0) {
        EXPECT(0, "typing '%s'", text);
    }
}

void resize(struct terminal *t, unsigned rows, unsigned columns)
{
    struct winsize size = { .ws_row = (unsigned short)rows, .ws_col = (unsigned short)columns };
    t->rows = rows;
    t->columns = columns;
    ioctl(t->file, TIOCSWINSZ, &size);
}

int stand_up(struct terminal *t)
{
    int status = 0;
    wait_for(t, "");
    waitpid(t->child, &status, 0);
    close(t->file);
    return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
}
