#include "engine.h"

void pintle_round_start(struct pintle_sensor *const *sensors, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        (void)!pintle_sensor_start(sensors[i]); /* its status stays with it */
    }
}

uint32_t pintle_round_collect(struct pintle_sensor *const *sensors, size_t count)
{
    uint32_t shortest = UINT32_MAX;
    for (size_t i = 0; i < count; i++) {
        struct pintle_sensor *sensor = sensors[i];
        if (sensor->status != PINTLE_NOT_READY) {
            continue;
        }
        uint32_t wait = pintle_sensor_wait_us(sensor);
        if (wait == 0) {
            enum pintle_status status = pintle_sensor_collect(sensor);
            wait = status == PINTLE_NOT_READY ? pintle_sensor_wait_us(sensor) : UINT32_MAX;
        }
        shortest = wait < shortest ? wait : shortest;
    }
    return shortest;
}

size_t pintle_round_end(struct pintle_sensor *const *sensors, size_t count)
{
    size_t failed = 0;
    for (size_t i = 0; i < count; i++) {
        if (sensors[i]->status == PINTLE_NOT_READY) {
            (void)!pintle_priv_failed(sensors[i], PINTLE_CLOCK_STOPPED);
        }
        failed += sensors[i]->status != PINTLE_OK;
    }
    return failed;
}

size_t pintle_round(struct pintle_sensor *const *sensors, size_t count)
{
    pintle_round_start(sensors, count);
    uint32_t wait = pintle_round_collect(sensors, count);
    while (wait != UINT32_MAX
           && pintle_priv_sleep(pintle_priv_clock(sensors[0]), wait) == PINTLE_OK) {
        wait = pintle_round_collect(sensors, count);
    }
    return pintle_round_end(sensors, count);
}
