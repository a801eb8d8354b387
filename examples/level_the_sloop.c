/* Six positions of the inertial unit on the saloon table, each way up once; what they tell of its
 * biases, scales and axes; then heel and trim with and without that. */
#include <math.h>
#include <stdio.h>

#include "pintle/parts/mpu6050.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

#define G 9.80665f
#define SAMPLES 50

static struct pintle_sim sim;
static struct pintle_mpu6050 motion;
static struct pintle_sim_chip *chip;
static const char *const axes[] = { "accel-x", "accel-y", "accel-z" };

/* What the simulated hand holds it in. */
static int hold(float x, float y, float z)
{
    const float pulls[] = { x, y, z };
    for (int i = 0; i < 3; i++) {
        const struct pintle_sim_curve pull = { .level = (double)pulls[i] };
        if (pintle_sim_feel(chip, axes[i], &pull) != PINTLE_OK) {
            return 0;
        }
    }
    return 1;
}

/* So many measurements of one position. */
static int take(struct pintle_fit_faces *faces, uint8_t face)
{
    for (int i = 0; i < SAMPLES; i++) {
        float xyz[3];
        if (pintle_sensor_read(&motion.sensor) != PINTLE_OK) {
            return 0;
        }
        for (int a = 0; a < 3; a++) {
            xyz[a] = motion.reading[PINTLE_MPU6050_ACCEL_X + a].value;
        }
        if (pintle_fit_face_up(xyz) != face
            || pintle_fit_faces_add(faces, face, xyz) != PINTLE_OK) {
            return 0;
        }
    }
    return 1;
}

static int print_attitude(const char *when, const struct pintle_correct_stage *stages,
                          uint8_t count)
{
    struct pintle_derivation roll = { .formula = &pintle_roll };
    struct pintle_derivation pitch = { .formula = &pintle_pitch };
    struct pintle_reading heel, trim;
    if (pintle_sensor_read(&motion.sensor) != PINTLE_OK) {
        return 0;
    }
    pintle_correct(stages, count, motion.reading, PINTLE_MPU6050_ACCEL_X + 3);
    const struct pintle_reading *a = &motion.reading[PINTLE_MPU6050_ACCEL_X];
    int64_t at_us = pintle_sensor_time_us(&motion.sensor);
    pintle_derive(&roll, a, at_us, &heel);
    pintle_derive(&pitch, a, at_us, &trim);
    printf("%-10s heel %5.2f deg, trim %5.2f deg\n", when, (double)heel.value, (double)trim.value);
    return 1;
}

int main(void)
{
    static const double errors[] = { 0.35, -0.25, 0.4 };
    struct pintle_fit_faces faces = { 0 };
    struct pintle_fit_axes found;

    pintle_sim_init(&sim, 1, 1781222400000000, 7);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    chip = pintle_sim_add(&sim, "MPU6050", 0, 0x68);
    for (int i = 0; i < 3; i++) {
        if (pintle_sim_error(chip, axes[i], errors[i]) != PINTLE_OK) {
            return 1;
        }
    }
    if (pintle_mpu6050_on_i2c(&motion, &bus, 0x68) != PINTLE_OK) {
        return 1;
    }
    for (uint8_t face = 0; face < PINTLE_FACES; face++) {
        float g = face % 2 ? -G : G;
        if (!hold(face / 2 == 0 ? g : 0, face / 2 == 1 ? g : 0, face / 2 == 2 ? g : 0)
            || !take(&faces, face)) {
            return 1;
        }
    }
    if (pintle_fit_faces_solve(&faces, G, &found) != PINTLE_OK) {
        return 1;
    }
    printf("bias       %.2f %.2f %.2f m/s2, each +/- %.4f\n", (double)found.numbers[0],
           (double)found.numbers[1], (double)found.numbers[2], sqrt((double)found.bias_variance));

    const struct pintle_correct_stage stage = { .kind = PINTLE_STAGE_AXES,
                                                .channel = PINTLE_MPU6050_ACCEL_X,
                                                .count = 12,
                                                .numbers = found.numbers };
    return hold(0.342f, 2.039f, 9.586f) /* 12 degrees of heel, 2 of trim */
                   && print_attitude("as it came", NULL, 0)
                   && print_attitude("corrected", &stage, 1)
               ? 0
               : 1;
}
