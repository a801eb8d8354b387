#include "pintle/host/watch/trail.h"

#include <glib.h>
#include <math.h>

#define SLOW_S 120
#define SLOW_ROOM 128
#define THREE_HOURS 10800
#define HALF_AN_HOUR 1800

void pintle_trail_init(struct pintle_trail *trail, enum pintle_quantity quantity, unsigned room)
{
    *trail = (struct pintle_trail){ .ring = g_new0(struct pintle_trail_point, room),
                                    .room = room,
                                    .slow = g_new0(struct pintle_trail_point, SLOW_ROOM),
                                    .quantity = quantity,
                                    .last = { .value = (double)NAN },
                                    .first = (double)NAN,
                                    .least = (double)NAN,
                                    .greatest = (double)NAN };
}

void pintle_trail_free(struct pintle_trail *trail)
{
    g_free(trail->ring);
    g_free(trail->slow);
    *trail = (struct pintle_trail){ 0 };
}

const struct pintle_trail_point *pintle_trail_at(const struct pintle_trail *trail, unsigned index)
{
    return &trail->ring[(trail->next + trail->room - trail->used + index) % trail->room];
}

const struct pintle_trail_point *pintle_trail_slow(const struct pintle_trail *trail, unsigned index)
{
    return &trail->slow[(trail->slow_next + SLOW_ROOM - trail->slow_used + index) % SLOW_ROOM];
}

struct pintle_trail pintle_trail_slowly(const struct pintle_trail *trail)
{
    struct pintle_trail slow = *trail;
    slow.ring = trail->slow;
    slow.room = SLOW_ROOM;
    slow.used = trail->slow_used;
    slow.next = trail->slow_next;
    return slow;
}

/* One good reading for each two minutes. */
static void add_slow(struct pintle_trail *trail, const struct pintle_trail_point *point)
{
    bool due =
        trail->slow_used == 0
        || fabs(point->time - pintle_trail_slow(trail, trail->slow_used - 1)->time) >= SLOW_S;
    if (!point->good || !due) {
        return;
    }
    trail->slow[trail->slow_next] = *point;
    trail->slow_next = (trail->slow_next + 1) % SLOW_ROOM;
    trail->slow_used = MIN(trail->slow_used + 1, SLOW_ROOM);
}

/* By whole turns, to where it is nearest to the last good one. */
static double follow(const struct pintle_trail *trail, double value)
{
    bool turns = trail->quantity == PINTLE_QUANTITY_ANGLE && trail->good > 0;
    return turns ? value - 360 * round((value - trail->followed) / 360) : value;
}

double pintle_trail_shown(const struct pintle_trail *trail, double value)
{
    bool turns = trail->quantity == PINTLE_QUANTITY_ANGLE && !trail->below && !isnan(value);
    return turns ? value - 360 * floor(value / 360) : value;
}

void pintle_trail_add(struct pintle_trail *trail, double time, const struct pintle_cell *cell)
{
    const struct pintle_trail_point point = { time, follow(trail, cell->value),
                                              pintle_cell_good(cell) };
    double by = point.value - cell->value;
    trail->ring[trail->next] = point;
    trail->next = (trail->next + 1) % trail->room;
    trail->used = MIN(trail->used + 1, trail->room);
    trail->quality = cell->quality;
    trail->last = (struct pintle_trail_point){ time, cell->value, point.good };
    trail->good += point.good;
    trail->suspect += cell->suspect > 0;
    if (point.good) {
        trail->followed = point.value;
        trail->first = isnan(trail->first) ? point.value : trail->first;
        trail->least = fmin(trail->least, cell->least + by);
        trail->greatest = fmax(trail->greatest, cell->greatest + by);
        trail->below = trail->below || cell->value < 0;
    }
    add_slow(trail, &point);
}

bool pintle_trail_ends(const struct pintle_trail *trail, double since, double least, double *low,
                       double *high)
{
    *low = INFINITY;
    *high = -INFINITY;
    for (unsigned i = 0; i < trail->used; i++) {
        const struct pintle_trail_point *p = pintle_trail_at(trail, i);
        if (p->good && p->time >= since) {
            *low = fmin(*low, p->value);
            *high = fmax(*high, p->value);
        }
    }
    if (*low > *high) {
        return false;
    }
    double lacks = fmax(least - (*high - *low), 0) / 2;
    *low -= lacks;
    *high += lacks;
    return true;
}

/* Mean, and the variance of that mean, of the good readings in a stretch. */
struct stretch {
    unsigned count;
    double mean, variance;
};

static struct stretch stretch_of(const struct pintle_trail *trail, double from, double to)
{
    struct stretch s = { 0 };
    double squares = 0;
    for (unsigned i = 0; i < trail->used; i++) {
        const struct pintle_trail_point *p = pintle_trail_at(trail, i);
        if (p->good && p->time > from && p->time <= to) {
            double by = p->value - s.mean;
            s.mean += by / ++s.count;
            squares += by * (p->value - s.mean);
        }
    }
    s.variance = s.count > 1 ? squares / (s.count - 1) / s.count : 0;
    return s;
}

struct pintle_settle pintle_trail_settle(const struct pintle_trail *trail, double over_s,
                                         double within)
{
    double end = trail->last.time;
    double third = over_s / 3;
    struct stretch a = stretch_of(trail, end - over_s, end - 2 * third);
    struct stretch b = stretch_of(trail, end - 2 * third, end - third);
    struct stretch c = stretch_of(trail, end - third, end);
    if (MIN(MIN(a.count, b.count), c.count) < 3) {
        return (struct pintle_settle){ PINTLE_SETTLE_UNKNOWN, 0, 0 };
    }
    double one = b.mean - a.mean;
    double two = c.mean - b.mean;
    if (fabs(two) < fmax(3 * sqrt(b.variance + c.variance), within / 2)) {
        return (struct pintle_settle){ PINTLE_SETTLE_STEADY, 0, 0 };
    }
    double factor = two / one;
    double doubt =
        fabs(factor)
        * sqrt((a.variance + b.variance) / (one * one) + (b.variance + c.variance) / (two * two));
    if (!(factor > 0 && factor + 2 * doubt < 0.95)) {
        return (struct pintle_settle){ PINTLE_SETTLE_MOVING, 0, two / third };
    }
    /* What is left of the mean of the last stretch, and of its end. */
    double left = two * factor / (1 - factor);
    left *= factor * -log(factor) / (1 - factor);
    double seconds = fabs(left) > within ? third * log(within / fabs(left)) / log(factor) : 0;
    return (struct pintle_settle){ PINTLE_SETTLE_SOON, seconds, left };
}

/* The words of sea area forecasts for what the pressure did in three hours, in hPa. */
static const struct {
    double below;
    const char *rising, *falling;
} pressures[] = {
    { 0.1, "steady", "steady" },
    { 1.6, "rising slowly", "falling slowly" },
    { 3.6, "rising", "falling" },
    { 6.05, "rising quickly", "falling quickly" },
    { INFINITY, "rising very rapidly", "falling very rapidly" },
};

/* There are none for the humidity: limits of our own, in %RH. */
static const struct {
    double below;
    const char *rising, *falling;
} others[] = {
    { 2, "steady", "steady" },
    { 10, "rising slowly", "falling slowly" },
    { 20, "rising", "falling" },
    { INFINITY, "rising quickly", "falling quickly" },
};

static const char *words_of(enum pintle_quantity quantity, double change)
{
    unsigned i = 0;
    if (quantity == PINTLE_QUANTITY_PRESSURE) {
        double hpa = round(fabs(change) / 10) / 10;
        while (hpa >= pressures[i].below) {
            i++;
        }
        return change > 0 ? pressures[i].rising : pressures[i].falling;
    }
    while (fabs(change) >= others[i].below) {
        i++;
    }
    return change > 0 ? others[i].rising : others[i].falling;
}

struct pintle_tendency pintle_trail_tendency(const struct pintle_trail *trail)
{
    struct pintle_tendency t = { 0 };
    const struct pintle_trail_point *now = NULL;
    const struct pintle_trail_point *then = NULL;
    for (unsigned i = 0; i < trail->slow_used; i++) {
        const struct pintle_trail_point *p = pintle_trail_slow(trail, i);
        double age = trail->last.time - p->time;
        now = p;
        /* the first that is no older than three hours, and a little for the two minutes */
        then = !then && age <= THREE_HOURS + SLOW_S / 2.0 && age >= 0 ? p : then;
    }
    if (!now || !then || now->time - then->time < HALF_AN_HOUR
        || trail->last.time - now->time > 3 * SLOW_S) {
        return t;
    }
    t.known = true;
    t.over_s = now->time - then->time;
    t.change = now->value - then->value;
    t.words = words_of(trail->quantity, t.change * THREE_HOURS / t.over_s);
    return t;
}
