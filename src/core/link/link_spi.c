/* Registers over SPI: a first byte with the register's address and the bits that tell a read, and
 * more than one byte, from a write of one; then the data, all under one select. */
#include "../engine/engine.h"

/* A select line as a key among the bus's memories: never 0. */
static uint8_t key_of(uint8_t select)
{
    return (uint8_t)(select + 1);
}

enum pintle_status pintle_spi_transfer(struct pintle_spi *bus, const struct pintle_spi_way *way,
                                       const struct pintle_segment *segments, uint8_t count)
{
    if (count == 0) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = pintle_bus_claim(&bus->common);
    if (status == PINTLE_OK) {
        pintle_priv_forget(bus->known, key_of(way->select));
        status = pintle_priv_said(bus->calls->transfer(bus->common.context, way, segments, count));
        pintle_bus_release(&bus->common);
    }
    return status;
}

static enum pintle_status exchange_as(const struct pintle_sensor *sensor,
                                      const struct pintle_spi_rules *rules,
                                      const struct pintle_segment *segments, uint8_t count,
                                      uint8_t command)
{
    const struct pintle_spi *bus = sensor->bus.spi;
    uint8_t slower = bus->top_hz > 0 && bus->top_hz < rules->top_hz;
    const struct pintle_spi_way way = { .clock_hz = slower ? bus->top_hz : rules->top_hz,
                                        .select = sensor->place,
                                        .mode = rules->mode,
                                        .command = command };
    return pintle_priv_said(bus->calls->transfer(bus->common.context, &way, segments, count));
}

static enum pintle_status exchange(const struct pintle_sensor *sensor,
                                   const struct pintle_spi_rules *rules,
                                   const struct pintle_segment *segments, uint8_t count)
{
    return exchange_as(sensor, rules, segments, count, 0);
}

/* Which bank is chosen? Asked before one is chosen where that isn't known, so that proving a part
 * on a chip that turns out to be another writes nothing into that. */
static enum pintle_status ask_bank(const struct pintle_sensor *sensor,
                                   const struct pintle_spi_rules *rules, uint8_t *bank)
{
    uint8_t out = rules->bank_reg | rules->read_bit;
    const struct pintle_segment segments[2] = { { &out, NULL, 1 }, { NULL, bank, 1 } };
    enum pintle_status status = exchange(sensor, rules, segments, 2);
    *bank = (uint8_t)(*bank >> rules->bank_shift);
    return status;
}

/* Registers of a part with banks have the bank in the high byte. */
static enum pintle_status go_to_bank(struct pintle_sensor *sensor,
                                     const struct pintle_spi_rules *rules, uint16_t reg)
{
    struct pintle_spi *bus = sensor->bus.spi;
    uint8_t key = key_of(sensor->place);
    struct pintle_memory *memory = pintle_priv_memory(bus->known, key);
    uint8_t bank = (uint8_t)(reg >> 8);
    uint8_t is = (uint8_t)memory->value;
    enum pintle_status status = PINTLE_OK;
    if (memory->key != key) {
        status = ask_bank(sensor, rules, &is);
    }
    if (status == PINTLE_OK && is != bank) {
        const uint8_t out[2] = { rules->bank_reg, (uint8_t)(bank << rules->bank_shift) };
        const struct pintle_segment segment = { out, NULL, 2 };
        status = exchange(sensor, rules, &segment, 1);
    }
    pintle_priv_forget(bus->known, key);
    if (status == PINTLE_OK && bus->common.sole_master) {
        memory->key = key;
        memory->value = bank;
    }
    return status;
}

/* Where there are other masters, who may not take turns with this one, is the bank still what was
 * chosen? Nothing but ones is no bank: they come from a chip that is not there. */
static enum pintle_status still_in_bank(const struct pintle_sensor *sensor,
                                        const struct pintle_spi_rules *rules, uint8_t bank)
{
    const struct pintle_spi *bus = sensor->bus.spi;
    uint8_t is = bank;
    enum pintle_status status = PINTLE_OK;
    if (!bus->common.sole_master) {
        status = ask_bank(sensor, rules, &is);
    }
    uint8_t moved = is != bank && is != 0xff >> rules->bank_shift;
    return status == PINTLE_OK && moved ? PINTLE_ARBITRATION_LOST : status;
}

static enum pintle_status talk(struct pintle_sensor *sensor, uint16_t reg,
                               const struct pintle_segment *data)
{
    PINTLE_TABLE_ROW(struct pintle_spi_rules, rules, pintle_table_pointer(&sensor->part->spi));
    enum pintle_status status = PINTLE_OK;
    uint8_t banked = rules->banks && (uint8_t)reg != rules->bank_reg;
    if (reg == PINTLE_NO_REG) {
        return exchange(sensor, rules, data, 1);
    }
    if (rules->commands) {
        const uint8_t code = (uint8_t)reg;
        const struct pintle_segment command = { &code, NULL, 1 };
        return data->length ? PINTLE_UNSUPPORTED : exchange_as(sensor, rules, &command, 1, 1);
    }
    if (banked) {
        status = go_to_bank(sensor, rules, reg);
    } else if (!data->in) { /* somebody changes the bank by hand */
        pintle_priv_forget(sensor->bus.spi->known, key_of(sensor->place));
    }
    if (status != PINTLE_OK) {
        return status;
    }
    const uint8_t first = (uint8_t)(reg | (data->in ? rules->read_bit : 0)
                                    | (data->length > 1 ? rules->burst_bit : 0));
    const struct pintle_segment segments[2] = { { &first, NULL, 1 }, *data };
    status = exchange(sensor, rules, segments, data->length > 0 ? 2 : 1);
    return banked && status == PINTLE_OK ? still_in_bank(sensor, rules, (uint8_t)(reg >> 8))
                                         : status;
}

static enum pintle_status send(struct pintle_sensor *sensor, uint16_t reg, const uint8_t *bytes,
                               uint8_t count)
{
    const struct pintle_segment data = { bytes, NULL, count };
    return talk(sensor, reg, &data);
}

static enum pintle_status receive(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                  uint8_t count)
{
    const struct pintle_segment data = { NULL, bytes, count };
    return talk(sensor, reg, &data);
}

static void forget(struct pintle_sensor *sensor)
{
    memset(sensor->bus.spi->known, 0, sizeof sensor->bus.spi->known);
}

const struct pintle_link pintle_link_spi PINTLE_TABLE = {
    .kind = PINTLE_BUS_SPI,
    .send = send,
    .receive = receive,
    .forget = forget,
};
