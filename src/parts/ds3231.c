/* DS3231, datasheet 19-5170 (register map: figure 1). */
#include "pintle/parts/ds3231.h"

#include "pintle/format.h"
#include "pintle/reg.h"

#define SECONDS 0x00
#define DAY 0x03
#define DATE 0x04
#define MONTH 0x05
#define ALARM_1 0x07
#define CONTROL 0x0e
#define STATUS 0x0f
#define TEMP_LSB 0x12

/* bit numbers */
#define OSF 7
#define BSY 2
#define A1F 0
#define EOSC 7
#define INTCN 2
#define A1IE 0

/* STATUS: writing 0 clears OSF, A2F and A1F, writing 1 leaves them. CONTROL: writing 1 to CONV sets
 * a conversion off. */
#define STATUS_FLAGS 0x83
#define CONV 0x20

#define CENTURY 0x80
#define TWELVE_HOURS 0x40
#define AFTERNOON 0x20

#define SECONDS_TO_2000 946684800

/* 1 March 2100: the chip counts a 29 February before it, which there isn't ("valid up to 2100"). */
#define SECONDS_TO_END 4107542400

static const uint8_t addresses[] PINTLE_TABLE = { 0x68 };

/* A register behind TEMP_LSB, where the address wraps to the seconds. */
#define WRAPPED(reg) (uint8_t)(2 + (reg))

/* The part has no identity register: bits that always read 0 stand in for one, and a date that
 * nothing but this address counter finds there: day, date and month are never 0. In another clock
 * chip it finds memory. */
static const struct pintle_step identity[] PINTLE_TABLE = {
    PINTLE_EXPECT(STATUS, 1, 0x70, 0),
    PINTLE_EXPECT(TEMP_LSB, 1, 0x3f, 0),
    PINTLE_EXPECT(SECONDS, 1, 0x80, 0),
    PINTLE_EXPECT(TEMP_LSB, WRAPPED(DAY), 0xf8, 0),
    PINTLE_REFUSE(TEMP_LSB, WRAPPED(DAY), 0x07, 0),
    PINTLE_REFUSE(TEMP_LSB, WRAPPED(DATE), 0x3f, 0),
    PINTLE_REFUSE(TEMP_LSB, WRAPPED(MONTH), 0x1f, 0),
    PINTLE_END(),
};

/* Nothing to start: it keeps time by itself and converts its temperature every 64 s, for the first
 * time right after power-up, for 200 ms at most. */
static const struct pintle_step setup[] PINTLE_TABLE = {
    PINTLE_POLL(STATUS, 1 << BSY, 0, 400),
    PINTLE_END(),
};

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
    if (reg & 0x80 || !is_bcd(reg & 0x1f) || hour < 1 || hour > 12) {
        return 24;
    }
    return (uint8_t)(hour % 12 + ((reg & AFTERNOON) ? 12 : 0));
}

static uint8_t days_in(uint8_t month, uint16_t year)
{
    if (month == 2) {
        return year % 4 == 0 && year != 2100 ? 29 : 28;
    }
    return (uint8_t)(30 + ((month + month / 8) & 1));
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
           && c->second < 60 && c->minute < 60 && c->hour < 24 && c->day >= 1 && c->month >= 1
           && c->month <= 12 && c->day <= days_in(c->month, c->year);
}

/* Zeros in day, date or month are what memory holds, not this chip's counters. */
static uint8_t is_memory(const struct pintle_block *block)
{
    const uint8_t *regs = block->raw + 4;
    return regs[DAY] == 0 || regs[DATE] == 0 || (regs[MONTH] & 0x1f) == 0;
}

static void decode(const struct pintle_block *block, struct pintle_sample *sample)
{
    struct pintle_reading *time = &sample->channel[PINTLE_DS3231_TIME];
    struct pintle_reading *temperature = &sample->channel[PINTLE_DS3231_TEMPERATURE];
    struct pintle_calendar calendar;
    if (is_memory(block)) {
        time->quality = temperature->quality = PINTLE_QUALITY_BUS;
    }
    if ((block->raw[0] & 1 << BSY) && block->raw[2] == 0 && block->raw[3] == 0) {
        temperature->quality |=
            PINTLE_QUALITY_POWER_ON; /* it may be converting for the first time */
    }
    uint8_t whole = read_calendar(block->raw + 4, &calendar);
    int64_t seconds = whole ? pintle_calendar_seconds(&calendar) : SECONDS_TO_END;
    if (seconds >= SECONDS_TO_END) {
        time->quality |= PINTLE_QUALITY_RANGE;
        return;
    }
    time->raw = (int32_t)(uint32_t)(seconds - SECONDS_TO_2000);
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

static const struct pintle_mark fixed_zeros[] PINTLE_TABLE = { PINTLE_UNLESS(1, 0x3f, 0, BUS),
                                                               PINTLE_MARKS_END() };
static const struct pintle_linear temperature PINTLE_TABLE = { .at = 2,
                                                               .bytes = 2,
                                                               .shift = 6,
                                                               .flags = PINTLE_LINEAR_SIGNED,
                                                               .scale = 0.25f,
                                                               .lowest = -512,
                                                               .highest = 511,
                                                               .marks = fixed_zeros };

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
    const struct pintle_reg reg = {
        address, 1, 0, address == STATUS ? STATUS_FLAGS : 0, address == CONTROL ? CONV : 0, 0
    };
    return pintle_reg_write_field(sensor, &reg, bit, 1, value);
}

/* Write registers from out[0] on, into the chip that is expected and into no other. */
static enum pintle_status write_proven(struct pintle_sensor *sensor, const uint8_t *out,
                                       uint8_t count)
{
    const struct pintle_segment segment = { out, NULL, count };
    enum pintle_status status = pintle_sensor_prove(sensor);
    return status == PINTLE_OK
               ? pintle_i2c_transfer(sensor->bus.i2c, sensor->place.address, &segment, 1)
               : status;
}

enum pintle_status pintle_ds3231_set(struct pintle_sensor *sensor, int64_t utc_s)
{
    struct pintle_calendar c;
    if (utc_s < SECONDS_TO_2000 || utc_s >= SECONDS_TO_END) {
        return PINTLE_OUT_OF_RANGE;
    }
    pintle_calendar_from(&c, utc_s);
    uint8_t century = c.year >= 2100 ? CENTURY : 0;
    const uint8_t out[8] = {
        SECONDS,   to_bcd(c.second), to_bcd(c.minute),          to_bcd(c.hour),
        c.weekday, to_bcd(c.day),    to_bcd(c.month) | century, to_bcd((uint8_t)(c.year % 100))
    };
    enum pintle_status status = write_proven(sensor, out, sizeof out);
    if (status == PINTLE_OK) {
        status = set_bit(sensor, CONTROL, EOSC, 0); /* it counts on its battery too */
    }
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
    enum pintle_status status = write_proven(sensor, out, sizeof out);
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
    memset(&reg, 0, sizeof reg);
    reg.address = STATUS;
    reg.width = 1;
    uint32_t value = 0;
    enum pintle_status status = pintle_sensor_prove(sensor); /* a flag will be cleared */
    if (status == PINTLE_OK) {
        status = pintle_reg_read(sensor, &reg, &value);
    }
    if (status != PINTLE_OK) {
        return status;
    }
    *alarmed = value & 1;
    return *alarmed ? set_bit(sensor, STATUS, A1F, 0) : PINTLE_OK;
}
