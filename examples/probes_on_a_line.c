/* Thermometers along one 1-Wire line: who is there, what does each measure, which has gone? They
 * live on the line's power, and their master is one pin. */
#include <stdio.h>
#include <string.h>

#include "pintle/parts/ds18b20.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

#define MOST 8

static struct pintle_ds18b20 probes[MOST];
static struct pintle_sensor *sensors[MOST];
static uint8_t codes[MOST][8];

/* Search the line and put a sensor on each DS18B20 found. */
static size_t find(struct pintle_onewire *line)
{
    struct pintle_onewire_search search = { 0 };
    size_t count = 0;
    while (count < MOST && pintle_onewire_next(line, &search) == PINTLE_OK) {
        struct pintle_ds18b20 *probe = &probes[count];
        if (pintle_ds18b20_on_onewire(probe, line, search.code) == PINTLE_OK
            && pintle_ds18b20_set_power(probe, PINTLE_DS18B20_PARASITE) == PINTLE_OK) {
            memcpy(codes[count], search.code, sizeof search.code);
            sensors[count++] = &probe->sensor;
        }
    }
    return count;
}

static void print_round(const char *when, size_t count)
{
    size_t failed = pintle_round(sensors, count);
    printf("%s: %u of %u\n", when, (unsigned)(count - failed), (unsigned)count);
    for (size_t i = 0; i < count; i++) {
        enum pintle_status status = pintle_sensor_status(sensors[i]);
        char buffer[32];
        struct pintle_text text;
        pintle_text_init(&text, buffer, sizeof buffer);
        pintle_text_fixed(&text, probes[i].reading[0].value, 2);
        printf("  ..%02x  %s\n", codes[i][1],
               status == PINTLE_OK ? buffer : pintle_status_sentence(status));
    }
}

int main(void)
{
    const struct pintle_sim_fault loose = {
        .kind = PINTLE_SIM_UNPLUGGED, .chip = 1, .from_us = 10000000, .to_us = 20000000
    };
    struct pintle_sim sim;
    struct pintle_sim_onewire_wires wires;
    struct pintle_bitbang_onewire master;

    pintle_sim_init(&sim, 1, 1781222400000000, 7);
    for (uint8_t i = 1; i <= 3; i++) {
        struct pintle_sim_chip *chip = pintle_sim_add(&sim, "DS18B20", 0, (uint8_t)(0x11 * i));
        const struct pintle_sim_curve level = { .level = 4.0 * i };
        chip->rom.parasite = 1;
        if (pintle_sim_feel(chip, "temperature", &level) != PINTLE_OK) {
            return 1;
        }
    }
    if (pintle_sim_add_fault(&sim, &loose) != PINTLE_OK) {
        return 1;
    }
    pintle_sim_onewire_wires_init(&wires, &sim, 0, 4700, 400);
    if (pintle_bitbang_onewire_init(&master, pintle_sim_onewire_pin(&wires), &sim.clock)
        != PINTLE_OK) {
        return 1;
    }
    struct pintle_onewire line = pintle_bitbang_onewire_bus(&master);

    size_t count = find(&line);
    print_round("found", count);
    pintle_sim_pass(&sim, 8000000);
    print_round("a plug came off", count);
    pintle_sim_pass(&sim, 10000000);
    print_round("pushed home again", count);
    return 0;
}
