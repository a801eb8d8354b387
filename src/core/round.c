#include "engine.h"

static void start(struct pintle_seat *seat)
{
    seat->status = pintle_sensor_start(seat->sensor);
    if (seat->status == PINTLE_OK) {
        seat->status = PINTLE_NOT_READY;
        return;
    }
    pintle_priv_mark_failed(seat->sensor, &seat->sample);
}

/* Collect whatever is ready; returns the shortest wait of the rest, or UINT32_MAX. */
static uint32_t collect(struct pintle_seat *seats, size_t count)
{
    uint32_t shortest = UINT32_MAX;
    for (size_t i = 0; i < count; i++) {
        struct pintle_seat *seat = &seats[i];
        if (seat->status != PINTLE_NOT_READY) {
            continue;
        }
        uint32_t wait = pintle_sensor_wait_us(seat->sensor);
        if (wait == 0) {
            seat->status = pintle_sensor_collect(seat->sensor, &seat->sample);
            wait =
                seat->status == PINTLE_NOT_READY ? pintle_sensor_wait_us(seat->sensor) : UINT32_MAX;
        }
        shortest = wait < shortest ? wait : shortest;
    }
    return shortest;
}

size_t pintle_round(struct pintle_seat *seats, size_t count)
{
    size_t failed = 0;
    for (size_t i = 0; i < count; i++) {
        start(&seats[i]);
    }
    uint32_t wait = collect(seats, count);
    while (wait != UINT32_MAX && pintle_priv_sleep(seats[0].sensor->clock, wait) == PINTLE_OK) {
        wait = collect(seats, count);
    }
    for (size_t i = 0; i < count; i++) {
        if (seats[i].status == PINTLE_NOT_READY) { /* its clock does not move */
            pintle_priv_mark_failed(seats[i].sensor, &seats[i].sample);
            seats[i].status = PINTLE_CLOCK_STOPPED;
        }
        failed += seats[i].status != PINTLE_OK;
    }
    return failed;
}
