/* PCF8574 and PCF8574A, datasheet PCF8574; PCF8574A, rev. 5 (section 8). No register: a byte that
 * is read is how the lines are, one that is written is what they are driven to. A high is a current
 * source of 100 uA, which anybody may pull low. */
#include "pintle/parts/pcf8574.h"

#include "pintle/ability.h"
#include "pintle/outputs.h"

static const uint8_t addresses[] PINTLE_TABLE = { 0x20, 0x21, 0x22, 0x23, 0x24, 0x25, 0x26, 0x27 };
static const uint8_t a_addresses[] PINTLE_TABLE = {
    0x38, 0x39, 0x3a, 0x3b, 0x3c, 0x3d, 0x3e, 0x3f
};

/* There is nothing to know it by. */
static const struct pintle_step identity[] PINTLE_TABLE = { PINTLE_ANSWERS(), PINTLE_END() };

/* Nothing is written: that would switch what hangs on it. */
static const struct pintle_step setup[] PINTLE_TABLE = { PINTLE_END() };

/* Twice: ones are what a line of the bus is left at by a chip that has just lost its supply. */
static const struct pintle_step measure[] PINTLE_TABLE = { PINTLE_FETCH(1), PINTLE_FETCH(1),
                                                           PINTLE_VACANT(), PINTLE_END() };

static void decode(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings)
{
    (void)part;
    for (uint8_t i = 0; i < 8 && block->raw[0] != block->raw[1]; i++) {
        readings[i].quality = PINTLE_QUALITY_BUS;
    }
}

#define LINE(number)                                                                               \
    {                                                                                              \
        .bytes = 1, .shift = (number), .bits = 1, .scale = 1, .lowest = -1, .highest = -1          \
    }
static const struct pintle_linear lines[] PINTLE_TABLE = { LINE(0), LINE(1), LINE(2), LINE(3),
                                                           LINE(4), LINE(5), LINE(6), LINE(7) };

#define CHANNEL(number) PINTLE_CHANNEL("p" #number, STATE, 0, 0, 1, &lines[number], .at = 0)
static const struct pintle_channel channels[] PINTLE_TABLE = {
    CHANNEL(0), CHANNEL(1), CHANNEL(2), CHANNEL(3), CHANNEL(4), CHANNEL(5), CHANNEL(6), CHANNEL(7),
};

static const struct pintle_lines rules PINTLE_TABLE = {
    .out = PINTLE_NO_REG, .in = PINTLE_NO_REG, .direction = PINTLE_NO_REG, .count = 8
};
static const struct pintle_abilities can PINTLE_TABLE = { .lines = &rules };

#define PCF8574(title, where)                                                                      \
    {                                                                                              \
        .name = title, .raw_size = 2, .channel_count = 8, .address_count = sizeof(where),          \
        .addresses = (where), .link = &pintle_link_i2c, .identity = identity, .setup = setup,      \
                                                                                                   \
        .measure = measure, .rare = pintle_part_steps_rare, .channels = channels,                  \
        .decode = decode, .can = &can                                                              \
    }
const struct pintle_part pintle_pcf8574 PINTLE_TABLE = PCF8574("PCF8574", addresses);
const struct pintle_part pintle_pcf8574a PINTLE_TABLE = PCF8574("PCF8574A", a_addresses);
