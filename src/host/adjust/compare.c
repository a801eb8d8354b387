#include "pintle/host/adjust/compare.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#include "pintle/fit.h"
#include "pintle/host/rig/worth.h"

void pintle_compared_free(struct pintle_compared *c)
{
    g_free(c->time);
    g_free(c->value);
    *c = (struct pintle_compared){ 0 };
}

static void make(struct pintle_compared *c, unsigned channels, unsigned room)
{
    *c = (struct pintle_compared){ .channels = channels,
                                   .time = g_new0(double, room + 1),
                                   .value = g_new0(double, (gsize)channels *(room + 1)) };
}

static bool none(const struct pintle_compared *c, struct pintle_problem *problem)
{
    return c->count > 0
           || pintle_problem_set(problem, PINTLE_FAILURE_RIG,
                                 "there was no round in which all of them were good; 'pintle read' "
                                 "says which one is not");
}

bool pintle_compared_run(const struct pintle_rig *rig, const struct pintle_history *history,
                         const struct pintle_place_of *of, unsigned channels,
                         struct pintle_compared *c, struct pintle_problem *problem)
{
    const struct pintle_column *columns[PINTLE_COMPARE_MAX];
    for (unsigned k = 0; k < channels; k++) {
        columns[k] = pintle_series_column(history, rig, &of[k], problem);
        if (!columns[k]) {
            return false;
        }
    }
    make(c, channels, history->rows);
    for (unsigned row = 0; row < history->rows; row++) {
        bool good = true;
        for (unsigned k = 0; k < channels; k++) {
            good = good && !columns[k]->suspect[row] && !isnan(columns[k]->value[row]);
            c->value[channels * c->count + k] = columns[k]->value[row];
        }
        c->time[c->count] = history->time[row];
        c->count += good;
        c->left_out += !good;
    }
    return none(c, problem);
}

bool pintle_compared_live(struct pintle_station *station, const struct pintle_place_of *of,
                          unsigned channels, int64_t every_us, int64_t for_us,
                          const volatile sig_atomic_t *stop, const struct pintle_progress *progress,
                          struct pintle_compared *c, struct pintle_problem *problem)
{
    const struct pintle_clock *clock = &station->clock;
    uint8_t *chosen = g_new0(uint8_t, station->rig->sensors);
    unsigned room = 64;
    make(c, channels, room);
    for (unsigned k = 0; k < channels; k++) {
        chosen[of[k].sensor] = 1;
    }
    int64_t began = (int64_t)clock->calls->now_us(clock->context);
    for (int64_t next = began; next < began + for_us && !(stop && *stop); next += every_us) {
        int64_t left = next - (int64_t)clock->calls->now_us(clock->context);
        pintle_station_wait(station, left > 0 ? (uint32_t)MIN(left, UINT32_MAX) : 0, stop);
        pintle_station_some(station, chosen, c->count == 0);
        if (c->count == room) {
            room *= 2;
            c->time = g_renew(double, c->time, room + 1);
            c->value = g_renew(double, c->value, (gsize)channels *(room + 1));
        }
        bool good = true;
        for (unsigned k = 0; k < channels; k++) {
            const struct pintle_reading *r =
                &station->turn[of[k].sensor].sample.channel[of[k].channel];
            /* That they are apart is what is asked for here. */
            good = good
                   && !(r->quality & PINTLE_QUALITY_SUSPECT & (pintle_marks)~PINTLE_QUALITY_APART);
            c->value[channels * c->count + k] = (double)r->value;
        }
        c->time[c->count] = (double)pintle_station_now(station) / 1e6;
        c->count += good;
        c->left_out += !good;
        if (progress
            && !progress->step(progress->context, (double)(next - began) / (double)for_us)) {
            break; /* with what there is */
        }
    }
    g_free(chosen);
    return none(c, problem);
}

void pintle_compared_pair(const struct pintle_compared *c, unsigned a, unsigned b,
                          const double *mays, struct pintle_apart *apart)
{
    struct pintle_fit_spread spread = { 0 };
    struct pintle_fit fit = { 0 };
    struct pintle_fit_result line;
    bool known = mays[a] > 0 && mays[b] > 0;
    *apart = (struct pintle_apart){ .may = known ? mays[a] + mays[b] : 0 };
    for (unsigned i = 0; i < c->count; i++) {
        double off = c->value[c->channels * i + a] - c->value[c->channels * i + b];
        apart->most = fabs(off) > fabs(apart->most) ? off : apart->most;
        apart->beyond += known && fabs(off) > apart->may;
        (void)!pintle_fit_spread_add(&spread, (float)off);
        (void)!pintle_fit_add(&fit, (float)(c->time[i] - c->time[0]), (float)off);
    }
    bool line_known = pintle_fit_line(&fit, &line) == PINTLE_OK && line.freedom > 0;
    apart->mean = (double)pintle_fit_spread_mean(&spread);
    apart->scatter = sqrt((double)pintle_fit_spread_variance(&spread));
    apart->drift = line_known ? (double)line.gain : (double)NAN;
    apart->drift_deviation = line_known ? sqrt((double)line.gain_variance) : (double)NAN;
    apart->agree = !known
                   || (fabs(apart->mean) <= apart->may && 20 * apart->beyond <= c->count
                       && fabs(apart->most) <= 3 * apart->may);
}

int pintle_compared_odd(const struct pintle_compared *c, const double *mays)
{
    int odd = -1;
    for (unsigned k = 0; k < c->channels && c->channels > 2; k++) {
        bool alone = true;
        bool others = true;
        for (unsigned a = 0; a < c->channels; a++) {
            for (unsigned b = 0; b < a; b++) {
                struct pintle_apart apart;
                pintle_compared_pair(c, a, b, mays, &apart);
                bool its = a == k || b == k;
                alone = alone && (!its || !apart.agree);
                others = others && (its || apart.agree);
            }
        }
        odd = alone && others ? (int)k : odd;
    }
    return odd;
}

double pintle_compared_may(const struct pintle_rig *rig, const struct pintle_place_of *of,
                           double value)
{
    const struct pintle_rig_sensor *s = &rig->sensor[of->sensor];
    for (unsigned i = 0; i < s->stages; i++) {
        const struct pintle_correct_stage *stage = &s->stage[i].stage;
        bool shape = stage->kind == PINTLE_STAGE_POLYNOMIAL || stage->kind == PINTLE_STAGE_TABLE;
        if (shape && stage->channel == of->channel && stage->uncertainty > 0) {
            return 2 * hypot((double)stage->uncertainty, s->stage[i].residual);
        }
    }
    return pintle_worth_accuracy(s, of->channel, value);
}

/* Brought to sea level from there. */
static double at_sea(double pressure, double height)
{
    const float number = (float)height;
    struct pintle_derivation level = { .formula = &pintle_sea_level_pressure, .numbers = &number };
    const struct pintle_reading here = { .value = (float)pressure };
    struct pintle_reading there;
    pintle_derive_begin(&level);
    pintle_derive(&level, &here, 0, &there);
    return (double)there.value;
}

double pintle_compared_at_height(double pressure, double its_height, double height)
{
    return pressure * at_sea(pressure, its_height) / at_sea(pressure, height);
}
