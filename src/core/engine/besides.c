/* Programs besides those of a measurement, run to their end. */
#include "engine.h"

enum pintle_status pintle_priv_program(struct pintle_sensor *sensor,
                                       const struct pintle_step *program)
{
    enum pintle_status status = PINTLE_OK;
    if (!pintle_priv_under_way(sensor)) {
        sensor->when_us = 0;
    }
    pintle_priv_enter(sensor, PHASE_MEASURE);
    sensor->at = program;
    do {
        status = pintle_priv_wait(sensor);
        if (status == PINTLE_OK) {
            status = pintle_priv_run(sensor, PHASE_DONE, PINTLE_OP_READ);
        }
    } while (status == PINTLE_NOT_READY);
    return status;
}

enum pintle_status pintle_sensor_rest(struct pintle_sensor *sensor)
{
    const struct pintle_step *rest = pintle_table_pointer(&sensor->part->rest);
    int64_t time_us = pintle_sensor_time_us(sensor);
    enum pintle_status status = rest ? pintle_priv_program(sensor, rest) : PINTLE_NO_ABILITY;
    if (rest) {
        pintle_priv_close(sensor, PHASE_CLOSED); /* the next measurement sets it up */
        sensor->when_us = time_us;
    }
    return status;
}
