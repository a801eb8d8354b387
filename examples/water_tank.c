/* Two equal thermometers on the water tank, one bus, told apart by their address strap: which side
 * is in the sun, and which one has lost its plug? */
#include <stdio.h>

#include "pintle/parts/tmp102.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

#define HOUR_US 3600000000u

static const struct {
    const char *side;
    uint8_t address; /* ADD0 to GND, ADD0 to V+ */
} wired[2] = { { "port", 0x48 }, { "starboard", 0x49 } };

static void print_round(const char *when, struct pintle_tmp102 *tank)
{
    struct pintle_sensor *const sensors[2] = { &tank[0].sensor, &tank[1].sensor };
    size_t failed = pintle_round(sensors, 2);
    printf("%s:\n", when);
    for (int i = 0; i < 2; i++) {
        const struct pintle_reading *reading = &tank[i].reading[PINTLE_TMP102_TEMPERATURE];
        char buffer[32];
        struct pintle_text text;
        pintle_text_init(&text, buffer, sizeof buffer);
        pintle_text_fixed(&text, reading->value, 2);
        printf("  %-9s (0x%02x)  %s\n", wired[i].side, wired[i].address,
               pintle_reading_good(reading)
                   ? buffer
                   : pintle_status_sentence(pintle_sensor_status(sensors[i])));
    }
    float difference = tank[0].reading[0].value - tank[1].reading[0].value;
    if (failed == 0 && (difference > 4 || difference < -4)) {
        printf("  the sun is on %s\n", wired[difference < 0].side);
    }
}

int main(void)
{
    static const struct pintle_point sunny[] = {
        { 0, 15 }, { 21600, 15 }, { 36000, 27 }, { 72000, 18 }
    };
    static const struct pintle_point shady[] = { { 0, 15 }, { 36000, 16 }, { 72000, 17 } };
    static const struct pintle_sim_curve sides[2] = { { .points = sunny, .count = 4 },
                                                      { .points = shady, .count = 3 } };
    const struct pintle_sim_fault loose = { .kind = PINTLE_SIM_UNPLUGGED,
                                            .chip = 1,
                                            .from_us = 11 * (uint64_t)HOUR_US,
                                            .to_us = 13 * (uint64_t)HOUR_US };
    struct pintle_sim sim;
    struct pintle_tmp102 tank[2];

    pintle_sim_init(&sim, 1, 1781222400000000, 7);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    for (int i = 0; i < 2; i++) {
        pintle_sim_add(&sim, "TMP102", 0, wired[i].address);
        if (pintle_sim_feel(&sim.chip[i], "temperature", &sides[i]) != PINTLE_OK
            || pintle_tmp102_on_i2c(&tank[i], &bus, wired[i].address) != PINTLE_OK) {
            return 1;
        }
    }
    if (pintle_sim_add_fault(&sim, &loose) != PINTLE_OK) {
        return 1;
    }

    print_round("midnight", tank);
    pintle_sim_pass(&sim, 10 * (uint64_t)HOUR_US);
    print_round("ten in the morning", tank);
    pintle_sim_pass(&sim, 2 * (uint64_t)HOUR_US);
    print_round("noon, a plug came off", tank);
    pintle_sim_pass(&sim, 2 * (uint64_t)HOUR_US);
    print_round("pushed home again", tank);
    return 0;
}
