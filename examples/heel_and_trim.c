/* Heel and trim from an accelerometer, and the battery's voltage behind a divider, both on one SPI
 * bus. All three axes come in one burst, so that they belong to one moment. */
#include <stdio.h>

#include "pintle/parts/icm20948.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

static void print(const char *name, float value, uint8_t decimals, const char *unit)
{
    char buffer[32];
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_fixed(&text, value, decimals);
    printf("%-8s %s %s\n", name, buffer, unit);
}

int main(void)
{
    /* She heels by 12 degrees to starboard and is 2 degrees down by the stern. */
    const struct pintle_curve x = { .level = 9.80665 * 0.0349 };
    const struct pintle_curve y = { .level = 9.80665 * 0.2079 };
    const struct pintle_curve z = { .level = 9.80665 * 0.9775 };
    const struct pintle_curve tap = { .level = 12.6 * 15 / 115 };
    static const float ohms[] = { 100000,
                                  15000 }; /* from the battery to the input, and to ground */
    struct pintle_derivation roll = { .formula = &pintle_roll };
    struct pintle_derivation pitch = { .formula = &pintle_pitch };
    struct pintle_derivation divided = { .formula = &pintle_divided, .numbers = ohms };
    struct pintle_reading heel, trim, volts;
    struct pintle_sim sim;
    struct pintle_sensor motion;
    struct pintle_sensor inputs;
    struct pintle_sample sample;

    pintle_sim_init(&sim, 1, 1781222400000000, 3);
    struct pintle_spi bus = pintle_sim_spi(&sim, 0);
    struct pintle_clock clock = pintle_sim_clock(&sim);
    struct pintle_sim_chip *chip = pintle_sim_add(&sim, "ICM20948", 0, 0);
    struct pintle_sim_chip *converter = pintle_sim_add(&sim, "MCP3008", 0, 1);
    if (pintle_sim_feel(chip, "accel-x", &x) != PINTLE_OK
        || pintle_sim_feel(chip, "accel-y", &y) != PINTLE_OK
        || pintle_sim_feel(chip, "accel-z", &z) != PINTLE_OK
        || pintle_sim_feel(converter, "ch0", &tap) != PINTLE_OK
        || pintle_sensor_on_spi(&motion, &pintle_icm20948, &bus, &clock, 0, NULL) != PINTLE_OK
        || pintle_sensor_on_spi(&inputs, &pintle_mcp3008, &bus, &clock, 1, NULL) != PINTLE_OK) {
        return 1;
    }

    if (pintle_sensor_read(&motion, &sample) != PINTLE_OK) {
        return 1;
    }
    const struct pintle_reading *a = &sample.channel[PINTLE_ICM20948_ACCEL_X];
    pintle_derive(&roll, a, sample.time_us, &heel);
    pintle_derive(&pitch, a, sample.time_us, &trim);
    print("heel", heel.value, 1, "deg");
    print("trim", trim.value, 1, "deg");
    if (pintle_sensor_read(&inputs, &sample) != PINTLE_OK) {
        return 1;
    }
    pintle_derive(&divided, &sample.channel[0], sample.time_us, &volts);
    print("battery", volts.value, 2, "V");
    return 0;
}
