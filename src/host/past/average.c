#include "pintle/host/past/average.h"

#include <glib.h>
#include <math.h>

/* Beyond this standard deviation angles are all round: evenly spread they have 104 degrees. */
#define ALL_ROUND 60

struct pintle_cell pintle_cell_empty(void)
{
    return (struct pintle_cell){ .value = (double)NAN,
                                 .uncorrected = (double)NAN,
                                 .uncertainty = (double)NAN,
                                 .least = (double)NAN,
                                 .greatest = (double)NAN,
                                 .odd = (double)NAN };
}

/* An angle, turned by whole turns to where it is nearest to another. */
static double near(double angle, double to, enum pintle_quantity quantity)
{
    return quantity == PINTLE_QUANTITY_ANGLE ? angle - 360 * round((angle - to) / 360) : angle;
}

/* Back to where its readings are: 0 to 360, or around 0. */
static double turned(double angle, bool below)
{
    return below || isnan(angle) ? angle : angle - 360 * floor(angle / 360);
}

/* A mean of what is there in both, by how many there are. */
static double mean_of(double a, double n, double b, double m)
{
    return isnan(a) ? b : isnan(b) ? a : (a * n + b * m) / (n + m);
}

static void merge_good(struct pintle_cell *into, const struct pintle_cell *from,
                       enum pintle_quantity quantity)
{
    double n = into->good;
    double m = from->good;
    if (into->good == 0) {
        into->value = from->value;
        into->least = from->least;
        into->greatest = from->greatest;
        into->squares = from->squares;
    } else {
        double by = near(from->value, into->value, quantity) - into->value;
        into->least = fmin(into->least, near(from->least, into->value, quantity));
        into->greatest = fmax(into->greatest, near(from->greatest, into->value, quantity));
        into->squares += from->squares + by * by * n * m / (n + m);
        into->value += by * m / (n + m);
    }
    into->uncorrected = mean_of(into->uncorrected, n, from->uncorrected, m);
    into->uncertainty = mean_of(into->uncertainty, n, from->uncertainty, m);
    into->below = into->below || from->below;
    into->good += from->good;
}

void pintle_cell_merge(struct pintle_cell *into, const struct pintle_cell *from,
                       enum pintle_quantity quantity)
{
    if (from->good > 0) {
        merge_good(into, from, quantity);
    }
    into->quality |= from->quality;
    into->suspect += from->suspect;
    into->odd = isnan(from->odd) ? into->odd : from->odd;
}

double pintle_cell_spread(const struct pintle_cell *cell)
{
    return cell->good > 1 ? sqrt(cell->squares / (cell->good - 1)) : (double)NAN;
}

bool pintle_cell_all_round(const struct pintle_cell *cell, enum pintle_quantity quantity)
{
    return quantity == PINTLE_QUANTITY_ANGLE && pintle_cell_spread(cell) > ALL_ROUND;
}

void pintle_cell_turn(struct pintle_cell *cell, enum pintle_quantity quantity)
{
    if (quantity == PINTLE_QUANTITY_ANGLE) {
        cell->value = turned(cell->value, cell->below);
        cell->least = turned(cell->least, cell->below);
        cell->greatest = turned(cell->greatest, cell->below);
    }
}

void pintle_cell_settle(struct pintle_cell *cell, enum pintle_quantity quantity)
{
    pintle_cell_turn(cell, quantity);
    if (pintle_cell_all_round(cell, quantity)) {
        cell->value = (double)NAN;
    }
}

struct pintle_averager *pintle_averager_open(struct pintle_reader *reader, int64_t every_us,
                                             bool local)
{
    struct pintle_averager *a = g_new0(struct pintle_averager, 1);
    a->reader = reader;
    a->every_us = every_us;
    a->local = local;
    a->cell = g_new0(struct pintle_cell, reader->columns + 1);
    a->next = g_new0(struct pintle_cell, reader->columns + 1);
    return a;
}

void pintle_averager_free(struct pintle_averager *averager)
{
    if (averager) {
        g_free(averager->cell);
        g_free(averager->next);
        g_free(averager);
    }
}

static int64_t begin_of(const struct pintle_averager *a, int64_t time_us)
{
    return pintle_interval_begin(time_us, a->every_us, a->local);
}

static void begin_interval(struct pintle_averager *a, const struct pintle_record *first)
{
    a->ahead = (struct pintle_record){ .run = first->run,
                                       .number = first->number,
                                       .time_us = begin_of(a, first->time_us),
                                       .over_us = a->every_us };
    for (unsigned i = 0; i < a->reader->columns; i++) {
        a->next[i] = pintle_cell_empty();
    }
    a->any = true;
    a->count = 0;
}

static void add(struct pintle_averager *a, const struct pintle_record *record)
{
    a->ahead.missed += record->missed;
    a->ahead.stepped_us += record->stepped_us;
    a->ahead.unset = a->ahead.unset || record->unset;
    if (record->over_us > 0) {
        int64_t reach_us = record->time_us + record->over_us - a->ahead.time_us;
        a->ahead.over_us = MAX(a->ahead.over_us, reach_us);
    }
    a->count += record->stands_for;
    a->ahead.marked += record->marked;
    for (unsigned i = 0; i < a->reader->columns; i++) {
        pintle_cell_merge(&a->next[i], &record->cell[i], a->reader->column[i].quantity);
    }
}

static void give(struct pintle_averager *a, struct pintle_record *record)
{
    struct pintle_cell *cell = a->cell;
    a->cell = a->next;
    a->next = cell;
    for (unsigned i = 0; i < a->reader->columns; i++) {
        pintle_cell_settle(&a->cell[i], a->reader->column[i].quantity);
    }
    *record = a->ahead;
    record->cell = a->cell;
    record->stands_for = a->count;
    a->any = false;
}

bool pintle_averager_next(struct pintle_averager *a, struct pintle_record *record,
                          struct pintle_problem *problem)
{
    struct pintle_record one;
    while (pintle_reader_next(a->reader, &one, problem)) {
        bool another = a->any && begin_of(a, one.time_us) != a->ahead.time_us;
        if (another) {
            give(a, record);
        }
        if (!a->any) {
            begin_interval(a, &one);
        }
        add(a, &one);
        if (another) {
            return true;
        }
    }
    if (problem->text[0] || !a->any) {
        return false;
    }
    give(a, record);
    return true;
}
