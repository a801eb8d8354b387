/* DS1307, datasheet 19-5046 (registers: table 2; control: table 3). */
#include "pintle/parts/ds1307.h"

#include "pintle/ability.h"
#include "pintle/store.h"
#include "pintle/time.h"

#define SECONDS 0x00
#define DAY 0x03
#define DATE 0x04
#define MONTH 0x05
#define YEAR 0x06
#define CONTROL 0x07
#define RAM 0x08
#define LAST 0x3f

static const uint8_t addresses[] PINTLE_TABLE = { 0x68 };

PINTLE_OPTIONS(outputs, PINTLE_DS1307_OUTPUT_OPTIONS);
static const struct pintle_setting settings[] PINTLE_TABLE = {
    [PINTLE_DS1307_OUTPUT] = { CONTROL, 0, 6, PINTLE_DS1307_LOW, outputs, NULL },
};

/* A register behind LAST, where the address wraps to the seconds. */
#define WRAPPED(reg) (uint8_t)(2 + (reg))

/* No identity: bits that always read 0, and a date that this address counter alone finds behind the
 * last byte of RAM; day, date and month are never 0. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(CONTROL, 1, 0x6c, 0),
    PINTLE_EXPECT(LAST, WRAPPED(DAY), 0xf8, 0),
    PINTLE_REFUSE_FIRST(LAST, WRAPPED(DAY), 0x07, 0),
    PINTLE_REFUSE_FIRST(LAST, WRAPPED(DATE), 0x3f, 0),
    PINTLE_EXPECT(LAST, WRAPPED(DATE), 0xc0, 0),
    PINTLE_REFUSE_FIRST(LAST, WRAPPED(MONTH), 0x1f, 0),
    PINTLE_EXPECT(LAST, WRAPPED(MONTH), 0xe0, 0),
    PINTLE_END(),
};

/* Written only where it has to be: beside it is the time, which a disturbed write would change. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_CHANGE(CONTROL, 0xff, 0),
    PINTLE_END(),
};

/* The time is copied out at START, so that its bytes belong together. */
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_READ(SECONDS, 7),
    PINTLE_READ(YEAR, 1), /* ones are what a chip leaves that loses its supply in the last byte */
    PINTLE_END(),
};

static void decode(const struct pintle_part *part, const struct pintle_block *block,
                   struct pintle_reading *readings)
{
    if (block->raw[YEAR] != block->raw[YEAR + 1]) {
        readings[PINTLE_DS1307_TIME].quality |= PINTLE_QUALITY_BUS;
    }
    pintle_time_decode(part, block, readings);
}

static const struct pintle_channel channels[] PINTLE_TABLE = {
    PINTLE_CHANNEL("time", TIME, 0, 0, 4.3e9f, NULL, .at = 0),
};

/* CH, bit 7 of the seconds, stops it, and is set when both supply and battery have come new. */
static const struct pintle_timekeeper timekeeper PINTLE_TABLE = { .first = SECONDS,
                                                                  .last = LAST,
                                                                  .order = { 0, 1, 2, 3, 4, 5, 6 },
                                                                  .lost = { .bit = 7 },
                                                                  .lost_at = 0 };
static const struct pintle_store store PINTLE_TABLE = {
    .calls = &pintle_store_registers, .size = LAST - RAM + 1, .unit = 1, .page = 32, .first = RAM
};
static const struct pintle_abilities can PINTLE_TABLE = { .store = &store,
                                                          .timekeeper = &timekeeper };

const struct pintle_part pintle_ds1307 PINTLE_TABLE = {
    .name = "DS1307",
    .raw_size = 8,
    .channel_count = 1,
    .setting_count = 1,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .rare = pintle_part_steps_rare,
    .settings = settings,
    .channels = channels,
    .decode = decode,
    .can = &can,
};
