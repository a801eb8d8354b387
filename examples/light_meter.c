/* A light meter that chooses its range by itself: from the moon to the noonday sun in one table,
 * each reading as a bar on a scale of decades. */
#include <math.h>
#include <stdio.h>

#include "pintle/parts/veml7700.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

#define HOUR_US 3600000000ull

/* Ten marks a decade, from 0.01 lx on. */
static void bar(float lux)
{
    int length = lux > 0.01f ? (int)(10 * log10f(lux / 0.01f) / 1.5f) : 0;
    for (int i = 0; i < length; i++) {
        putchar('=');
    }
    putchar('\n');
}

static int show(struct pintle_veml7700 *meter, unsigned hour)
{
    char number[24];
    char marks[64];
    struct pintle_text text;
    enum pintle_status status = pintle_sensor_read(&meter->sensor);
    if (status != PINTLE_OK) {
        printf("%02u:00  %s\n", hour, pintle_status_sentence(status));
        return 0;
    }
    const struct pintle_reading *light = &meter->reading[PINTLE_VEML7700_ILLUMINANCE];
    pintle_text_init(&text, number, sizeof number);
    pintle_text_fixed(&text, light->value, light->value < 10 ? 2 : 0);
    pintle_text_init(&text, marks, sizeof marks);
    pintle_text_quality(&text, light->quality);
    printf("%02u:00  %9s lx  %-5s %-13s ", hour, number, marks,
           pintle_derive_light_word(light->value));
    bar(light->value);
    return 1;
}

int main(void)
{
    static const struct pintle_point day[] = {
        { 0, 0.2 },         { 4 * 3600, 0.3 },    { 5 * 3600, 8 },      { 6 * 3600, 400 },
        { 8 * 3600, 9000 }, { 12 * 3600, 95000 }, { 16 * 3600, 30000 }, { 20 * 3600, 1200 },
        { 21 * 3600, 60 },  { 22 * 3600, 1 },     { 24 * 3600, 0.2 },
    };
    const struct pintle_sim_curve sky = { .points = day, .count = sizeof day / sizeof day[0] };
    struct pintle_sim sim;
    struct pintle_veml7700 meter;

    pintle_sim_init(&sim, 1, 1781222400000000, 11);
    struct pintle_sim_chip *chip = pintle_sim_add(&sim, "VEML7700", 0, 0x10);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    if (pintle_sim_feel(chip, "illuminance", &sky) != PINTLE_OK
        || pintle_veml7700_on_i2c(&meter, &bus, 0x10) != PINTLE_OK
        || pintle_sensor_auto(&meter.sensor, 1) != PINTLE_OK) {
        return 1;
    }
    for (unsigned hour = 0; hour < 24; hour += 2) {
        pintle_sim_pass(&sim, hour * HOUR_US - sim.now_us);
        if (!show(&meter, hour)) {
            return 1;
        }
    }
    return 0;
}
