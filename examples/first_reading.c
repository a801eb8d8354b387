/* The sea's temperature, once: one thermometer, one reading. On your own board replace the three
 * sim lines by your port's bus (see docs/porting.md); the rest stays. */
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
    struct pintle_tmp102 sea;
    enum pintle_status status = pintle_tmp102_on_i2c(&sea, &bus, 0x48);
    if (status == PINTLE_OK) {
        status = pintle_sensor_read(&sea.sensor);
    }
    if (status != PINTLE_OK) {
        printf("no reading: %s\n", pintle_status_sentence(status));
        return 1;
    }

    /* text without printf's floating point: a value, and all of the measurement as CSV */
    char buffer[160];
    struct pintle_text text;
    const uint8_t *raw = pintle_sensor_block(&sea.sensor).raw;
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_fixed(&text, sea.reading[PINTLE_TMP102_TEMPERATURE].value, 2);
    printf("%s degC from raw %02x %02x\n", buffer, raw[0], raw[1]);
    pintle_text_init(&text, buffer, sizeof buffer);
    pintle_text_columns(&text, &pintle_tmp102);
    pintle_text_line(&text, &sea.sensor, pintle_sensor_time_us(&sea.sensor));
    fputs(buffer, stdout);
    return 0;
}
