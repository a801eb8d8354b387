/* Registers as memory. While it writes, a chip does not answer to its address. */
#include "../engine/engine.h"
#include "pintle/store.h"

#define ASK_EVERY_US 500u

static const struct pintle_part_crc sum_rule PINTLE_TABLE = { .polynomial = 0x1021, .bits = 16 };

static enum pintle_status until_it_answers(struct pintle_sensor *sensor, uint32_t limit_us)
{
    enum pintle_status status = PINTLE_OK;
    uint32_t waited = 0;
    uint8_t byte = 0;
    do {
        if (pintle_priv_sleep(pintle_priv_clock(sensor), ASK_EVERY_US) != PINTLE_OK) {
            return PINTLE_CLOCK_STOPPED;
        }
        waited += ASK_EVERY_US;
        status = pintle_priv_receive(sensor, PINTLE_NO_REG, &byte, 1);
    } while (status == PINTLE_NO_ANSWER && waited < limit_us);
    return status;
}

static enum pintle_status read(struct pintle_sensor *sensor, const struct pintle_store *store,
                               uint32_t from, uint8_t *bytes, uint16_t count)
{
    uint16_t first = (uint16_t)(pintle_table_u16(&store->first) + from);
    return pintle_priv_receive(sensor, first, bytes, (uint8_t)count);
}

static enum pintle_status write(struct pintle_sensor *sensor, const struct pintle_store *store,
                                uint32_t from, const uint8_t *bytes, uint16_t count)
{
    uint16_t first = (uint16_t)(pintle_table_u16(&store->first) + from);
    uint32_t limit = pintle_table_u32(&store->write_us);
    enum pintle_status status = pintle_priv_send(sensor, first, bytes, (uint8_t)count);
    return status == PINTLE_OK && limit > 0 ? until_it_answers(sensor, limit) : status;
}

static enum pintle_status look(struct pintle_sensor *sensor, const struct pintle_store *store,
                               uint32_t from, const uint8_t *bytes, uint16_t count, uint16_t *sum)
{
    uint8_t is[PINTLE_SEND_MAX];
    enum pintle_status status = read(sensor, store, from, is, count);
    if (status != PINTLE_OK) {
        return status;
    }
    *sum = pintle_part_crc_over(&sum_rule, is, count);
    return memcmp(is, bytes, count) == 0 ? PINTLE_OK : PINTLE_MISFIT;
}

const struct pintle_store_calls pintle_store_registers PINTLE_TABLE = { read, write, look, NULL };
