/* Tables: every channel, and what each changed since it began. */
#include <curses.h>
#include <math.h>
#include <string.h>

#include "cli/live.h"
#include "pintle/host/base/duration.h"

#define VALUE_WIDTH 8

/* No wider than a column, as long as only places behind the point go. */
char *live_value(const struct live_channel *c, double base, unsigned extra)
{
    char *text = cli_number(&c->column, c->unit, pintle_trail_shown(&c->trail, base), extra);
    char *point = strchr(text, '.');
    if (point && strlen(text) > VALUE_WIDTH) {
        text[MAX((size_t)(point - text), VALUE_WIDTH)] = '\0';
    }
    if (!text[0]) {
        g_free(text);
        return g_strdup("-");
    }
    return text;
}

const char *live_unit(const struct live_channel *c)
{
    return pintle_unit_symbol(c->unit);
}

char *live_marks(const struct live_channel *c)
{
    return pintle_marks_text(c->trail.quality);
}

static bool is_good(const struct live_channel *c)
{
    return c->trail.used == 0 || c->trail.last.good;
}

/* Eight heights of a cell, or of what ASCII has. */
static const char *step_text(const struct live *live, double share)
{
    static const char *const blocks[] = { "▁", "▂", "▃", "▄", "▅", "▆", "▇", "█" };
    static const char *const signs[] = { "_", ".", "-", "=", "+", "*", "^", "#" };
    unsigned i = (unsigned)CLAMP((int)(share * 8), 0, 7);
    return live->braille ? blocks[i] : signs[i];
}

/* How finely it is worth looking: some four of its steps make the whole height. */
static double least_span(const struct live_channel *c)
{
    return 4 * pow(10, -(double)c->column.decimals);
}

static void draw_trace(const struct live *live, const struct live_channel *c, int width)
{
    const struct pintle_trail *t = &c->trail;
    unsigned count = MIN(t->used, (unsigned)MAX(width, 0));
    double low = 0;
    double high = 1;
    if (count == 0) {
        return;
    }
    pintle_trail_ends(t, pintle_trail_at(t, t->used - count)->time, least_span(c), &low, &high);
    live_paint(live, PAINT_LINE, true);
    for (unsigned i = t->used - count; i < t->used; i++) {
        const struct pintle_trail_point *p = pintle_trail_at(t, i);
        addstr(p->good ? step_text(live, (p->value - low) / (high - low)) : " ");
    }
    live_paint(live, PAINT_LINE, false);
}

/* The selected line stays in sight. */
static void scroll_to(struct live *live, unsigned lines)
{
    live->first = live->selected < live->first ? live->selected : live->first;
    live->first = live->selected >= live->first + lines ? live->selected - lines + 1 : live->first;
}

static void begin_row(const struct live *live, unsigned k, int y)
{
    mvaddstr(y, 0, k == live->selected ? ">" : " ");
    addstr(live->channel[k].marked ? "*" : " ");
    printw("%-20.20s ", live->channel[k].column.name);
}

static void put_marked(const struct live *live, bool bad, const char *format, const char *text)
{
    live_paint(live, PAINT_BAD, bad);
    printw(format, text);
    live_paint(live, PAINT_BAD, false);
    attrset(A_NORMAL);
}

static void draw_row(const struct live *live, unsigned k, int y, int columns)
{
    const struct live_channel *c = &live->channel[k];
    char *value = live_value(c, c->trail.last.value, 0);
    char *least = live_value(c, c->trail.least, 0);
    char *greatest = live_value(c, c->trail.greatest, 0);
    char *marks = live_marks(c);
    begin_row(live, k, y);
    put_marked(live, !is_good(c), "%9s", value);
    printw(" %-6.6s", live_unit(c));
    put_marked(live, !is_good(c), "%-9.9s", marks);
    printw(" %8s %8s ", least, greatest);
    draw_trace(live, c, columns - getcurx(stdscr) - 1);
    g_free(value);
    g_free(least);
    g_free(greatest);
    g_free(marks);
}

static void draw_heading(int top, const char *text, int columns)
{
    attron(A_UNDERLINE);
    mvaddnstr(top, 0, text, columns);
    attroff(A_UNDERLINE);
}

static void draw_table(struct live *live, int top, int rows, int columns)
{
    draw_heading(top, "  channel                  value unit  mark         least greatest  lately",
                 columns);
    scroll_to(live, (unsigned)rows - 1);
    for (unsigned k = live->first; k < live->channels && k < live->first + (unsigned)rows - 1;
         k++) {
        draw_row(live, k, top + 1 + (int)(k - live->first), columns);
    }
}

/* --- changes --- */

static char *settle_text(const struct live *live, const struct live_channel *c)
{
    double within = pow(10, -(double)c->column.decimals) * 2;
    struct pintle_settle s = pintle_trail_settle(&c->trail, live->window_s, within);
    char *time = pintle_duration_about((int64_t)(fmin(s.seconds, 1e6) * 1e6));
    char *by = cli_difference(&c->column, c->unit, s.by, 0);
    char *rate = cli_difference(&c->column, c->unit, s.by * 60, 1);
    char *text = NULL;
    switch (s.kind) {
    case PINTLE_SETTLE_STEADY:
        text = g_strdup("steady");
        break;
    case PINTLE_SETTLE_SOON:
        text = g_strdup_printf("settles in %s, by another %s", time, by);
        break;
    case PINTLE_SETTLE_MOVING:
        text = g_strdup_printf("moving, %s a minute", rate);
        break;
    default:
        text = g_strdup("");
        break;
    }
    g_free(time);
    g_free(by);
    g_free(rate);
    return text;
}

static void draw_change(const struct live *live, unsigned k, int y, int columns)
{
    const struct live_channel *c = &live->channel[k];
    const struct pintle_trail *t = &c->trail;
    double since = t->last.good ? t->last.value - t->first : (double)NAN;
    if (c->column.quantity == PINTLE_QUANTITY_ANGLE) {
        since -= 360 * round(since / 360);
    }
    char *now = live_value(c, t->last.value, 0);
    char *by = cli_difference(&c->column, c->unit, since, 0);
    char *settle = settle_text(live, c);
    begin_row(live, k, y);
    put_marked(live, !is_good(c), "%9s", now);
    printw(" %-6.6s %s%9s  ", live_unit(c), since > 0 ? "+" : " ", by[0] ? by : "-");
    addnstr(settle, MAX(columns - getcurx(stdscr) - 1, 0));
    g_free(now);
    g_free(by);
    g_free(settle);
}

static void draw_changes(struct live *live, int top, int rows, int columns)
{
    draw_heading(top, "  channel                    now unit     changed  what it does", columns);
    scroll_to(live, (unsigned)rows - 1);
    for (unsigned k = live->first; k < live->channels && k < live->first + (unsigned)rows - 1;
         k++) {
        draw_change(live, k, top + 1 + (int)(k - live->first), columns);
    }
}

/* --- a graph with its scale --- */

void live_graph(const struct live *live, const struct live_channel *c,
                const struct pintle_trail *trail, int top, int rows, int columns)
{
    double oldest = trail->used ? pintle_trail_at(trail, 0)->time : 0;
    double window =
        fmin(live->window_s, fmax(trail->last.time - oldest, 10 * fmax(live->usual_s, 0.1)));
    double since = trail->last.time - window;
    double low = 0;
    double high = 1;
    int left = 11;
    if (rows < 2 || columns < left + 8) {
        return;
    }
    if (!pintle_trail_ends(trail, since, least_span(c), &low, &high)) {
        mvaddstr(top, left, "no good reading yet");
        return;
    }
    struct pintle_dots dots;
    pintle_dots_init(&dots, (unsigned)(columns - left - 1), (unsigned)rows - 1);
    pintle_dots_trail(&dots, trail, since, low, high, 2.5 * live->usual_s);
    for (int y = 0; y < rows - 1; y++) {
        bool labelled = y == 0 || y == rows - 2 || y == (rows - 2) / 2;
        double value = high - (high - low) * (y + 0.5) / (rows - 1);
        char *label = labelled ? live_value(c, value, 1) : g_strdup("");
        mvprintw(top + y, 0, "%10s%s", label, labelled ? "-" : " ");
        g_free(label);
        live_paint(live, PAINT_LINE, true);
        for (unsigned x = 0; x < dots.columns; x++) {
            char text[4];
            pintle_dots_text(dots.cell[(unsigned)y * dots.columns + x], live->braille, text);
            addstr(text);
        }
        live_paint(live, PAINT_LINE, false);
    }
    char *ago = pintle_duration_about((int64_t)(window * 1e6));
    live_paint(live, PAINT_DIM, true);
    mvprintw(top + rows - 1, left, "%s ago", ago);
    mvaddstr(top + rows - 1, columns - 5, "now");
    live_paint(live, PAINT_DIM, false);
    g_free(ago);
    pintle_dots_free(&dots);
}

/* --- one, large --- */

/* Digits of three by five. */
static const char *const large[] = {
    "###", "# #", "# #", "# #", "###", /* 0 */
    "  #", "  #", "  #", "  #", "  #", "###", "  #", "###", "#  ", "###", "###", "  #",
    "###", "  #", "###", "# #", "# #", "###", "  #", "  #", "###", "#  ", "###", "  #",
    "###", "###", "#  ", "###", "# #", "###", "###", "  #", "  #", "  #", "  #", "###",
    "# #", "###", "# #", "###", "###", "# #", "###", "  #", "###"
};

static int draw_large(const struct live *live, const char *text, int top, int left)
{
    for (; *text; text++) {
        bool digit = *text >= '0' && *text <= '9';
        for (int y = 0; y < 5; y++) {
            const char *row = digit          ? large[(*text - '0') * 5 + y]
                              : *text == '-' ? (y == 2 ? "###" : "   ")
                                             : (y == 4 ? "#" : " ");
            for (int x = 0; row[x]; x++) {
                mvaddstr(top + y, left + x, row[x] == ' ' ? " " : live->braille ? "█" : "#");
            }
        }
        left += digit || *text == '-' ? 4 : 2;
    }
    return left;
}

void live_draw_one(struct live *live, int top, int rows, int columns)
{
    const struct live_channel *c = &live->channel[live->selected];
    const struct pintle_trail *t = &c->trail;
    char *value = live_value(c, t->last.value, 0);
    char *least = live_value(c, t->least, 0);
    char *greatest = live_value(c, t->greatest, 0);
    char *marks = live_marks(c);
    char *settle = settle_text(live, c);
    live_paint(live, PAINT_BAD, !is_good(c));
    int right = rows >= 14 ? draw_large(live, value, top + 1, 2) + 1 : 2;
    live_paint(live, PAINT_BAD, false);
    attrset(A_NORMAL);
    if (rows < 14) {
        mvaddstr(top + 1, right, value);
        right += (int)strlen(value) + 1;
    }
    mvprintw(top, 2, "%s", c->column.name);
    mvaddnstr(top + 1, right, live_unit(c), MAX(columns - right, 0));
    if (marks[0]) {
        put_marked(live, !is_good(c), "  %s", marks);
    }
    right += 8;
    mvprintw(top + 2, right, "least %s  greatest %s", least, greatest);
    mvaddnstr(top + 3, right, settle, MAX(columns - right, 0));
    if (t->suspect > 0) {
        mvprintw(top + 4, right, "%u of %u readings suspect", (unsigned)t->suspect,
                 (unsigned)(t->suspect + t->good));
    }
    int used = rows >= 14 ? 7 : 5;
    live_graph(live, c, t, top + used, rows - used, columns);
    g_free(value);
    g_free(least);
    g_free(greatest);
    g_free(marks);
    g_free(settle);
}

void live_draw(struct live *live, int top, int rows, int columns)
{
    static void (*const views[])(struct live *, int, int,
                                 int) = { draw_table,       live_draw_one,  draw_changes,
                                          live_draw_pair,   live_draw_bars, live_draw_attitude,
                                          live_draw_weather };
    if (live->channels == 0) {
        mvaddstr(top, 0, "nothing is measured");
        return;
    }
    views[live->view](live, top, rows, columns);
}
