/* What corrections cost: a program that applies one of every kind. With ESTIMATE it finds a line, a
 * bias at rest and six positions besides; with KEEP it has them in a memory chip. */
#include "board.h"

#include "pintle/parts/at24c32.h"
#include "pintle/pintle.h"

static struct pintle_reading readings[6];
static struct pintle_correct_stage stages[4];
#if defined ESTIMATE || defined KEEP
static float numbers[24];
#endif

#ifdef ESTIMATE
static struct pintle_fit fit;
static struct pintle_fit_spread rest;
static struct pintle_fit_still still;
static struct pintle_fit_faces faces;

static void estimate(void)
{
    struct pintle_fit_result line;
    struct pintle_fit_axes axes;
    float xyz[3];
    for (uint8_t i = 0; i < 3; i++) {
        xyz[i] = readings[i].value;
    }
    still.axes = 3;
    still.limit = 0.5f;
    if (pintle_fit_still_add(&still, xyz) > 10) {
        int8_t face = pintle_fit_face_up(xyz);
        (void)!pintle_fit_faces_add(&faces, (uint8_t)face, xyz);
        (void)!pintle_fit_spread_add(&rest, xyz[0]);
        (void)!pintle_fit_add(&fit, xyz[0], xyz[1]);
    }
    if (pintle_fit_faces_solve(&faces, 9.80665f, &axes) == PINTLE_OK
        && pintle_fit_line(&fit, &line) == PINTLE_OK) {
        pintle_fit_numbers(&line, numbers);
        numbers[3] =
            axes.numbers[0] + pintle_fit_spread_mean(&rest) + pintle_fit_spread_variance(&rest);
    }
}
#endif

#ifdef KEEP
static uint8_t work[128];
static struct pintle_at24c32 memory;

static void keep(void)
{
    struct pintle_keep kept;
    memset(&kept, 0, sizeof kept);
    kept.stages = stages;
    kept.numbers = numbers;
    kept.stage_room = 4;
    kept.number_room = 24;
    if (pintle_keep_load(&memory.sensor, 0, &kept, work, sizeof work) != PINTLE_OK) {
        (void)!pintle_keep_save(&memory.sensor, 0, &kept, work, sizeof work);
    }
}
#endif

int main(void)
{
    board_start();
    for (;;) {
#ifdef KEEP
        keep();
#endif
#ifdef ESTIMATE
        estimate();
#endif
        if (pintle_correct_is_valid(&stages[0])) {
            pintle_correct(stages, 4, readings, 6);
        }
        if (readings[0].quality) {
            board_halt();
        }
    }
}
