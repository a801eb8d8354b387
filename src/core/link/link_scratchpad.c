/* 1-Wire chips with a scratchpad of nine bytes (DS18B20, datasheet 19-7487, "memory" and "function
 * commands"): it is read whole, so that its CRC says something, and bytes 2 to 4 are written
 * together. */
#include "../engine/engine.h"
#include "pintle/onewire.h"

#define READ_SCRATCHPAD 0xbe
#define WRITE_SCRATCHPAD 0x4e
#define CONVERT 0x44
#define READ_POWER_SUPPLY 0xb4
#define SIZE 9
#define WRITABLE 2
#define WRITABLE_COUNT 3
#define COMMANDS_FROM 0x10

static enum pintle_status address(struct pintle_sensor *sensor)
{
    struct pintle_onewire *line = sensor->bus.onewire;
    enum pintle_status status = pintle_onewire_select(line, pintle_priv_code(sensor));
    if (status != PINTLE_LINE_BUSY) {
        return status;
    }
    sensor->when_us = (int64_t)line->powering_until_us;
    return PINTLE_NOT_READY;
}

static enum pintle_status call(struct pintle_sensor *sensor, uint8_t command)
{
    enum pintle_status status = address(sensor);
    return status == PINTLE_OK ? pintle_onewire_write(sensor->bus.onewire, &command, 1) : status;
}

static enum pintle_status power(struct pintle_sensor *sensor, uint8_t command, uint32_t us)
{
    enum pintle_status status = address(sensor);
    if (status == PINTLE_OK) {
        status = pintle_onewire_power(sensor->bus.onewire, command, us);
        sensor->when_us = (int64_t)sensor->bus.onewire->powering_until_us;
    }
    return status;
}

static uint8_t all(const uint8_t *bytes, uint8_t value)
{
    uint8_t i = 0;
    while (i < SIZE && bytes[i] == value) {
        i++;
    }
    return i == SIZE;
}

/* Nine zeros have a CRC of zero, but the configuration byte is never zero: they are a short. */
static enum pintle_status read_all(struct pintle_sensor *sensor, uint8_t *bytes)
{
    enum pintle_status status = call(sensor, READ_SCRATCHPAD);
    if (status == PINTLE_OK) {
        status = pintle_onewire_read(sensor->bus.onewire, bytes, SIZE);
    }
    if (status != PINTLE_OK) {
        return status;
    }
    if (all(bytes, 0xff)) {
        return PINTLE_NO_ANSWER;
    }
    if (all(bytes, 0x00)) {
        return PINTLE_DATA_STUCK;
    }
    return pintle_onewire_crc(bytes, SIZE) == 0 ? PINTLE_OK : PINTLE_BAD_CRC;
}

/* After "convert T" and "read power supply" a chip answers one bit, the same in every slot. */
static enum pintle_status read_answer(struct pintle_sensor *sensor, uint8_t command, uint8_t *bytes,
                                      uint8_t count)
{
    enum pintle_status status = call(sensor, command);
    if (status == PINTLE_OK) {
        status = pintle_onewire_read(sensor->bus.onewire, bytes, count);
    }
    uint8_t is_flag = command == CONVERT || command == READ_POWER_SUPPLY;
    for (uint8_t i = 0; i < count && is_flag && status == PINTLE_OK; i++) {
        status = bytes[i] == 0x00 || bytes[i] == 0xff ? PINTLE_OK : PINTLE_BAD_CRC;
    }
    return status;
}

static enum pintle_status receive(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                  uint8_t count)
{
    uint8_t pad[SIZE];
    if (reg == PINTLE_NO_REG) {
        return PINTLE_UNSUPPORTED;
    }
    if (reg >= COMMANDS_FROM) {
        return read_answer(sensor, (uint8_t)reg, bytes, count);
    }
    if (reg + count > SIZE) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = read_all(sensor, pad);
    if (status == PINTLE_OK) {
        memcpy(bytes, pad + reg, count);
    }
    return status;
}

static enum pintle_status send(struct pintle_sensor *sensor, uint16_t reg, const uint8_t *bytes,
                               uint8_t count)
{
    uint8_t pad[SIZE];
    if (reg == PINTLE_NO_REG) {
        return PINTLE_UNSUPPORTED;
    }
    if (reg >= COMMANDS_FROM) {
        return count == 0 ? call(sensor, (uint8_t)reg) : PINTLE_BAD_ARGUMENT;
    }
    if (reg < WRITABLE || reg + count > WRITABLE + WRITABLE_COUNT) {
        return PINTLE_BAD_ARGUMENT;
    }
    enum pintle_status status = read_all(sensor, pad);
    if (status != PINTLE_OK) {
        return status;
    }
    memcpy(pad + reg, bytes, count);
    status = call(sensor, WRITE_SCRATCHPAD);
    return status == PINTLE_OK
               ? pintle_onewire_write(sensor->bus.onewire, pad + WRITABLE, WRITABLE_COUNT)
               : status;
}

const struct pintle_link pintle_link_scratchpad PINTLE_TABLE = {
    .kind = PINTLE_BUS_ONEWIRE, .send = send, .receive = receive, .power = power
};
