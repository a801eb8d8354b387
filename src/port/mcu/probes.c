/* The thermometers of a 1-Wire line, found and read one after the other, for as long as it is on.
 */
#include "board.h"
#include "pintle/parts/ds18b20.h"
#include "pintle/pintle.h"

static char line[80];

static void tell(const uint8_t code[8], enum pintle_status status,
                 const struct pintle_reading *reading)
{
    const struct pintle_channel *channels =
        (const struct pintle_channel *)pintle_table_pointer(&pintle_ds18b20.channels);
    struct pintle_text text;
    pintle_text_init(&text, line, sizeof line);
    for (uint8_t i = 0; i < 8; i++) {
        pintle_text_whole(&text, code[i], 1);
        pintle_text_char(&text, i < 7 ? '.' : ' ');
    }
    pintle_text_reading(&text, channels, reading);
    pintle_text_char(&text, ' ');
    if (status == PINTLE_OK) {
        pintle_text_quality(&text, reading->quality);
    } else {
        pintle_text_table(&text, pintle_status_word(status));
    }
    pintle_text_string(&text, "\r\n");
    board_say(line);
}

static void read_all(struct pintle_onewire *bus)
{
    static struct pintle_ds18b20 probe;
    struct pintle_onewire_search search;
    memset(&search, 0, sizeof search);
    enum pintle_status status = pintle_onewire_next(bus, &search);
    while (status == PINTLE_OK) {
        status = pintle_ds18b20_on_onewire(&probe, bus, search.code);
        if (status == PINTLE_OK) {
            status = pintle_sensor_read(&probe.sensor);
            tell(search.code, status, probe.reading);
        }
        status = pintle_onewire_next(bus, &search);
    }
    board_say(status == PINTLE_NO_ANSWER ? "no more\r\n" : "the line does not work\r\n");
}

int main(void)
{
    static struct pintle_onewire bus;
    board_start();
    if (board_onewire(&bus) != PINTLE_OK) {
        board_say("too slow for 1-Wire over a pin\r\n");
        return 1;
    }
    for (;;) {
        read_all(&bus);
        board_clock.calls->sleep_us(board_clock.context, 1000000);
    }
}
