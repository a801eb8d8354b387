/* The one door to a chip: whoever in the core talks to one does it here. Who may talk, what is done
 * once more, and what is not known any more after a failure is decided in this file. */
#include "engine.h"

enum pintle_status pintle_priv_hold(struct pintle_sensor *sensor)
{
    enum pintle_status status = PINTLE_OK;
    if (!(sensor->flags & (SENSOR_HOLDS | SENSOR_ALONE))) {
        PINTLE_LINK(link, sensor);
        status = link->claim(sensor, 1);
    }
    sensor->flags |= status == PINTLE_OK ? SENSOR_HOLDS : 0;
    return status;
}

void pintle_priv_let_go(struct pintle_sensor *sensor)
{
    if ((sensor->flags & (SENSOR_HOLDS | SENSOR_ALONE)) == SENSOR_HOLDS) {
        PINTLE_LINK(link, sensor);
        (void)link->claim(sensor, 0);
    }
    sensor->flags &= (uint8_t)~SENSOR_HOLDS;
}

void pintle_priv_upset(struct pintle_sensor *sensor)
{
    PINTLE_LINK(link, sensor);
    uint8_t *upsets = link->upsets ? link->upsets(sensor) : NULL;
    if (upsets) {
        (*upsets)++;
    }
}

uint8_t pintle_priv_upsets(struct pintle_sensor *sensor)
{
    PINTLE_LINK(link, sensor);
    return link->upsets ? *link->upsets(sensor) : 0;
}

/* Was the bus disturbed, so that any chip on it may have heard what nobody said? One that does not
 * answer, or answers wrong, disturbs nobody. */
static uint8_t disturbed(enum pintle_status status)
{
    return status == PINTLE_CLOCK_STUCK || status == PINTLE_DATA_STUCK
           || status == PINTLE_TIME_LIMIT || status == PINTLE_DATA_REFUSED;
}

static enum pintle_status attempt(const struct pintle_link *link, struct pintle_sensor *sensor,
                                  const struct pintle_exchange *what)
{
    enum pintle_status status = what->in ? link->receive(sensor, what->reg, what->in, what->count)
                                         : link->send(sensor, what->reg, what->out, what->count);
    if (status != PINTLE_OK && status != PINTLE_NOT_READY) {
        link->forget(sensor);
    }
    if (disturbed(status)) {
        pintle_priv_upset(sensor);
    }
    return status;
}

/* With the bus held. What a read takes out of the chip is gone after a read that broke off: another
 * would begin in the middle. */
static enum pintle_status exchange(struct pintle_sensor *sensor, const struct pintle_exchange *what)
{
    PINTLE_LINK(link, sensor);
    enum pintle_status status = attempt(link, sensor, what);
    uint8_t freed = link->recover && status != PINTLE_OK && link->recover(sensor, status);
    return freed && !what->consumes ? attempt(link, sensor, what) : status;
}

enum pintle_status pintle_priv_exchange(struct pintle_sensor *sensor,
                                        const struct pintle_exchange *what)
{
    if (sensor->flags & SENSOR_HOLDS) {
        return exchange(sensor, what);
    }
    enum pintle_status status = pintle_priv_hold(sensor);
    if (status == PINTLE_OK) {
        status = exchange(sensor, what);
        pintle_priv_let_go(sensor);
    }
    return status;
}

enum pintle_status pintle_priv_send(struct pintle_sensor *sensor, uint16_t reg,
                                    const uint8_t *bytes, uint8_t count)
{
    const struct pintle_exchange what = { .reg = reg, .out = bytes, .count = count };
    return pintle_priv_exchange(sensor, &what);
}

enum pintle_status pintle_priv_receive(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                       uint8_t count)
{
    const struct pintle_exchange what = { .reg = reg, .in = bytes, .count = count };
    return pintle_priv_exchange(sensor, &what);
}
