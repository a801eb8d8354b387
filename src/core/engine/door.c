/* The one door to a chip: whoever in the core talks to one does it here. Who may talk, what is done
 * once more, and what is not known any more after a failure is decided in this file. */
#include "engine.h"

enum pintle_status pintle_bus_claim(const struct pintle_bus *bus)
{
    return bus->claims ? pintle_priv_said(bus->claims->acquire(bus->context)) : PINTLE_OK;
}

void pintle_bus_release(const struct pintle_bus *bus)
{
    if (bus->claims) {
        bus->claims->release(bus->context);
    }
}

enum pintle_status pintle_priv_hold(struct pintle_sensor *sensor)
{
    enum pintle_status status = PINTLE_OK;
    if (!(sensor->flags & SENSOR_HOLDS)) {
        status = pintle_bus_claim(sensor->bus.any);
    }
    if (status == PINTLE_OK) {
        sensor->flags = (uint8_t)(sensor->flags | SENSOR_HOLDS);
    }
    return status;
}

void pintle_priv_let_go(struct pintle_sensor *sensor)
{
    if (sensor->flags & SENSOR_HOLDS) {
        pintle_bus_release(sensor->bus.any);
    }
    sensor->flags = (uint8_t)(sensor->flags & ~SENSOR_HOLDS);
}

/* One that does not answer, or answers wrong, disturbs no one. */
_Static_assert(PINTLE_DATA_REFUSED < PINTLE_CLOCK_STUCK && PINTLE_CLOCK_STUCK < PINTLE_DATA_STUCK
                   && PINTLE_DATA_STUCK < PINTLE_TIME_LIMIT
                   && PINTLE_TIME_LIMIT == PINTLE_DATA_REFUSED + 3,
               "these four lie together");
void pintle_priv_upset(struct pintle_bus *bus, enum pintle_status status)
{
    bus->upsets =
        (uint8_t)(bus->upsets + (status >= PINTLE_DATA_REFUSED && status <= PINTLE_TIME_LIMIT));
}

void pintle_priv_forget_all(struct pintle_sensor *sensor)
{
    PINTLE_LINK(link, sensor);
    if (link->forget) {
        link->forget(sensor);
    }
}

/* With the bus held. What a read takes out of the chip is gone after a read that broke off: another
 * would begin in the middle. */
static enum pintle_status exchange(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                   uint8_t count, uint8_t reads)
{
    PINTLE_LINK(link, sensor);
    enum pintle_status status = PINTLE_OK;
    uint8_t again = !(count & PINTLE_PRIV_ONCE);
    count &= (uint8_t)~PINTLE_PRIV_ONCE;
    do {
        status = reads ? link->receive(sensor, reg, bytes, count)
                       : link->send(sensor, reg, bytes, count);
        if (status == PINTLE_OK || status == PINTLE_NOT_READY) {
            return status;
        }
        pintle_priv_forget_all(sensor);
        pintle_priv_upset(sensor->bus.any, status);
    } while (link->recover && link->recover(sensor, status) && again--);
    return status;
}

static enum pintle_status deal(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                               uint8_t count, uint8_t reads)
{
    uint8_t held = sensor->flags & SENSOR_HOLDS;
    enum pintle_status status = pintle_priv_hold(sensor);
    if (status == PINTLE_OK) {
        status = exchange(sensor, reg, bytes, count, reads);
    }
    if (!held) {
        pintle_priv_let_go(sensor);
    }
    return status;
}

enum pintle_status pintle_priv_send(struct pintle_sensor *sensor, uint16_t reg,
                                    const uint8_t *bytes, uint8_t count)
{
    return deal(sensor, reg, (uint8_t *)(uintptr_t)bytes, count, 0);
}

enum pintle_status pintle_priv_receive(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                       uint8_t count)
{
    return deal(sensor, reg, bytes, count, 1);
}
