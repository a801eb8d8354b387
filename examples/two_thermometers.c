/* Two thermometers that are to tell how much warmer the sea is on top than at the keel. They differ
 * by half a degree, and still see hundredths: both in an ice bath, then side by side with a
 * reference, then with each other. */
#include <math.h>
#include <stdio.h>

#include "pintle/parts/mcp9808.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

#define READINGS 30

static struct pintle_sim sim;
static struct pintle_mcp9808 thermometer[2];
static struct pintle_sim_chip *chip[2];
static const char *const names[] = { "top", "keel" };

/* The mean of what each says in the bath, with its scatter. */
static int settle(double celsius, struct pintle_fit_spread mean[2])
{
    const struct pintle_sim_curve bath = { .level = celsius };
    for (int i = 0; i < 2; i++) {
        mean[i] = (struct pintle_fit_spread){ 0 };
        if (pintle_sim_feel(chip[i], "temperature", &bath) != PINTLE_OK) {
            return 0;
        }
        for (int k = 0; k < READINGS; k++) {
            if (pintle_sensor_read(&thermometer[i].sensor) != PINTLE_OK
                || (k > 0
                    && pintle_fit_spread_add(&mean[i], thermometer[i].reading[0].value)
                           != PINTLE_OK)) {
                return 0;
            }
            pintle_sim_pass(&sim, 250000);
        }
        printf("  %-5s %7.4f, scatter %.4f", names[i], (double)pintle_fit_spread_mean(&mean[i]),
               sqrt((double)pintle_fit_spread_variance(&mean[i])));
    }
    printf("  (bath %.2f degC)\n", celsius);
    return 1;
}

int main(void)
{
    static const double errors[] = { 0.21, -0.26 };
    struct pintle_fit_spread ice[2], warm[2], same[2];
    struct pintle_fit_result line[2];

    pintle_sim_init(&sim, 1, 1781222400000000, 5);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    for (uint8_t i = 0; i < 2; i++) {
        uint8_t address = (uint8_t)(0x18 + i);
        chip[i] = pintle_sim_add(&sim, "MCP9808", 0, address);
        if (pintle_sim_error(chip[i], "temperature", errors[i]) != PINTLE_OK
            || pintle_mcp9808_on_i2c(&thermometer[i], &bus, address) != PINTLE_OK) {
            return 1;
        }
    }
    printf("the ice point, and beside a reference that says 30.00\n");
    if (!settle(0, ice) || !settle(30, warm)) {
        return 1;
    }
    for (int i = 0; i < 2; i++) {
        if (pintle_fit_two_points(&ice[i], 0, &warm[i], 30, &line[i]) != PINTLE_OK) {
            return 1;
        }
        printf("  %-5s gain %.5f, offset %+.3f degC; at 17 degC +/- %.4f\n", names[i],
               (double)line[i].gain, (double)line[i].offset,
               sqrt((double)pintle_fit_variance(&line[i], 17)));
    }
    printf("in one bucket\n");
    if (!settle(17.2, same)) {
        return 1;
    }
    float said[2], corrected[2];
    for (int i = 0; i < 2; i++) {
        float numbers[3];
        said[i] = pintle_fit_spread_mean(&same[i]);
        pintle_fit_numbers(&line[i], numbers);
        const struct pintle_correct_stage stage = {
            .kind = PINTLE_STAGE_POLYNOMIAL, .count = 3, .highest = 40, .numbers = numbers
        };
        struct pintle_reading reading = { .value = said[i] };
        pintle_correct(&stage, 1, &reading, 1);
        corrected[i] = reading.value;
    }
    printf("  they differ by %+.3f degC as they came, by %+.3f corrected\n",
           (double)(said[0] - said[1]), (double)(corrected[0] - corrected[1]));
    return 0;
}
