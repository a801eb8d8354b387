/* Two beside each other, bars, the attitude, the weather. */
#include <curses.h>
#include <math.h>
#include <string.h>

#include "cli/live.h"
#include "pintle/host/base/duration.h"
#include "pintle/derive.h"

static bool is_good(const struct live_channel *c)
{
    return c->trail.used > 0 && c->trail.last.good;
}

/* --- a pair --- */

static bool equal(const struct live_channel *a, const struct live_channel *b)
{
    return a->column.quantity == b->column.quantity && a->column.quantity != PINTLE_QUANTITY_COUNT;
}

/* The selected one, or the first marked one, and the marked one or the next of its quantity. */
bool live_pair(const struct live *live, unsigned *a, unsigned *b)
{
    unsigned marked[2];
    unsigned count = 0;
    for (unsigned k = 0; k < live->channels && count < 2; k++) {
        if (live->channel[k].marked) {
            marked[count++] = k;
        }
    }
    *a = count > 0 ? marked[0] : live->selected;
    if (count == 2) {
        *b = marked[1];
        return equal(&live->channel[*a], &live->channel[*b]);
    }
    for (unsigned i = 1; i < live->channels; i++) {
        *b = (*a + i) % live->channels;
        if (equal(&live->channel[*a], &live->channel[*b])) {
            return true;
        }
    }
    return false;
}

/* The differences of those points that both have. */
static struct pintle_trail difference_of(const struct live_channel *a, const struct live_channel *b)
{
    struct pintle_trail trail;
    unsigned count = MIN(a->trail.used, b->trail.used);
    pintle_trail_init(&trail, a->column.quantity, LIVE_TRAIL);
    for (unsigned i = 0; i < count; i++) {
        const struct pintle_trail_point *p = pintle_trail_at(&a->trail, a->trail.used - count + i);
        const struct pintle_trail_point *q = pintle_trail_at(&b->trail, b->trail.used - count + i);
        double by = p->value - q->value;
        if (a->column.quantity == PINTLE_QUANTITY_ANGLE) {
            by -= 360 * round(by / 360);
        }
        struct pintle_cell cell = pintle_cell_empty();
        cell.value = cell.least = cell.greatest = by;
        cell.good = p->good && q->good;
        pintle_trail_add(&trail, p->time, &cell);
    }
    return trail;
}

/* Kelvin, and the like: a difference has no zero of its own. */
static struct live_channel as_difference(const struct live_channel *a)
{
    struct live_channel c = *a;
    c.trail.below = true; /* it may be either way */
    if (c.column.quantity == PINTLE_QUANTITY_TEMPERATURE) {
        c.column.quantity = PINTLE_QUANTITY_WARMTH;
        c.unit =
            pintle_unit_find(c.unit == PINTLE_UNIT_FAR ? "degF" : "degC", PINTLE_QUANTITY_WARMTH);
    }
    return c;
}

void live_draw_pair(struct live *live, int top, int rows, int columns)
{
    unsigned a = 0;
    unsigned b = 0;
    if (!live_pair(live, &a, &b)) {
        mvaddnstr(top, 0, "mark two channels of one quantity with m, in the table (t)", columns);
        return;
    }
    const struct live_channel *both[] = { &live->channel[a], &live->channel[b] };
    for (int i = 0; i < 2; i++) {
        char *value = live_value(both[i], both[i]->trail.last.value, 0);
        char *marks = live_marks(both[i]);
        mvprintw(top + i, 2, "%-24s %10s %-6s ", both[i]->column.name, value, live_unit(both[i]));
        live_paint(live, PAINT_BAD, !is_good(both[i]));
        addstr(marks);
        live_paint(live, PAINT_BAD, false);
        attrset(A_NORMAL);
        g_free(value);
        g_free(marks);
    }
    struct pintle_trail trail = difference_of(both[0], both[1]);
    struct live_channel c = as_difference(both[0]);
    char *now = live_value(&c, trail.last.good ? trail.last.value : (double)NAN, 1);
    char *least = live_value(&c, trail.least, 1);
    char *greatest = live_value(&c, trail.greatest, 1);
    attron(A_BOLD);
    mvprintw(top + 3, 2, "%-24s %10s %-6s", "difference", now, live_unit(&c));
    attroff(A_BOLD);
    printw("  least %s  greatest %s", least, greatest);
    live_graph(live, &c, &trail, top + 5, rows - 5, columns);
    g_free(now);
    g_free(least);
    g_free(greatest);
    pintle_trail_free(&trail);
}

/* --- bars --- */

/* Its ends and where a value lies between them. Light has decades; the humidity ends at a hundred;
 * what has no ends of its own ends where it was. */
struct bar {
    bool decades;
    double low, high;
};

static bool bar_of(const struct live_channel *c, struct bar *bar)
{
    const struct pintle_trail *t = &c->trail;
    switch (c->column.quantity) {
    case PINTLE_QUANTITY_ILLUMINANCE:
        *bar = (struct bar){ true, -3, 5 };
        return true;
    case PINTLE_QUANTITY_HUMIDITY:
        *bar = (struct bar){ false, 0, 100 };
        return true;
    case PINTLE_QUANTITY_LENGTH:
    case PINTLE_QUANTITY_VOLTAGE:
    case PINTLE_QUANTITY_CURRENT:
    case PINTLE_QUANTITY_POWER: {
        double most = fmax(fmax(t->greatest, 0), isnan(c->threshold) ? 0 : c->threshold);
        double step = pow(10, floor(log10(fmax(most, 1e-6))));
        *bar = (struct bar){ false, 0, most > 0 ? ceil(most / step + 1e-9) * step : 1 };
        return !(t->least < 0); /* nor where there is no good reading yet */
    }
    default:
        return false;
    }
}

static double share_of(const struct bar *bar, double value)
{
    double at = bar->decades ? log10(fmax(value, 1e-9)) : value;
    return CLAMP((at - bar->low) / (bar->high - bar->low), 0, 1);
}

static void draw_bar(const struct live *live, const struct live_channel *c, const struct bar *bar,
                     int y, int left, int width)
{
    bool good = is_good(c);
    int filled = good ? (int)lround(share_of(bar, c->trail.last.value) * width) : 0;
    int mark =
        isnan(c->threshold) ? -1 : MIN((int)lround(share_of(bar, c->threshold) * width), width - 1);
    bool beyond = good && !isnan(c->threshold) && c->trail.last.value > c->threshold;
    move(y, left);
    for (int x = 0; x < width; x++) {
        bool decade = bar->decades
                      && (int)(x * (bar->high - bar->low) / width)
                             != (int)((x - 1) * (bar->high - bar->low) / width);
        int paint = beyond && x >= mark ? PAINT_BAD : PAINT_LINE;
        live_paint(live, x < filled ? paint : PAINT_DIM, true);
        addstr(x == mark    ? "|"
               : x < filled ? (live->braille ? "█" : "#")
               : decade     ? (live->braille ? "┊" : ":")
                            : (live->braille ? "·" : "."));
        live_paint(live, x < filled ? paint : PAINT_DIM, false);
        attrset(A_NORMAL);
    }
}

/* Of a round value what counts. */
static char *short_value(const struct live_channel *c, double base)
{
    double shown = cli_in_unit(c->unit, base);
    int places = shown != 0 ? MAX(0, -(int)floor(log10(fabs(shown)) + 1e-6)) : 0;
    return fabs(shown) < 1 ? g_strdup_printf("%.*f", places, shown) : g_strdup_printf("%g", shown);
}

static void draw_ends(const struct live_channel *c, const struct bar *bar, int y, int left,
                      int width)
{
    char *low = short_value(c, bar->decades ? pow(10, bar->low) : bar->low);
    char *high = short_value(c, bar->decades ? pow(10, bar->high) : bar->high);
    mvprintw(y, left, "%s", low);
    mvprintw(y, left + width - (int)strlen(high), "%s", high);
    if (bar->decades && is_good(c)) {
        const char *word = pintle_derive_light_word((float)c->trail.last.value);
        mvprintw(y, left + width / 2 - (int)strlen(word) / 2, "%s", word);
    }
    g_free(low);
    g_free(high);
}

void live_draw_bars(struct live *live, int top, int rows, int columns)
{
    int y = top;
    int left = 2;
    int width = columns - 4;
    int count = 0;
    struct bar any;
    for (unsigned k = 0; k < live->channels; k++) {
        count += bar_of(&live->channel[k], &any);
    }
    int each = CLAMP(rows / MAX(count, 1), 2, 4); /* with its ends, and a line of air */
    for (unsigned k = 0; k < live->channels && y + MIN(each, 3) <= top + rows; k++) {
        const struct live_channel *c = &live->channel[k];
        struct bar bar;
        if (!bar_of(c, &bar)) {
            continue;
        }
        char *value = live_value(c, c->trail.last.value, 0);
        char *marks = live_marks(c);
        char *threshold = short_value(c, isnan(c->threshold) ? 0 : c->threshold);
        mvprintw(y, left, "%-24s %10s %-5s", c->column.name, value, live_unit(c));
        live_paint(live, PAINT_BAD, !is_good(c));
        printw(" %s", marks);
        live_paint(live, PAINT_BAD, false);
        attrset(A_NORMAL);
        if (!isnan(c->threshold)) {
            printw("  | %s %s", threshold, live_unit(c));
        }
        draw_bar(live, c, &bar, y + 1, left, width);
        if (each > 2) {
            draw_ends(c, &bar, y + 2, left, width);
        }
        y += each;
        g_free(value);
        g_free(marks);
        g_free(threshold);
    }
    if (y == top) {
        mvaddnstr(y, 0, "no channel of light, distance, humidity, voltage or current", columns);
    }
}

/* --- attitude --- */

static void draw_hull(const struct live *live, int channel, bool from_astern, int top, int left,
                      int rows, int columns)
{
    const struct live_channel *c = &live->channel[channel];
    struct pintle_dots dots;
    char *value = live_value(c, c->trail.last.value, 0);
    char *least = live_value(c, c->trail.least, 0);
    char *greatest = live_value(c, c->trail.greatest, 0);
    mvprintw(top, left, "%s %s %s  (%s to %s)", c->column.name, value, live_unit(c), least,
             greatest);
    pintle_dots_init(&dots, (unsigned)columns, (unsigned)rows - 1);
    if (is_good(c)) {
        pintle_dots_hull(&dots, c->trail.last.value, from_astern);
    }
    live_paint(live, PAINT_LINE, true);
    for (int y = 0; y < rows - 1; y++) {
        move(top + 1 + y, left);
        for (unsigned x = 0; x < dots.columns; x++) {
            char text[4];
            pintle_dots_text(dots.cell[(unsigned)y * dots.columns + x], live->braille, text);
            addstr(text);
        }
    }
    live_paint(live, PAINT_LINE, false);
    if (!is_good(c)) {
        char *marks = live_marks(c);
        live_paint(live, PAINT_BAD, true);
        mvprintw(top + rows / 2, left, "no good reading (%s)", marks);
        live_paint(live, PAINT_BAD, false);
        attrset(A_NORMAL);
        g_free(marks);
    }
    pintle_dots_free(&dots);
    g_free(value);
    g_free(least);
    g_free(greatest);
}

void live_draw_attitude(struct live *live, int top, int rows, int columns)
{
    int half = columns / 2 - 1;
    if (live->heel < 0 && live->trim < 0) {
        mvaddnstr(
            top, 0,
            "no channel is made by 'roll' or 'pitch'; a derive section of the rig file has them",
            columns);
        return;
    }
    int below = live->heading >= 0 ? 1 : 0;
    if (live->heel >= 0) {
        draw_hull(live, live->heel, true, top, 0, rows - below, half);
    }
    if (live->trim >= 0) {
        draw_hull(live, live->trim, false, top, half + 1, rows - below, half);
    }
    if (live->heading >= 0) {
        const struct live_channel *c = &live->channel[live->heading];
        char *value = live_value(c, c->trail.last.value, 0);
        mvprintw(top + rows - 1, 0, "%s %s %s", c->column.name, value, live_unit(c));
        g_free(value);
    }
}

/* --- weather --- */

void live_draw_weather(struct live *live, int top, int rows, int columns)
{
    int y = top;
    for (unsigned k = 0; k < live->channels && y < top + rows; k++) {
        const struct live_channel *c = &live->channel[k];
        if (c->column.quantity != PINTLE_QUANTITY_PRESSURE
            && c->column.quantity != PINTLE_QUANTITY_HUMIDITY) {
            continue;
        }
        struct pintle_tendency t = pintle_trail_tendency(&c->trail);
        char *value = live_value(c, c->trail.last.value, 0);
        char *marks = live_marks(c);
        char *change = cli_difference(&c->column, c->unit, t.change, 0);
        char *over = pintle_duration_about((int64_t)(t.over_s * 1e6));
        mvprintw(y, 2, "%-20s %9s %-4s", c->column.name, value, live_unit(c));
        if (!is_good(c)) {
            live_paint(live, PAINT_BAD, true);
            printw(" %s", marks);
            live_paint(live, PAINT_BAD, false);
            attrset(A_NORMAL);
        } else if (t.known) {
            attron(A_BOLD);
            printw("  %s", t.words);
            attroff(A_BOLD);
            printw("  (%s%s in %s)", t.change > 0 ? "+" : "", change, over);
        } else {
            addnstr("  half an hour of readings is needed", MAX(columns - getcurx(stdscr), 0));
        }
        y++;
        g_free(value);
        g_free(marks);
        g_free(change);
        g_free(over);
    }
    if (y == top) {
        mvaddnstr(y, 0, "no channel of pressure or humidity", columns);
        return;
    }
    for (unsigned k = 0; k < live->channels; k++) {
        if (live->channel[k].column.quantity == PINTLE_QUANTITY_PRESSURE) {
            const struct pintle_trail slow = pintle_trail_slowly(&live->channel[k].trail);
            struct live wide = *live;
            wide.window_s = 3 * 3600;
            wide.usual_s = fmax(live->usual_s, 240);
            live_graph(&wide, &live->channel[k], &slow, y + 1, top + rows - y - 1, columns);
            return;
        }
    }
}
