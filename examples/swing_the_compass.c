/* The compass of the sloop, swung: she turns and rolls, keel bolts and loudspeakers pull at the
 * magnetometer. What it says lies on an ellipsoid; the fit (pintle-regress, which needs GSL) makes
 * a sphere of it. Then headings with and without. */
#include <math.h>
#include <stdio.h>

#include "pintle/parts/icm20948.h"
#include "pintle/pintle.h"
#include "pintle/regress.h"
#include "pintle/sim.h"

#define TURNS 240
#define NORTH 19e-6
#define DOWN 45e-6
#define PI 3.14159265358979

static struct pintle_sim sim;
static struct pintle_icm20948 motion;
static struct pintle_sim_chip *chip;
static struct pintle_sim_curve field[3], pull[3];
static const char *const channels[] = {
    "mag-x", "mag-y", "mag-z", "accel-x", "accel-y", "accel-z"
};

/* What she lies in: heading, heel and trim in degrees; x forward, y to port, z up. */
static void lie(double heading, double heel, double trim)
{
    const double h = heading * PI / 180, r = heel * PI / 180, p = trim * PI / 180;
    const double flat[3] = { NORTH * cos(h), NORTH * sin(h), -DOWN };
    const double up[3] = { 0, 0, 9.80665 };
    const double *const from[2] = { flat, up };
    struct pintle_sim_curve *const to[2] = { field, pull };
    for (int k = 0; k < 2; k++) {
        const double *v = from[k];
        double x = v[0] * cos(p) + v[2] * sin(p);
        double z = -v[0] * sin(p) + v[2] * cos(p);
        to[k][0].level = x;
        to[k][1].level = v[1] * cos(r) + z * sin(r);
        to[k][2].level = -v[1] * sin(r) + z * cos(r);
    }
}

/* What iron does to it: an ellipsoid, out of the middle. And that is what the chip feels. */
static int bend(void)
{
    double x = field[0].level, y = field[1].level, z = field[2].level;
    field[0].level = 1.08 * x + 0.04 * y + 12e-6;
    field[1].level = 0.04 * x + 0.95 * y - 21e-6;
    field[2].level = 0.97 * z + 9e-6;
    for (int i = 0; i < 6; i++) {
        if (pintle_sim_feel(chip, channels[i], i < 3 ? &field[i] : &pull[i - 3]) != PINTLE_OK) {
            return 0;
        }
    }
    return 1;
}

static int print_heading(double heading, const struct pintle_correct_stage *stage)
{
    static const float east = 0; /* of the declination: headings are magnetic */
    struct pintle_derivation compass = { .formula = &pintle_heading, .numbers = &east };
    struct pintle_reading in[2][6], out[2];
    lie(heading, 6, -2);
    if (!bend()) {
        return 0;
    }
    pintle_sim_pass(&sim, 100000); /* until it has measured that */
    if (pintle_sensor_read(&motion.sensor) != PINTLE_OK
        || !pintle_reading_good(&motion.reading[PINTLE_ICM20948_MAG_X])) {
        return 0;
    }
    for (int k = 0; k < 2; k++) {
        for (int a = 0; a < 3; a++) {
            in[k][a] = motion.reading[PINTLE_ICM20948_MAG_X + a];
            in[k][3 + a] = motion.reading[PINTLE_ICM20948_ACCEL_X + a];
        }
        if (k == 1) {
            pintle_correct(stage, 1, in[k], 3);
        }
        pintle_derive(&compass, in[k], pintle_sensor_time_us(&motion.sensor), &out[k]);
    }
    printf("she heads %3.0f: %6.1f deg as it came, %6.1f corrected\n", heading,
           (double)out[0].value, (double)out[1].value);
    return 1;
}

int main(void)
{
    static double xyz[3 * TURNS];
    struct pintle_regression found;
    float numbers[12];

    pintle_sim_init(&sim, 1, 1781222400000000, 21);
    struct pintle_spi bus = pintle_sim_spi(&sim, 0);
    chip = pintle_sim_add(&sim, "ICM20948", 0, 0);
    for (int i = 0; i < 6; i++) {
        if (pintle_sim_error(chip, channels[i], 0) != PINTLE_OK) {
            return 1;
        }
    }
    if (pintle_icm20948_on_spi(&motion, &bus, 0) != PINTLE_OK) {
        return 1;
    }
    for (int i = 0; i < TURNS;
         i++) { /* twice round, over on either side, then on end in the slings */
        lie(6.0 * i, i < TURNS / 2 ? 75 * sin(i * 0.7) : 180 * sin(i * 0.3), 80 * sin(i * 0.43));
        if (!bend()) {
            return 1;
        }
        pintle_sim_pass(&sim, 100000);
        if (pintle_sensor_read(&motion.sensor) != PINTLE_OK) {
            return 1;
        }
        for (int a = 0; a < 3; a++) {
            xyz[3 * i + a] = (double)motion.reading[PINTLE_ICM20948_MAG_X + a].value;
        }
    }
    enum pintle_status status = pintle_regress_ellipsoid(xyz, TURNS, hypot(NORTH, DOWN), &found);
    if (status != PINTLE_OK) {
        printf("no ellipsoid: %s\n", pintle_status_sentence(status));
        return status == PINTLE_UNSUPPORTED ? 0 : 1;
    }
    for (int i = 0; i < 12; i++) {
        numbers[i] = (float)found.number[i];
    }
    printf("bias %.1f %.1f %.1f uT, each +/- %.2f; the field within %.2f uT\n",
           1e6 * found.number[0], 1e6 * found.number[1], 1e6 * found.number[2],
           1e6 * found.deviation[0], 1e6 * found.residual);
    const struct pintle_correct_stage stage = { .kind = PINTLE_STAGE_AXES,
                                                .count = 12,
                                                .numbers = numbers };
    return print_heading(40, &stage) && print_heading(135, &stage) && print_heading(310, &stage)
               ? 0
               : 1;
}
