#include "by_hand.h"

#include <math.h>

static int transfer(struct hand *h, const struct pintle_segment *segments, uint8_t count)
{
    return h->bus->calls->transfer(h->bus->common.context, h->address, segments, count, 25000)
           == PINTLE_OK;
}

static void nap(struct hand *h, uint32_t us)
{
    h->clock->calls->sleep_us(h->clock->context, us);
}

static int16_t s16(const uint8_t *at)
{
    return (int16_t)(at[0] | at[1] << 8);
}

void hand_init(struct hand *h, const struct pintle_i2c *bus, uint8_t address, const uint8_t *t)
{
    *h = (struct hand){ .bus = bus, .clock = bus->common.clock, .address = address };
    h->T1 = (uint16_t)s16(t);
    h->T2 = s16(t + 2);
    h->T3 = s16(t + 4);
    h->P1 = (uint16_t)s16(t + 6);
    h->P2 = s16(t + 8);
    h->P3 = s16(t + 10);
    h->P4 = s16(t + 12);
    h->P5 = s16(t + 14);
    h->P6 = s16(t + 16);
    h->P7 = s16(t + 18);
    h->P8 = s16(t + 20);
    h->P9 = s16(t + 22);
    h->H1 = t[25];
    h->H2 = s16(t + 26);
    h->H3 = t[28];
    h->H4 = (int16_t)((t[29] << 4 | (t[30] & 15)) << 4) >> 4;
    h->H5 = (int16_t)((t[31] << 4 | t[30] >> 4) << 4) >> 4;
    h->H6 = (int8_t)t[32];
}

float hand_tmp102(struct hand *h)
{
    const uint8_t pointer = 0;
    uint8_t raw[2];
    const struct pintle_segment segments[] = { { &pointer, NULL, 1 }, { NULL, raw, 2 } };
    if (!transfer(h, segments, 2)) {
        return NAN;
    }
    return (float)((int16_t)(raw[0] << 8 | raw[1]) >> 4) * 0.0625f;
}

static uint8_t crc(const uint8_t *bytes)
{
    uint8_t value = 0xff;
    for (int i = 0; i < 2; i++) {
        value ^= bytes[i];
        for (int bit = 0; bit < 8; bit++) {
            value = (uint8_t)(value & 0x80 ? value << 1 ^ 0x31 : value << 1);
        }
    }
    return value;
}

float hand_sht31(struct hand *h)
{
    static const uint8_t command[2] = { 0x24, 0x00 };
    uint8_t raw[6];
    const struct pintle_segment ask = { command, NULL, 2 };
    const struct pintle_segment fetch = { NULL, raw, 6 };
    if (!transfer(h, &ask, 1)) {
        return NAN;
    }
    nap(h, 15500);
    if (!transfer(h, &fetch, 1) || crc(raw) != raw[2] || crc(raw + 3) != raw[5]) {
        return NAN;
    }
    h->last[0] = (float)(raw[0] << 8 | raw[1]) * (175.0f / 65535.0f) - 45.0f;
    h->last[1] = (float)(raw[3] << 8 | raw[4]) * (100.0f / 65535.0f);
    return h->last[0];
}

static int64_t pressure(const struct hand *h, int32_t adc, int32_t t_fine)
{
    int64_t v1 = (int64_t)t_fine - 128000;
    int64_t v2 = v1 * v1 * h->P6 + v1 * h->P5 * 131072 + h->P4 * 34359738368;
    v1 = (v1 * v1 * h->P3 >> 8) + v1 * h->P2 * 4096;
    v1 = ((int64_t)140737488355328 + v1) * h->P1 >> 33;
    if (v1 == 0) {
        return 0;
    }
    int64_t p = ((int64_t)(1048576 - adc) * 2147483648 - v2) * 3125 / v1;
    v1 = h->P9 * (p >> 13) * (p >> 13) >> 25;
    v2 = h->P8 * p >> 19;
    return ((p + v1 + v2) >> 8) + h->P7 * 16;
}

static int32_t humidity(const struct hand *h, int32_t adc, int32_t t_fine)
{
    int32_t v = t_fine - 76800;
    int32_t left = (adc * 16384 - h->H4 * 1048576 - h->H5 * v + 16384) >> 15;
    int32_t right = ((v * h->H6 >> 10) * ((v * h->H3 >> 11) + 32768) >> 10) + 2097152;
    v = left * ((right * h->H2 + 8192) >> 14);
    v -= ((v >> 15) * (v >> 15) >> 7) * h->H1 >> 4;
    v = v < 0 ? 0 : v > 419430400 ? 419430400 : v;
    return v >> 12;
}

float hand_bme280(struct hand *h)
{
    static const uint8_t forced[2] = { 0xf4, 0x25 };
    static const uint8_t status_reg = 0xf3;
    static const uint8_t data_reg = 0xf7;
    uint8_t status = 8;
    uint8_t raw[8];
    const struct pintle_segment start = { forced, NULL, 2 };
    const struct pintle_segment poll[2] = { { &status_reg, NULL, 1 }, { NULL, &status, 1 } };
    const struct pintle_segment data[2] = { { &data_reg, NULL, 1 }, { NULL, raw, 8 } };
    if (!transfer(h, &start, 1)) {
        return NAN;
    }
    nap(h, 9300);
    while (status & 8) {
        if (!transfer(h, poll, 2)) {
            return NAN;
        }
    }
    if (!transfer(h, data, 2)) {
        return NAN;
    }
    int32_t adc_P = raw[0] << 12 | raw[1] << 4 | raw[2] >> 4;
    int32_t adc_T = raw[3] << 12 | raw[4] << 4 | raw[5] >> 4;
    int32_t rest = (adc_T >> 4) - h->T1;
    int32_t t_fine =
        (((adc_T >> 3) - h->T1 * 2) * h->T2 >> 11) + ((rest * rest >> 12) * h->T3 >> 14);
    h->last[0] = (float)((t_fine * 5 + 128) >> 8) / 100.0f;
    h->last[1] = (float)pressure(h, adc_P, t_fine) / 256.0f;
    h->last[2] = (float)humidity(h, raw[6] << 8 | raw[7], t_fine) / 1024.0f;
    return h->last[0];
}

static uint32_t bcd(uint8_t byte)
{
    return (uint32_t)(byte >> 4) * 10 + (byte & 15);
}

float hand_ds3231(struct hand *h)
{
    static const uint8_t status_reg = 0x0f;
    static const uint16_t before[] = { 0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334 };
    static const uint8_t year_reg = 0x06;
    uint8_t raw[12];
    const struct pintle_segment segments[2] = { { &status_reg, NULL, 1 }, { NULL, raw, 11 } };
    const struct pintle_segment again[2] = { { &year_reg, NULL, 1 }, { NULL, raw + 11, 1 } };
    if (!transfer(h, segments, 2) || !transfer(h, again, 2)) {
        return NAN;
    }
    uint32_t year = bcd(raw[10]);
    uint32_t month = bcd(raw[9] & 0x1f);
    uint32_t days = year * 365 + (year + 3) / 4 + before[(month - 1) % 12] + bcd(raw[8]) - 1
                    + (month > 2 && year % 4 == 0);
    h->seconds = ((days * 24 + bcd(raw[6])) * 60 + bcd(raw[5])) * 60 + bcd(raw[4]);
    h->last[0] = (float)((int16_t)(raw[2] << 8 | raw[3]) >> 6) * 0.25f;
    return h->last[0];
}

/* --- with everything that the engine's user gets --- */

static int limited(struct hand *h, const struct pintle_segment *segments, uint8_t count,
                   uint32_t bytes)
{
    return h->bus->calls->transfer(h->bus->common.context, h->address, segments, count,
                                   25000 + (bytes + count) * (h->bus->bit_ns >> 5))
           == PINTLE_OK;
}

static void stamp(struct hand *h, struct pintle_sample *sample)
{
    if (!h->clock->calls->get_wall_us
        || h->clock->calls->get_wall_us(h->clock->context, &sample->time_us) != PINTLE_OK) {
        sample->time_us = 0;
    }
}

static uint16_t outside(float value, float lowest, float highest)
{
    return value >= lowest && value <= highest ? 0 : PINTLE_QUALITY_RANGE;
}

int marked_tmp102(struct hand *h, struct pintle_sample *sample)
{
    static const uint8_t pointers[] = { 0, 1 };
    uint8_t *raw = sample->raw;
    uint8_t set_up[2];
    const struct pintle_segment value[] = { { &pointers[0], NULL, 1 }, { NULL, raw, 2 } };
    const struct pintle_segment still[] = { { &pointers[1], NULL, 1 }, { NULL, set_up, 2 } };
    struct pintle_reading *t = &sample->channel[0];
    if (!limited(h, value, 2, 3) || !limited(h, still, 2, 3) || (set_up[0] & 0x07) != 0
        || (set_up[1] & 0xd0) != 0x80) {
        return 0;
    }
    t->raw = (int16_t)(raw[0] << 8 | raw[1]) >> 4;
    t->value = (float)t->raw * 0.0625f;
    t->quality = t->raw <= -2048 || t->raw >= 2047 ? PINTLE_QUALITY_SATURATED : 0;
    t->quality |= t->raw == 0 || (raw[1] & 0x0f) ? PINTLE_QUALITY_POWER_ON : 0;
    t->quality |= outside(t->value, -40, 125);
    stamp(h, sample);
    return !(t->quality & PINTLE_QUALITY_POWER_ON); /* else it is to be set up and read again */
}

int marked_sht31(struct hand *h, struct pintle_sample *sample)
{
    static const uint8_t command[2] = { 0x24, 0x00 };
    uint8_t *raw = sample->raw;
    const struct pintle_segment ask = { command, NULL, 2 };
    const struct pintle_segment fetch = { NULL, raw, 6 };
    struct pintle_reading *t = &sample->channel[0];
    struct pintle_reading *rh = &sample->channel[1];
    if (!limited(h, &ask, 1, 2)) {
        return 0;
    }
    nap(h, 15500);
    if (!limited(h, &fetch, 1, 6) || crc(raw) != raw[2] || crc(raw + 3) != raw[5]) {
        return 0;
    }
    t->raw = raw[0] << 8 | raw[1];
    t->value = (float)t->raw * (175.0f / 65535.0f) - 45.0f;
    t->quality = t->raw == 0 || t->raw == 65535 ? PINTLE_QUALITY_SATURATED : 0;
    t->quality |= outside(t->value, -40, 125);
    rh->raw = raw[3] << 8 | raw[4];
    rh->value = (float)rh->raw * (100.0f / 65535.0f);
    rh->quality = outside(rh->value, 0, 100);
    stamp(h, sample);
    return 1;
}

static uint16_t skipped(int32_t adc, int32_t code)
{
    return adc == code ? PINTLE_QUALITY_POWER_ON : 0;
}

int marked_bme280(struct hand *h, struct pintle_sample *sample)
{
    static const uint8_t forced[2] = { 0xf4, 0x25 };
    static const uint8_t status_reg = 0xf3;
    static const uint8_t data_reg = 0xf7;
    uint8_t status = 8;
    uint8_t control = 0;
    uint8_t *raw = sample->raw;
    struct pintle_reading *c = sample->channel;
    const struct pintle_segment start = { forced, NULL, 2 };
    const struct pintle_segment poll[2] = { { &status_reg, NULL, 1 }, { NULL, &status, 1 } };
    const struct pintle_segment data[2] = { { &data_reg, NULL, 1 }, { NULL, raw, 8 } };
    const struct pintle_segment behind[2] = { { forced, NULL, 1 }, { NULL, &control, 1 } };
    if (!limited(h, &start, 1, 2)) {
        return 0;
    }
    nap(h, 9300);
    uint64_t end = h->clock->calls->now_us(h->clock->context) + 100000;
    while (limited(h, poll, 2, 2) && (status & 8)) {
        if (h->clock->calls->now_us(h->clock->context) >= end) {
            return 0;
        }
        nap(h, 500);
    }
    if ((status & 8) || !limited(h, data, 2, 9) || !limited(h, behind, 2, 2) || control == 0) {
        return 0;
    }
    c[1].raw = raw[0] << 12 | raw[1] << 4 | raw[2] >> 4;
    c[0].raw = raw[3] << 12 | raw[4] << 4 | raw[5] >> 4;
    c[2].raw = raw[6] << 8 | raw[7];
    int32_t rest = (c[0].raw >> 4) - h->T1;
    int32_t t_fine =
        (((c[0].raw >> 3) - h->T1 * 2) * h->T2 >> 11) + ((rest * rest >> 12) * h->T3 >> 14);
    int32_t T = (t_fine * 5 + 128) >> 8;
    c[0].value = (float)T / 100.0f;
    c[1].value = (float)pressure(h, c[1].raw, t_fine) / 256.0f;
    c[2].value = (float)humidity(h, c[2].raw, t_fine) / 1024.0f;
    c[0].quality = skipped(c[0].raw, 0x80000) | (T < -4000 || T > 8500 ? PINTLE_QUALITY_RANGE : 0);
    c[1].quality = c[0].quality | skipped(c[1].raw, 0x80000) | outside(c[1].value, 30000, 110000);
    c[2].quality = c[0].quality | skipped(c[2].raw, 0x8000) | outside(c[2].value, 0, 100);
    c[0].quality |= outside(c[0].value, -40, 85);
    stamp(h, sample);
    return !((c[0].quality | c[1].quality | c[2].quality) & PINTLE_QUALITY_POWER_ON);
}

static int is_bcd(uint8_t byte)
{
    return (byte & 15) < 10 && byte >> 4 < 10;
}

int marked_ds3231(struct hand *h, struct pintle_sample *sample)
{
    static const uint8_t status_reg = 0x0f;
    static const uint16_t before[] = { 0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334, 365 };
    static const uint8_t year_reg = 0x06;
    uint8_t *raw = sample->raw;
    const struct pintle_segment segments[2] = { { &status_reg, NULL, 1 }, { NULL, raw, 11 } };
    const struct pintle_segment again[2] = { { &year_reg, NULL, 1 }, { NULL, raw + 11, 1 } };
    struct pintle_reading *t = &sample->channel[0];
    struct pintle_reading *time = &sample->channel[1];
    if (!limited(h, segments, 2, 12) || !limited(h, again, 2, 2)) {
        return 0;
    }
    t->raw = (int16_t)(raw[2] << 8 | raw[3]) >> 6;
    t->value = (float)t->raw * 0.25f;
    t->quality = t->raw <= -512 || t->raw >= 511 ? PINTLE_QUALITY_SATURATED : 0;
    t->quality |= (raw[0] & 4) && t->raw == 0 ? PINTLE_QUALITY_POWER_ON : 0;
    t->quality |= raw[3] & 0x3f ? PINTLE_QUALITY_BUS : 0;
    t->quality |= outside(t->value, -40, 85);
    uint32_t year = bcd(raw[10]) + (raw[9] & 0x80 ? 100 : 0);
    uint32_t month = bcd(raw[9] & 0x1f);
    uint32_t day = bcd(raw[8]);
    int twelve = raw[6] & 0x40;
    uint32_t hour = bcd(raw[6] & (twelve ? 0x1f : 0x3f));
    int memory = raw[7] == 0 || raw[8] == 0 || (raw[9] & 0x1f) == 0;
    int leap = year % 4 == 0;
    int whole = is_bcd(raw[4]) && is_bcd(raw[5]) && is_bcd(raw[6] & (twelve ? 0x9f : 0xbf))
                && is_bcd(raw[8]) && is_bcd(raw[9] & 0x7f) && is_bcd(raw[10]) && raw[4] < 0x60
                && raw[5] < 0x60 && month >= 1 && month <= 12 && day >= 1
                && (twelve ? hour >= 1 && hour <= 12 : hour < 24)
                && day <= (uint32_t)(before[month] - before[month - 1]) + (month == 2 && leap)
                && (year < 100 || (year == 100 && month < 3 && day <= 28 + 3 * (month == 1)));
    hour = twelve ? hour % 12 + (raw[6] & 0x20 ? 12 : 0) : hour;
    pintle_marks quality = memory ? PINTLE_QUALITY_BUS : 0;
    t->quality |= quality;
    quality |= raw[10] != raw[11] ? PINTLE_QUALITY_BUS : 0;
    if (whole) {
        uint32_t days =
            year * 365 + (year + 3) / 4 + before[month - 1] + day - 1u + (month > 2 && leap);
        time->raw = (int32_t)(((days * 24 + hour) * 60 + bcd(raw[5])) * 60 + bcd(raw[4]));
        time->value = (float)(uint32_t)time->raw;
        time->quality = quality | (raw[0] >> 7 ? PINTLE_QUALITY_POWER_ON : 0);
    } else {
        time->raw = 0;
        time->value = 0;
        time->quality = quality | PINTLE_QUALITY_RANGE;
    }
    stamp(h, sample);
    return !((t->quality & time->quality) & PINTLE_QUALITY_BUS);
}
