/* The sea's temperature, once: one thermometer, one reading. On your own board replace the three
 * sim lines by your port's bus and clock (see docs/porting.md); the rest stays. */
#include <stdio.h>

#include "pintle/parts/tmp102.h"
#include "pintle/pintle.h"
#include "pintle/sim.h"

int main(void)
{
    struct pintle_sim sim; /* the hardware: one I2C bus with a TMP102, its ADD0 pin to GND */
    pintle_sim_init(&sim, 1, 1781222400000000, 1);
    pintle_sim_add(&sim, "TMP102", 0, 0x48);

    struct pintle_i2c bus = pintle_sim_i2c(&sim, 0);
    struct pintle_clock clock = pintle_sim_clock(&sim);
    struct pintle_sensor sensor;
    struct pintle_sample sample;
    enum pintle_status status =
        pintle_sensor_on_i2c(&sensor, &pintle_tmp102, &bus, &clock, 0x48, NULL);
    if (status == PINTLE_OK) {
        status = pintle_sensor_read(&sensor, &sample);
    }
    if (status != PINTLE_OK) {
        printf("no reading: %s\n", pintle_status_sentence(status));
        return 1;
    }

    char buffer[32]; /* text without printf's floating point */
    struct pintle_text text;
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_fixed(&text, sample.channel[PINTLE_TMP102_TEMPERATURE].value, 2);
    printf("%s degC from raw %02x %02x\n", buffer, sample.raw[0], sample.raw[1]);
    return 0;
}
