#include "pintle/screen.h"

#include "../engine/engine.h"
#include "pintle/ability.h"

const struct pintle_screen *pintle_screen_of(const struct pintle_part *part)
{
    const struct pintle_abilities *can = pintle_table_pointer(&part->can);
    return can ? pintle_table_pointer(&can->screen) : NULL;
}

void pintle_screen_dot(const struct pintle_part *part, uint8_t *picture, uint16_t x, uint16_t y,
                       uint8_t on)
{
    const struct pintle_screen *table = pintle_screen_of(part);
    if (!table) {
        return;
    }
    PINTLE_TABLE_ROW(struct pintle_screen, screen, table);
    if (x < screen->width && y < screen->height) {
        uint8_t *byte = &picture[(uint16_t)(y / 8 * screen->width) + x];
        uint8_t mask = (uint8_t)(1u << y % 8);
        *byte = (uint8_t)(on ? *byte | mask : *byte & ~mask);
    }
}

/* A band of eight rows, from its left end on, in pieces that any link takes. */
static enum pintle_status show_band(struct pintle_sensor *sensor,
                                    const struct pintle_screen *screen, uint16_t band,
                                    const uint8_t *bytes)
{
    enum pintle_status status = pintle_priv_send(sensor, (uint16_t)(screen->row | band), NULL, 0);
    if (status == PINTLE_OK) {
        status = pintle_priv_send(sensor, screen->column, NULL, 0);
    }
    for (uint16_t x = 0; x < screen->width && status == PINTLE_OK; x += PINTLE_SEND_MAX) {
        uint16_t left = (uint16_t)(screen->width - x);
        uint8_t count = (uint8_t)(left < PINTLE_SEND_MAX ? left : PINTLE_SEND_MAX);
        status = pintle_priv_send(sensor, PINTLE_NO_REG, bytes + x, count);
    }
    return status;
}

/* With the part's set-up in front, which ends what is under way. */
enum pintle_status pintle_screen_show(struct pintle_sensor *sensor, const uint8_t *picture)
{
    const struct pintle_screen *table = pintle_screen_of(sensor->part);
    if (!table) {
        return PINTLE_NO_ABILITY;
    }
    PINTLE_TABLE_ROW(struct pintle_screen, screen, table);
    enum pintle_status status = pintle_priv_set_up(sensor);
    for (uint16_t band = 0; band < screen->height / 8 && status == PINTLE_OK; band++) {
        status = pintle_priv_hold(sensor);
        if (status == PINTLE_OK) {
            status = show_band(sensor, screen, band, picture);
        }
        pintle_priv_let_go(sensor);
        picture += screen->width;
    }
    pintle_priv_close(sensor, status == PINTLE_OK ? PHASE_OPEN : PHASE_CLOSED);
    return status;
}
