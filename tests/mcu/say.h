/* What the programs of this folder share: readings as a line on the serial port. */
#ifndef TESTS_MCU_SAY_H
#define TESTS_MCU_SAY_H

#include "board.h"
#include "pintle/pintle.h"

static char line[200];
static struct pintle_text text;

static void print_readings(const char *name, const struct pintle_part *part,
                           const struct pintle_reading *readings)
{
    const struct pintle_channel *channels = pintle_table_pointer(&part->channels);
    pintle_text_init(&text, line, sizeof line);
    pintle_text_string(&text, name);
    for (uint8_t c = 0; c < pintle_table_u8(&part->channel_count); c++) {
        pintle_text_char(&text, ' ');
        pintle_text_reading(&text, &channels[c], &readings[c]);
        pintle_text_char(&text, ' ');
        pintle_text_quality(&text, readings[c].quality);
    }
    pintle_text_char(&text, '\n');
    board_say(line);
}

#endif
