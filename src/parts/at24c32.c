/* AT24C32, datasheet 0336 (device operation and addressing). */
#include "pintle/parts/at24c32.h"

#include "pintle/ability.h"
#include "pintle/store.h"

static const uint8_t addresses[] PINTLE_TABLE = { 0x50, 0x51, 0x52, 0x53, 0x54, 0x55, 0x56, 0x57 };

/* There is nothing to know it by, and to write is no way to find out. */
static const struct pintle_step identity[] PINTLE_TABLE = { PINTLE_ANSWERS(), PINTLE_END() };
static const struct pintle_step setup[] PINTLE_TABLE = { PINTLE_END() };
static const struct pintle_step measure[] PINTLE_TABLE = { PINTLE_END() };

/* AC characteristics: 10 ms at 5 V, 20 ms at 1.8 V. */
static const struct pintle_store store PINTLE_TABLE = {
    .calls = &pintle_store_registers, .size = 4096, .unit = 1, .page = 32, .write_us = 20000
};
static const struct pintle_abilities can PINTLE_TABLE = { .store = &store };

const struct pintle_part pintle_at24c32 PINTLE_TABLE = {
    .name = "AT24C32",
    .flags = PINTLE_PART_BIG_ENDIAN | PINTLE_PART_WIDE_ADDRESS,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .can = &can,
};
