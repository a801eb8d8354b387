/* I2C with a checksum behind each transfer, over all of it: the packet error code of the SMBus
 * specification, section 6.4 (polynomial 07h), by which a chip also tells the bus's noise from
 * what is written to it. */
#include "../engine/engine.h"

static const struct pintle_part_crc rule PINTLE_TABLE = { .polynomial = 0x07, .bits = 8 };

/* The address as it goes over the bus, the command and, to read, the address once more. */
static uint8_t begin(const struct pintle_sensor *sensor, uint16_t reg, uint8_t reads, uint8_t *to)
{
    to[0] = (uint8_t)(sensor->place << 1);
    to[1] = (uint8_t)reg;
    to[2] = to[0] | 1;
    return reads ? 3 : 2;
}

#define FRONT 3

static enum pintle_status send(struct pintle_sensor *sensor, uint16_t reg, const uint8_t *bytes,
                               uint8_t count)
{
    uint8_t all[FRONT + PINTLE_SEND_MAX];
    if (reg == PINTLE_NO_REG || count >= PINTLE_SEND_MAX) {
        return PINTLE_UNSUPPORTED;
    }
    uint8_t front = begin(sensor, reg, 0, all);
    for (uint8_t i = 0; i < count; i++) {
        all[front + i] = bytes[i];
    }
    all[front + count] = (uint8_t)pintle_part_crc_over(&rule, all, (size_t)front + count);
    return pintle_priv_i2c_send(sensor, reg, all + front, (uint8_t)(count + 1));
}

static enum pintle_status receive(struct pintle_sensor *sensor, uint16_t reg, uint8_t *bytes,
                                  uint8_t count)
{
    uint8_t all[FRONT + PINTLE_SEND_MAX];
    if (reg == PINTLE_NO_REG || count >= PINTLE_SEND_MAX) {
        return PINTLE_UNSUPPORTED;
    }
    uint8_t front = begin(sensor, reg, 1, all);
    enum pintle_status status =
        pintle_priv_i2c_receive(sensor, reg, all + front, (uint8_t)(count + 1));
    if (status != PINTLE_OK) {
        return status;
    }
    memcpy(bytes, all + front, count);
    uint8_t sum = (uint8_t)pintle_part_crc_over(&rule, all, (size_t)front + count);
    return sum == all[front + count] ? PINTLE_OK : PINTLE_BAD_CRC;
}

const struct pintle_link pintle_link_smbus PINTLE_TABLE = {
    .kind = PINTLE_BUS_I2C,
    .send = send,
    .receive = receive,
    .forget = pintle_priv_i2c_forget,
    .recover = pintle_priv_i2c_recover,
    .checks = 1,
};
