/* DS3231, datasheet 19-5170 (register map: figure 1). */
#include "pintle/parts.h"

#include "pintle/format.h"
#include "pintle/reg.h"

#define SECONDS 0x00
#define ALARM_1 0x07
#define CONTROL 0x0e
#define STATUS 0x0f
#define TEMP_LSB 0x12

/* bit numbers */
#define OSF 7
#define A1F 0
#define INTCN 2
#define A1IE 0

#define CENTURY 0x80
#define TWELVE_HOURS 0x40
#define AFTERNOON 0x20

#define SECONDS_TO_2000 946684800

static const uint8_t addresses[] PINTLE_TABLE = { 0x68 };

/* The part has no identity register: bits that always read 0 stand in for one. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(STATUS, 1, 0x70, 0),
    PINTLE_EXPECT(TEMP_LSB, 1, 0x3f, 0),
    PINTLE_EXPECT(SECONDS, 1, 0x80, 0),
    PINTLE_END(),
};

/* Nothing to start: it keeps time by itself and converts its temperature every 64 s. */
static const struct pintle_step setup[] PINTLE_TABLE = { PINTLE_END() };

/* From the status on, past the end of the map, where the address wraps to the seconds: one
 * burst holds the stop flag, the temperature and a time whose bytes belong together. */
static const struct pintle_step measure[] PINTLE_TABLE = {
    PINTLE_READ(STATUS, 11),
    PINTLE_END(),
};

static uint8_t from_bcd(uint8_t bcd)
{
    return (uint8_t)(10 * (bcd >> 4) + (bcd & 15));
}

static uint8_t to_bcd(uint8_t value)
{
    return (uint8_t)(value / 10 << 4 | value % 10);
}

static uint8_t is_bcd(uint8_t bcd)
{
    return (bcd & 15) < 10 && bcd >> 4 < 10;
}

/* Hours come in either of two forms; returns 24 for what is neither. */
static uint8_t hours(uint8_t reg)
{
    if (!(reg & TWELVE_HOURS)) {
        return is_bcd(reg) ? from_bcd(reg) : 24;
    }
    uint8_t hour = from_bcd(reg & 0x1f);
    if (!is_bcd(reg & 0x1f) || hour < 1 || hour > 12) {
        return 24;
    }
    return (uint8_t)(hour % 12 + ((reg & AFTERNOON) ? 12 : 0));
}

/* Seven registers to a calendar; 0 where they hold no time. */
static uint8_t read_calendar(const uint8_t *regs, struct pintle_calendar *c)
{
    uint8_t month = regs[5] & 0x7f;
    c->second = from_bcd(regs[0]);
    c->minute = from_bcd(regs[1]);
    c->hour = hours(regs[2]);
    c->day = from_bcd(regs[4]);
    c->month = from_bcd(month);
    c->year = (uint16_t)(2000 + from_bcd(regs[6]) + ((regs[5] & CENTURY) ? 100 : 0));
    return is_bcd(regs[0]) && is_bcd(regs[1]) && is_bcd(regs[4]) && is_bcd(month) && is_bcd(regs[6])
           && c->second < 60 && c->minute < 60 && c->hour < 24 && c->day >= 1 && c->day <= 31
           && c->month >= 1 && c->month <= 12 && c->year < 2136;
}

static void decode(const struct pintle_block *block, struct pintle_sample *sample)
{
    struct pintle_reading *time = &sample->channel[PINTLE_DS3231_TIME];
    struct pintle_calendar calendar;
    if (!read_calendar(block->raw + 4, &calendar)) {
        time->quality |= PINTLE_QUALITY_RANGE;
        return;
    }
    time->raw = (int32_t)(uint32_t)(pintle_calendar_seconds(&calendar) - SECONDS_TO_2000);
    time->value = (float)(uint32_t)time->raw;
    if (block->raw[0] >> OSF) {
        time->quality |= PINTLE_QUALITY_POWER_ON;
    }
    PINTLE_NOTE(block->notes, "OSF", block->raw[0] >> 7);
    PINTLE_NOTE(block->notes, "year", calendar.year);
    PINTLE_NOTE(block->notes, "month", calendar.month);
    PINTLE_NOTE(block->notes, "date", calendar.day);
    PINTLE_NOTE(block->notes, "hours", calendar.hour);
    PINTLE_NOTE(block->notes, "minutes", calendar.minute);
    PINTLE_NOTE(block->notes, "seconds", calendar.second);
}

static const struct pintle_linear temperature PINTLE_TABLE = { .at = 2,
                                                               .bytes = 2,
                                                               .shift = 6,
                                                               .flags = PINTLE_LINEAR_SIGNED,
                                                               .fixed_mask = 0x3f,
                                                               .scale = 0.25f,
                                                               .lowest = -512,
                                                               .highest = 511 };

static const struct pintle_channel channels[] PINTLE_TABLE = {
    { "temperature", PINTLE_QUANTITY_TEMPERATURE, 2, PINTLE_ALWAYS, -40, 85, &temperature },
    { "time", PINTLE_QUANTITY_TIME, 0, PINTLE_ALWAYS, 0, 4.3e9f, NULL },
};

const struct pintle_part pintle_ds3231 PINTLE_TABLE = {
    .name = "DS3231",
    .raw_size = 11,
    .channel_count = 2,
    .address_count = sizeof addresses,
    .addresses = addresses,
    .link = &pintle_link_i2c,
    .identity = identity,
    .setup = setup,
    .measure = measure,
    .channels = channels,
    .decode = decode,
};

/* Change one bit of a register. */
static enum pintle_status set_bit(struct pintle_sensor *sensor, uint8_t address, uint8_t bit,
                                  uint8_t value)
{
    const struct pintle_reg reg = { address, 1, 0 };
    return pintle_reg_write_field(sensor, &reg, bit, 1, value);
}

enum pintle_status pintle_ds3231_set(struct pintle_sensor *sensor, int64_t utc_s)
{
    struct pintle_calendar c;
    pintle_calendar_from(&c, utc_s);
    if (utc_s < SECONDS_TO_2000 || c.year > 2135) {
        return PINTLE_OUT_OF_RANGE;
    }
    uint8_t century = c.year >= 2100 ? CENTURY : 0;
    const uint8_t out[8] = {
        SECONDS,   to_bcd(c.second), to_bcd(c.minute),          to_bcd(c.hour),
        c.weekday, to_bcd(c.day),    to_bcd(c.month) | century, to_bcd((uint8_t)(c.year % 100))
    };
    const struct pintle_segment segment = { out, NULL, sizeof out };
    enum pintle_status status =
        pintle_i2c_transfer(sensor->bus.i2c, sensor->place.address, &segment, 1);
    return status == PINTLE_OK ? set_bit(sensor, STATUS, OSF, 0) : status;
}

enum pintle_status pintle_ds3231_alarm(struct pintle_sensor *sensor, enum pintle_ds3231_every every,
                                       uint8_t hour, uint8_t minute, uint8_t second)
{
    if (every > PINTLE_DS3231_EVERY_DAY || hour > 23 || minute > 59 || second > 59) {
        return PINTLE_OUT_OF_RANGE;
    }
    /* Table 2: a set mask bit (7) takes that field out of the comparison, from the right. */
    const uint8_t out[5] = { ALARM_1, (uint8_t)(to_bcd(second) | (every < 1 ? 0x80 : 0)),
                             (uint8_t)(to_bcd(minute) | (every < 2 ? 0x80 : 0)),
                             (uint8_t)(to_bcd(hour) | (every < 3 ? 0x80 : 0)), 0x81 };
    const struct pintle_segment segment = { out, NULL, sizeof out };
    enum pintle_status status =
        pintle_i2c_transfer(sensor->bus.i2c, sensor->place.address, &segment, 1);
    if (status == PINTLE_OK) {
        status = set_bit(sensor, STATUS, A1F, 0);
    }
    if (status == PINTLE_OK) {
        status = set_bit(sensor, CONTROL, INTCN, 1);
    }
    return status == PINTLE_OK ? set_bit(sensor, CONTROL, A1IE, 1) : status;
}

enum pintle_status pintle_ds3231_alarmed(struct pintle_sensor *sensor, uint8_t *alarmed)
{
    struct pintle_reg reg; /* assigned: an initializer would be a constant in RAM on AVR */
    reg.address = STATUS;
    reg.width = 1;
    reg.flags = 0;
    uint32_t value = 0;
    enum pintle_status status = pintle_reg_read(sensor, &reg, &value);
    if (status != PINTLE_OK) {
        return status;
    }
    *alarmed = value & 1;
    return *alarmed ? set_bit(sensor, STATUS, A1F, 0) : PINTLE_OK;
}
