#include "append.h"
#include "pintle/calendar.h"

void pintle_text_time(struct pintle_text *text, int64_t utc_us, int16_t offset_min,
                      uint8_t decimals)
{
    struct pintle_calendar c;
    size_t from = text->used;
    int64_t seconds = utc_us / 1000000;
    int32_t us = (int32_t)(utc_us % 1000000);
    if (us < 0) {
        us += 1000000;
        seconds--;
    }
    pintle_calendar_from(&c, seconds + (int32_t)offset_min * 60);
    pintle_text_whole(text, c.year, 4);
    pintle_text_char(text, '-');
    pintle_text_whole(text, c.month, 2);
    pintle_text_char(text, '-');
    pintle_text_whole(text, c.day, 2);
    pintle_text_char(text, 'T');
    pintle_text_whole(text, c.hour, 2);
    pintle_text_char(text, ':');
    pintle_text_whole(text, c.minute, 2);
    pintle_text_char(text, ':');
    pintle_text_whole(text, c.second, 2);
    if (decimals > 0) {
        pintle_text_char(text, '.');
        pintle_text_whole(text, decimals > 3 ? us : us / 1000, decimals > 3 ? 6 : 3);
    }
    if (offset_min == 0) {
        pintle_text_char(text, 'Z');
    } else {
        uint16_t east = (uint16_t)(offset_min < 0 ? -offset_min : offset_min);
        pintle_text_char(text, offset_min < 0 ? '-' : '+');
        pintle_text_whole(text, east / 60, 2);
        pintle_text_char(text, ':');
        pintle_text_whole(text, east % 60, 2);
    }
    pintle_priv_whole(text, from);
}
