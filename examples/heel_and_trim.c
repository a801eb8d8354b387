/* Heel and trim from an accelerometer, and the battery's voltage behind a divider, both on one SPI
 * bus. All three axes come in one burst, so that they belong to one moment. */
#include <stdio.h>

#include "pintle/parts/icm20948.h"
#include "pintle/parts/mcp3008.h"
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
    const struct pintle_sim_curve x = { .level = 9.80665 * 0.0349 };
    const struct pintle_sim_curve y = { .level = 9.80665 * 0.2079 };
    const struct pintle_sim_curve z = { .level = 9.80665 * 0.9775 };
    const struct pintle_sim_curve tap = { .level = 12.6 * 15 / 115 };
    static const float ohms[] = { 100000,
                                  15000 }; /* from the battery to the input, and to ground */
    struct pintle_derivation roll = { .formula = &pintle_roll };
    struct pintle_derivation pitch = { .formula = &pintle_pitch };
    struct pintle_derivation divided = { .formula = &pintle_divided, .numbers = ohms };
    struct pintle_reading heel, trim, volts;
    struct pintle_sim sim;
    struct pintle_icm20948 motion;
    struct pintle_mcp3008 inputs;

    pintle_sim_init(&sim, 1, 1781222400000000, 3);
    struct pintle_spi bus = pintle_sim_spi(&sim, 0);
    struct pintle_sim_chip *chip = pintle_sim_add(&sim, "ICM20948", 0, 0);
    struct pintle_sim_chip *converter = pintle_sim_add(&sim, "MCP3008", 0, 1);
    if (pintle_sim_feel(chip, "accel-x", &x) != PINTLE_OK
        || pintle_sim_feel(chip, "accel-y", &y) != PINTLE_OK
        || pintle_sim_feel(chip, "accel-z", &z) != PINTLE_OK
        || pintle_sim_feel(converter, "ch0", &tap) != PINTLE_OK
        || pintle_icm20948_on_spi(&motion, &bus, 0) != PINTLE_OK
        || pintle_mcp3008_on_spi(&inputs, &bus, 1) != PINTLE_OK) {
        return 1;
    }

    if (pintle_sensor_read(&motion.sensor) != PINTLE_OK
        || pintle_sensor_read(&inputs.sensor) != PINTLE_OK) {
        return 1;
    }
    const struct pintle_reading *a = &motion.reading[PINTLE_ICM20948_ACCEL_X];
    int64_t at_us = pintle_sensor_time_us(&motion.sensor);
    pintle_derive(&roll, a, at_us, &heel);
    pintle_derive(&pitch, a, at_us, &trim);
    print("heel", heel.value, 1, "deg");
    print("trim", trim.value, 1, "deg");
    pintle_derive(&divided, &inputs.reading[0], pintle_sensor_time_us(&inputs.sensor), &volts);
    print("battery", volts.value, 2, "V");
    return 0;
}
