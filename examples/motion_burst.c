/* A shock of a few milliseconds: the accelerometer measures 1000 times a second into its own
 * memory, the program looks in some forty times a second, and no sample is missed. Then it is kept
 * away for too long, and is told how much it has missed. */
#include <stdio.h>

#include "pintle/parts/mpu6050.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

#define ROOM 80
#define CHANNELS 7 /* of an MPU6050 */

struct found {
    unsigned samples, gaps;
    int64_t began_us, worst_us;
    float worst;
};

/* Look in for so long; wait while the chip is being set up. */
static enum pintle_status collect(struct pintle_burst *burst, struct pintle_sensor *sensor,
                                  struct pintle_sim *sim, uint64_t for_us, struct found *found)
{
    static struct pintle_reading readings[ROOM][CHANNELS];
    uint64_t until = sim->now_us + for_us;
    while (sim->now_us < until) {
        uint16_t count = 0;
        enum pintle_status status = pintle_burst_collect(burst, readings[0], ROOM, &count);
        if (status != PINTLE_OK && status != PINTLE_NOT_READY) {
            return status;
        }
        for (uint16_t i = 0; i < count; i++) {
            const struct pintle_reading *z = &readings[i][PINTLE_MPU6050_ACCEL_Z];
            found->gaps += (z->quality & PINTLE_QUALITY_GAP) != 0;
            if (found->samples++ == 0 || z->value > found->worst) {
                found->worst = z->value;
                found->worst_us = pintle_burst_time_us(burst, i);
            }
        }
        uint32_t wait = pintle_sensor_wait_us(sensor);
        pintle_sim_pass(sim, status == PINTLE_NOT_READY && wait > 0 ? wait : 20000);
    }
    return PINTLE_OK;
}

static void say(const struct found *found, const struct pintle_burst *burst, int64_t began_us)
{
    char g[16];
    char at[16];
    struct pintle_text text;
    pintle_text_init(&text, g, sizeof g);
    pintle_text_fixed(&text, pintle_unit_show(PINTLE_UNIT_STANDARD_G, found->worst), 2);
    pintle_text_init(&text, at, sizeof at);
    pintle_text_fixed(&text, (float)(found->worst_us - began_us) / 1e6f, 3);
    printf("%u samples, %u lost in %u gap%s, hardest %s g at %s s\n", found->samples,
           (unsigned)burst->lost, found->gaps, found->gaps == 1 ? "" : "s", g, at);
}

int main(void)
{
    /* She touches the pontoon at 1.200 s. */
    static const struct pintle_point knock[] = { { 0, 9.8 },   { 1.196, 9.8 }, { 1.200, 41 },
                                                 { 1.204, 5 }, { 1.212, 12 },  { 1.230, 9.8 } };
    const struct pintle_sim_curve hull = { .points = knock, .count = 6 };
    const int64_t began_us = 1781222400000000;
    struct pintle_sim sim;
    struct pintle_mpu6050 heel;
    struct pintle_burst burst;
    struct found found = { 0 };

    pintle_sim_init(&sim, 1, began_us, 21);
    sim.bus[0].bit_ns = 2500; /* 400 kHz */
    struct pintle_sim_chip *chip = pintle_sim_add(&sim, "MPU6050", 0, 0x68);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    if (pintle_sim_feel(chip, "accel-z", &hull) != PINTLE_OK
        || pintle_mpu6050_on_i2c(&heel, &bus, 0x68) != PINTLE_OK
        || pintle_mpu6050_set_rate(&heel, PINTLE_MPU6050_1000_HZ) != PINTLE_OK
        || pintle_mpu6050_set_filter(&heel, PINTLE_MPU6050_FILTER_184_HZ) != PINTLE_OK
        || pintle_mpu6050_set_accel_range(&heel, PINTLE_MPU6050_8_G) != PINTLE_OK
        || pintle_burst_init(&burst, &heel.sensor) != PINTLE_OK) {
        return 1;
    }
    printf("its memory lasts %u ms\n", (unsigned)(pintle_burst_room_us(&burst) / 1000));
    if (collect(&burst, &heel.sensor, &sim, 2000000, &found) != PINTLE_OK) {
        return 1;
    }
    say(&found, &burst, began_us);
    pintle_sim_pass(&sim, 300000); /* the program is busy with something else */
    if (collect(&burst, &heel.sensor, &sim, 1000000, &found) != PINTLE_OK) {
        return 1;
    }
    say(&found, &burst, began_us);
    return 0;
}
