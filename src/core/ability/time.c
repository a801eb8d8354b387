/* Clock chips: BCD, in two forms of hours. */
#include "pintle/time.h"

#include "../engine/engine.h"
#include "pintle/ability.h"
#include "pintle/calendar.h"

#define SECONDS_TO_2000 946684800
#define SECONDS_TO_2100 4102444800
#define SECONDS_TO_MARCH_2100 4107542400

#define TWELVE_HOURS 0x40
#define AFTERNOON 0x20
#define NO_MATTER 0x80

enum { SECOND, MINUTE, HOUR, WEEKDAY, DAY, MONTH, YEAR, FIELDS };

static const struct pintle_timekeeper *rules_of(const struct pintle_part *part)
{
    const struct pintle_abilities *can = pintle_table_pointer(&part->can);
    return can ? pintle_table_pointer(&can->timekeeper) : NULL;
}

static const struct pintle_wake *alarm_of(const struct pintle_sensor *sensor)
{
    const struct pintle_timekeeper *rules = rules_of(sensor->part);
    return rules ? pintle_table_pointer(&rules->alarm) : NULL;
}

int64_t pintle_time_end(const struct pintle_part *part)
{
    const struct pintle_timekeeper *rules = rules_of(part);
    return rules && pintle_table_u8(&rules->century) ? SECONDS_TO_MARCH_2100 : SECONDS_TO_2100;
}

/* --- from BCD --- */

static uint8_t from_bcd(uint8_t bcd)
{
    return (uint8_t)(10 * (bcd >> 4) + (bcd & 15));
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

/* Bytes to a calendar; 0 where they hold no time. */
static uint8_t read_calendar(const struct pintle_timekeeper *rules, const uint8_t *regs,
                             struct pintle_calendar *c)
{
    uint8_t lost = (uint8_t)(rules->lost_at ? 0u : 1u << rules->lost.bit);
    uint8_t second = regs[rules->order[SECOND]] & (uint8_t)~lost;
    uint8_t minute = regs[rules->order[MINUTE]];
    uint8_t day = regs[rules->order[DAY]];
    uint8_t month = regs[rules->order[MONTH]] & (uint8_t)~rules->century;
    uint8_t year = regs[rules->order[YEAR]];
    c->second = from_bcd(second);
    c->minute = from_bcd(minute);
    c->hour = hours(regs[rules->order[HOUR]]);
    c->day = from_bcd(day);
    c->month = from_bcd(month);
    c->year =
        (uint16_t)(2000 + from_bcd(year) + (regs[rules->order[MONTH]] & rules->century ? 100 : 0));
    return is_bcd(second) && is_bcd(minute) && is_bcd(day) && is_bcd(month) && is_bcd(year)
           && c->second < 60 && c->minute < 60 && c->hour < 24 && c->day >= 1 && c->month >= 1
           && c->month <= 12 && c->day <= days_in(c->month, c->year);
}

static void decode_time(const struct pintle_part *part, const struct pintle_block *block,
                        const uint8_t *regs, struct pintle_reading *time)
{
    PINTLE_TABLE_ROW(struct pintle_timekeeper, rules, rules_of(part));
    struct pintle_calendar calendar;
    uint8_t whole = read_calendar(rules, regs, &calendar);
    int64_t seconds = whole ? pintle_calendar_seconds(&calendar) : INT64_MAX;
    if (seconds >= pintle_time_end(part)) {
        time->quality |= PINTLE_QUALITY_RANGE;
        return;
    }
    uint8_t lost = regs[rules->lost_at] >> rules->lost.bit & 1;
    time->raw = (int32_t)(uint32_t)(seconds - SECONDS_TO_2000);
    time->value = (pintle_value)(uint32_t)time->raw;
    time->quality |= lost ? PINTLE_QUALITY_POWER_ON : 0;
    PINTLE_NOTE(block->notes, "stood still", lost);
    PINTLE_NOTE(block->notes, "year", calendar.year);
    PINTLE_NOTE(block->notes, "month", calendar.month);
    PINTLE_NOTE(block->notes, "day", calendar.day);
    PINTLE_NOTE(block->notes, "hour", calendar.hour);
    PINTLE_NOTE(block->notes, "minute", calendar.minute);
    PINTLE_NOTE(block->notes, "second", calendar.second);
}

void pintle_time_decode(const struct pintle_part *part, const struct pintle_block *block,
                        struct pintle_reading *readings)
{
    const struct pintle_channel *channels = pintle_table_pointer(&part->channels);
    for (uint8_t c = pintle_table_u8(&part->channel_count); c > 0; c--) {
        if (pintle_table_u8(&channels[c - 1].quantity) == PINTLE_QUANTITY_TIME) {
            decode_time(part, block, block->raw + pintle_table_u8(&channels[c - 1].at),
                        &readings[c - 1]);
        }
    }
}

/* --- to BCD --- */

static uint8_t to_bcd(uint8_t value)
{
    return (uint8_t)(value / 10 << 4 | value % 10);
}

static enum pintle_status put_flag(struct pintle_sensor *sensor, const struct pintle_flag *flag,
                                   uint8_t value)
{
    PINTLE_TABLE_ROW(struct pintle_flag, f, flag);
    return f->reg.width ? pintle_reg_write_field(sensor, &f->reg, f->bit, 1, value) : PINTLE_OK;
}

/* Likewise one that stays: was it taken? */
static enum pintle_status fix_flag(struct pintle_sensor *sensor, const struct pintle_flag *flag,
                                   uint8_t value)
{
    PINTLE_TABLE_ROW(struct pintle_flag, f, flag);
    uint32_t is = 0;
    enum pintle_status status = put_flag(sensor, flag, value);
    if (status == PINTLE_OK && f->reg.width) {
        status = pintle_reg_read(sensor, &f->reg, &is);
        status = status == PINTLE_OK && (is >> f->bit & 1) != value ? PINTLE_MISFIT : status;
    }
    return status;
}

/* Is it a clock with a time that there is none of, such as a month 0? Then its counter of bytes
 * goes from its last register to the time, as in no other chip, and that is not all zeros. */
static enum pintle_status is_left_wrong(struct pintle_sensor *sensor,
                                        const struct pintle_timekeeper *rules)
{
    uint8_t behind[1 + FIELDS];
    uint8_t regs[FIELDS];
    uint8_t any = 0;
    uint8_t same = 1;
    if (rules->last == 0) {
        return PINTLE_WRONG_IDENTITY;
    }
    enum pintle_status status =
        pintle_priv_program(sensor, pintle_table_pointer(&sensor->part->identity));
    pintle_priv_close(sensor, PHASE_CLOSED);
    if (status == PINTLE_OK) {
        status = pintle_priv_receive(sensor, rules->last, behind, sizeof behind);
    }
    if (status == PINTLE_OK) {
        status = pintle_priv_receive(sensor, rules->first, regs, sizeof regs);
    }
    for (uint8_t i = 1; i < FIELDS && status == PINTLE_OK; i++) { /* the seconds go on */
        same = same && behind[1 + i] == regs[i];
        any = any || regs[i];
    }
    return status == PINTLE_MISFIT || (status == PINTLE_OK && !(same && any))
               ? PINTLE_WRONG_IDENTITY
               : status;
}

/* Write registers into the chip that is expected and into no other, all in one burst. */
static enum pintle_status write_proven(struct pintle_sensor *sensor, uint8_t first,
                                       const uint8_t *bytes, uint8_t count)
{
    enum pintle_status status = pintle_sensor_prove(sensor);
    if (status == PINTLE_WRONG_IDENTITY) {
        PINTLE_TABLE_ROW(struct pintle_timekeeper, rules, rules_of(sensor->part));
        status = is_left_wrong(sensor, rules);
    }
    return status == PINTLE_OK ? pintle_priv_send(sensor, first, bytes, count) : status;
}

#define SETTING_TAKES_S 1

/* Did it take the time, and does it go on? */
static enum pintle_status check_time(struct pintle_sensor *sensor,
                                     const struct pintle_timekeeper *rules, int64_t utc_s)
{
    struct pintle_calendar c;
    uint8_t regs[FIELDS];
    enum pintle_status status = pintle_priv_receive(sensor, rules->first, regs, sizeof regs);
    if (status != PINTLE_OK) {
        return status;
    }
    uint8_t whole = read_calendar(rules, regs, &c);
    int64_t late = whole ? pintle_calendar_seconds(&c) - utc_s : -1;
    return late >= 0 && late <= SETTING_TAKES_S ? PINTLE_OK : PINTLE_MISFIT;
}

enum pintle_status pintle_time_set(struct pintle_sensor *sensor, int64_t utc_s)
{
    const struct pintle_timekeeper *table = rules_of(sensor->part);
    struct pintle_calendar c;
    uint8_t out[FIELDS];
    if (!table) {
        return PINTLE_NO_ABILITY;
    }
    if (utc_s < SECONDS_TO_2000 || utc_s >= pintle_time_end(sensor->part)) {
        return PINTLE_OUT_OF_RANGE;
    }
    PINTLE_TABLE_ROW(struct pintle_timekeeper, rules, table);
    pintle_calendar_from(&c, utc_s);
    out[rules->order[SECOND]] = to_bcd(c.second);
    out[rules->order[MINUTE]] = to_bcd(c.minute);
    out[rules->order[HOUR]] = to_bcd(c.hour);
    out[rules->order[WEEKDAY]] = c.weekday;
    out[rules->order[DAY]] = to_bcd(c.day);
    out[rules->order[MONTH]] = (uint8_t)(to_bcd(c.month) | (c.year >= 2100 ? rules->century : 0));
    out[rules->order[YEAR]] = to_bcd((uint8_t)(c.year % 100));
    enum pintle_status status = write_proven(sensor, rules->first, out, sizeof out);
    if (status == PINTLE_OK) {
        status = fix_flag(sensor, &table->stop, 0);
    }
    if (status == PINTLE_OK) {
        status = fix_flag(sensor, &table->lost, 0);
    }
    return status == PINTLE_OK ? check_time(sensor, rules, utc_s) : status;
}

/* The alarm's registers, and whether they were taken. */
static enum pintle_status write_alarm(struct pintle_sensor *sensor, uint8_t first,
                                      const uint8_t out[4])
{
    uint8_t is[4];
    enum pintle_status status = write_proven(sensor, first, out, sizeof is);
    if (status == PINTLE_OK) {
        status = pintle_priv_receive(sensor, first, is, sizeof is);
    }
    return status == PINTLE_OK && memcmp(is, out, sizeof is) != 0 ? PINTLE_MISFIT : status;
}

enum pintle_status pintle_time_alarm(struct pintle_sensor *sensor, enum pintle_every every,
                                     uint8_t hour, uint8_t minute, uint8_t second)
{
    const struct pintle_wake *alarm = alarm_of(sensor);
    if (!alarm) {
        return PINTLE_NO_ABILITY;
    }
    if (every > PINTLE_EVERY_DAY || hour > 23 || minute > 59 || second > 59) {
        return PINTLE_OUT_OF_RANGE;
    }
    uint8_t out[4];
    out[0] = (uint8_t)(to_bcd(second) | (every < PINTLE_EVERY_MINUTE ? NO_MATTER : 0));
    out[1] = (uint8_t)(to_bcd(minute) | (every < PINTLE_EVERY_HOUR ? NO_MATTER : 0));
    out[2] = (uint8_t)(to_bcd(hour) | (every < PINTLE_EVERY_DAY ? NO_MATTER : 0));
    out[3] = NO_MATTER | 1;
    enum pintle_status status = write_alarm(sensor, pintle_table_u8(&alarm->first), out);
    if (status == PINTLE_OK) {
        status = put_flag(sensor, &alarm->went, 0);
    }
    if (status == PINTLE_OK) {
        status = fix_flag(sensor, &alarm->route, 1);
    }
    return status == PINTLE_OK ? fix_flag(sensor, &alarm->on, 1) : status;
}

enum pintle_status pintle_time_alarmed(struct pintle_sensor *sensor, uint8_t *alarmed)
{
    const struct pintle_wake *alarm = alarm_of(sensor);
    uint32_t value = 0;
    if (!alarm) {
        return PINTLE_NO_ABILITY;
    }
    PINTLE_TABLE_ROW(struct pintle_flag, went, &alarm->went);
    enum pintle_status status = pintle_sensor_prove(sensor); /* a flag will be cleared */
    if (status == PINTLE_OK) {
        status = pintle_reg_read(sensor, &went->reg, &value);
    }
    if (status != PINTLE_OK) {
        return status;
    }
    *alarmed = value >> went->bit & 1;
    return *alarmed ? put_flag(sensor, &alarm->went, 0) : PINTLE_OK;
}
