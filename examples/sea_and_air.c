/* Four thermometers, watched for two days as they come: in the air, in the cabin, in the bilge, in
 * the sea. Then who follows whom, and by how long: a bilge lags behind the weather, the sea has a
 * tide. */
#include <math.h>
#include <stdio.h>

#include "pintle/host/watch/trail.h"
#include "pintle/parts/tmp102.h"
#include "pintle/pintle.h"
#include "pintle/regress.h"
#include "pintle/sim.h"

#define STEP_S 600
#define ROUNDS (48 * 6)
#define HOUR 3600.0
#define DAY (24 * HOUR)

enum { AIR, CABIN, BILGE, SEA, COUNT };
static const char *const names[COUNT] = { "air", "cabin", "bilge", "sea" };

/* The truth: swings about a level, each later and smaller than the one that it follows. */
static const struct pintle_sim_curve curves[COUNT] = {
    { .level = 14, .swing = 6, .period_s = DAY },
    { .level = 16, .swing = 4, .period_s = DAY, .phase_s = 1.5 * HOUR },
    { .level = 13, .swing = 1.5, .period_s = DAY, .phase_s = 5 * HOUR },
    { .level = 12.5, .swing = 0.5, .period_s = 12.42 * HOUR },
};

static double times[ROUNDS], values[COUNT][ROUNDS];

/* As a terminal would show it: now, and what it does. */
static void print_round(double hours, const struct pintle_trail *trails)
{
    printf("%5.1f h ", hours);
    for (int i = 0; i < COUNT; i++) {
        const struct pintle_trail *t = &trails[i];
        double before = t->used > 6 ? pintle_trail_at(t, t->used - 7)->value : t->last.value;
        double an_hour = t->last.value - before;
        printf("  %s %5.2f %s", names[i], t->last.value,
               an_hour > 0.15    ? "rising "
               : an_hour < -0.15 ? "falling"
                                 : "steady ");
    }
    printf("\n");
}

/* How alike the two are when b is looked at so many rounds later: a correlation. */
static double alike(const double *a, const double *b, int later)
{
    double n = 0, sa = 0, sb = 0, aa = 0, ab = 0, bb = 0;
    for (int i = 0; i < ROUNDS; i++) {
        if (i + later >= 0 && i + later < ROUNDS) {
            double x = a[i], y = b[i + later];
            n++, sa += x, sb += y, aa += x * x, ab += x * y, bb += y * y;
        }
    }
    return (ab - sa * sb / n) / sqrt((aa - sa * sa / n) * (bb - sb * sb / n));
}

static void who_follows(int leader, int other)
{
    double lag = 0;
    enum pintle_status status = pintle_regress_lag(times, values[leader], ROUNDS, times,
                                                   values[other], ROUNDS, 8 * HOUR, &lag);
    double share = alike(values[leader], values[other], (int)lround(lag / STEP_S));
    if (status == PINTLE_OK && share > 0.9 && lag > STEP_S) {
        printf("%s follows %s by %.1f h\n", names[other], names[leader], lag / HOUR);
    } else {
        printf("%s does not follow %s\n", names[other], names[leader]);
    }
}

int main(void)
{
    struct pintle_sim sim;
    struct pintle_tmp102 thermometers[COUNT];
    struct pintle_sensor *sensors[COUNT];
    struct pintle_trail trails[COUNT];
    pintle_sim_init(&sim, 1, 1781222400000000, 12);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    for (uint8_t i = 0; i < COUNT; i++) {
        uint8_t address = (uint8_t)(0x48 + i);
        pintle_sim_add(&sim, "TMP102", 0, address);
        if (pintle_sim_feel(&sim.chip[i], "temperature", &curves[i]) != PINTLE_OK
            || pintle_tmp102_on_i2c(&thermometers[i], &bus, address) != PINTLE_OK) {
            return 1;
        }
        sensors[i] = &thermometers[i].sensor;
        pintle_trail_init(&trails[i], PINTLE_QUANTITY_TEMPERATURE, ROUNDS);
    }
    for (int round = 0; round < ROUNDS; round++) {
        (void)pintle_round(sensors, COUNT);
        times[round] = (double)round * STEP_S;
        for (int i = 0; i < COUNT; i++) {
            const struct pintle_reading *r = &thermometers[i].reading[0];
            struct pintle_cell cell = { .value = (double)r->value, .good = pintle_reading_good(r) };
            cell.least = cell.greatest = cell.value;
            pintle_trail_add(&trails[i], times[round], &cell);
            values[i][round] = (double)r->value;
        }
        if (round % 36 == 35) {
            print_round(times[round] / HOUR, trails);
        }
        pintle_sim_pass(&sim, (uint64_t)STEP_S * 1000000);
    }
    who_follows(AIR, CABIN);
    who_follows(AIR, BILGE);
    who_follows(CABIN, BILGE);
    who_follows(AIR, SEA);
    for (int i = 0; i < COUNT; i++) {
        pintle_trail_free(&trails[i]);
    }
    return 0;
}
