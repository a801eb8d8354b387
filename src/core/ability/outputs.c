#include "pintle/outputs.h"

#include "pintle/ability.h"
#include "pintle/reg.h"

/* Declare `name`, the rules of an outputs' part. */
#define RULES(name, outputs)                                                                       \
    PINTLE_TABLE_ROW(struct pintle_lines, name, rules_of((outputs)->sensor))

static const struct pintle_lines *rules_of(const struct pintle_sensor *sensor)
{
    const struct pintle_abilities *can = pintle_table_pointer(&sensor->part->can);
    return can ? pintle_table_pointer(&can->lines) : NULL;
}

enum pintle_status pintle_outputs_init(struct pintle_outputs *outputs, struct pintle_sensor *sensor)
{
    outputs->sensor = sensor;
    outputs->driven = outputs->levels = 0;
    return rules_of(sensor) ? PINTLE_OK : PINTLE_NO_ABILITY;
}

static uint16_t all_of(const struct pintle_lines *rules)
{
    return (uint16_t)(((uint32_t)1 << rules->count) - 1);
}

/* One of its registers. */
static struct pintle_reg reg_at(const struct pintle_lines *rules, uint16_t address)
{
    struct pintle_reg reg;
    memset(&reg, 0, sizeof reg);
    reg.address = address;
    reg.width = rules->count > 8 ? 2 : 1;
    return reg;
}

/* Levels before directions, so that no line is driven where it was before. */
static enum pintle_status put(const struct pintle_outputs *outputs)
{
    RULES(rules, outputs);
    uint16_t inputs = (uint16_t)(all_of(rules) & ~outputs->driven);
    uint8_t weak = rules->direction == PINTLE_NO_REG;
    uint16_t levels = (uint16_t)(outputs->levels | (weak ? inputs : 0));
    const struct pintle_reg out = reg_at(rules, rules->out);
    const struct pintle_reg direction = reg_at(rules, rules->direction);
    enum pintle_status status = pintle_sensor_prove(outputs->sensor);
    if (status == PINTLE_OK) {
        status = pintle_reg_write(outputs->sensor, &out, levels);
    }
    if (status == PINTLE_OK && !weak) {
        status = pintle_reg_write(outputs->sensor, &direction, inputs);
    }
    return status;
}

enum pintle_status pintle_outputs_set(struct pintle_outputs *outputs, uint16_t lines,
                                      uint16_t levels)
{
    RULES(rules, outputs);
    if (lines & ~all_of(rules)) {
        return PINTLE_OUT_OF_RANGE;
    }
    outputs->driven |= lines;
    outputs->levels = (uint16_t)((outputs->levels & ~lines) | (levels & lines));
    return put(outputs);
}

enum pintle_status pintle_outputs_release(struct pintle_outputs *outputs, uint16_t lines)
{
    RULES(rules, outputs);
    if (lines & ~all_of(rules)) {
        return PINTLE_OUT_OF_RANGE;
    }
    outputs->driven = (uint16_t)(outputs->driven & ~lines);
    outputs->levels = (uint16_t)(outputs->levels & ~lines);
    return put(outputs);
}

enum pintle_status pintle_outputs_read(struct pintle_outputs *outputs, uint16_t *levels)
{
    RULES(rules, outputs);
    const struct pintle_reg in = reg_at(rules, rules->in);
    uint32_t value = 0;
    uint32_t again = 0;
    enum pintle_status status = pintle_reg_read(outputs->sensor, &in, &value);
    if (status == PINTLE_OK) { /* ones are what a chip leaves that loses its supply in the byte */
        status = pintle_reg_read(outputs->sensor, &in, &again);
    }
    if (status != PINTLE_OK || value != again) {
        return status == PINTLE_OK ? PINTLE_BAD_CRC : status;
    }
    *levels = (uint16_t)value & all_of(rules);
    return (*levels ^ outputs->levels) & outputs->driven ? PINTLE_MISFIT : PINTLE_OK;
}
