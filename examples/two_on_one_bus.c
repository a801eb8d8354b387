/* Two equal thermometers on one bus, told apart by their address strap. One is warmed with a
 * finger, later one loses its plug: which is which? */
#include <stdio.h>

#include "pintle/pintle.h"
#include "pintle/sim.h"

static const struct {
    const char *name;
    uint8_t address;
} wired[2] = { { "ADD0 to GND", 0x48 }, { "ADD0 to V+", 0x49 } };

static void print_round(const char *when, struct pintle_seat *seats)
{
    size_t failed = pintle_round(seats, 2);
    printf("%s:\n", when);
    for (int i = 0; i < 2; i++) {
        const struct pintle_reading *reading = &seats[i].sample.channel[0];
        char buffer[32];
        struct pintle_text text;
        pintle_text_init(&text, buffer, sizeof buffer);
        pintle_text_fixed(&text, reading->value, 2);
        if (seats[i].status == PINTLE_OK) {
            printf("  0x%02x (%s)  %s degC\n", wired[i].address, wired[i].name, buffer);
        } else {
            printf("  0x%02x (%s)  fails: %s\n", wired[i].address, wired[i].name,
                   pintle_status_sentence(seats[i].status));
        }
    }
    if (failed == 0 && seats[0].sample.channel[0].value > seats[1].sample.channel[0].value + 4) {
        printf("  the warm one is at 0x48\n");
    }
}

int main(void)
{
    static const struct pintle_point finger[] = { { 5, 18 }, { 20, 29 }, { 40, 29 }, { 90, 18 } };
    const struct pintle_curve warmed = { .points = finger, .count = 4 };
    const struct pintle_sim_fault loose = {
        .kind = PINTLE_SIM_UNPLUGGED, .chip = 1, .from_us = 40000000, .to_us = 60000000
    };
    struct pintle_sim sim;
    struct pintle_sensor sensors[2];
    struct pintle_seat seats[2];

    pintle_sim_init(&sim, 1, 1781222400000000, 7);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    struct pintle_clock clock = pintle_sim_clock(&sim);
    for (int i = 0; i < 2; i++) {
        pintle_sim_add(&sim, "TMP102", 0, wired[i].address);
        if (pintle_sensor_on_i2c(&sensors[i], &pintle_tmp102, &bus, &clock, wired[i].address, NULL)
            != PINTLE_OK) {
            return 1;
        }
        seats[i].sensor = &sensors[i];
    }
    if (pintle_sim_feel(&sim.chip[0], "temperature", &warmed) != PINTLE_OK
        || pintle_sim_add_fault(&sim, &loose) != PINTLE_OK) {
        return 1;
    }

    print_round("at rest", seats);
    pintle_sim_pass(&sim, 25000000);
    print_round("a finger on one of them", seats);
    pintle_sim_pass(&sim, 20000000);
    print_round("a plug came off", seats);
    pintle_sim_pass(&sim, 20000000);
    print_round("pushed home again", seats);
    return 0;
}
