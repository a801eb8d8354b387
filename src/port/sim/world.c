/* What chips are exposed to, and the randomness of specimens. */
#include <math.h>

#include "port/sim/bench.h"

#define TWO_PI 6.283185307179586

/* Between two points, a cubic that is level at both: no corners, no overshoot. */
static double between(const struct pintle_point *a, const struct pintle_point *b, double t)
{
    double x = (t - a->t) / (b->t - a->t);
    return a->value + (b->value - a->value) * x * x * (3 - 2 * x);
}

static double line_at(const struct pintle_sim_curve *curve, double t)
{
    const struct pintle_point *p = curve->points;
    if (!p || curve->count == 0) {
        return curve->level;
    }
    if (t <= p[0].t) {
        return p[0].value;
    }
    for (size_t i = 1; i < curve->count; i++) {
        if (t < p[i].t) {
            return between(&p[i - 1], &p[i], t);
        }
    }
    return p[curve->count - 1].value;
}

double pintle_sim_curve_at(const struct pintle_sim_curve *curve, double t)
{
    double value = line_at(curve, t);
    if (curve->period_s > 0) {
        value += curve->swing * sin(TWO_PI * (t - curve->phase_s) / curve->period_s);
    }
    return value;
}

/* SplitMix64: each state gives one well-mixed number. */
uint64_t pintle_priv_sim_random(struct pintle_sim *sim)
{
    uint64_t z = sim->seed += 0x9e3779b97f4a7c15u;
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9u;
    z = (z ^ (z >> 27)) * 0x94d049bb133111ebu;
    return z ^ (z >> 31);
}

/* Uniform in -1 to 1. */
double pintle_priv_sim_uniform(struct pintle_sim *sim)
{
    return (double)(pintle_priv_sim_random(sim) >> 11) / 4503599627370496.0 - 1.0;
}

double pintle_priv_sim_about(struct pintle_sim *sim, double middle, double spread)
{
    return floor(middle + spread * pintle_priv_sim_uniform(sim) + 0.5);
}

/* About normal with deviation 1, never beyond 3: a specimen stays within its data sheet. */
static double bell(struct pintle_sim *sim)
{
    double sum = 0;
    for (int i = 0; i < 3; i++) {
        sum += pintle_priv_sim_uniform(sim);
    }
    return sum;
}

static int input_index(const struct pintle_sim_chip *chip, const char *input)
{
    for (int i = 0; i < PINTLE_SIM_INPUTS && chip->model->inputs[i]; i++) {
        if (strcmp(chip->model->inputs[i], input) == 0) {
            return i;
        }
    }
    return -1;
}

enum pintle_status pintle_sim_feel(struct pintle_sim_chip *chip, const char *input,
                                   const struct pintle_sim_curve *curve)
{
    int i = input_index(chip, input);
    if (i < 0) {
        return PINTLE_BAD_ARGUMENT;
    }
    chip->feels[i] = *curve;
    return PINTLE_OK;
}

enum pintle_status pintle_sim_error(struct pintle_sim_chip *chip, const char *input, double error)
{
    int i = input_index(chip, input);
    if (i < 0) {
        return PINTLE_BAD_ARGUMENT;
    }
    chip->error[i] = error;
    return PINTLE_OK;
}

static double now_s(const struct pintle_sim_chip *chip)
{
    return (double)chip->sim->now_us / 1e6;
}

double pintle_sim_truth(const struct pintle_sim_chip *chip, const char *input)
{
    int i = input_index(chip, input);
    return i < 0 ? (double)NAN : pintle_sim_curve_at(&chip->feels[i], now_s(chip));
}

double pintle_sim_sense(struct pintle_sim_chip *chip, int input)
{
    if (isnan(chip->last[input]) || !pintle_priv_sim_faulty(chip, PINTLE_SIM_FROZEN)) {
        chip->last[input] = pintle_sim_curve_at(&chip->feels[input], now_s(chip))
                            + chip->error[input] + chip->model->noises[input] * bell(chip->sim);
    }
    return chip->last[input];
}

uint64_t pintle_priv_sim_ends(const struct pintle_sim_chip *chip, uint64_t ended, uint64_t period)
{
    return ended + ((chip->sim->now_us - ended) / period + 1) * period;
}

uint64_t pintle_priv_sim_conversion(const struct pintle_sim_chip *chip, double typical_us,
                                    double longest_us)
{
    return (uint64_t)(typical_us + chip->slowness * (longest_us - typical_us));
}
