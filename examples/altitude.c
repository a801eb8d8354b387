/* Up the mast with a barometer in the pocket: how high, against the pressure on deck, against a
 * pressure typed in, and averaged. */
#include <stdio.h>

#include "pintle/parts/bme280.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

static void print(float value, const char *unit)
{
    char buffer[24];
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_fixed(&text, value, 1);
    printf("%9s %-4s", buffer, unit);
}

int main(void)
{
    /* 14 m of mast are 168 Pa; half a minute up, a minute there, half a minute down. */
    static const struct pintle_point climb[] = {
        { 0, 101100 }, { 20, 101100 }, { 50, 100932 }, { 110, 100932 }, { 140, 101100 }
    };
    const struct pintle_sim_curve air = { .points = climb, .count = 5 };
    const float typed[] = { 101325 };
    struct pintle_moment memory[16];
    struct pintle_derivation gained = { .formula = &pintle_altitude_gained };
    struct pintle_derivation above = { .formula = &pintle_altitude, .numbers = typed };
    struct pintle_derivation smooth = {
        .formula = &pintle_average, .over_ms = 30000, .memory = memory, .room = 16
    };
    struct pintle_sim sim;
    struct pintle_bmp280 barometer;

    pintle_sim_init(&sim, 1, 1781222400000000, 5);
    struct pintle_sim_chip *chip = pintle_sim_add(&sim, "BMP280", 0, 0x76);
    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    if (pintle_sim_feel(chip, "pressure", &air) != PINTLE_OK
        || pintle_bmp280_on_i2c(&barometer, &bus, 0x76) != PINTLE_OK
        || pintle_bmp280_set_pressure_oversampling(&barometer, PINTLE_BME280_X16) != PINTLE_OK) {
        return 1;
    }
    pintle_derive_begin(&gained);
    pintle_derive_begin(&above);
    pintle_derive_begin(&smooth);
    for (unsigned s = 0; s <= 140; s += 10) {
        struct pintle_reading up, typed_in, mean;
        pintle_sim_pass(&sim, s * 1000000ull > sim.now_us ? s * 1000000ull - sim.now_us : 0);
        if (pintle_sensor_read(&barometer.sensor) != PINTLE_OK) {
            return 1;
        }
        const struct pintle_reading *p = &barometer.reading[PINTLE_BMP280_PRESSURE];
        int64_t at_us = pintle_sensor_time_us(&barometer.sensor);
        pintle_derive(&gained, p, at_us, &up);
        pintle_derive(&above, p, at_us, &typed_in);
        pintle_derive(&smooth, &up, at_us, &mean);
        printf("%3u s ", s);
        print(p->value / 100, "hPa");
        if (pintle_reading_good(&up)) {
            print(up.value, "m up");
            print(typed_in.value, "m");
        }
        if (pintle_reading_good(&mean)) {
            print(mean.value, "m up on average");
        }
        printf("\n");
    }
    return 0;
}
