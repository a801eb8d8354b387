/* Limits that chips watch by themselves. */
#include "pintle/limits.h"

#include "../engine/engine.h"
#include "pintle/ability.h"

#if !PINTLE_WHOLE

static const struct pintle_limit_rules *rules_of(const struct pintle_sensor *sensor)
{
    const struct pintle_abilities *can = pintle_table_pointer(&sensor->part->can);
    return can ? pintle_table_pointer(&can->limits) : NULL;
}

/* The channel's integer for a value, where its bits are. */
static enum pintle_status encode(const struct pintle_sensor *sensor,
                                 const struct pintle_limit_rules *rules, float value,
                                 uint16_t *word)
{
    const struct pintle_channel *channel = pintle_table_pointer(&sensor->part->channels);
    PINTLE_TABLE_ROW(struct pintle_linear, row,
                     pintle_part_row(sensor->part, channel, pintle_priv_settings_at(sensor)));
    float steps = (value - row->zero) / row->scale;
    if (!(steps >= (float)row->lowest && steps <= (float)row->highest)) {
        return PINTLE_OUT_OF_RANGE;
    }
    int32_t integer = (int32_t)(steps + (steps < 0 ? -0.5f : 0.5f));
    *word = (uint16_t)((uint32_t)integer << row->shift & rules->mask);
    return PINTLE_OK;
}

/* The set-up's wait is still open when the limits are written, and over before anything is asked:
 * the chip has compared with them by then. */
static enum pintle_status put(struct pintle_limits *limits, const struct pintle_limit_rules *rules)
{
    enum pintle_status status = pintle_priv_set_up(limits->sensor);
    if (status == PINTLE_OK) {
        status = pintle_priv_write(limits->sensor, rules->low, 2, limits->low);
    }
    if (status == PINTLE_OK) {
        status = pintle_priv_write(limits->sensor, rules->high, 2, limits->high);
    }
    return status == PINTLE_OK ? pintle_priv_program(limits->sensor, rules->on) : status;
}

static enum pintle_status compare(struct pintle_sensor *sensor, uint16_t reg, uint16_t want)
{
    uint32_t is = 0;
    enum pintle_status status = pintle_priv_read(sensor, reg, 2, &is);
    return status == PINTLE_OK && is != want ? PINTLE_MISFIT : status;
}

/* Are they in the chip, and is its pin on? */
static enum pintle_status look(struct pintle_limits *limits, const struct pintle_limit_rules *rules)
{
    enum pintle_status status = compare(limits->sensor, rules->low, limits->low);
    if (status == PINTLE_OK) {
        status = compare(limits->sensor, rules->high, limits->high);
    }
    return status == PINTLE_OK ? pintle_priv_program(limits->sensor, rules->check) : status;
}

/* The chip is set up, and the next measurement needs no set-up, which would switch the pin off. */
static enum pintle_status end(const struct pintle_limits *limits, enum pintle_status status)
{
    uint8_t stays = status == PINTLE_OK || status == PINTLE_MISFIT;
    pintle_priv_close(limits->sensor, stays ? PHASE_OPEN : PHASE_CLOSED);
    limits->sensor->flags &= (uint8_t)~SENSOR_FIRST;
    return status;
}

enum pintle_status pintle_limits_set(struct pintle_limits *limits, struct pintle_sensor *sensor,
                                     float low, float high)
{
    const struct pintle_limit_rules *table = rules_of(sensor);
    limits->sensor = sensor;
    if (!table || !(low <= high)) {
        return table ? PINTLE_OUT_OF_RANGE : PINTLE_NO_ABILITY;
    }
    PINTLE_TABLE_ROW(struct pintle_limit_rules, rules, table);
    enum pintle_status status = encode(sensor, rules, low, &limits->low);
    if (status == PINTLE_OK) {
        status = encode(sensor, rules, high, &limits->high);
    }
    if (status != PINTLE_OK) {
        return status;
    }
    status = put(limits, rules);
    return end(limits, status == PINTLE_OK ? look(limits, rules) : status);
}

enum pintle_status pintle_limits_ask(struct pintle_limits *limits, uint8_t *beyond)
{
    const struct pintle_limit_rules *table = rules_of(limits->sensor);
    uint32_t word = 0;
    *beyond = 0;
    if (!table) {
        return PINTLE_NO_ABILITY;
    }
    PINTLE_TABLE_ROW(struct pintle_limit_rules, rules, table);
    enum pintle_status status = pintle_sensor_prove(limits->sensor);
    if (status == PINTLE_OK) {
        status = pintle_priv_read(limits->sensor, rules->state, 2, &word);
    }
    if (status == PINTLE_OK) { /* behind it: a supply that went before has taken the limits */
        status = look(limits, rules);
    }
    if (status == PINTLE_MISFIT) {
        enum pintle_status again = put(limits, rules);
        status = again == PINTLE_OK ? PINTLE_MISFIT : again;
    }
    word = rules->inverted ? ~word : word;
    if (status == PINTLE_OK) {
        *beyond = (uint8_t)((word & rules->below ? PINTLE_LIMITS_BELOW : 0)
                            | (word & rules->above ? PINTLE_LIMITS_ABOVE : 0));
    }
    return end(limits, status);
}

#endif
