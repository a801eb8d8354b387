#include "engine.h"

static void start(struct pintle_turn *turn)
{
    turn->status = pintle_sensor_start(turn->sensor);
    if (turn->status == PINTLE_OK) {
        turn->status = PINTLE_NOT_READY;
        return;
    }
    pintle_priv_mark_failed(turn->sensor, &turn->sample);
}

void pintle_round_start(struct pintle_turn *turns, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        start(&turns[i]);
    }
}

uint32_t pintle_round_collect(struct pintle_turn *turns, size_t count)
{
    uint32_t shortest = UINT32_MAX;
    for (size_t i = 0; i < count; i++) {
        struct pintle_turn *turn = &turns[i];
        if (turn->status != PINTLE_NOT_READY) {
            continue;
        }
        uint32_t wait = pintle_sensor_wait_us(turn->sensor);
        if (wait == 0) {
            turn->status = pintle_sensor_collect(turn->sensor, &turn->sample);
            wait =
                turn->status == PINTLE_NOT_READY ? pintle_sensor_wait_us(turn->sensor) : UINT32_MAX;
        }
        shortest = wait < shortest ? wait : shortest;
    }
    return shortest;
}

size_t pintle_round_end(struct pintle_turn *turns, size_t count)
{
    size_t failed = 0;
    for (size_t i = 0; i < count; i++) {
        if (turns[i].status == PINTLE_NOT_READY) {
            pintle_priv_mark_failed(turns[i].sensor, &turns[i].sample);
            turns[i].status = PINTLE_CLOCK_STOPPED;
        }
        failed += turns[i].status != PINTLE_OK;
    }
    return failed;
}

size_t pintle_round(struct pintle_turn *turns, size_t count)
{
    pintle_round_start(turns, count);
    uint32_t wait = pintle_round_collect(turns, count);
    while (wait != UINT32_MAX && pintle_priv_sleep(turns[0].sensor->clock, wait) == PINTLE_OK) {
        wait = pintle_round_collect(turns, count);
    }
    return pintle_round_end(turns, count);
}
