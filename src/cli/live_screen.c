/* The terminal of 'pintle live': keys, the first line and the last two, and when what is drawn. */
#include <curses.h>
#include <langinfo.h>
#include <math.h>
#include <signal.h>
#include <string.h>
#include <unistd.h>

#include "cli/live.h"
#include "pintle/host/base/duration.h"

#define DRAW_US 200000 /* between two pictures; a slow line gets what has changed only */
#define KEY_MS 40      /* how long a key is waited for */
#define LEAST_ROWS 8
#define LEAST_COLUMNS 40

static volatile sig_atomic_t ended;

static void on_signal(int number)
{
    (void)number;
    ended = 1;
}

static const double windows[] = { 30, 120, 600, 3600, 4 * 3600, 86400, 7 * 86400.0 };

void live_paint(const struct live *live, int paint, bool on)
{
    static const attr_t plain[] = { A_NORMAL, A_REVERSE, A_NORMAL, A_NORMAL, A_DIM };
    static const attr_t more[] = { A_NORMAL, A_BOLD, A_NORMAL, A_NORMAL, A_DIM };
    attr_t a = live->colours && paint != PAINT_DIM ? (attr_t)COLOR_PAIR(paint) | more[paint]
                                                   : plain[paint];
    if (on) {
        attron(a);
    } else {
        attroff(a);
    }
}

/* --- the first line and the last two --- */

/* The name as far as there is room before the rest. */
static void put_head(const char *name, const char *rest, int columns)
{
    glong room = MAX(columns - (glong)strlen(rest), 0);
    char *valid = g_utf8_make_valid(name, -1);
    char *start = g_utf8_substring(valid, 0, MIN(g_utf8_strlen(valid, -1), room));
    attron(A_BOLD);
    mvaddstr(0, 0, start);
    addnstr(rest, columns);
    attroff(A_BOLD);
    g_free(start);
    g_free(valid);
}

static void draw_head(const struct live *live, int columns)
{
    char *time = live->rounds ? cli_moment((int64_t)live->time * 1000000, live->local)
                              : g_strdup("no reading yet");
    const struct pintle_run *run = live->logger ? pintle_logger_run(live->logger) : NULL;
    GString *text = g_string_new(NULL);
    g_string_printf(text, "  %s %s", time, live->rounds ? cli_clock_word(live->local) : "");
    if (run) {
        g_string_append_printf(text, "  run %u: %u record%s", run->number, run->records,
                               cli_s(run->records));
    }
    if (live->over_us > 0) {
        char *over = pintle_duration_text(live->over_us);
        g_string_append_printf(text, "  averages over %s", over);
        g_free(over);
    }
    if (live->pace != 1) {
        g_string_append_printf(text, "  x%g", live->pace);
    }
    if (live->failing > 0) {
        g_string_append_printf(text, "  %u sensor%s silent", (unsigned)live->failing,
                               live->failing == 1 ? " is" : "s are");
    }
    g_string_append(text, live->held ? "  HELD" : live->over ? "  THE END" : "");
    put_head(live->name, text->str, columns);
    g_string_free(text, TRUE);
    g_free(time);
}

static void draw_foot(const struct live *live, int rows, int columns)
{
    static const char *const keys[] = { "t table", "o one",      "c change", "d pair",
                                        "b bars",  "a attitude", "w weather" };
    int at = 0;
    move(rows - 2, 0);
    for (unsigned i = 0; i < VIEW_COUNT && at + (int)strlen(keys[i]) < columns; i++) {
        attrset(i == live->view ? A_REVERSE : A_NORMAL);
        addstr(keys[i]);
        attrset(A_NORMAL);
        addstr("  ");
        at += (int)strlen(keys[i]) + 2;
    }
    move(rows - 1, 0);
    if (live->typing) {
        printw("note: %.*s_", columns - 8, live->note);
    } else if (live->said[0]) {
        addnstr(live->said, columns);
    } else {
        live_paint(live, PAINT_DIM, true);
        addnstr("up/down channel  m mark  z zoom  n note  space hold  +/- pace  q quit", columns);
        live_paint(live, PAINT_DIM, false);
    }
}

static void draw(struct live *live)
{
    int rows = 0;
    int columns = 0;
    getmaxyx(stdscr, rows, columns);
    erase();
    if (rows < LEAST_ROWS || columns < LEAST_COLUMNS) {
        mvprintw(0, 0, "%d x %d at least", LEAST_COLUMNS, LEAST_ROWS);
    } else {
        live_draw(live, 1, rows - 3, columns);
        draw_head(live, columns);
        draw_foot(live, rows, columns);
    }
    refresh();
}

/* --- keys --- */

static void end_note(struct live *live)
{
    struct pintle_problem problem = { 0 };
    live->typing = false;
    if (live->note_used > 0 && !live_note(live, live->note, &problem)) {
        g_strlcpy(live->said, problem.text, sizeof live->said);
    } else if (live->note_used > 0) {
        g_snprintf(live->said, sizeof live->said, "noted: %s", live->note);
    }
}

static void type(struct live *live, int key)
{
    bool erases = key == KEY_BACKSPACE || key == 127 || key == 8;
    if (key == '\n' || key == '\r' || key == KEY_ENTER) {
        end_note(live);
    } else if (key == 27) {
        live->typing = false;
    } else if (erases && live->note_used > 0) {
        do { /* a whole character */
            live->note_used--;
        } while (live->note_used > 0
                 && ((unsigned char)live->note[live->note_used] & 0xc0) == 0x80);
    } else if (key >= ' ' && key < 256 && key != 127 && live->note_used + 1 < sizeof live->note) {
        live->note[live->note_used++] = (char)key;
    }
    live->note[live->note_used] = '\0';
}

static void zoom(struct live *live)
{
    unsigned i = 0;
    while (i < G_N_ELEMENTS(windows) && windows[i] <= live->window_s) {
        i++;
    }
    live->window_s = windows[i < G_N_ELEMENTS(windows) ? i : 0];
}

static void change_pace(struct live *live, double by)
{
    if (live->station && !live->station->platform->pass) {
        g_strlcpy(live->said, "time is real here", sizeof live->said);
        return;
    }
    live->pace = CLAMP(live->pace * by, 0.125, 65536);
}

static void begin_note(struct live *live)
{
    live->typing = true;
    live->note_used = 0;
    live->note[0] = '\0';
}

static void choose(struct live *live, int by)
{
    int to = (int)live->selected + by;
    live->selected = live->channels ? (unsigned)CLAMP(to, 0, (int)live->channels - 1) : 0;
}

/* Measuring goes on, and so does a log; only a run that is played back stands still. */
static void hold(struct live *live)
{
    if (live->held) {
        live_release(live);
    } else {
        live->held = true;
    }
}

/* False: it is enough. */
static bool take_key(struct live *live, int key)
{
    static const char views[VIEW_COUNT + 1] = "tocdbaw";
    const char *view = key > 0 && key < 128 ? strchr(views, key) : NULL;
    live->said[0] = '\0';
    if (live->typing) {
        type(live, key);
        return true;
    }
    if (view && *view) {
        live->view = (enum live_view)(view - views);
        return true;
    }
    switch (key) {
    case 'q':
    case 'Q':
        return false;
    case KEY_UP:
    case 'k':
        choose(live, -1);
        break;
    case KEY_DOWN:
    case 'j':
        choose(live, 1);
        break;
    case KEY_PPAGE:
        choose(live, -10);
        break;
    case KEY_NPAGE:
        choose(live, 10);
        break;
    case '\n':
    case KEY_ENTER:
        live->view = live->view == VIEW_ONE ? VIEW_TABLE : VIEW_ONE;
        break;
    case 'm':
        if (live->channels) {
            live->channel[live->selected].marked = !live->channel[live->selected].marked;
        }
        break;
    case 'z':
        zoom(live);
        break;
    case 'n':
        begin_note(live);
        break;
    case ' ':
        hold(live);
        break;
    case '+':
    case '=':
        change_pace(live, 2);
        break;
    case '-':
        change_pace(live, 0.5);
        break;
    case KEY_RESIZE:
        break;
    default:
        g_strlcpy(live->said, "no such key; q quits", sizeof live->said);
        break;
    }
    return true;
}

/* --- the loop --- */

/* Take what is due. Returns whether there is something new. */
static bool advance(struct live *live, gint64 *due_us, struct pintle_problem *problem)
{
    bool any = false;
    gint64 until = g_get_monotonic_time() + DRAW_US / 2; /* however fast it goes, keys are heard */
    bool still = live->held && !live->station;
    while (!live->over && !still && g_get_monotonic_time() >= *due_us
           && g_get_monotonic_time() < until) {
        int64_t wait = live->step(live, problem);
        any = true;
        live->over = wait < 0;
        if (!live->over) {
            gint64 real = (gint64)((double)wait / live->pace);
            *due_us = MAX(*due_us + real, g_get_monotonic_time() - DRAW_US);
        }
    }
    if (still) {
        *due_us = g_get_monotonic_time();
    }
    return any;
}

static bool loop(struct live *live, struct pintle_problem *problem)
{
    gint64 due = g_get_monotonic_time();
    gint64 drawn = 0;
    bool dirty = true;
    for (;;) {
        dirty = advance(live, &due, problem) || dirty;
        bool done = live->over && live->station; /* a run stays to be looked at */
        if (ended || done || problem->text[0]) {
            live->interrupted = ended;
            return problem->text[0] == '\0';
        }
        if (dirty && g_get_monotonic_time() - drawn >= DRAW_US) {
            draw(live);
            drawn = g_get_monotonic_time();
            dirty = false;
        }
        gint64 left = (due - g_get_monotonic_time()) / 1000;
        timeout((int)CLAMP(left, 1, KEY_MS));
        int key = getch();
        if (key != ERR) {
            if (!take_key(live, key)) {
                return true;
            }
            dirty = true;
            drawn = 0;
        } else if (!isatty(STDIN_FILENO)) {
            return true;
        }
        dirty = dirty || live->over;
    }
}

static bool begin_screen(struct live *live, struct pintle_problem *problem)
{
    if (!newterm(NULL, stdout, stdin)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "nobody here knows a terminal '%s'; set TERM to what it is like, "
                                  "as in TERM=xterm, or take 'pintle log'",
                                  g_getenv("TERM") ? g_getenv("TERM") : "");
    }
    live->braille = strcmp(nl_langinfo(CODESET), "UTF-8") == 0;
    cbreak();
    noecho();
    keypad(stdscr, TRUE);
    set_escdelay(50);
    curs_set(0);
    live->colours = !g_getenv("NO_COLOR") && has_colors();
    if (live->colours) {
        start_color();
        use_default_colors();
        init_pair(PAINT_BAD, COLOR_RED, -1);
        init_pair(PAINT_GOOD, COLOR_GREEN, -1);
        init_pair(PAINT_LINE, COLOR_CYAN, -1);
    }
    return true;
}

bool live_run(struct live *live, struct pintle_problem *problem)
{
    static const int numbers[] = { SIGINT, SIGTERM, SIGHUP };
    struct sigaction action = { .sa_handler = on_signal };
    if (!isatty(STDOUT_FILENO) || !isatty(STDIN_FILENO)) {
        return pintle_problem_set(problem, PINTLE_FAILURE_USE,
                                  "live draws on a terminal, and this is none; 'pintle log' prints "
                                  "lines");
    }
    if (!begin_screen(live, problem)) {
        return false;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(numbers); i++) {
        sigaction(numbers[i], &action, NULL);
    }
    bool ok = loop(live, problem);
    endwin();
    return ok;
}
