/* Clock chips that count seven registers of BCD: seconds, minutes, hours, weekday, day, month,
 * year. */
#include "port/sim/bench.h"

static const uint8_t month_days[] = { 31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31 };

static uint8_t bcd(unsigned value)
{
    return (uint8_t)(value / 10 * 16 + value % 10);
}

static unsigned number(uint8_t value)
{
    return value / 16u * 10 + value % 16;
}

static unsigned days_in_month(const uint8_t *regs, uint8_t month_mask)
{
    unsigned month = number(regs[5] & month_mask);
    unsigned leap = number(regs[6]) % 4 == 0; /* "valid up to 2100" */
    return month == 2 ? 28 + leap : month_days[(month + 11) % 12];
}

static uint8_t next_day(uint8_t *regs, uint8_t month_mask)
{
    regs[3] = (uint8_t)(regs[3] % 7 + 1);
    regs[4] = bcd(number(regs[4]) + 1);
    if (number(regs[4]) <= days_in_month(regs, month_mask)) {
        return 0;
    }
    regs[4] = 0x01;
    unsigned month = number(regs[5] & month_mask) + 1;
    regs[5] = (uint8_t)((regs[5] & ~month_mask) | bcd(month > 12 ? 1 : month));
    if (month <= 12) {
        return 0;
    }
    unsigned year = number(regs[6]) + 1;
    regs[6] = bcd(year % 100);
    return year == 100;
}

/* 12-hour form: bit 6 set, bit 5 is PM, 12, 1 ... 11. */
static uint8_t next_hour(uint8_t *regs, uint8_t month_mask)
{
    if (!(regs[2] & 0x40)) {
        unsigned hour = number(regs[2]) + 1;
        regs[2] = bcd(hour % 24);
        return hour == 24 ? next_day(regs, month_mask) : 0;
    }
    unsigned hour = number(regs[2] & 0x1f) % 12 + 1;
    uint8_t pm = regs[2] & 0x20;
    pm ^= hour == 12 ? 0x20 : 0;
    regs[2] = (uint8_t)(0x40 | pm | bcd(hour));
    return hour == 12 && !pm ? next_day(regs, month_mask) : 0;
}

uint8_t pintle_priv_sim_tick(uint8_t regs[7], uint8_t month_mask)
{
    unsigned second = number(regs[0]) + 1;
    regs[0] = bcd(second % 60);
    if (second < 60) {
        return 0;
    }
    unsigned minute = number(regs[1]) + 1;
    regs[1] = bcd(minute % 60);
    return minute < 60 ? 0 : next_hour(regs, month_mask);
}
