/* Chips that keep bytes: pages, and whether they have taken them. */
#include "pintle/store.h"

#include "pintle/ability.h"

static const struct pintle_store *rules_of(const struct pintle_part *part)
{
    const struct pintle_abilities *can = pintle_table_pointer(&part->can);
    return can ? pintle_table_pointer(&can->store) : NULL;
}

uint16_t pintle_store_unit(const struct pintle_part *part)
{
    const struct pintle_store *rules = rules_of(part);
    return rules ? pintle_table_u16(&rules->unit) : 0;
}

enum pintle_status pintle_store_size(struct pintle_sensor *sensor, uint64_t *size)
{
    const struct pintle_store *table = rules_of(sensor->part);
    if (!table) {
        return PINTLE_NO_ABILITY;
    }
    PINTLE_TABLE_ROW(struct pintle_store_calls, calls, pintle_table_pointer(&table->calls));
    *size = pintle_table_u32(&table->size);
    return calls->size ? calls->size(sensor, size) : pintle_sensor_prove(sensor);
}

/* Does it have so many units from there on? */
static enum pintle_status check(struct pintle_sensor *sensor, uint32_t from, uint16_t count)
{
    uint64_t size = 0;
    enum pintle_status status = pintle_store_size(sensor, &size);
    uint64_t end = ((uint64_t)from + count) * pintle_store_unit(sensor->part);
    return status == PINTLE_OK && end > size ? PINTLE_OUT_OF_RANGE : status;
}

/* How many of `left` units, from there on, lie in one page. */
static uint16_t in_page(const struct pintle_store *rules, uint32_t from, uint16_t left)
{
    uint16_t units = rules->page / rules->unit;
    uint16_t fit = (uint16_t)(units - from % units);
    return fit < left ? fit : left;
}

enum pintle_status pintle_store_read(struct pintle_sensor *sensor, uint32_t from, uint8_t *bytes,
                                     uint16_t count)
{
    enum pintle_status status = check(sensor, from, count);
    const struct pintle_store *table = rules_of(sensor->part);
    while (status == PINTLE_OK && count > 0) {
        PINTLE_TABLE_ROW(struct pintle_store, rules, table);
        PINTLE_TABLE_ROW(struct pintle_store_calls, calls, rules->calls);
        uint16_t units = in_page(rules, from, count);
        status = calls->read(sensor, table, from, bytes, units);
        if (status == PINTLE_OK && rules->unit == 1) { /* without a checksum: once more */
            uint16_t sum = 0;
            status = calls->look(sensor, table, from, bytes, units, &sum);
            status = status == PINTLE_MISFIT ? PINTLE_BAD_CRC : status;
        }
        from += units;
        bytes += (size_t)units * rules->unit;
        count = (uint16_t)(count - units);
    }
    return status;
}

static enum pintle_status write_page(struct pintle_sensor *sensor, const struct pintle_store *table,
                                     uint32_t from, const uint8_t *bytes, uint16_t units)
{
    uint16_t before = 0;
    uint16_t after = 0;
    PINTLE_TABLE_ROW(struct pintle_store_calls, calls, pintle_table_pointer(&table->calls));
    enum pintle_status status = calls->look(sensor, table, from, bytes, units, &before);
    if (status != PINTLE_MISFIT
        && status != PINTLE_BAD_CRC) { /* what is lost can be written anew */
        return status;
    }
    status = calls->write(sensor, table, from, bytes, units);
    if (status == PINTLE_OK) {
        status = calls->look(sensor, table, from, bytes, units, &after);
        status = status == PINTLE_MISFIT && after == before ? PINTLE_READ_ONLY : status;
    }
    return status;
}

enum pintle_status pintle_store_write(struct pintle_sensor *sensor, uint32_t from,
                                      const uint8_t *bytes, uint16_t count)
{
    enum pintle_status status = check(sensor, from, count);
    const struct pintle_store *table = rules_of(sensor->part);
    while (status == PINTLE_OK && count > 0) {
        PINTLE_TABLE_ROW(struct pintle_store, rules, table);
        uint16_t units = in_page(rules, from, count);
        status = write_page(sensor, table, from, bytes, units);
        from += units;
        bytes += (size_t)units * rules->unit;
        count = (uint16_t)(count - units);
    }
    return status;
}
