/* As firmware would: nothing but the core. A thermometer is calibrated by running sums, what was
 * found goes into a memory chip in two copies, and comes back from there after the power was gone,
 * also where it went in the middle of a later write. */
#include <stdio.h>

#include "pintle/parts/at24c32.h"
#include "pintle/parts/tmp102.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

#define FROM 0  /* in the memory: a multiple of its page */
#define ROOM 64 /* of each copy */

static struct pintle_sim sim;
static struct pintle_tmp102 sea;
static struct pintle_at24c32 memory;
static struct pintle_sim_chip *chip;
static struct pintle_sim_curve water;
static uint8_t work[ROOM];

/* Pairs of what it says and what a reference says, at three temperatures. */
static enum pintle_status calibrate(struct pintle_fit_result *line)
{
    struct pintle_fit fit = { 0 };
    enum pintle_status status = PINTLE_OK;
    for (int i = 0; i < 60 && status == PINTLE_OK; i++) {
        water.level = 8 + 6 * (i / 20);
        status = pintle_sim_feel(chip, "temperature", &water);
        pintle_sim_pass(&sim, 1000000);
        status = status == PINTLE_OK ? pintle_sensor_read(&sea.sensor) : status;
        if (status == PINTLE_OK && pintle_reading_good(&sea.reading[0])) {
            status = pintle_fit_add(&fit, sea.reading[0].value, (float)water.level);
        }
    }
    return status == PINTLE_OK ? pintle_fit_line(&fit, line) : status;
}

static enum pintle_status save(const struct pintle_fit_result *line)
{
    float numbers[3];
    pintle_fit_numbers(line, numbers);
    struct pintle_correct_stage stage = {
        .kind = PINTLE_STAGE_POLYNOMIAL, .count = 3, .lowest = 2, .highest = 26, .numbers = numbers
    };
    const struct pintle_keep kept = { .stages = &stage, .count = 1 };
    return pintle_keep_save(&memory.sensor, FROM, &kept, work, sizeof work);
}

/* After every start. */
static enum pintle_status load(struct pintle_correct_stage *stage, float numbers[5])
{
    struct pintle_keep kept = {
        .stages = stage, .numbers = numbers, .stage_room = 1, .number_room = 5
    };
    return pintle_keep_load(&memory.sensor, FROM, &kept, work, sizeof work);
}

static void print_reading(const struct pintle_correct_stage *stage)
{
    if (pintle_sensor_read(&sea.sensor) == PINTLE_OK) {
        float raw = sea.reading[0].value;
        pintle_correct(stage, 1, sea.reading, 1);
        printf("the sea is at %.2f degC; it says %.2f, corrected %.2f\n", water.level, (double)raw,
               (double)sea.reading[0].value);
    }
}

int main(void)
{
    struct pintle_fit_result line;
    struct pintle_correct_stage stage;
    float numbers[5];

    pintle_sim_init(&sim, 1, 1781222400000000, 9);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    chip = pintle_sim_add(&sim, "TMP102", 0, 0x48);
    if (!pintle_sim_add(&sim, "AT24C32", 0, 0x57)
        || pintle_sim_error(chip, "temperature", -0.8) != PINTLE_OK
        || pintle_tmp102_on_i2c(&sea, &bus, 0x48) != PINTLE_OK
        || pintle_at24c32_on_i2c(&memory, &bus, 0x57) != PINTLE_OK) {
        return 1;
    }
    printf("a new memory: %s\n", pintle_status_word(load(&stage, numbers)));
    if (calibrate(&line) != PINTLE_OK || save(&line) != PINTLE_OK) {
        return 1;
    }
    printf("kept: gain %.4f, offset %+.2f degC\n", (double)line.gain, (double)line.offset);

    /* Somebody calibrates anew, and pulls the plug in the middle of it. */
    const struct pintle_sim_fault cut = { .kind = PINTLE_SIM_UNPLUGGED,
                                          .chip = 1,
                                          .from_us = sim.now_us + 14000,
                                          .to_us = sim.now_us + 2000000 };
    line.gain = 99;
    if (pintle_sim_add_fault(&sim, &cut) != PINTLE_OK) {
        return 1;
    }
    printf("a second write, cut off: %s\n", pintle_status_word(save(&line)));
    pintle_sim_pass(&sim, 3000000);
    printf("and from the memory: %s\n", pintle_status_word(load(&stage, numbers)));
    print_reading(&stage);
    return 0;
}
